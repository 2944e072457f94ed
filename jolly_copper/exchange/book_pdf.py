"""The wire book as PDF, A4 or Letter. The same book is the same file, byte for byte."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any, Literal
from xml.sax.saxutils import escape

from reportlab import rl_config
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import registerFont, registerFontFamily, stringWidth
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    BaseDocTemplate,
    CondPageBreak,
    Flowable,
    Frame,
    KeepTogether,
    PageBreak,
    PageTemplate,
    Paragraph,
    Spacer,
)
from reportlab.platypus import LongTable as PdfTable

from jolly_copper.core.materials.wire_inks import inks_of, wires_in
from jolly_copper.core.wirebook.book import Book, Chapter, Column, Paragraphs, Table
from jolly_copper.core.wirebook.labels import Label, Sheet
from jolly_copper.core.wirebook.sketch import Sketch

PageSize = Literal["A4", "Letter"]
PAGES: dict[PageSize, tuple[float, float]] = {"A4": A4, "Letter": LETTER}
MARGIN = 15 * mm
INK, MUTED, RULE, BAND = HexColor("#22282c"), HexColor("#5b6368"), HexColor("#d8d2c4"), HexColor("#f1ece1")
COPPER = HexColor("#9a5120")
PAD = 2.5
ROOM_FOR_A_HEAD = 72
"""Points left on a page for a heading, its row of titles and some rows."""


FONTS = Path(__file__).parent / "fonts"


def register_fonts() -> None:
    """The letters of the page, kept beside this file; `tools/book_fonts.py` makes them."""
    for name, file in (("Book", "book"), ("Book-Bold", "book-bold"), ("Book-Figures", "book-figures")):
        registerFont(TTFont(name, str(FONTS / f"{file}.ttf")))
    registerFontFamily("Book", normal="Book", bold="Book-Bold", italic="Book", boldItalic="Book-Bold")


BODY = ParagraphStyle("body", fontName="Book", fontSize=8, leading=11, textColor=INK)
CELL = ParagraphStyle("cell", parent=BODY, fontSize=6.8, leading=8.6)
FIGURE = ParagraphStyle("figure", parent=CELL, fontName="Book-Figures", fontSize=6.4, alignment=2)
HEAD = ParagraphStyle("head", parent=CELL, fontName="Book-Bold", textColor=MUTED)
HEAD_FIGURE = ParagraphStyle("head figure", parent=HEAD, alignment=2)
SMALL = ParagraphStyle("small", parent=BODY, fontSize=6.8, leading=9, textColor=MUTED)
POINT = ParagraphStyle("point", parent=BODY, leftIndent=10, bulletIndent=0, spaceAfter=2)
TITLE = ParagraphStyle("title", parent=BODY, fontName="Book-Bold", fontSize=15, leading=20, spaceAfter=6)
UNDER = ParagraphStyle(
    "under", parent=BODY, fontName="Book-Bold", fontSize=9.5, leading=13, spaceBefore=8, spaceAfter=3
)
COVER = ParagraphStyle("cover", parent=TITLE, fontSize=26, leading=32, spaceBefore=60)


def book_pdf(book: Book, page: PageSize = "A4") -> bytes:
    """The book as a PDF file."""
    register_fonts()
    out = io.BytesIO()
    size = PAGES[page]
    document = BaseDocTemplate(
        out,
        pagesize=size,
        leftMargin=MARGIN,
        rightMargin=MARGIN,
        topMargin=MARGIN,
        bottomMargin=MARGIN + 6 * mm,
        invariant=1,
        title=f"{book.layout}: {book.called}",
        author=book.club or "Jolly Copper",
        subject=book.footer,
        creator="Jolly Copper",
    )
    frame = Frame(MARGIN, MARGIN + 6 * mm, size[0] - 2 * MARGIN, size[1] - 2 * MARGIN - 6 * mm, 0, 0, 0, 0, id="page")
    document.addPageTemplates([PageTemplate(id="page", frames=[frame])])
    room = size[0] - 2 * MARGIN
    story: list[Flowable] = _cover(book)
    for chapter in book.chapters:
        story += [
            CondPageBreak(size[1] / 4) if chapter.short else PageBreak(),
            _Mark(chapter.key, chapter.title),
            Paragraph(escape(chapter.title), TITLE),
            *_chapter(chapter, room),
        ]
    document.build(story, canvasmaker=_numbered(book))
    return out.getvalue()


def _cover(book: Book) -> list[Flowable]:
    under = [line for line in (book.club, f"Wiring lead: {book.lead}" if book.lead else "") if line]
    story: list[Flowable] = [Paragraph(escape(book.layout), COVER), Paragraph(f"The {escape(book.called)}", TITLE)]
    story += [Paragraph(escape(line), BODY) for line in under]
    story += [Paragraph(f"Change {book.revision}, made {book.made}", BODY), Spacer(1, 24), Paragraph("In it", UNDER)]
    story += [Paragraph(f'<a href="#{c.key}" color="#9a5120">{escape(c.title)}</a>', BODY) for c in book.chapters]
    return story


def _chapter(chapter: Chapter, room: float) -> list[Flowable]:
    story: list[Flowable] = []
    for block in chapter.blocks:
        if isinstance(block, Table):
            story += _table(block, room)
        elif isinstance(block, Paragraphs):
            head = Paragraph(escape(block.title), UNDER)
            lines = [
                Paragraph(escape(line), POINT, bulletText="•") if block.as_list else Paragraph(escape(line), POINT)
                for line in block.lines
            ]
            story.append(KeepTogether([head, *lines]))
        else:
            drawing: list[Flowable] = [Paragraph(escape(block.title), UNDER), Drawn(block, room)]
            if block.note:
                drawing.append(Paragraph(escape(block.note), SMALL))
            story.append(KeepTogether(drawing))
    return story


def _table(table: Table, room: float) -> list[Flowable]:
    head = Paragraph(escape(table.title), UNDER)
    if not table.rows:
        return [head, Paragraph("None.", SMALL)]
    shares = sum(c.share for c in table.columns)
    widths = [room * c.share / shares for c in table.columns]
    rows: list[list[Any]] = [
        [Paragraph(escape(c.title), HEAD_FIGURE if c.kind == "figure" else HEAD) for c in table.columns]
    ]
    rows += [
        [_cell(c, text, wide) for c, text, wide in zip(table.columns, row, widths, strict=True)] for row in table.rows
    ]
    laid = PdfTable(rows, colWidths=widths, repeatRows=1)
    laid.setStyle(
        [
            ("FONT", (0, 0), (-1, -1), "Book", CELL.fontSize, CELL.leading),
            ("TEXTCOLOR", (0, 0), (-1, -1), INK),
            *(("ALIGN", (n, 1), (n, -1), "RIGHT") for n, c in enumerate(table.columns) if c.kind == "figure"),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("BACKGROUND", (0, 0), (-1, 0), BAND),
            ("LINEBELOW", (0, 0), (-1, -1), 0.3, RULE),
            ("LEFTPADDING", (0, 0), (-1, -1), PAD),
            ("RIGHTPADDING", (0, 0), (-1, -1), PAD),
            ("TOPPADDING", (0, 0), (-1, -1), 1.6),
            ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
        ]
    )
    # A heading never stands alone at the foot of a page; the rows under it may part anywhere.
    story: list[Flowable] = [CondPageBreak(ROOM_FOR_A_HEAD), head, laid]
    if table.note:
        story.append(Paragraph(escape(table.note), SMALL))
    return story


def _cell(column: Column, text: str, wide: float) -> Flowable | str:
    """What stands in a cell; words that fit on one line as they are, since laying out a paragraph takes far longer."""
    if column.kind == "colours":
        return Wires(wires_in(text))
    if column.kind == "tick":
        return Box()
    if stringWidth(text, "Book", CELL.fontSize) <= wide - 2 * PAD - 0.5:
        return text
    return Paragraph(escape(text), FIGURE if column.kind == "figure" else CELL)


class Wires(Flowable):  # type: ignore[misc]
    """Wires as short pieces of their colour, each with its name."""

    TALL = 8.6

    def __init__(self, wires: list[str]) -> None:
        super().__init__()
        self.wires = wires
        self.beside: list[float] | None = None

    def wrap(self, width: float, _height: float) -> tuple[float, float]:
        wide = [16 + stringWidth(w, "Book", 6.8) + 5 for w in self.wires]
        self.beside = wide if sum(wide) <= width else None
        return width, self.TALL * (1 if self.beside else max(len(self.wires), 1))

    def draw(self) -> None:
        canvas: Canvas = self.canv
        canvas.setFont("Book", 6.8)
        for n, wire in enumerate(self.wires):
            x0 = sum(self.beside[:n]) if self.beside else 0.0
            y = 1.8 if self.beside else self.TALL * (len(self.wires) - 1 - n) + 1.8
            base, stripe = inks_of(wire)
            canvas.setFillColor(HexColor(base))
            canvas.setStrokeColor(MUTED)
            canvas.setLineWidth(0.4)
            canvas.roundRect(x0, y, 13, 4.6, 1, 1, 1)
            if stripe:
                canvas.setFillColor(HexColor(stripe))
                for x in (2.5, 6.5, 10.5):
                    canvas.rect(x0 + x, y, 1.6, 4.6, 0, 1)
            canvas.setFillColor(INK)
            canvas.drawString(x0 + 16, y, wire)


class Box(Flowable):  # type: ignore[misc]
    """An empty box to tick by hand."""

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        return 8, 8

    def draw(self) -> None:
        self.canv.setStrokeColor(INK)
        self.canv.setLineWidth(0.5)
        self.canv.rect(0, 0.5, 7, 7)


class _Mark(Flowable):  # type: ignore[misc]
    """Where a chapter starts, for the contents and the reader's outline."""

    def __init__(self, key: str, title: str) -> None:
        super().__init__()
        self.key, self.title = key, title

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        return 0, 0

    def draw(self) -> None:
        self.canv.marked.append((self.key, self.title))


class Drawn(Flowable):  # type: ignore[misc]
    """A sketch at its own size, smaller where the page is too narrow."""

    def __init__(self, sketch: Sketch, room: float) -> None:
        super().__init__()
        self.sketch = sketch
        self.scale = min(1.0, room / (sketch.width * mm))

    def wrap(self, _width: float, _height: float) -> tuple[float, float]:
        return self.sketch.width * mm * self.scale, self.sketch.height * mm * self.scale + 4

    def draw(self) -> None:
        canvas: Canvas = self.canv
        s = self.sketch
        canvas.saveState()
        canvas.scale(self.scale, self.scale)
        frame = canvas.beginPath()
        frame.rect(0, 0, s.width * mm, s.height * mm)
        canvas.clipPath(frame, stroke=0, fill=0)
        for stroke in s.strokes:
            path = canvas.beginPath()
            for n, (x, y) in enumerate(stroke.points):
                (path.moveTo if n == 0 else path.lineTo)(x * mm, (s.height - y) * mm)
            if stroke.closed:
                path.close()
            canvas.setStrokeColor(HexColor(stroke.ink))
            canvas.setLineWidth(stroke.width * mm)
            canvas.setLineJoin(1)
            canvas.setDash([stroke.dash * mm] if stroke.dash else [])
            if stroke.fill:
                canvas.setFillColor(HexColor(stroke.fill))
            canvas.drawPath(path, stroke=1, fill=1 if stroke.fill else 0)
        for words in s.words:
            canvas.setFillColor(HexColor(words.ink))
            canvas.setFont("Book-Bold" if words.bold else "Book", words.size)
            x, y = words.x * mm, (s.height - words.y) * mm
            {"start": canvas.drawString, "middle": canvas.drawCentredString, "end": canvas.drawRightString}[
                words.anchor
            ](x, y, words.text)
        canvas.restoreState()


def _numbered(book: Book) -> type[Canvas]:
    """A canvas that writes layout, change and date, and page of pages, on every page."""

    class Numbered(Canvas):  # type: ignore[misc]
        def __init__(self, *args: Any, **more: Any) -> None:
            super().__init__(*args, **more)
            self._kept: list[dict[str, Any]] = []
            self.marked: list[tuple[str, str]] = []

        def showPage(self) -> None:  # noqa: N802  (the library's name)
            self._kept.append(dict(self.__dict__))
            self.marked = []
            self._startPage()

        def save(self) -> None:
            for n, state in enumerate(self._kept, start=1):
                self.__dict__.update(state)
                for key, title in self.marked:  # only now is this page the one that bookmarks lead to
                    self.bookmarkPage(key)
                    self.addOutlineEntry(title, key, 0)
                width = self._pagesize[0]
                self.setStrokeColor(COPPER)
                self.setLineWidth(0.8)
                self.line(MARGIN, MARGIN + 3 * mm, width - MARGIN, MARGIN + 3 * mm)
                self.setFillColor(MUTED)
                self.setFont("Book", 6.8)
                self.drawString(MARGIN, MARGIN, book.footer)
                self.drawRightString(width - MARGIN, MARGIN, f"page {n} of {len(self._kept)}")
                super().showPage()
            super().save()

    return Numbered


def labels_pdf(found: list[Label], sheet: Sheet, book: Book, skip: int = 0) -> bytes:
    """Labels on sheets of the size chosen.

    Args:
        found: what to print, in order.
        sheet: measures of the sheet.
        book: whose layout, change and date stand small at the foot of each sheet.
        skip: places at the start of the first sheet that are used already.
    """
    register_fonts()
    if rl_config.invariant != 1:
        rl_config.invariant = 1
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=PAGES[sheet.page], invariant=1)
    canvas.setTitle(f"{book.layout}: wire labels")
    height = PAGES[sheet.page][1]
    each = sheet.columns * sheet.rows
    for n, label in enumerate(found):
        place = (n + skip) % each
        if n and place == 0:
            canvas.showPage()
        if n == 0 or place == 0:
            canvas.setFillColor(MUTED)
            canvas.setFont("Book", 5)
            canvas.drawString(sheet.left * mm + 8, 5, book.footer)
        row, column = divmod(place, sheet.columns)
        x, y = (sheet.left + column * sheet.pitch_x) * mm, height - (sheet.top + row * sheet.pitch_y) * mm
        _label(canvas, label, x, y, sheet.width * mm, sheet.height * mm, sheet.cut_lines)
    if not found:
        canvas.setFont("Book", 10)
        canvas.drawString(MARGIN, height - MARGIN - 10, "No wire to label yet.")
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _label(canvas: Canvas, label: Label, x: float, top: float, width: float, height: float, cut_lines: bool) -> None:
    big = min(height * 0.42, 16)
    small = min(height * 0.2, 7)
    pad = min(4.0, width * 0.05)
    wires = wires_in(label.colour)
    strip = 5.0
    for n, wire in enumerate(wires):
        base, stripe = inks_of(wire)
        tall = (height - 2 * pad) / len(wires)
        canvas.setFillColor(HexColor(base))
        canvas.setStrokeColor(MUTED)
        canvas.setLineWidth(0.3)
        canvas.rect(x + pad, top - pad - tall * (n + 1), strip, tall, 1, 1)
        if stripe:
            canvas.setFillColor(HexColor(stripe))
            canvas.rect(x + pad, top - pad - tall * (n + 0.65), strip, tall * 0.3, 0, 1)
    left, room = x + pad + strip + 3, width - 2 * pad - strip - 3
    canvas.setFillColor(INK)
    canvas.setFont("Book-Bold", _fitting(canvas, label.text, "Book-Bold", big, room))
    canvas.drawString(left, top - pad - big * 0.85, label.text)
    if cut_lines:
        canvas.setStrokeColor(RULE)
        canvas.rect(x, top - height, width, height, 1, 0)
    under = f"{label.here}, from {label.there} · {label.colour}"
    canvas.setFont("Book", _fitting(canvas, under, "Book", small, room))
    canvas.drawString(left, top - height + pad + small * 0.3, under)


def _fitting(canvas: Canvas, text: str, font: str, size: float, room: float) -> float:
    wide = canvas.stringWidth(text, font, size)
    return size if wide <= room else max(size * room / wide, 3.5)
