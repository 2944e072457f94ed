"""Drawings as pictures to trace: the lines of an SVG drawn by a pen, a page of a PDF as it would be printed."""

from __future__ import annotations

import io
import threading
from typing import NamedTuple
from xml.etree.ElementTree import ParseError

import numpy as np
import pypdfium2
from defusedxml.ElementTree import fromstring
from PIL import Image, ImageDraw

from jolly_copper.core.layout.geometry import draw
from jolly_copper.core.layout.words import many
from jolly_copper.core.tracing.proposal import LEAST_SIDE
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.pictures import LONGEST_SIDE, MOST_BYTES, ToTrace, picture_to_trace, traced_at
from jolly_copper.exchange.svg import read_svg

SVG = "image/svg+xml"
PEN_PX, OVER = 2.2, 2
"""Lines are drawn so wide, px, so many times as large, and made smaller: a pen without steps."""
LEAST_PAPER_PX = 40
"""Of blank paper round a drawing: the edge of a sheet is not looked at when it is traced."""
_ONE_AT_A_TIME = threading.Lock()
"""The library that draws pages is not made for several threads."""


class PdfPage(NamedTuple):
    """A page drawn: PNG, its pixels either way, and how many pages the file has."""

    png: bytes
    width: int
    height: int
    pages: int


def to_trace(media: str, data: bytes, width: float, height: float) -> ToTrace:
    """What stands under the plan as it is traced, whether a picture or a drawing.

    Args:
        media: what kind of file it is. data: the file. width, height: as the page shows it, px.

    Raises:
        FileRefused: it cannot be read, or holds nothing.
    """
    return _drawing(data, width, height) if media == SVG else picture_to_trace(data)


def shown_at(media: str, width: float, height: float) -> float:
    """How many shown pixels go into one that is traced, before the file is opened."""
    longest = max(width, height)
    return longest / LONGEST_SIDE if media == SVG else traced_at(longest)


def _drawing(data: bytes, width: float, height: float) -> ToTrace:
    """The lines of an SVG drawing as a picture: text, fills and colours are left out, so what is traced is its lines.

    Blank paper is put round it, since a drawing may run to its edges.

    Args:
        data: the file. width, height: of the picture as the page shows it, px.

    Raises:
        FileRefused: it cannot be read, or has no lines.
    """
    drawing = read_svg(data, 1.0)
    if not drawing.lines:
        raise FileRefused("There are no lines in this drawing.")
    own = _own_width(data)
    times = 1.0 if own is None else width / own
    factor = shown_at(SVG, width, height)
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
    return ToTrace(np.asarray(found), factor, paper)


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
    with _ONE_AT_A_TIME:
        return _page(data, number)


def _page(data: bytes, number: int) -> PdfPage:
    try:
        document = pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as error:
        if "password" in str(error).lower():
            raise FileRefused("This PDF wants a password: save it without one.") from None
        raise FileRefused("This file cannot be read as a PDF.") from None
    try:
        pages = len(document)
        if not 1 <= number <= pages:
            raise FileRefused(f"This PDF has {many(pages, 'page')}; there is no page {number}.")
        page = document[number - 1]
        wide, high = page.get_size()
        if min(wide, high) < 1:
            raise FileRefused("This page has no size a plan could have.")
        shown = page.render(scale=LONGEST_SIDE / max(wide, high)).to_pil().convert("RGB")
    except pypdfium2.PdfiumError:
        raise FileRefused("This page cannot be drawn.") from None
    finally:
        document.close()
    out = io.BytesIO()
    shown.save(out, "PNG")
    return PdfPage(out.getvalue(), shown.width, shown.height, pages)
