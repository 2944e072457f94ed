"""Tables of the wire book, and labels for a label printer, as CSV."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

from jolly_copper.core.wirebook.book import Book, Table
from jolly_copper.core.wirebook.labels import Label
from jolly_copper.exchange.cells import safe


def book_csv(book: Book) -> str:
    """Every table one after another, each under a line with its name, and the layout, change and date at the top."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow([safe(book.footer)])
    for chapter in book.chapters:
        for block in chapter.blocks:
            if isinstance(block, Table):
                keep = [n for n, c in enumerate(block.columns) if c.kind != "tick"]
                table.writerow([])
                table.writerow([safe(f"{chapter.title}: {block.title}")])
                table.writerow([block.columns[n].title for n in keep])
                table.writerows([safe(row[n]) for n in keep] for row in block.rows)
    return out.getvalue()


def labels_csv(found: Sequence[Label]) -> str:
    """One row for each label: what is written big, the wire's colour, where this end goes, where the other."""
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(["Label", "Wire", "This end", "Other end"])
    table.writerows([safe(x) for x in (label.text, label.colour, label.here, label.there)] for label in found)
    return out.getvalue()
