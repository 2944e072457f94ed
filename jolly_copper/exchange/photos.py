"""Photos of boards and places: made upright, no larger than a screen shows, and without where they were taken."""

from __future__ import annotations

import io

from PIL import Image, ImageOps, UnidentifiedImageError

from jolly_copper.exchange.cells import FileRefused

LARGEST_BYTES = 10_000_000
LONGEST_SIDE = 2400
MOST_PIXELS = 60_000_000


def plain_photo(data: bytes) -> tuple[str, bytes]:
    """A photo as it is kept: a JPEG drawn anew from its pixels, so that nothing else of the file comes along.

    Returns:
        Media type and bytes.

    Raises:
        FileRefused: it is over 10 MB, no picture, or has too many pixels.
    """
    if len(data) > LARGEST_BYTES:
        raise FileRefused(
            f"A photo may have {LARGEST_BYTES // 1_000_000} MB; this has {len(data) / 1e6:.0f}. Send a smaller copy."
        )
    try:
        with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP")) as picture:
            if picture.width * picture.height > MOST_PIXELS:
                raise FileRefused("This photo has too many pixels; send a smaller copy.")
            upright = ImageOps.exif_transpose(picture).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise FileRefused("A photo is JPEG, PNG or WebP; this is none of them.") from None
    upright.thumbnail((LONGEST_SIDE, LONGEST_SIDE))
    out = io.BytesIO()
    upright.save(out, "JPEG", quality=85)
    return "image/jpeg", out.getvalue()
