"""The wire book as files: opened again by other libraries, and the same bytes from the same revision."""

from __future__ import annotations

import csv
import io
from xml.etree import ElementTree

import openpyxl
import pypdf
import pytest
from reportlab.pdfbase.ttfonts import TTFont

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.wirebook.board_plan import board_plan
from jolly_copper.core.wirebook.book import Book, Table
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.core.wirebook.labels import SHEETS, labels
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.exchange.book_csv import book_csv, labels_csv
from jolly_copper.exchange.book_html import book_html
from jolly_copper.exchange.book_pdf import FONTS, PAGES, PageSize, book_pdf, labels_pdf
from jolly_copper.exchange.book_xlsx import book_xlsx
from jolly_copper.exchange.sketch_svg import sketch_svg
from tests.layouts import without


@pytest.fixture(scope="module")
def book(demo_facts: Facts) -> Book:
    return compose(demo_facts, 12, "2026-11-24")


@pytest.fixture(scope="module")
def printed(book: Book) -> pypdf.PdfReader:
    return pypdf.PdfReader(io.BytesIO(book_pdf(book)))


@pytest.fixture(scope="module")
def texts(printed: pypdf.PdfReader) -> list[str]:
    return [page.extract_text() for page in printed.pages]


def test_every_page_carries_layout_change_date_and_number(texts: list[str]) -> None:
    for n, text in enumerate(texts, start=1):
        assert "Gannet Bay & Uplands · change 12 · 2026-11-24" in text and f"page {n} of {len(texts)}" in text


@pytest.mark.parametrize("size", ["A4", "Letter"])
def test_pages_are_as_large_as_was_asked(book: Book, size: PageSize) -> None:
    read = pypdf.PdfReader(io.BytesIO(book_pdf(book.only(["power", "cutting"]), size)))
    for page in read.pages:
        assert (float(page.mediabox.width), float(page.mediabox.height)) == pytest.approx(PAGES[size], abs=0.01)
        assert f"of {len(read.pages)}" in page.extract_text()


def test_every_wire_and_terminal_can_be_read_in_the_pdf(
    printed: pypdf.PdfReader, texts: list[str], book: Book, demo: Layout
) -> None:
    words = set(" ".join(texts).split())
    assert {p.label for p in pieces(demo)} <= words and set(demo.terminals) <= words and set(demo.plugs) <= words
    assert [o.title for o in printed.outline] == [c.title for c in book.chapters]
    for entry in printed.outline:
        n = printed.get_destination_page_number(entry)
        assert n is not None and entry.title in texts[n], "it leads to where the chapter starts"
    assert len({printed.get_destination_page_number(o) for o in printed.outline}) > 10


def test_the_same_revision_is_the_same_file(book: Book, demo: Layout) -> None:
    again = compose(derive(demo, next(iter(demo.scenes))), 12, "2026-11-24")
    some = ["power", "cutting"]
    assert book_pdf(book.only(some)) == book_pdf(again.only(some))
    assert (
        book_xlsx(book) == book_xlsx(again)
        and book_html(book) == book_html(again)
        and book_csv(book) == book_csv(again)
    )
    found = labels(pieces(demo))
    assert labels_pdf(found, SHEETS["a4-65"], book) == labels_pdf(found, SHEETS["a4-65"], book)


def test_the_workbook_has_every_row_of_every_table(book: Book) -> None:
    read = openpyxl.load_workbook(io.BytesIO(book_xlsx(book)))
    tables = [b for c in book.chapters for b in c.blocks if isinstance(b, Table)]
    assert len(read.sheetnames) == len(set(read.sheetnames)) == 1 + len(tables)
    for table, sheet in zip(tables, read.worksheets[1:], strict=True):
        have = [[str(c) for c in row if c is not None] for row in sheet.iter_rows(values_only=True)]
        shown = [n for n, column in enumerate(table.columns) if column.kind == "text"]
        for row in table.rows:
            assert any(all(row[n] in cells for n in shown if row[n]) for cells in have), (table.title, row)
    assert any(
        "change 12" in str(c.value) or "Change 12" in str(c.value) for row in read["About"].iter_rows() for c in row
    )


def test_labels_fill_sheets_from_where_they_are_asked_to(book: Book, demo: Layout) -> None:
    found = labels(pieces(demo))[:70]
    read = pypdf.PdfReader(io.BytesIO(labels_pdf(found, SHEETS["a4-65"], book)))
    assert len(read.pages) == 2
    assert len(pypdf.PdfReader(io.BytesIO(labels_pdf(found, SHEETS["a4-65"], book, skip=61))).pages) == 3
    text = read.pages[0].extract_text()
    assert all(label.text in text for label in found[:65]) and book.footer in text
    empty = pypdf.PdfReader(io.BytesIO(labels_pdf([], SHEETS["a4-65"], book)))
    assert "No wire to label yet." in empty.pages[0].extract_text()


def test_csv_of_labels_and_tables(book: Book, demo: Layout) -> None:
    found = labels(pieces(demo))
    rows = list(csv.DictReader(io.StringIO(labels_csv(found))))
    assert [r["Label"] for r in rows] == [label.text for label in found]
    text = book_csv(book)
    assert (
        text.startswith("Gannet Bay & Uplands · change 12 · 2026-11-24")
        and "Wire schedule: Every wire, by label" in text
    )


def test_the_page_for_a_browser_is_sound_and_holds_the_pictures(book: Book) -> None:
    page = book_html(book)
    assert page.lower().startswith("<!doctype html>") and page.count("<svg") == page.count("</svg>") >= 17
    assert "src=" not in page and "http://" not in page.replace("http://www.w3.org", ""), "nothing is fetched"
    for chapter in book.chapters:
        assert f'id="{chapter.key}"' in page


def test_names_cannot_break_out_of_any_file(demo: Layout) -> None:
    name = '<script>alert("x")</script> & Sons'
    data = without(demo, name=name, club="=SUM(1)")
    data["feeders"]["F1"]["label"] = "<b>&]]>"
    data["circuits"][next(iter(data["circuits"]))]["name"] = "=cmd()"
    layout = read_layout(data)
    book = compose(derive(layout), 1, "2026-11-24")
    assert "<script>" not in book_html(book) and "'=cmd()" in book_csv(book)
    printed = pypdf.PdfReader(io.BytesIO(book_pdf(book.only(["schedule"]))))
    assert any("<b>&]]>" in page.extract_text() for page in printed.pages)
    assert all(
        not str(c.value or "").startswith("=") and c.data_type != "f"
        for sheet in openpyxl.load_workbook(io.BytesIO(book_xlsx(book))).worksheets
        for row in sheet.iter_rows()
        for c in row
    )
    board = next(iter(layout.boards))
    ElementTree.fromstring(sketch_svg(board_plan(layout, board, pieces(layout))))


def test_an_empty_layout_prints() -> None:
    book = compose(derive(read_layout({"name": "Nothing yet"})), 1, "2026-11-24")
    assert "Nothing yet" in pypdf.PdfReader(io.BytesIO(book_pdf(book))).pages[0].extract_text()
    assert book_xlsx(book) and "Nothing yet" in book_html(book)


def test_the_printed_book_is_set_in_letters_it_has(book: Book) -> None:
    """Every letter the book says is in the faces shipped with it: none comes out as a box."""
    letters = {x for x in book_html(book) if x.isprintable() and not x.isascii()}
    assert {"Ω", "·"} <= letters
    for face in ("book", "book-bold", "book-figures"):
        held = set(TTFont(face, str(FONTS / f"{face}.ttf")).face.charToGlyph)
        assert not {x for x in letters if ord(x) not in held}, face
