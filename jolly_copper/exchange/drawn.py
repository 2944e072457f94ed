"""Drawings as pictures to trace: the lines of an SVG drawn by a pen, a page of a PDF as it would be printed."""

from __future__ import annotations

import io
from typing import NamedTuple
from xml.etree.ElementTree import ParseError

import numpy as np
import pypdfium2
from defusedxml.ElementTree import fromstring
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.tracing.proposal import LEAST_SIDE
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.pictures import LONGEST_SIDE, MOST_BYTES
from jolly_copper.exchange.svg import read_svg

PEN_PX, OVER = 2.2, 2
"""Lines are drawn so wide, px, so many times as large, and made smaller: a pen without steps."""
MOST_PAGES = 500
LEAST_PAPER_PX = 40
"""Of blank paper round a drawing: the edge of a sheet is not looked at when it is traced."""
POINTS_A_PIXEL_LEAST = 0.02


class PdfPage(NamedTuple):
    """A page drawn: PNG, its pixels either way, and how many pages the file has."""

    png: bytes
    width: int
    height: int
    pages: int


def drawing_to_trace(data: bytes, width: float, height: float) -> tuple[NDArray[np.uint8], float, int]:
    """The lines of an SVG drawing as a picture: text, fills and colours are left out, so what is traced is its lines.

    Args:
        data: the file. width, height: of the picture as the page shows it, px.

    Returns:
        Shape (H, W, 3); pixels of the shown picture to a pixel of the array; and how many pixels of paper were put
        round it, since a drawing may run to its edges.

    Raises:
        FileRefused: it cannot be read, or has no lines.
    """
    drawing = read_svg(data, 1.0)
    if not drawing.lines:
        raise FileRefused("There are no lines in this drawing.")
    own = _own_width(data)
    times = 1.0 if own is None else width / own
    factor = max(width, height) / LONGEST_SIDE
    inner = max(1, round(width / factor)), max(1, round(height / factor))
    paper = max(LEAST_PAPER_PX, (LEAST_SIDE - min(inner)) // 2 + 1)
    size = inner[0] + 2 * paper, inner[1] + 2 * paper
    sheet = Image.new("L", (size[0] * OVER, size[1] * OVER), 255)
    pen = ImageDraw.Draw(sheet)
    scale = times / factor * OVER
    for line in drawing.lines:
        drawn = draw(line.path)
        points = [(x * scale + paper * OVER, y * scale + paper * OVER) for x, y in zip(drawn.xs, drawn.ys, strict=True)]
        pen.line(points, fill=20, width=round(PEN_PX * OVER), joint="curve")
    found = sheet.resize(size, Image.Resampling.LANCZOS).convert("RGB")
    return np.asarray(found), factor, paper


def _own_width(data: bytes) -> float | None:
    """The width of an SVG in its own units where it says no size on screen; None where it does."""
    try:
        root = fromstring(data, forbid_dtd=True)
        if not root.get("width", "%").strip().endswith("%"):
            return None
        wide = float(root.get("viewBox", "").replace(",", " ").split()[2])
    except (ParseError, ValueError, IndexError):
        return None
    return wide if wide > 0 else None


def pdf_page(data: bytes, number: int) -> PdfPage:
    """A page of a PDF as a picture.

    Args:
        data: the file. number: of the page, from 1.

    Raises:
        FileRefused: it is no PDF, wants a password, or has no such page.
    """
    if len(data) > MOST_BYTES:
        raise FileRefused(f"This PDF is over {MOST_BYTES // 1_000_000} MB: save the page with the plan by itself.")
    try:
        document = pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as error:
        if "password" in str(error).lower():
            raise FileRefused("This PDF wants a password: save it without one.") from None
        raise FileRefused("This file cannot be read as a PDF.") from None
    try:
        pages = len(document)
        if not 1 <= number <= min(pages, MOST_PAGES):
            raise FileRefused(f"This PDF has {pages} page{'' if pages == 1 else 's'}; there is no page {number}.")
        page = document[number - 1]
        wide, high = page.get_size()
        if min(wide, high) < 1 or max(wide, high) * POINTS_A_PIXEL_LEAST > LONGEST_SIDE:
            raise FileRefused("This page has no size a plan could have.")
        shown = page.render(scale=LONGEST_SIDE / max(wide, high)).to_pil().convert("RGB")
    except pypdfium2.PdfiumError:
        raise FileRefused("This page cannot be drawn.") from None
    finally:
        document.close()
    out = io.BytesIO()
    shown.save(out, "PNG")
    return PdfPage(out.getvalue(), shown.width, shown.height, pages)
