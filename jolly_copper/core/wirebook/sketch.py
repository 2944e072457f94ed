"""A drawing for paper as plain data: lines, shapes and words in millimetres, for any writer to put down."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

Point = tuple[float, float]
INK, MUTED, FAINT = "#22282c", "#6a7277", "#c9c2b4"
MM_PER_POINT = 25.4 / 72
GLYPH = 0.54
"""A letter's usual width over its size, for judging what words cover."""


@dataclass(frozen=True)
class Stroke:
    """A line through points, or the edge of a closed shape with a fill. width: mm."""

    points: tuple[Point, ...]
    ink: str = INK
    width: float = 0.3
    dash: float | None = None
    closed: bool = False
    fill: str | None = None


@dataclass(frozen=True)
class Words:
    """Words at a place. size: points. anchor: which part of them stands there."""

    x: float
    y: float
    text: str
    size: float = 7
    ink: str = INK
    anchor: Literal["start", "middle", "end"] = "start"
    bold: bool = False


@dataclass(frozen=True)
class Sketch:
    """A drawing `width` by `height` mm; nothing outside shows. title says in words what it shows."""

    title: str
    width: float
    height: float
    strokes: tuple[Stroke, ...]
    words: tuple[Words, ...]
    note: str = ""


@dataclass
class Lettering:
    """Finds room for small words so that none lies on another."""

    width: float
    height: float
    placed: list[Words] = field(default_factory=list)
    boxes: list[tuple[float, float, float, float]] = field(default_factory=list)

    def put(self, x: float, y: float, text: str, size: float = 6, ink: str = INK, bold: bool = False) -> bool:
        """Words beside a point, in the first of eight places around it that is free; False where there is none."""
        wide, tall = GLYPH * size * MM_PER_POINT * len(text), size * MM_PER_POINT
        for away in (1.2, 2.6, 4.4):
            for dx, dy in ((1, -1), (1, 1), (-1, -1), (-1, 1), (0, -1), (0, 1), (1, 0), (-1, 0)):
                left = x + away * dx - (wide if dx < 0 else wide / 2 if dx == 0 else 0)
                base = y + away * dy + (tall * 0.8 if dy > 0 else tall * 0.35 if dy == 0 else 0)
                box = (left, base - tall * 0.8, left + wide, base + tall * 0.2)
                if box[0] < 0 or box[1] < 0 or box[2] > self.width or box[3] > self.height:
                    continue
                if any(box[0] < b[2] and b[0] < box[2] and box[1] < b[3] and b[1] < box[3] for b in self.boxes):
                    continue
                self.boxes.append(box)
                self.placed.append(Words(left, base, text, size, ink, "start", bold))
                return True
        return False

    def keep_clear(self, x: float, y: float, half: float) -> None:
        """Nothing is written on a mark here."""
        self.boxes.append((x - half, y - half, x + half, y + half))
