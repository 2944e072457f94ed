"""Drawings of the craft cards, in our own hand: millimetres on a small sheet."""

from __future__ import annotations

import math

from jolly_copper.core.wirebook.sketch import MUTED, Point, Sketch, Stroke, Words

COPPER, RAIL, WOOD, SOLDER, FOAM = "#9a5120", "#6a7277", "#d9c7a3", "#b9bec2", "#cfe0ea"
WIDE, HIGH = 90.0, 46.0


def _box(
    x: float, y: float, w: float, h: float, fill: str | None = None, ink: str = MUTED, width: float = 0.3
) -> Stroke:
    return Stroke(((x, y), (x + w, y), (x + w, y + h), (x, y + h)), ink, width, closed=True, fill=fill)


def _wire(*points: Point, ink: str = COPPER, width: float = 0.9) -> Stroke:
    return Stroke(points, ink, width)


def _rail(x: float, top: float, scale: float = 1.0) -> Stroke:
    """A rail from its end: head, web and foot."""
    half = (3.0, 3.0, 0.8, 0.8, 4.5, 4.5)
    heights = (0.0, 3.0, 3.5, 9.0, 9.5, 11.0)
    right = [(x + w * scale, top + h * scale) for w, h in zip(half, heights, strict=True)]
    left = [(x - w * scale, top + h * scale) for w, h in zip(half, heights, strict=True)]
    return Stroke((*right, *left[::-1]), RAIL, 0.3, closed=True, fill="#c4c9cc")


def _disc(x: float, y: float, r: float, fill: str | None, ink: str = MUTED) -> Stroke:
    points = tuple((x + r * math.cos(a * math.pi / 12), y + r * math.sin(a * math.pi / 12)) for a in range(24))
    return Stroke(points, ink, 0.3, closed=True, fill=fill)


def _drawn(title: str, strokes: list[Stroke], words: list[tuple[float, float, str]]) -> Sketch:
    return Sketch(title, WIDE, HIGH, tuple(strokes), tuple(Words(x, y, w, 7, MUTED) for x, y, w in words))


def drilling() -> Sketch:
    board = [_box(5, 14, 80, 8, WOOD), _box(58, 22, 10, 18, WOOD), _wire((10, 27), (50, 27))]
    drill = [
        Stroke(((35, 3), (35, 24)), "#22282c", 1.4),
        Stroke(((35, 24), (34, 26), (36, 26)), "#22282c", 0.4, closed=True),
    ]
    return _drawn(
        "A drill above a board, with a wire and a brace below it",
        [*board, *drill],
        [(40, 8, "bit: wire + 1 mm"), (12, 33, "a wire"), (70, 34, "a brace")],
    )


def foam() -> Sketch:
    strokes = [
        _box(5, 10, 80, 24, FOAM),
        Stroke(((40, 4), (40, 40)), "#22282c", 0.9),
        _wire((40, 40), (44, 43), (60, 43)),
    ]
    return _drawn(
        "A stick pushed through thick foam, the wire taped to it",
        strokes,
        [(45, 8, "drill from above"), (8, 44, "the wire follows the stick")],
    )


def batch() -> Sketch:
    strokes = [_wire((8, 8 + 6 * k), (60, 8 + 6 * k)) for k in range(5)] + [_box(60, 5, 3, 34, "#22282c")]
    strokes += [_wire((66, 8 + 6 * k), (78, 8 + 6 * k), ink=SOLDER, width=1.2) for k in range(5)]
    return _drawn(
        "Five leads of one length, stripped together against a stop, and tinned",
        strokes,
        [(8, 44, "cut, fold, twist, tin: all of one length at once")],
    )


def tinning() -> Sketch:
    strokes = [
        _rail(25, 14, 1.4),
        _box(30, 25, 8, 2.5, SOLDER),
        _wire((38, 26), (60, 26)),
        _wire((52, 26), (38, 26), ink=SOLDER, width=1.4),
    ]
    strokes += [Stroke(((62, 6), (40, 23)), "#22282c", 2.0)]
    return _drawn(
        "Rail and wire both tinned, a hot iron touching them together",
        strokes,
        [(62, 14, "two seconds, hot"), (48, 33, "both tinned first")],
    )


def below_the_head() -> Sketch:
    strokes = [_rail(30, 8, 2.0), _disc(37, 24, 2.6, SOLDER), _wire((38, 26), (40, 40)), _box(4, 34, 52, 6, WOOD)]
    return _drawn(
        "A wire soldered to the outside of the rail's web, below its head",
        strokes,
        [(42, 22, "outside, on the web"), (42, 12, "flanges pass here")],
    )


def dry() -> Sketch:
    good = [
        _box(8, 28, 24, 4, "#c4c9cc"),
        Stroke(((12, 28), (14, 24), (20, 21), (26, 24), (28, 28)), MUTED, 0.4, closed=True, fill=SOLDER),
    ]
    bad = [_box(54, 28, 24, 4, "#c4c9cc"), _disc(66, 22, 6, SOLDER)]
    return _drawn(
        "A sound joint runs out flat; a dry one sits as a ball",
        [*good, *bad],
        [(8, 40, "sound: runs out flat"), (54, 40, "dry: a ball; pull it")],
    )


def gap() -> Sketch:
    strokes = [_box(4, 16, 36, 5, "#c4c9cc"), _box(42, 16, 36, 5, "#c4c9cc"), _box(40, 14, 2, 9, "#e9d9a6", COPPER)]
    strokes += [Stroke(((40, 12), (42, 12)), COPPER, 0.5)]
    return _drawn(
        "A cut rail with a filler glued in, filed to the rail's shape",
        strokes,
        [(30, 9, "about 1 mm, square across"), (20, 34, "filler in, glue, file to the head")],
    )


def chain() -> Sketch:
    strokes: list[Stroke] = [_box(4, 10, 80, 4, WOOD)]
    for k in range(4):
        strokes += [
            _disc(14 + 18 * k, 12, 1.2, "#fffdf8"),
            _wire((14 + 18 * k, 12), (23 + 18 * k, 26), (32 + 18 * k, 12)),
        ]
    return _drawn(
        "One wire threaded down and up through holes like a chain, cut below afterwards",
        strokes,
        [(10, 36, "down and up from above; cut each loop below")],
    )


def ferrule() -> Sketch:
    strokes = [
        _wire((4, 20), (34, 20), width=2.2, ink="#9a3b2e"),
        _box(30, 17, 8, 6, "#5c7fae"),
        _box(38, 18.5, 14, 3, SOLDER),
        _box(62, 10, 20, 20, "#e8e4da"),
        _disc(72, 15, 3, SOLDER),
    ]
    return _drawn(
        "A ferrule on stranded wire, then into a screw post",
        strokes,
        [(30, 30, "crimp, then"), (62, 38, "under the screw")],
    )


def lever() -> Sketch:
    strokes = [
        _box(40, 16, 26, 14, "#f1eee6"),
        Stroke(((46, 16), (52, 4), (58, 16)), "#c9742e", 0.8, closed=True, fill="#e8a66b"),
        _wire((6, 24), (44, 24), width=1.6),
    ]
    return _drawn(
        "A lever lifted, the wire pushed in to its stop",
        strokes,
        [(4, 9, "lift, push in, close, pull"), (8, 34, "strip to the gauge on its side")],
    )


def tap() -> Sketch:
    strokes = [
        _wire((4, 20), (84, 20), width=2.2, ink="#9a3b2e"),
        _box(38, 12, 14, 16, "#e9c46a"),
        _wire((45, 28), (45, 42), width=1.4),
    ]
    return _drawn(
        "A tap folded over an unbroken bus, its blade through the insulation",
        strokes,
        [(54, 12, "the bus stays whole"), (50, 38, "feeder to its end")],
    )


def crimp() -> Sketch:
    strokes = [
        _wire((4, 22), (34, 22), width=1.8),
        _box(34, 19, 16, 6, SOLDER),
        Stroke(((38, 19), (42, 21), (46, 19)), MUTED, 0.5),
        _box(54, 16, 26, 12, "#e8e4da"),
    ]
    return _drawn(
        "A pin crimped on its wire, both wings closed, then pushed into its housing",
        strokes,
        [(4, 34, "strands in the front wings, insulation in the rear"), (56, 12, "click, then pull")],
    )


def board_end() -> Sketch:
    strokes = [
        _box(5, 22, 38, 8, WOOD),
        _box(47, 22, 38, 8, WOOD),
        _box(30, 18, 12, 4, SOLDER),
        _box(48, 18, 12, 4, SOLDER),
        Stroke(((5, 16), (44, 16)), RAIL, 1.6),
        Stroke(((46, 16), (85, 16)), RAIL, 1.6),
        Stroke(((36, 17), (36, 23)), "#9e2a1f", 0.8),
    ]
    return _drawn(
        "Rails soldered to ties at the ends of two boards",
        strokes,
        [(8, 9, "rail on a copper-clad tie"), (14, 40, "its copper cut between the rails")],
    )


def static() -> Sketch:
    strokes = [
        _box(8, 12, 26, 18, "#e8e4da"),
        _box(54, 12, 26, 18, WOOD),
        Stroke(((44, 8), (40, 22), (46, 22), (42, 36)), "#c9742e", 0.9),
    ]
    return _drawn(
        "A hand that was charged on a carpet, before a circuit board",
        strokes,
        [(8, 38, "electronics"), (56, 38, "bare frame")],
    )
