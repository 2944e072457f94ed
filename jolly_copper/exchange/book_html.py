"""The wire book as one page of HTML that prints well and needs nothing else."""

from __future__ import annotations

from html import escape

from jolly_copper.core.materials.wire_inks import inks_of, wires_in
from jolly_copper.core.wirebook.book import Book, Chapter, Column, Paragraphs, Table
from jolly_copper.exchange.sketch_svg import sketch_svg

STYLE = """
:root{color-scheme:light}*{box-sizing:border-box}
body{margin:0 auto;max-width:190mm;padding:8mm 5mm;background:#fff;color:#22282c;
font:13px/1.45 "Public Sans Variable","Public Sans",system-ui,sans-serif}
h1{font-size:28px;margin:0 0 4px}h2{font-size:20px;margin:0 0 6px;border-bottom:2px solid #b5622b;padding-bottom:4px}
h3{font-size:13.5px;margin:16px 0 4px}
section{padding-top:22px}table{width:100%;border-collapse:collapse;table-layout:fixed;font-size:11.5px}
th{background:#f1ece1;color:#5b6368;text-align:left;font-weight:600}th{overflow-wrap:normal}
th,td{padding:3px 5px;border-bottom:1px solid #d8d2c4;vertical-align:top}td{overflow-wrap:anywhere}
.figure{text-align:right;font-variant-numeric:tabular-nums}
.wire{display:flex;align-items:center;gap:5px;overflow-wrap:normal}
.wire i{flex:none;display:inline-block;width:17px;height:7px;border:1px solid #6a7277;border-radius:2px}
.tick i{display:inline-block;width:11px;height:11px;border:1.2px solid #22282c}
.note{color:#5b6368;font-size:11px;margin:4px 0}
svg{max-width:100%;height:auto}nav a{color:#9a5120}nav li{margin:1px 0}ul{margin:4px 0;padding-left:18px}
footer{margin-top:24px;border-top:1.5px solid #b5622b;padding-top:4px;color:#5b6368;font-size:11px}
@media print{body{padding:0;max-width:none}section{break-before:page}tr,svg,h3{break-inside:avoid}
h3{break-after:avoid}thead{display:table-header-group}
@page{margin:14mm 14mm 18mm;@bottom-left{content:var(--footer);font-size:8pt}}
.running{position:fixed;bottom:0;left:0;font-size:8pt;color:#5b6368}}
@media screen{.running{display:none}}
"""


def book_html(book: Book) -> str:
    """The book as a page: contents, then a section for each chapter."""
    contents = "".join(f'<li><a href="#{escape(c.key)}">{escape(c.title)}</a></li>' for c in book.chapters)
    head = [escape(line) for line in (book.club, f"Wiring lead: {book.lead}" if book.lead else "") if line]
    body = "".join(_chapter(c, book) for c in book.chapters)
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" '
        f'content="width=device-width"><title>{escape(book.layout)}: {escape(book.called)}</title>'
        f"<style>{STYLE}</style></head><body><header><h1>{escape(book.layout)}</h1><p>The {escape(book.called)}. "
        f"{'. '.join(head)}<br>Change {book.revision}, made {escape(book.made)}</p>"
        f'<nav aria-label="Contents"><ul>{contents}</ul></nav></header>{body}<div '
        f'class="running">{escape(book.footer)}</div></body></html>'
    )


def _chapter(chapter: Chapter, book: Book) -> str:
    parts = [f'<section id="{escape(chapter.key)}"><h2>{escape(chapter.title)}</h2>']
    for n, block in enumerate(chapter.blocks):
        parts.append(f"<h3>{escape(block.title)}</h3>")
        if isinstance(block, Table):
            parts.append(_table(block))
        elif isinstance(block, Paragraphs):
            tag = "li" if block.as_list else "p"
            lines = "".join(f"<{tag}>{escape(line)}</{tag}>" for line in block.lines)
            parts.append(f"<ul>{lines}</ul>" if block.as_list else lines)
        else:
            parts.append(sketch_svg(block, f"{chapter.key}-{n}", whole_file=False))
            parts.append(f'<p class="note">{escape(block.note)}</p>' if block.note else "")
    parts.append(f"<footer>{escape(book.footer)}</footer></section>")
    return "".join(parts)


def _table(table: Table) -> str:
    if not table.rows:
        return '<p class="note">None.</p>'
    shares = sum(c.share for c in table.columns)
    widths = "".join(f'<col style="width:{100 * c.share / shares:.1f}%">' for c in table.columns)
    head = "".join(f'<th class="{c.kind}">{escape(c.title)}</th>' for c in table.columns)
    rows = "".join(
        "<tr>" + "".join(_cell(c, t) for c, t in zip(table.columns, row, strict=True)) + "</tr>" for row in table.rows
    )
    note = f'<p class="note">{escape(table.note)}</p>' if table.note else ""
    return f"<table><colgroup>{widths}</colgroup><thead><tr>{head}</tr></thead><tbody>{rows}</tbody></table>{note}"


def _cell(column: Column, text: str) -> str:
    if column.kind == "tick":
        return '<td class="tick"><i></i></td>'
    if column.kind == "colours":
        return "<td>" + "".join(f'<span class="wire">{_swatch(w)}{escape(w)}</span>' for w in wires_in(text)) + "</td>"
    return f'<td class="{column.kind}">{escape(text)}</td>'


def _swatch(wire: str) -> str:
    base, stripe = inks_of(wire)
    paint = f"repeating-linear-gradient(115deg,{base} 0 4px,{stripe} 4px 7px)" if stripe else base
    return f'<i style="background:{paint}"></i>'
