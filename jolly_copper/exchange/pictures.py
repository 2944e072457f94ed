"""Pictures of plans opened for tracing, and photos of them made square."""

from __future__ import annotations

import io
import warnings
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

from jolly_copper.core.tracing.straightening import NotStraight, homography, in_order, size_of
from jolly_copper.exchange.cells import FileRefused

MOST_BYTES, MOST_PIXELS = 15_000_000, 40_000_000
LONGEST_SIDE, SHORT_SIDE = 3000, 1100
"""A picture is traced at no more pixels than that on its longest side; one under the other is doubled."""


def _opened(data: bytes) -> Image.Image:
    """A picture upright on white, its first frame alone.

    Raises:
        FileRefused: it is too large, or no picture.
    """
    too_large = FileRefused(f"This picture is too large to trace; scale it to {LONGEST_SIDE} px.")
    if len(data) > MOST_BYTES:
        raise too_large
    try:
        with warnings.catch_warnings(), Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP")) as found:
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            if found.width * found.height > MOST_PIXELS:
                raise too_large
            found.seek(0)
            upright = ImageOps.exif_transpose(found)
            if upright.mode in ("RGBA", "LA", "P", "PA"):
                upright = upright.convert("RGBA")
                paper = Image.new("RGBA", upright.size, "white")
                upright = Image.alpha_composite(paper, upright)
            return upright.convert("RGB")
    except FileRefused:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, EOFError, Image.DecompressionBombError):
        raise FileRefused("This file cannot be read as a picture.") from None


class ToTrace(NamedTuple):
    """A picture as it is traced. pixels: shape (H, W, 3). factor: pixels of the file to one of these. paper: pixels of
    blank paper put round it."""

    pixels: NDArray[np.uint8]
    factor: float
    paper: int = 0


def traced_at(longest: float) -> float:
    """How many pixels of a file go into one that is traced, by its longest side, px."""
    return longest / LONGEST_SIDE if longest > LONGEST_SIDE else 0.5 if longest < SHORT_SIDE else 1.0


def picture_to_trace(data: bytes) -> ToTrace:
    """A picture as it is traced.

    Raises:
        FileRefused: it is too large, or no picture.
    """
    found = _opened(data)
    factor = traced_at(max(found.size))
    if factor != 1.0:
        size = (max(1, round(found.width / factor)), max(1, round(found.height / factor)))
        found = found.resize(size, Image.Resampling.LANCZOS if factor > 1 else Image.Resampling.BICUBIC)
    return ToTrace(np.asarray(found), factor)


def straightened(
    data: bytes, corners: Sequence[tuple[float, float]], wide: float, high: float
) -> tuple[bytes, int, int]:
    """A photo of a sheet made square.

    Args:
        data: the file. corners: of the sheet in it, px, in any order. wide, high: of the sheet, mm.

    Returns:
        A PNG, and its pixels either way.

    Raises:
        FileRefused: it is no picture, or these are no corners of a sheet.
    """
    photo = _opened(data)
    try:
        four = in_order(corners)
        width, height = size_of(four, wide, high, LONGEST_SIDE)
        rectangle = [(0.0, 0.0), (float(width), 0.0), (float(width), float(height)), (0.0, float(height))]
        figures = homography(rectangle, four)
    except NotStraight as error:
        raise FileRefused(str(error)) from None
    square = photo.transform((width, height), Image.Transform.PERSPECTIVE, figures, Image.Resampling.BICUBIC)
    out = io.BytesIO()
    square.save(out, "PNG")
    return out.getvalue(), width, height
