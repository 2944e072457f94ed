"""Terminals as they are built: which post is which conductor's, what combs join them, and a picture of it for the board
page."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jolly_copper.core.layout.signalling import Conductor
from jolly_copper.core.layout.wiring import Hub
from jolly_copper.core.wirebook.sketch import FAINT, INK, MUTED, Point, Sketch, Stroke, Words

POSTED = ("screw strip", "lever")
"""Kinds of terminal with numbered places; a tap or a solder joint has none."""
WORDS: dict[Hub, str] = {
    "halved strip": "One strip, two combs: the left half is wire A, the right half wire B. Put the combs in with "
    "their cut ends outwards, so that "
    "they do not meet in the middle.",
    "two strips": "Two strips, a comb in each: one strip is wire A, the other wire B.",
    "distribution board": "A distribution board: its rows are joined already, one for wire A and one for wire B.",
}


@dataclass(frozen=True)
class Built:
    """A terminal as it is built. places: pairs it has room for, the spare ones too. strips: to buy, of so many
    positions; combs: to buy, of so many poles; 0 where none is wanted."""

    kind: str
    hub: Hub
    places: int
    strips: int
    positions: int
    combs: int

    def post(self, number: int, conductor: Conductor) -> str:
        """The post of a pair's wire, by what is written beside it: `3`, `B3`; empty where there are none."""
        if self.kind not in POSTED:
            return ""
        if self.kind == "lever" or self.hub != "halved strip":
            return f"{conductor}{number}"
        return str(number if conductor == "A" else self.places + number)


def built(kind: str, hub: Hub, seats: int, takes: int) -> Built:
    """How a terminal is built that holds so many pairs and takes so many.

    >>> b = built("screw strip", "halved strip", 5, 6)
    >>> b.post(1, "A"), b.post(1, "B"), b.positions, b.combs
    ('1', '7', 12, 2)

    Args:
        kind: of terminal. hub: how a strip is made into two conductors. seats: pairs tied. takes: pairs it has room
        for.
    """
    places = max(takes, seats)
    if kind != "screw strip":
        return Built(kind, hub, places, 0, 0, 0)
    if hub == "distribution board":
        return Built(kind, hub, places, 1, places, 0)
    return Built(kind, hub, places, *((1, 2 * places) if hub == "halved strip" else (2, places)), 2)


WIDE, TALL, POST = 150.0, 30.0, 7.0


def hub_picture(what: Built, terminal: str, colours: tuple[str, str], tied: Sequence[int]) -> Sketch:
    """A terminal drawn as it is built: posts with their numbers, combs, and which are taken. mm."""
    rows: list[tuple[Conductor, str]] = [("A", colours[0]), ("B", colours[1])]
    side = what.hub == "halved strip"
    post = min(POST, (WIDE - 24) / (2 * what.places if side else what.places))
    strokes: list[Stroke] = []
    words: list[Words] = []
    for k, (conductor, colour) in enumerate(rows):
        x0 = 18 + (k * (what.places * post + 2) if side else 0)
        y0 = 4.0 + (0.0 if side else 13.0 * k)
        words.append(Words(x0, y0 - 1.2, f"wire {conductor}, {colour}", 6.5, INK, "start", True))
        for n in range(what.places):
            x, used = x0 + n * post, (n + 1) in tied
            strokes.append(Stroke(_box(x, y0, post, 6.0), INK, 0.25, None, True, FAINT if used else None))
            words.append(
                Words(
                    x + post / 2,
                    y0 + 4.2,
                    what.post(n + 1, conductor),
                    5.5 if post > 5 else 4,
                    INK if used else MUTED,
                    "middle",
                )
            )
        if what.combs:
            y = y0 + 7.6
            strokes.append(Stroke(((x0 + post / 2, y), (x0 + (what.places - 0.5) * post, y)), "#b5622b", 1.2))
            strokes += [
                Stroke(((x0 + (n + 0.5) * post, y), (x0 + (n + 0.5) * post, y0 + 6)), "#b5622b", 0.6)
                for n in range(what.places)
            ]
    words.append(Words(0, 8.5, terminal, 9, INK, "start", True))
    spare = what.places - len(set(tied))
    note = (
        f"{WORDS[what.hub]} Copper: the comb. Grey: taken; {spare} left."
        if what.combs
        else f"{WORDS[what.hub]} Grey: taken; {spare} left."
    )
    return Sketch(f"{terminal}, as it is built", WIDE, TALL / 2 if side else TALL, tuple(strokes), tuple(words), note)


def _box(x: float, y: float, wide: float, tall: float) -> tuple[Point, ...]:
    return ((x, y), (x + wide, y), (x + wide, y + tall), (x, y + tall))
