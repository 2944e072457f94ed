"""The tables of the wire book as a workbook, a sheet for each; the same book is the same file."""

from __future__ import annotations

import io
import re
import zipfile
from datetime import datetime

from openpyxl import Workbook
from openpyxl.styles import Alignment, Font, PatternFill
from openpyxl.utils import get_column_letter

from jolly_copper.core.wirebook.book import Book, Paragraphs, Table
from jolly_copper.exchange.cells import safe

STAMP = (1980, 1, 1, 0, 0, 0)
WIDEST = 60


def book_xlsx(book: Book) -> bytes:
    """The workbook: every table on a sheet of its own, named after its chapter; sentences on the first."""
    workbook = Workbook()
    made = datetime.fromisoformat(book.made)
    workbook.properties.creator = "Jolly Copper"
    workbook.properties.title = f"{book.layout}: {book.called}"
    workbook.properties.created = workbook.properties.modified = made
    first = workbook.active
    assert first is not None
    first.title = "About"
    lines = [
        book.layout,
        book.club,
        f"Wiring lead: {book.lead}" if book.lead else "",
        f"Change {book.revision}, made {book.made}",
        "",
    ]
    for chapter in book.chapters:
        for block in chapter.blocks:
            if isinstance(block, Paragraphs):
                lines += [f"{chapter.title}: {block.title}", *(f"– {line}" for line in block.lines), ""]
    for n, line in enumerate(lines, start=1):
        first.cell(n, 1, safe(line)).alignment = Alignment(wrap_text=True)
    first.column_dimensions["A"].width = 110
    first["A1"].font = Font(bold=True, size=16)
    names: set[str] = {"About"}
    for chapter in book.chapters:
        for block in chapter.blocks:
            if isinstance(block, Table) and block.rows:
                alone = sum(isinstance(b, Table) for b in chapter.blocks) == 1
                title = chapter.title if alone else f"{chapter.title}, {block.title}"
                sheet = workbook.create_sheet(_name(title, block.title, names))
                _fill(sheet, block, f"{chapter.title}: {block.title} · {book.footer}")
    raw = io.BytesIO()
    workbook.save(raw)
    return _same_every_time(raw.getvalue(), made)


def _fill(sheet: object, table: Table, heading: str) -> None:
    columns = [c for c in table.columns if c.kind != "tick"]
    keep = [n for n, c in enumerate(table.columns) if c.kind != "tick"]
    sheet.oddFooter.left.text = heading.replace("&", "&&")  # type: ignore[attr-defined]
    sheet.append([safe(heading)])  # type: ignore[attr-defined]
    sheet.append([c.title for c in columns])  # type: ignore[attr-defined]
    for row in table.rows:
        sheet.append([_value(row[n]) for n in keep])  # type: ignore[attr-defined]
    for n, column in enumerate(columns, start=1):
        head = sheet.cell(2, n)  # type: ignore[attr-defined]
        head.font, head.fill = Font(bold=True), PatternFill("solid", fgColor="F1ECE1")
        longest = max([len(column.title), *(len(row[keep[n - 1]]) for row in table.rows)])
        sheet.column_dimensions[get_column_letter(n)].width = min(longest + 2, WIDEST)  # type: ignore[attr-defined]
    sheet.freeze_panes = "A3"  # type: ignore[attr-defined]


def _value(text: str) -> str | int | float:
    """Plain counts and prices as numbers, so that they can be added up; everything else as it is written."""
    if re.fullmatch(r"\d{1,9}", text):
        return int(text)
    return float(text) if re.fullmatch(r"\d{1,9}\.\d\d", text) else safe(text)


def _name(title: str, short: str, taken: set[str]) -> str:
    """A sheet's name: letters a workbook allows, at most 31, and no other's."""
    plain = re.sub(r"[\[\]:*?/\\']", "", title if len(title) <= 31 else short)[:31].strip() or "Sheet"
    name, n = plain, 2
    while name.lower() in {t.lower() for t in taken}:
        name = f"{plain[:28]} {n}"
        n += 1
    taken.add(name)
    return name


def _same_every_time(data: bytes, made: datetime) -> bytes:
    """The same parts with fixed times, so that the same book is the same file."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for part in old.infolist():
            content = old.read(part.filename)
            if part.filename == "docProps/core.xml":
                stamp = made.strftime("%Y-%m-%dT%H:%M:%SZ").encode()
                content = re.sub(rb"(<dcterms:modified[^>]*>)[^<]*", rb"\g<1>" + stamp, content)
            entry = zipfile.ZipInfo(part.filename, STAMP)
            entry.compress_type = zipfile.ZIP_DEFLATED
            new.writestr(entry, content)
    return out.getvalue()
