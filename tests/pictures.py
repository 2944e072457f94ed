"""Pictures of plans drawn from layouts, whose truth is known: in several hands, as exported or scanned."""

from __future__ import annotations

import io
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter

from jolly_copper.core.layout.document import Layout, Node
from jolly_copper.core.tracing.straightening import homography
from jolly_copper.exchange.pictures import straightened

Hand = Literal[
    "one line",
    "thin line",
    "coloured",
    "two rails",
    "by hand",
    "sleepers",
    "rails and sleepers",
    "bold",
    "roadbed",
    "hidden dashed",
]
BOTH_RAILS: tuple[Hand, ...] = ("two rails", "rails and sleepers")
SLEEPERS: tuple[Hand, ...] = ("sleepers", "rails and sleepers")
COLOURS = {"main": (20, 20, 20), "yard": (20, 60, 160), "siding": (150, 40, 30)}
MARGIN_MM = 300
WIDTHS: dict[Hand, float] = {
    "thin line": 1.6,
    "two rails": 1.4,
    "rails and sleepers": 1.4,
    "sleepers": 2.4,
    "bold": 7.0,
}
SLEEPER_MM, APART_MM = 42.0, 34.0
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
    width = WIDTHS.get(hand, 3.0)
    chance = np.random.default_rng(len(lines))
    for use, line in lines:
        points = [((x - x0) * scale * OVER, (y - y0) * scale * OVER) for x, y in zip(line.xs, line.ys, strict=True)]
        ink = COLOURS.get(use, COLOURS["main"]) if hand == "coloured" else (15, 15, 15)
        if hand == "by hand":
            points = _shaken(points, chance)
        if hand in SLEEPERS:
            _sleepers(pen, points, scale * OVER, round(1.4 * OVER))
        if hand == "roadbed":
            pen.line(points, fill=(120, 120, 120), width=round(40 * scale * OVER), joint="curve")
        if hand == "hidden dashed" and use == "staging":
            for part in _dashes(points, 24 * OVER, 14 * OVER):
                pen.line(part, fill=ink, width=round(width * OVER))
            continue
        if hand in BOTH_RAILS:
            for side in (-1, 1):
                pen.line(
                    _beside(points, side * 8.25 * scale * OVER), fill=ink, width=round(width * OVER), joint="curve"
                )
        else:
            pen.line(points, fill=ink, width=round(width * OVER), joint="curve")
    for node in layout.nodes.values():
        if node.kind == "turntable":
            _table(pen, node, (x0, y0), scale * OVER, round(width * OVER))
    small = sheet.resize((wide, high), Image.Resampling.LANCZOS)
    if words:
        named = [(t.line.point(t.line.length / 2), t.name) for t in layout.tracks.values()]
        _lettered(small, named, x0, y0, scale)
    return small, 1 / scale, (x0, y0)


def _shaken(points: list[tuple[float, float]], chance: np.random.Generator) -> list[tuple[float, float]]:
    """A line as a hand draws it: off by a pixel or two, slowly."""
    at = np.array(points)
    steps = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(at, axis=0).T))])
    fine = np.linspace(0, steps[-1], max(4, int(steps[-1] / (4 * OVER))))
    along = np.column_stack([np.interp(fine, steps, at[:, k]) for k in (0, 1)])
    knots = max(3, int(steps[-1] / (60 * OVER)))
    off = np.column_stack(
        [np.interp(fine, np.linspace(0, steps[-1], knots), chance.normal(0, 1.1 * OVER, knots)) for _ in range(2)]
    )
    off *= np.minimum(1.0, np.minimum(fine, steps[-1] - fine) / (30 * OVER))[:, None]
    return [(float(x), float(y)) for x, y in along + off]


def _dashes(points: list[tuple[float, float]], on: float, off: float) -> list[list[tuple[float, float]]]:
    """A line in dashes, the first at its beginning."""
    at = np.array(points)
    steps = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(at, axis=0).T))])
    found = []
    for s in np.arange(0, steps[-1], on + off):
        places = np.linspace(s, min(s + on, steps[-1]), 8)
        found.append(
            list(
                zip(
                    np.interp(places, steps, at[:, 0]).tolist(),
                    np.interp(places, steps, at[:, 1]).tolist(),
                    strict=True,
                )
            )
        )
    return found


def _sleepers(pen: ImageDraw.ImageDraw, points: list[tuple[float, float]], scale: float, width: int) -> None:
    """Short strokes square to a line, evenly."""
    at = np.array(points)
    steps = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(at, axis=0).T))])
    for s in np.arange(APART_MM * scale / 2, steps[-1], APART_MM * scale):
        x, y = np.interp(s, steps, at[:, 0]), np.interp(s, steps, at[:, 1])
        dx = np.interp(s + 1, steps, at[:, 0]) - np.interp(s - 1, steps, at[:, 0])
        dy = np.interp(s + 1, steps, at[:, 1]) - np.interp(s - 1, steps, at[:, 1])
        size = max(float(np.hypot(dx, dy)), 1e-9)
        nx, ny = -dy / size * SLEEPER_MM / 2 * scale, dx / size * SLEEPER_MM / 2 * scale
        pen.line((x - nx, y - ny, x + nx, y + ny), fill=(15, 15, 15), width=width)


def _table(pen: ImageDraw.ImageDraw, node: Node, corner: tuple[float, float], scale: float, width: int) -> None:
    """A pit's rim and the bridge over it."""
    x, y = (node.at.x - corner[0]) * scale, (node.at.y - corner[1]) * scale
    radius = (node.diameter or 300) / 2 * scale
    pen.ellipse((x - radius, y - radius, x + radius, y + radius), outline=(15, 15, 15), width=width)
    pen.line((x - radius, y, x + radius, y), fill=(15, 15, 15), width=width)


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


def photographed(made: Image.Image, seed: int = 1, off: float = 3.0) -> Image.Image:
    """The same photographed from one side on a desk, under a lamp, a little out of focus; then made square by its four
    corners, each clicked so many pixels off."""
    chance = np.random.default_rng(seed)
    wide, high = made.width, made.height
    corners = [
        (0.06 * wide, 0.09 * high),
        (0.97 * wide, 0.03 * high),
        (0.91 * wide, 0.95 * high),
        (0.02 * wide, 0.88 * high),
    ]
    back = homography(corners, [(0.0, 0.0), (wide, 0.0), (wide, high), (0.0, high)])
    desk = made.transform(
        (wide, high), Image.Transform.PERSPECTIVE, back, Image.Resampling.BICUBIC, fillcolor=(96, 70, 48)
    )
    value = np.asarray(desk, dtype=np.float32)
    light = 0.7 + 0.25 * np.linspace(0, 1, wide)[None, :] * np.linspace(1, 0.7, high)[:, None]
    value = value * light[..., None] + chance.normal(0, 4, value.shape)
    soft = Image.fromarray(np.clip(value, 0, 255).astype(np.uint8)).filter(ImageFilter.GaussianBlur(0.8))
    out = io.BytesIO()
    soft.save(out, "JPEG", quality=80)
    clicked = [(x + chance.uniform(-off, off), y + chance.uniform(-off, off)) for x, y in corners]
    square, _, _ = straightened(out.getvalue(), clicked, float(wide), float(high))
    return Image.open(io.BytesIO(square)).convert("RGB")


def array(made: Image.Image) -> NDArray[np.uint8]:
    return np.asarray(made.convert("RGB"))
