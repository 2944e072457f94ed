"""A book, or pages of it, as plain text that any machine shows."""

from __future__ import annotations

import textwrap

from jolly_copper.core.wirebook.book import Book, Paragraphs, Table

WIDE = 78


def book_text(book: Book) -> str:
    """Headings, sentences and tables in plain lines; drawings are left out."""
    lines = [book.layout, book.footer, ""]
    for chapter in book.chapters:
        lines += [chapter.title.upper(), "=" * len(chapter.title), ""]
        for block in chapter.blocks:
            if isinstance(block, Paragraphs):
                lines += [block.title, "-" * len(block.title)]
                for n, line in enumerate(block.lines, start=1):
                    mark = f"{n}. " if block.as_list else ""
                    lines += textwrap.wrap(line, WIDE, initial_indent=mark, subsequent_indent=" " * len(mark)) or [""]
                lines.append("")
            elif isinstance(block, Table):
                lines += [block.title, "-" * len(block.title)]
                heads = [c.title for c in block.columns]
                for row in block.rows:
                    said = "; ".join(f"{h}: {c}" for h, c in zip(heads, row, strict=True) if c)
                    lines += textwrap.wrap(said, WIDE, initial_indent="* ", subsequent_indent="  ")
                lines += [*textwrap.wrap(block.note, WIDE), ""]
    return "\n".join(lines)
