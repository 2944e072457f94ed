"""What a head can show, and which of its lamps burn for it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.layout.signalling import Signal, SignalKind

Aspect = Literal["stop", "restricting", "diverging approach", "approach", "diverging clear", "clear"]
ASPECTS: tuple[Aspect, ...] = ("stop", "restricting", "diverging approach", "approach", "diverging clear", "clear")
"""From the most to the least restrictive."""
MEANS: dict[Aspect, str] = {
    "stop": "Stop before the signal.",
    "restricting": "Go on at walking pace, ready to stop short of anything.",
    "diverging approach": "Over the turnout at its speed, ready to stop at the next signal.",
    "approach": "Go on, ready to stop at the next signal.",
    "diverging clear": "Over the turnout at its speed.",
    "clear": "Go on at line speed.",
}
"""What a driver reads from it. Common practice, no source."""


@dataclass(frozen=True)
class Lamp:
    """One thing a driver output works: a lamp, or the servo of an arm. head: 0 upper, 1 lower. colour: of its wire."""

    head: int
    what: str
    colour: str


def lamps_of(signal: Signal) -> tuple[Lamp, ...]:
    """What a signal needs outputs for, head by head.

    A colour light has a lamp to a colour; a searchlight one lamp of red and green, both together for yellow; a
    semaphore an arm moved by a servo; a dwarf two lamps. Common practice, no source.
    """
    found: list[Lamp] = []
    for head in range(signal.heads):
        match signal.kind:
            case "semaphore":
                found.append(Lamp(head, "arm", "white"))
            case "searchlight":
                found += [Lamp(head, "red", "red"), Lamp(head, "green", "green")]
            case "dwarf":
                found += [Lamp(head, "red", "red"), Lamp(head, "yellow", "yellow")]
            case _:
                colours = ("red", "yellow", "green") if signal.aspects == 3 else ("red", "green")
                found += [Lamp(head, c, c) for c in colours]
    return tuple(found)


Light = Literal["red", "yellow", "green", "yellow, flashing", "dark", "level", "half up", "up"]
ARM: dict[str, Light] = {"red": "level", "yellow": "half up", "yellow, flashing": "half up", "green": "up"}


def shows(signal: Signal, aspect: Aspect) -> tuple[Light, ...]:
    """What each head shows for an aspect, upper head first.

    With two heads the upper speaks for the straight way and the lower for the diverging one. Common practice, no
    source.
    """
    upper: Light
    lower: Light
    match aspect:
        case "stop":
            upper, lower = "red", "red"
        case "restricting":
            upper, lower = "red", "yellow, flashing"
        case "diverging approach":
            upper, lower = "red", "yellow"
        case "diverging clear":
            upper, lower = "red", "green"
        case "approach":
            upper, lower = "yellow", "red"
        case _:
            upper, lower = "green", "red"
    heads = (upper, lower) if signal.heads == 2 else (lower if upper == "red" else upper,)
    return tuple(_fit(signal, light) for light in heads)


def _fit(signal: Signal, light: Light) -> Light:
    """A light as a head of this kind can show it."""
    if signal.kind == "dwarf" and light == "green":
        light = "yellow"
    if signal.aspects == 2 and signal.kind != "dwarf" and light in ("yellow", "yellow, flashing"):
        light = "green"
    return ARM[light] if signal.kind == "semaphore" else light


def can_show(signal: Signal) -> tuple[Aspect, ...]:
    """The aspects a signal can tell apart."""
    if signal.kind == "dwarf":
        return ("stop", "restricting")
    if signal.aspects == 2:
        return ("stop", "clear")
    able = ASPECTS if signal.heads == 2 else ("stop", "restricting", "approach", "clear")
    # An arm cannot flash: it has no restricting of its own.
    return able if signal.kind != "semaphore" else tuple(a for a in able if a != "restricting")


def nearest_shown(signal: Signal, wanted: Aspect) -> Aspect:
    """The aspect a signal shows where a rule wants one it cannot: the nearest that asks more caution. A head of two
    aspects only says stop or go, and goes."""
    able = can_show(signal)
    if wanted in able:
        return wanted
    if able == ("stop", "restricting"):
        return "restricting"
    if wanted == "restricting":
        return "stop"
    return "clear" if able == ("stop", "clear") else "approach"


KIND_WORDS: dict[SignalKind, str] = {
    "colour light": "A lamp to each colour, side by side or above each other: three wires and a common.",
    "searchlight": "One lamp that is red or green, or both at once for yellow: two wires and a common.",
    "semaphore": "An arm on a servo: level to stop, half up to go on with care, up to go.",
    "dwarf": "Two lamps near the ground, for yards and ways out of sidings.",
}
