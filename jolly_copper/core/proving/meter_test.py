"""A test as a thing: where, how prepared, how the meter is set, what a sound railroad reads there and why."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Literal

from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.layout.benchwork import board_at, board_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proving.meters import Setting, Unit

TestKind = Literal[
    "gap",
    "feeder",
    "rails",
    "open",
    "load",
    "coin",
    "supply",
    "flip",
    "address",
    "frog",
    "signal",
    "heat",
    "far",
    "phase",
    "hot",
    "switch",
    "stop",
]
NAMES: dict[TestKind, str] = {
    "gap": "Gap open",
    "feeder": "Feeder wire",
    "rails": "Same rail, same wire",
    "open": "Volts, no load",
    "load": "Volts lost at one ampere",
    "coin": "Coin",
    "supply": "Source under load",
    "flip": "Reverser crossed",
    "address": "Detector by axle",
    "frog": "Frog, both lies",
    "signal": "Signal aspects",
    "heat": "Source after an evening",
    "far": "Farthest, everything on",
    "phase": "Phase over a gap",
    "hot": "Transformers in phase",
    "switch": "Selector, every position",
    "stop": "Train stops by itself",
}
MINUTES: dict[TestKind, float] = {
    "gap": 1.0,
    "feeder": 1.5,
    "rails": 4.0,
    "open": 0.8,
    "load": 1.6,
    "coin": 1.0,
    "supply": 3.0,
    "flip": 3.0,
    "address": 1.0,
    "frog": 1.5,
    "signal": 1.5,
    "heat": 1.0,
    "far": 5.0,
    "phase": 0.8,
    "hot": 3.0,
    "switch": 2.0,
    "stop": 4.0,
}
"""What each takes, walking in it. Common practice, no source."""
AGAIN: dict[TestKind, float] = {"coin": 1, "load": 1, "flip": 1, "supply": 2, "gap": 2}
"""A passed test is due again after so many times what the house says. Common practice, no source."""
COIN_CAUTION = "Touch the coin, never hold it: it gets hot at once, and so does the wire."
LOAD_CAUTION = "A lamp or resistor of one ampere gets too hot to touch: hold it by its clips."
SUPPLY_CAUTION = "Nothing is opened inside a supply; mains wiring is for a licensed electrician and the local code."


@dataclass(frozen=True)
class MeterTest:
    """One thing to try with a meter, told so that nobody needs the plan for it.

    key: stable while its thing stands. low, high: what is sound, in `unit`; None where none bounds it. open_sound: a
    circuit that does not close is sound. wanted: a yes is sound. foretold: the middle, in words. outside: what else it
    would mean. track, at: where; None where it is no place on track. tier: the smallest set of loaded places it is in.
    under_power: Ω that source and breaker add where it is read under the railroad's own power. wound: Ω that
    inductance is worth there, for a resistor read by its effective value.
    rests_on: what of the document the figure goes by, as text, so that a reading can be told to be from before a
    change.
    """

    key: str
    kind: TestKind
    title: str
    where: str
    prepare: str
    settings: tuple[Setting, ...]
    unit: Unit
    foretold: str
    value: float | None = None
    low: float | None = None
    high: float | None = None
    open_sound: bool = False
    wanted: bool | None = None
    outside: str = ""
    minutes: float = 1.0
    caution: str = ""
    power: bool = False
    track: str | None = None
    at: float | None = None
    tier: str = ""
    under_power: float = 0.0
    wound: float = 0.0
    rests_on: str = field(default="", repr=False)

    @property
    def told(self) -> str:
        """A mark of what it says and rests on; another one means that what it proves has changed since."""
        said = (self.title, self.where, self.unit, _rounded(self.low), _rounded(self.high), self.rests_on)
        return hashlib.sha256(repr(said).encode()).hexdigest()[:16]


def _rounded(value: float | None) -> float | None:
    return None if value is None else float(f"{value:.3g}")


@dataclass(frozen=True)
class Verdict:
    """sound: None where a reading settles nothing. words: why, in a sentence."""

    sound: bool | None
    words: str


Printed = Callable[[float], str]


def board_of(layout: Layout, test: MeterTest) -> str:
    """Name of the board a test is done at; of all that lies off them where it is at none."""
    if test.track is None or test.at is None or test.track not in layout.tracks:
        return board_name(layout, None)
    return board_name(layout, board_at(layout, *point_on_track(layout, test.track, test.at)))
