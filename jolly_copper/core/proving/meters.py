"""What a meter shows of track power, and what people type of it.

On a square wave of ±V every kind of meter shows something else; see docs/formulas.md. The factors are derived; how
exact a meter is, is common practice, no source.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from typing import Literal

Setting = Literal[
    "ac averaging", "ac true effective", "dc", "bridge and dc", "ohms", "track display", "booster display", "lamp"
]
Unit = Literal["V", "A", "Ω", "yes"]
Wave = Literal["square", "steady", "sine"]
"""Of the track: digital, DC, three-rail."""
FORM_FACTOR = math.pi / (2 * math.sqrt(2))
"""Effective over mean value of a sine: what an averaging meter is marked by. 1.1107."""
BRIDGE_VOLTS = 1.5
"""Two small silicon diodes with 1 kΩ behind them. Common practice, no source."""


@dataclass(frozen=True)
class MeterKind:
    """A kind of meter. share: of the reading, 95 %. floor: in its own unit, whatever it reads. why: in a line."""

    setting: Setting
    name: str
    unit: Unit
    share: float
    floor: float
    why: str


KINDS: dict[Setting, MeterKind] = {
    k.setting: k
    for k in (
        MeterKind("ac averaging", "AC volts, averaging", "V", 0.12, 0.05, "shows 1.11 times a square wave: ×0.900"),
        MeterKind("ac true effective", "AC volts, true effective", "V", 0.12, 0.05, "right if its band reaches 8 kHz"),
        MeterKind("dc", "DC volts", "V", 0.01, 0.003, "shows 0 on digital track, whatever the volts"),
        MeterKind("bridge and dc", "Diode bridge and DC volts", "V", 0.02, 0.03, "1.5 V less than the track has"),
        MeterKind("ohms", "Ohms", "Ω", 0.02, 0.03, "power off, engines off; leads zeroed"),
        MeterKind("track display", "Digital track display", "V", 0.02, 0.1, "reads the track's own wave"),
        MeterKind("booster display", "The booster's own display", "A", 0.05, 0.1, "amps of all it feeds"),
        MeterKind("lamp", "Test lamp", "yes", 0.0, 0.0, "lit or not: no figure"),
    )
}
CALIBRATED = 0.03
"""Of an AC reading once its meter was held against a bridge reading at the source. Common practice, no source."""


def shown(setting: Setting, volts: float, wave: Wave, cutoff: float | None = None, half_bit: float = 58e-6) -> float:
    """What a meter shows of track with so many volts.

    Averaging: 1.1107·V on a square wave; true effective: V; DC: 0 on a square wave; bridge: V − 1.5 V. A meter that
    rolls off at f_c (first order), with x = π·f_c·T, T half a bit: averaging 1.1107·V·(1 − ln(1 + tanh x)/x),
    true effective V·√(1 − tanh x/x).

    Args:
        setting: of the meter.
        volts: V, of the wave (its effective value).
        wave: of the track.
        cutoff: Hz, where the meter rolls off; None where its band reaches.
        half_bit: s.

    >>> round(shown("ac averaging", 14.0, "square"), 2)
    15.55
    >>> round(shown("ac true effective", 1.0, "square", cutoff=10e3), 2)
    0.69

    Source: derived (mean and effective value of a square wave, first-order low-pass), checked by simulation.
    """
    if setting in ("track display", "ohms", "lamp", "booster display"):
        return volts
    if setting == "bridge and dc":
        return max(abs(volts) - BRIDGE_VOLTS, 0.0)
    if wave == "steady":
        return volts if setting == "dc" else 0.0
    if setting == "dc":
        return 0.0
    if wave == "sine":
        return volts
    if cutoff is None:
        return FORM_FACTOR * volts if setting == "ac averaging" else volts
    x = math.pi * cutoff * half_bit
    if setting == "ac averaging":
        return FORM_FACTOR * volts * (1 - math.log(1 + math.tanh(x)) / x)
    return volts * math.sqrt(max(1 - math.tanh(x) / x, 0.0))


def true_volts(setting: Setting, reading: float, wave: Wave, factor: float | None = None) -> float:
    """Volts of the track from what a meter shows: the other way round than `shown`, or by the meter's own factor.

    Args:
        factor: of this meter, from a bridge reading at the source (V over what it showed); None where nobody held it
            against one.

    Raises:
        ValueError: this meter says nothing of such track.
    """
    if setting == "dc" and wave == "square":
        raise ValueError("DC volts show nothing of digital track: each half of the wave takes away the other.")
    if setting in ("ac averaging", "ac true effective") and wave == "steady":
        raise ValueError("AC volts show nothing of DC track.")
    if setting == "bridge and dc":
        return reading + BRIDGE_VOLTS
    if factor is not None and setting.startswith("ac"):
        return reading * factor
    return reading / FORM_FACTOR if setting == "ac averaging" and wave == "square" else reading


def spread_of(setting: Setting, reading: float, calibrated: bool) -> float:
    """One standard deviation of a reading by the meter alone, in its unit."""
    kind = KINDS[setting]
    share = CALIBRATED if calibrated and setting.startswith("ac") else kind.share
    return math.hypot(share * reading, kind.floor) / 1.96


class ReadingError(ValueError):
    """What was typed is no reading, with a sentence for the person who typed it."""


@dataclass(frozen=True)
class Typed:
    """A reading as understood: a number in V, A or Ω; `open` for a circuit that does not close; yes or no."""

    value: float | None
    unit: Unit | None
    open: bool = False
    yes: bool | None = None


OPEN_WORDS = {"open", "ol", "o.l", "o.l.", "1 .", "over", "overload", "inf", "infinite", "none"}
DEAD_WORDS = {"dead", "no volts", "ol", "o.l", "open"}
"""Of rails that no power reaches: no figure, and no zero either."""
YES = {"yes", "y", "ok", "trips", "trips at once", "lit", "closed", "right", "passes", "opens", "opens at once"}
NO = {"no", "n", "wrong", "does not trip", "holds", "dark", "not lit", "fails", "no trip", "nothing"}
SCALES = {"m": 1e-3, "k": 1e3, "M": 1e6, "µ": 1e-6, "u": 1e-6, "": 1.0}
NUMBER = re.compile(r"^([+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+))\s*(m|k|M|µ|u)?\s*(V|v|A|a|Ω|ω|R|ohms?|volts?|amps?)?$")
MOST: dict[Unit, float] = {"V": 60.0, "A": 50.0, "Ω": 1e8, "yes": 1.0}


def read_typed(text: str, wanted: Unit) -> Typed:
    """A reading as people type it: `14.2`, `0,4 Ω`, `240 mV`, `OL`, `trips at once`.

    Args:
        text: as typed.
        wanted: the unit the test is read in; a number without one is taken as that.

    Raises:
        ReadingError: it is no reading of that kind, or one no track gives.

    >>> read_typed("240 mV", "V").value
    0.24
    >>> read_typed("OL", "Ω").open
    True
    """
    clean = " ".join(text.strip().split())
    word = clean.lower().rstrip(".!")
    if not clean:
        raise ReadingError("Type what the meter shows, such as 14.2 V, 0.4 Ω, OL or trips at once.")
    if wanted == "Ω" and (word in OPEN_WORDS or clean == "1 ."):
        return Typed(None, "Ω", open=True)
    if wanted == "V" and word in DEAD_WORDS:
        return Typed(None, "V", open=True)
    if wanted == "yes":
        if word in YES or word in NO:
            return Typed(None, "yes", yes=word in YES)
        raise ReadingError(f"“{clean}” says neither yes nor no. Type yes, no, trips at once or does not trip.")
    found = NUMBER.match(clean)
    if not found:
        raise ReadingError(f"“{clean}” is no reading. Type a number with its unit, such as {_example(wanted)}.")
    value = float(found[1].replace(",", ".")) * SCALES[found[2] or ""]
    said = {"v": "V", "a": "A", "r": "Ω", "o": "Ω", "ω": "Ω"}.get((found[3] or "")[:1].lower())
    if said is not None and said != wanted:
        raise ReadingError(f"This is read in {NAMES[wanted]}, and “{clean}” is {NAMES[said]}.")
    if wanted == "Ω" and value < 0:
        raise ReadingError("Ohms are never under zero: the leads were zeroed with something between them.")
    if abs(value) > MOST[wanted]:
        raise ReadingError(f"“{clean}” is beyond what any track gives: {MOST[wanted]:g} {wanted} at most.")
    return Typed(value, wanted)


NAMES = {"V": "volts", "A": "amps", "Ω": "ohms", "yes": "yes or no"}


def _example(unit: Unit) -> str:
    return {"V": "14.2 V", "A": "2.1 A", "Ω": "0.4 Ω, or OL for open", "yes": "yes"}[unit]
