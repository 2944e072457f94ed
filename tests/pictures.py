"""Pictures of plans drawn from layouts, whose truth is known: in several hands, as exported or scanned."""

from __future__ import annotations

import io
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter

from jolly_copper.core.layout.document import Layout

Hand = Literal["one line", "thin line", "coloured", "two rails"]
COLOURS = {"main": (20, 20, 20), "yard": (20, 60, 160), "siding": (150, 40, 30)}
MARGIN_MM = 300
OVER = 3
"""Drawn so many times as large, and made smaller: lines without steps."""


def picture(
    layout: Layout, wide: int = 1800, hand: Hand = "one line", words: bool = False
) -> tuple[Image.Image, float, tuple[float, float]]:
    """A plan as a picture.

    Returns:
        The picture, mm a pixel, and where its upper left corner lies, mm.
    """
    lines = [(t.use, t.line) for t in layout.tracks.values()]
    x0 = min(min(line.xs) for _, line in lines) - MARGIN_MM
    x1 = max(max(line.xs) for _, line in lines) + MARGIN_MM
    y0 = min(min(line.ys) for _, line in lines) - MARGIN_MM
    y1 = max(max(line.ys) for _, line in lines) + MARGIN_MM
    scale = wide / (x1 - x0)
    high = round((y1 - y0) * scale)
    sheet = Image.new("RGB", (wide * OVER, high * OVER), "white")
    pen = ImageDraw.Draw(sheet)
    width = {"one line": 3.0, "thin line": 1.6, "coloured": 3.0, "two rails": 1.4}[hand]
    for use, line in lines:
        points = [((x - x0) * scale * OVER, (y - y0) * scale * OVER) for x, y in zip(line.xs, line.ys, strict=True)]
        ink = COLOURS.get(use, COLOURS["main"]) if hand == "coloured" else (15, 15, 15)
        if hand == "two rails":
            for side in (-1, 1):
                pen.line(
                    _beside(points, side * 8.25 * scale * OVER), fill=ink, width=round(width * OVER), joint="curve"
                )
        else:
            pen.line(points, fill=ink, width=round(width * OVER), joint="curve")
    small = sheet.resize((wide, high), Image.Resampling.LANCZOS)
    if words:
        named = [(t.line.point(t.line.length / 2), t.name) for t in layout.tracks.values()]
        _lettered(small, named, x0, y0, scale)
    return small, 1 / scale, (x0, y0)


def _lettered(
    made: Image.Image, named: list[tuple[tuple[float, float], str]], x0: float, y0: float, scale: float
) -> None:
    """Names beside the track, where there is room, and a title."""
    pen = ImageDraw.Draw(made)
    pen.text((20, made.height - 24), "Plan of the railroad, not to be sold", fill=(30, 30, 30))
    for (x, y), name in named:
        for dx, dy in ((10, 8), (10, -20), (-70, 8), (-70, -20), (-30, 16), (-30, -28)):
            left, top = round((x - x0) * scale + dx), round((y - y0) * scale + dy)
            box = (left - 4, top - 2, left + 8 * min(len(name), 12) + 4, top + 14)
            if box[0] < 0 or box[1] < 0 or box[2] > made.width or box[3] > made.height:
                continue
            if np.asarray(made.crop(box).convert("L")).min() > 200:
                pen.text((left, top), name[:12], fill=(30, 30, 30))
                break


def _beside(points: list[tuple[float, float]], off: float) -> list[tuple[float, float]]:
    """A line so far to the side of another."""
    at = np.array(points)
    step = np.gradient(at, axis=0)
    normal = np.stack([-step[:, 1], step[:, 0]], axis=1) / np.maximum(np.linalg.norm(step, axis=1), 1e-9)[:, None]
    return [(float(x), float(y)) for x, y in at + off * normal]


def scanned(made: Image.Image, seed: int = 1) -> Image.Image:
    """The same on grey paper under a lamp to one side, with noise, a fold, and squeezed into a JPEG."""
    chance = np.random.default_rng(seed)
    value = np.asarray(made, dtype=np.float32)
    height, width = value.shape[:2]
    light = 0.78 + 0.16 * np.linspace(0, 1, width)[None, :] - 0.06 * np.linspace(0, 1, height)[:, None]
    value = value * light[..., None] * np.array([1.0, 0.98, 0.93])
    value[:, width // 2 - 2 : width // 2 + 2] *= 0.93
    value += chance.normal(0, 5, value.shape)
    soft = Image.fromarray(np.clip(value, 0, 255).astype(np.uint8)).filter(ImageFilter.GaussianBlur(0.7))
    out = io.BytesIO()
    soft.save(out, "JPEG", quality=70)
    return Image.open(io.BytesIO(out.getvalue())).convert("RGB")


def array(made: Image.Image) -> NDArray[np.uint8]:
    return np.asarray(made.convert("RGB"))
