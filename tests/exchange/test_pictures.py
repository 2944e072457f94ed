"""Pictures opened for tracing, within limits, and photos made square."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image, ImageDraw

from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.pictures import LONGEST_SIDE, picture_to_trace, straightened


def file(made: Image.Image, kind: str = "PNG", **more: object) -> bytes:
    out = io.BytesIO()
    made.save(out, kind, **more)  # type: ignore[arg-type]
    return out.getvalue()


def test_transparency_is_white_paper() -> None:
    pixels, factor, _ = picture_to_trace(file(Image.new("RGBA", (1200, 1200), (0, 0, 0, 0))))
    assert factor == 1.0 and pixels.min() == 255


def test_a_photo_lying_on_its_side_is_turned_upright() -> None:
    exif = Image.Exif()
    exif[0x0112] = 6  # a quarter to the right: EXIF 2.3, tag 274, from memory
    pixels, _, _ = picture_to_trace(file(Image.new("RGB", (1400, 1200)), "JPEG", exif=exif))
    assert pixels.shape[:2] == (1400, 1200)


def test_large_ones_are_made_smaller_and_small_ones_larger() -> None:
    pixels, factor, _ = picture_to_trace(file(Image.new("L", (6000, 2000), 255)))
    assert (pixels.shape, factor) == ((1000, 3000, 3), 2.0) and pixels.shape[1] == LONGEST_SIDE
    pixels, factor, _ = picture_to_trace(file(Image.new("RGB", (500, 400))))
    assert (pixels.shape, factor) == ((800, 1000, 3), 0.5)


def test_of_many_frames_the_first_counts() -> None:
    frames = [Image.new("RGB", (1200, 1200), c) for c in ("white", "black", "black")]
    data = file(frames[0], "WEBP", save_all=True, append_images=frames[1:], lossless=True)
    assert picture_to_trace(data)[0].min() == 255


def bomb() -> bytes:
    return file(Image.new("1", (9000, 9000)))


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (b"", "cannot be read"),
        (b"\x89PNG\r\n\x1a\n and then nothing", "cannot be read"),
        (file(Image.new("RGB", (1200, 1200)))[:400], "cannot be read"),
        (file(Image.new("RGB", (50, 50)), "GIF"), "cannot be read"),
        (bomb(), "too large to trace"),
        (bytes(16_000_000), "too large to trace"),
    ],
    ids=["nothing", "a name alone", "half", "another kind", "many pixels", "many bytes"],
)
def test_what_is_no_picture_to_trace_is_refused(data: bytes, why: str) -> None:
    with pytest.raises(FileRefused, match=why):
        picture_to_trace(data)


def test_a_sheet_photographed_askew_comes_out_square_and_to_scale() -> None:
    """A grid of dots on a sheet of 3 by 2 m, seen askew; straightened, every dot is where it was drawn."""
    sheet = Image.new("RGB", (1200, 800), "white")
    pen = ImageDraw.Draw(sheet)
    dots = [(x, y) for x in range(100, 1200, 250) for y in range(100, 800, 200)]
    for x, y in dots:
        pen.ellipse((x - 7, y - 7, x + 7, y + 7), fill="black")
    seen = [(180.0, 90.0), (1330.0, 210.0), (1240.0, 1010.0), (90.0, 880.0)]
    # Where each place of the photo lies on the sheet, by the library's own convention.
    rows, wanted = [], []
    for (u, v), (x, y) in zip(seen, [(0, 0), (1200, 0), (1200, 800), (0, 800)], strict=True):
        rows += [[u, v, 1, 0, 0, 0, -x * u, -x * v], [0, 0, 0, u, v, 1, -y * u, -y * v]]
        wanted += [x, y]
    back = np.linalg.solve(np.array(rows, dtype=float), np.array(wanted, dtype=float))
    photo = sheet.transform(
        (1450, 1100), Image.Transform.PERSPECTIVE, tuple(back), Image.Resampling.BICUBIC, fillcolor=(90, 70, 50)
    )
    square, width, height = straightened(file(photo), [seen[2], seen[0], seen[3], seen[1]], 3000, 2000)
    assert width / height == pytest.approx(1.5, rel=0.005)
    found = np.asarray(Image.open(io.BytesIO(square)).convert("L"))
    assert found.shape == (height, width)
    for x, y in dots:
        px, py = round(x / 1200 * width), round(y / 800 * height)
        near = found[py - 14 : py + 15, px - 14 : px + 15] < 128
        ys, xs = np.nonzero(near)
        assert abs(xs.mean() - 14) < 1.5 and abs(ys.mean() - 14) < 1.5


def test_corners_that_are_no_sheet_are_refused() -> None:
    with pytest.raises(FileRefused, match="drag each onto its own corner"):
        straightened(file(Image.new("RGB", (400, 400))), [(0, 0), (10, 0), (20, 0), (5, 9)], 1000, 1000)
