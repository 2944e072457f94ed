"""The template a panel is drilled by, as PDF at its true size: on sheets to stick together, or on one large one."""

from __future__ import annotations

import io
import math
from typing import Literal

from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.units import mm
from reportlab.pdfgen.canvas import Canvas

from jolly_copper.core.wirebook.book import Table
from jolly_copper.core.wirebook.sketch import Sketch
from jolly_copper.exchange.book_pdf import register_fonts

PaperSize = Literal["A4", "Letter", "one sheet"]
EDGE_MM = 12.0
"""Printers leave so much of a sheet white."""
OVERLAP_MM = 10.0


def panel_pdf(sketch: Sketch, holes: Table, paper: PaperSize, footer: str) -> bytes:
    """The template with a ruler to check the print by, then the list of holes. Same panel, same file.

    Args:
        sketch: of the template, mm. holes: their list. paper: sheets to stick together, or one as large as the panel.
        footer: what stands on every page.
    """
    register_fonts()
    out = io.BytesIO()
    if paper == "one sheet":
        size = ((sketch.width + 2 * EDGE_MM) * mm, (sketch.height + 2 * EDGE_MM + 8) * mm)
    else:
        size = A4 if paper == "A4" else LETTER
    canvas = Canvas(out, pagesize=size, invariant=1)
    canvas.setTitle(sketch.title)
    canvas.setCreator("Jolly Copper")
    room_x, room_y = size[0] / mm - 2 * EDGE_MM, size[1] / mm - 2 * EDGE_MM - 8
    step_x, step_y = (room_x, room_y) if paper == "one sheet" else (room_x - OVERLAP_MM, room_y - OVERLAP_MM)
    across, down = (
        max(1, math.ceil((sketch.width - OVERLAP_MM) / step_x)),
        max(1, math.ceil((sketch.height - OVERLAP_MM) / step_y)),
    )
    if paper == "one sheet":
        across = down = 1
    for row in range(down):
        for column in range(across):
            _sheet(canvas, sketch, size, (column * step_x, row * step_y), (room_x, room_y))
            words = f"{footer} · 1 to 1: print without fitting to the page" + (
                f" · sheet {row + 1}.{column + 1} of {down} × {across}" if across * down > 1 else ""
            )
            canvas.setFont("Book", 7)
            canvas.setFillColor(HexColor("#5b6368"))
            canvas.drawString(EDGE_MM * mm, EDGE_MM * mm * 0.55, words)
            _ruler(canvas, size)
            canvas.showPage()
    _list(canvas, holes, size, footer)
    canvas.save()
    return out.getvalue()


def _sheet(
    canvas: Canvas, sketch: Sketch, size: tuple[float, float], corner: tuple[float, float], room: tuple[float, float]
) -> None:
    """The part of the template that begins at a corner, with crosses where the next sheets lie on."""
    canvas.saveState()
    left, top = EDGE_MM * mm, size[1] - EDGE_MM * mm
    path = canvas.beginPath()
    path.rect(left, top - room[1] * mm, room[0] * mm, room[1] * mm)
    canvas.clipPath(path, stroke=0)
    canvas.translate(left - corner[0] * mm, top + corner[1] * mm)
    for s in sketch.strokes:
        drawn = canvas.beginPath()
        drawn.moveTo(s.points[0][0] * mm, -s.points[0][1] * mm)
        for x, y in s.points[1:]:
            drawn.lineTo(x * mm, -y * mm)
        if s.closed:
            drawn.close()
        canvas.setStrokeColor(HexColor(s.ink))
        canvas.setLineWidth(s.width * mm)
        canvas.drawPath(drawn, stroke=1, fill=0)
    for w in sketch.words:
        canvas.setFont("Book-Bold" if w.bold else "Book", w.size)
        canvas.setFillColor(HexColor(w.ink))
        {"start": canvas.drawString, "middle": canvas.drawCentredString, "end": canvas.drawRightString}[w.anchor](
            w.x * mm, -w.y * mm, w.text
        )
    canvas.setStrokeColor(HexColor("#9e2a1f"))
    canvas.setLineWidth(0.3)
    for x in (corner[0] + OVERLAP_MM / 2, corner[0] + room[0] - OVERLAP_MM / 2):
        for y in (corner[1] + OVERLAP_MM / 2, corner[1] + room[1] - OVERLAP_MM / 2):
            canvas.line((x - 3) * mm, -y * mm, (x + 3) * mm, -y * mm)
            canvas.line(x * mm, -(y - 3) * mm, x * mm, -(y + 3) * mm)
    canvas.restoreState()


def _ruler(canvas: Canvas, size: tuple[float, float]) -> None:
    """100 mm to hold a ruler to."""
    x, y = size[0] - (EDGE_MM + 100) * mm, EDGE_MM * mm * 0.45
    canvas.setStrokeColor(HexColor("#22282c"))
    canvas.setLineWidth(0.5)
    canvas.line(x, y, x + 100 * mm, y)
    for k in range(11):
        canvas.line(x + k * 10 * mm, y, x + k * 10 * mm, y + (2.5 if k % 5 == 0 else 1.5) * mm)
    canvas.setFont("Book", 6)
    canvas.drawRightString(x - 1.5 * mm, y, "100 mm")


def _list(canvas: Canvas, holes: Table, size: tuple[float, float], footer: str) -> None:
    """The list of holes, as many to a page as fit."""
    shares = [c.share for c in holes.columns]
    wide = size[0] - 2 * EDGE_MM * mm
    starts = [EDGE_MM * mm + wide * sum(shares[:k]) / sum(shares) for k in range(len(shares))]
    y = 0.0
    for n, row in enumerate(holes.rows):
        if y < EDGE_MM * mm + 14:
            if n:
                canvas.showPage()
            y = size[1] - EDGE_MM * mm
            canvas.setFillColor(HexColor("#22282c"))
            canvas.setFont("Book-Bold", 10)
            canvas.drawString(EDGE_MM * mm, y - 10, holes.title)
            canvas.setFont("Book-Bold", 7)
            y -= 26
            for x, column in zip(starts, holes.columns, strict=True):
                canvas.drawString(x, y, column.title)
            y -= 12
            canvas.setFont("Book", 7)
            canvas.drawString(EDGE_MM * mm, EDGE_MM * mm * 0.55, f"{footer} · {holes.note}"[:150])
        for x, cell in zip(starts, row, strict=True):
            canvas.drawString(x, y, cell)
        y -= 10.5
    canvas.showPage()
