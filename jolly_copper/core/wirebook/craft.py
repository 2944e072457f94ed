"""Craft cards: how each kind of job is done, one screen each with a drawing. All of it is common practice, no
source."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jolly_copper.core.wirebook.sketch import MUTED, Point, Sketch, Stroke, Words
from jolly_copper.core.wirebook.task import TaskKind

COPPER, RAIL, WOOD, SOLDER, FOAM = "#9a5120", "#6a7277", "#d9c7a3", "#b9bec2", "#cfe0ea"
WIDE, HIGH = 90.0, 46.0


@dataclass(frozen=True)
class Card:
    """says: what to do, in order. caution: where it can hurt, once. kinds: of task it is opened from."""

    key: str
    title: str
    says: tuple[str, ...]
    sketch: Sketch
    kinds: tuple[TaskKind, ...]
    caution: str = ""


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


def _drilling() -> Sketch:
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


def _foam() -> Sketch:
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


def _batch() -> Sketch:
    strokes = [_wire((8, 8 + 6 * k), (60, 8 + 6 * k)) for k in range(5)] + [_box(60, 5, 3, 34, "#22282c")]
    strokes += [_wire((66, 8 + 6 * k), (78, 8 + 6 * k), ink=SOLDER, width=1.2) for k in range(5)]
    return _drawn(
        "Five leads of one length, stripped together against a stop, and tinned",
        strokes,
        [(8, 44, "cut, fold, twist, tin: all of one length at once")],
    )


def _tinning() -> Sketch:
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


def _below_the_head() -> Sketch:
    strokes = [_rail(30, 8, 2.0), _disc(37, 24, 2.6, SOLDER), _wire((38, 26), (40, 40)), _box(4, 34, 52, 6, WOOD)]
    return _drawn(
        "A wire soldered to the outside of the rail's web, below its head",
        strokes,
        [(42, 22, "outside, on the web"), (42, 12, "flanges pass here")],
    )


def _dry() -> Sketch:
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


def _gap() -> Sketch:
    strokes = [_box(4, 16, 36, 5, "#c4c9cc"), _box(42, 16, 36, 5, "#c4c9cc"), _box(40, 14, 2, 9, "#e9d9a6", COPPER)]
    strokes += [Stroke(((40, 12), (42, 12)), COPPER, 0.5)]
    return _drawn(
        "A cut rail with a filler glued in, filed to the rail's shape",
        strokes,
        [(30, 9, "about 1 mm, square across"), (20, 34, "filler in, glue, file to the head")],
    )


def _chain() -> Sketch:
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


def _ferrule() -> Sketch:
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


def _lever() -> Sketch:
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


def _tap() -> Sketch:
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


def _crimp() -> Sketch:
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


CARDS: tuple[Card, ...] = (
    Card(
        "drill",
        "Before drilling",
        (
            "Feel and look below: wire, motor, brace, somebody's hand.",
            "Drill a bit about 1 mm over the wire's insulation.",
            "Stop with a sleeve on the bit as the board's thickness.",
        ),
        _drilling(),
        ("feeder", "terminal", "control"),
        "Eyes covered; nobody below while the drill turns.",
    ),
    Card(
        "foam",
        "Thick foam",
        (
            "Drill from above with a long bit, or melt through with hot wire outdoors.",
            "Tape the lead to a stick, push it through, pull the stick out below.",
            "Foam does not hold a screw: glue a scrap of ply where a strip goes.",
        ),
        _foam(),
        ("feeder", "terminal"),
    ),
    Card(
        "batch",
        "Leads in batches",
        (
            "Cut all leads of one length at once, from the cut list.",
            "Strip against a stop, fold the end a quarter round, twist, tin.",
            "Two colours, two bundles: never mix them on the bench.",
        ),
        _batch(),
        ("feeder",),
        "The iron goes back in its stand between two leads; fresh air.",
    ),
    Card(
        "tin",
        "Tinning, and a short hot touch",
        (
            "Clean the rail bright on its outside; a little flux.",
            "Tin the rail and the lead each by itself.",
            "Hold the lead on, touch both with a hot iron for two seconds, hold still.",
        ),
        _tinning(),
        ("feeder",),
        "Hot metal; eyes covered; never work under a hot iron.",
    ),
    Card(
        "web",
        "Below the head of the rail",
        (
            "On the outside of the web, or under the foot; never on the inside.",
            "No solder higher than the web: flanges and cleaners pass there.",
            "A wet cloth on both sides keeps the ties from melting.",
        ),
        _below_the_head(),
        ("feeder",),
    ),
    Card(
        "dry",
        "A dry joint",
        (
            "A sound joint is bright and runs out flat; a dry one is a dull ball.",
            "Pull it: a sound one holds a firm tug.",
            "Meter it: under 0.1 Ω from rail to the lead's end, and the same when moved.",
        ),
        _dry(),
        ("feeder", "check"),
    ),
    Card(
        "gap",
        "Cut, fill and shape a gap",
        (
            "Clamp or glue both sides first; cut square with a thin blade or disc.",
            "A slip of plastic in, a drop of glue, file to the shape of the head.",
            "Meter it open before any feeder is tied, and again when the glue is dry.",
        ),
        _gap(),
        ("gap",),
        "Eye protection with cutting discs: they shatter.",
    ),
    Card(
        "chain",
        "Wire from above, as a chain",
        (
            "With scenery done: drill from above beside each tie that wants a lead.",
            "Thread one long wire down and up through all holes; solder from above.",
            "Cut each loop below and tie the halves to the strip.",
        ),
        _chain(),
        ("feeder", "control"),
    ),
    Card(
        "ferrule",
        "Ferrule and strip",
        (
            "Strip 8 mm; slide the ferrule on until no strand shows.",
            "Crimp it; bare strands under a screw work loose.",
            "Into the post to its collar, screw firm, tug.",
        ),
        _ferrule(),
        ("terminal", "run", "feeder", "device"),
    ),
    Card(
        "lever",
        "Lever connectors",
        (
            "Strip to the length on its side; lift the lever.",
            "Push the wire to its stop, close, tug.",
            "It opens again: good where things will change.",
        ),
        _lever(),
        ("terminal", "run"),
    ),
    Card(
        "tap",
        "Taps on an unbroken bus",
        (
            "The size by both gauges, as printed on it.",
            "Feeder to its end in the blind hole, bus in the open one, close with pliers.",
            "Tug both; what slips is the wrong size.",
        ),
        _tap(),
        ("terminal",),
    ),
    Card(
        "crimp",
        "Crimping a pin",
        (
            "Strip 3 mm; strands in the front wings, insulation in the rear ones.",
            "The right die, once, to its stop; look at it from the end.",
            "Push into the housing until it clicks, then pull.",
        ),
        _crimp(),
        ("plug", "control", "device"),
    ),
)
"""Figures in them: common practice, no source (certainty C)."""


def cards_for(kind: TaskKind) -> tuple[Card, ...]:
    """The cards opened from a kind of task."""
    return tuple(c for c in CARDS if kind in c.kinds)
