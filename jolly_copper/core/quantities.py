"""Lengths, gauges, currents, volts and ohms, read as people write them and printed in either unit world.

Inside the program a length is millimetres, a current amperes, and so on. A number typed without a unit takes
the unit the field stands in (feet in the imperial world, metres in the metric one), so every reader takes `bare`.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

Units = Literal["imperial", "metric"]

MM_PER_INCH = 25.4
MM_PER_FOOT = 304.8

LENGTH_UNITS: dict[str, float] = {
    "mm": 1.0,
    "cm": 10.0,
    "m": 1000.0,
    "in": MM_PER_INCH,
    "ft": MM_PER_FOOT,
    "yd": 3 * MM_PER_FOOT,
}
_LENGTH_WORDS = {
    "millimetre": "mm",
    "millimeter": "mm",
    "centimetre": "cm",
    "centimeter": "cm",
    "metre": "m",
    "meter": "m",
    "inch": "in",
    "inche": "in",
    "foot": "ft",
    "feet": "ft",
    "yard": "yd",
}
_NUMBER = r"(?:\d+\s+\d+/\d+|\d+-\d+/\d+|\d+/\d+|\d*[.,]\d+|\d+)"
_VULGAR = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}


class QuantityError(ValueError):
    """A text that could not be read as a quantity. The message is a plain sentence for the person who typed it."""


def _clean(text: str) -> str:
    for mark, plain in _VULGAR.items():
        text = re.sub(rf"(\d){mark}", rf"\1 {plain}", text).replace(mark, plain)
    table = str.maketrans(
        {"′": "'", "’": "'", "″": '"', "”": '"', "“": '"', "−": "-", "\u00a0": " ", "µ": "u", "μ": "u"}
    )
    return text.translate(table).strip()


def _number(text: str) -> float:
    """A decimal, a fraction or a mixed number. `0,5` is read as 0.5, `2 1/2` and `2-1/2` as 2.5."""
    text = text.strip().replace(",", ".")
    mixed = re.fullmatch(r"(\d+)[\s-]+(\d+)/(\d+)", text)
    if mixed:
        whole, top, bottom = (int(g) for g in mixed.groups())
        if bottom == 0:
            raise QuantityError("A fraction cannot have zero below the line.")
        return whole + top / bottom
    fraction = re.fullmatch(r"(\d+)/(\d+)", text)
    if fraction:
        if int(fraction[2]) == 0:
            raise QuantityError("A fraction cannot have zero below the line.")
        return int(fraction[1]) / int(fraction[2])
    return float(text)


def read_length(text: str, bare: str = "ft") -> float:
    """Read a length and return millimetres.

    Args:
        text: what was typed: `35'`, `8' 2 1/2"`, `2.4 m`, `6 ft 3 in`, `600mm`, `1/2 in`, `8 pieces of 9 in`.
        bare: the unit of a number typed alone: one of mm, cm, m, in, ft, yd.

    Raises:
        QuantityError: the text is not a length, or is negative.

    >>> read_length("8' 2 1/2\\"")
    2501.9
    >>> read_length("2.4 m")
    2400.0
    >>> read_length("35", bare="ft") == read_length("35'")
    True
    >>> read_length("8 pieces of 9 in") == read_length("6 ft")
    True

    Source: international foot and inch, exact by definition (1959 agreement).
    """
    plain = _clean(text).lower()
    if not plain:
        raise QuantityError("Type a length, such as 8' 2 1/2\" or 2.4 m.")
    if plain.startswith("-"):
        raise QuantityError("A length cannot be negative.")
    if re.fullmatch(_NUMBER, plain):
        return round(_number(plain) * LENGTH_UNITS[bare], 6)
    if pieces := re.fullmatch(rf"({_NUMBER})\s*(?:pieces?|lengths?)\s+of\s+(.+)", plain):
        return round(_number(pieces[1]) * read_length(pieces[2], bare), 6)
    total, position, feet_seen = 0.0, 0, False
    piece = re.compile(rf"\s*({_NUMBER})\s*-?\s*('|\"|[a-z]+)?\.?\s*(?:and\s+)?")
    while position < len(plain):
        match = piece.match(plain, position)
        if not match:
            raise QuantityError(f"“{text.strip()}” is not a length. Try 8' 2 1/2\", 35 ft or 2.4 m.")
        mark = match[2]
        if mark is None:
            if not feet_seen:
                raise QuantityError(f"“{text.strip()}” lacks a unit somewhere. Try 8' 2\", 35 ft or 2.4 m.")
            unit = "in"  # 8' 2 means eight feet two inches
        elif mark == "'":
            unit = "ft"
        elif mark == '"':
            unit = "in"
        else:
            word = mark if mark in LENGTH_UNITS else _LENGTH_WORDS.get(mark.rstrip("s"), _LENGTH_WORDS.get(mark, mark))
            if word not in LENGTH_UNITS:
                raise QuantityError(f"“{mark}” is not a unit of length I know: use mm, cm, m, in, ft or yd.")
            unit = word
        feet_seen = feet_seen or unit == "ft"
        total += _number(match[1]) * LENGTH_UNITS[unit]
        position = match.end()
    return round(total, 6)


_PREFIX = {"u": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3, "M": 1e6}


def _read_si(text: str, symbols: str, name: str, example: str) -> float:
    plain = _clean(text)
    match = re.fullmatch(rf"({_NUMBER})\s*([umkM]?)\s*(?:{symbols})?", plain)
    if plain.startswith("-"):
        raise QuantityError(f"A {name} cannot be negative here.")
    if not match:
        raise QuantityError(f"“{text.strip()}” is not a {name}. Try {example}.")
    value = _number(match[1]) * _PREFIX[match[2]]
    return float(f"{value:.12g}")


def read_current(text: str) -> float:
    """Read a current and return amperes: `300 mA`, `0.3 A`, `3 amps`, `5`.

    >>> read_current("300 mA")
    0.3

    Raises:
        QuantityError: the text is not a current.
    """
    return _read_si(text, r"[aA](?:mps?|mperes?)?", "current", "300 mA or 5 A")


def read_volts(text: str) -> float:
    """Read a voltage and return volts: `14.4 V`, `800 mV`, `16 volts`.

    >>> read_volts("14.4 V")
    14.4

    Raises:
        QuantityError: the text is not a voltage.
    """
    return _read_si(text, r"[vV](?:olts?)?", "voltage", "14.4 V")


def read_ohms(text: str) -> float:
    """Read a resistance and return ohms: `20 mΩ`, `0.5 ohm`, `1k`.

    >>> read_ohms("20 mΩ")
    0.02

    Raises:
        QuantityError: the text is not a resistance.
    """
    return _read_si(text, r"Ω|Ω|[oO]hms?|R", "resistance", "20 mΩ or 0.5 ohm")


@dataclass(frozen=True, order=True)
class Gauge:
    """A conductor size: an AWG number or a nominal cross-section in mm². Never both: they are not the same wire."""

    system: Literal["awg", "mm2"]
    size: float

    def __str__(self) -> str:
        return f"{self.size:g} AWG" if self.system == "awg" else f"{self.size:g} mm²"


_MM2 = re.compile(r"(\d*[.,]?\d+)\s*(?:mm\s*\^?[2²]|mm²|sq\.?\s*mm|qmm)", re.I)
_AWG = re.compile(r"#?\s*(\d{1,2})\s*(?:awg|ga\.?|gauge|#)?|awg\s*(\d{1,2})", re.I)
AWG_RANGE = (6, 30)
MM2_RANGE = (0.14, 6.0)


@lru_cache(maxsize=512)
def read_gauge(text: str) -> Gauge:
    """Read a wire gauge: `14 AWG`, `14ga`, `#14`, `AWG 14`, `2.5mm²`, `2.5 mm2`, `0,75 mm²`. A bare whole number is
    AWG.

    >>> str(read_gauge("14ga"))
    '14 AWG'
    >>> str(read_gauge("2.5mm²"))
    '2.5 mm²'

    Raises:
        QuantityError: not a gauge, or outside 6 to 30 AWG and 0.14 to 6 mm².
    """
    plain = _clean(text)
    metric = _MM2.fullmatch(plain)
    if metric:
        area = float(metric[1].replace(",", "."))
        if not MM2_RANGE[0] <= area <= MM2_RANGE[1]:
            least, most = MM2_RANGE
            raise QuantityError(f"{area:g} mm² is outside what is held here: {least:g} to {most:g} mm².")
        return Gauge("mm2", area)
    awg = _AWG.fullmatch(plain)
    if awg:
        number = int(awg[1] or awg[2])
        if not AWG_RANGE[0] <= number <= AWG_RANGE[1]:
            raise QuantityError(f"{number} AWG is outside what is held here: {AWG_RANGE[0]} to {AWG_RANGE[1]} AWG.")
        return Gauge("awg", float(number))
    raise QuantityError(f"“{text.strip()}” is not a wire gauge. Try 14 AWG or 2.5 mm².")


def print_length(mm: float, units: Units) -> str:
    """Print a length: whole inches under 3 ft, feet and inches under 30 ft, whole feet beyond; or mm, then m.

    >>> print(print_length(2501.9, "imperial"))
    8' 2 1/2"
    >>> print_length(2501.9, "metric")
    '2.50 m'
    """
    if units == "metric":
        return f"{mm:.0f} mm" if mm < 999.5 else f"{mm / 1000:.2f} m"
    halves = round(mm / MM_PER_INCH * 2)
    whole, half = divmod(halves, 2)
    feet, inches = divmod(whole, 12)
    fraction = " 1/2" if half else ""
    if feet >= 30:
        return f"{round(mm / MM_PER_FOOT)} ft"
    if feet == 0 or (feet < 3 and (inches or half)):
        return f"{whole}{fraction} in" if whole or not half else "1/2 in"
    if inches == 0 and not half:
        return f"{feet}'"
    return f"{feet}' {inches}{fraction}\""


def print_long_length(mm: float, units: Units) -> str:
    """A total of wire: feet or metres with no small change. `print_long_length(30480, "imperial")` is `100 ft`."""
    return f"{mm / MM_PER_FOOT:.0f} ft" if units == "imperial" else f"{mm / 1000:.1f} m"


def print_current(amps: float) -> str:
    """`0.00144` → `1.44 mA`; `0.3` → `300 mA`; `4.123` → `4.12 A`; `19.31` → `19.3 A`."""
    if 0 < abs(amps) < 0.00995:
        return f"{round(amps * 1000, 2):g} mA"
    if abs(amps) < 0.9995:
        return f"{amps * 1000:.0f} mA"
    if abs(amps - round(amps)) < 5e-4:
        return f"{amps:.0f} A"
    return f"{amps:.2f} A" if abs(amps) < 9.995 else f"{amps:.1f} A"


def print_volts(volts: float) -> str:
    """`12.137` → `12.1 V`; below one volt two places, `0.124` → `0.12 V`."""
    return f"{volts:.1f} V" if abs(volts) >= 9.95 else f"{volts:.2f} V"


def print_ohms(ohms: float) -> str:
    """`0.0249` → `24.9 mΩ`; `1.27` → `1.27 Ω`; `1000` → `1 kΩ`."""
    if not math.isfinite(ohms):
        return "open"
    if abs(ohms) >= 999.5:
        return f"{ohms / 1000:.3g} kΩ"
    return f"{ohms * 1000:.3g} mΩ" if abs(ohms) < 0.9995 else f"{ohms:.3g} Ω"


def print_watts(watts: float) -> str:
    """`0.52` → `0.52 W`; `17.3` → `17 W`."""
    return f"{watts:.0f} W" if abs(watts) >= 9.95 else f"{watts:.1f} W" if abs(watts) >= 0.995 else f"{watts:.2f} W"
