"""The backs of selectors: every pin numbered, with the wire that goes to it, and the strips behind the panel."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.layout.ids import natural

PINS_SEEN = (
    "Seen from behind, the lever's keyway up. On most toggles the lever joins the middle pins to those at its far "
    "end: try each with a meter before a label goes on."
)
DECKS = "ABCDEFGHJKLMNPQRSTUVWXYZ"


@dataclass(frozen=True)
class Pin:
    """A pin of a switch: its number, the wire's label and colour, and what it joins. column, row: where it stands in
    the pattern of the switch, seen from behind."""

    number: str
    label: str
    colour: str
    joins: str
    column: int
    row: int


@dataclass(frozen=True)
class SwitchBack:
    """One switch on a panel. number: of its hole, shared by what is ganged to it; ganged: on the lever of another one.
    lies: position by position what it gives, in words."""

    device: str
    number: int
    name: str
    part: str
    pins: tuple[Pin, ...]
    lies: tuple[str, ...]
    ganged: bool
    links: tuple[tuple[str, str], ...] = ()
    """Wires from pin to pin of the same switch: the crossed ones of a reversing switch."""


@dataclass(frozen=True)
class StripRow:
    """A comb row of a strip behind the panel: posts that are one conductor. tied: what is on each post."""

    name: str
    colour: str
    purpose: Literal["cab", "common", "block"]
    tied: tuple[str, ...]


@dataclass(frozen=True)
class PanelBack:
    """Everything behind one panel. jumpers: single wires between strips and pins, counted. lamps: on its front;
    lamp_amps: what all of them draw lit at once, A."""

    panel: str
    switches: tuple[SwitchBack, ...]
    rows: tuple[StripRow, ...]
    parts: tuple[tuple[int, str], ...]
    jumpers: int
    lamps: int = 0
    lamp_amps: float = 0.0


def levers(layout: Layout, panel: str) -> list[str]:
    """Selectors of a panel that have a lever of their own, by name; what is ganged to them has none."""
    mine = [i for i, d in layout.devices.items() if d.panel == panel and d.gang is None and _is_switch(d)]
    return sorted(mine, key=lambda i: natural(layout.devices[i].name))


def _is_switch(device: Device) -> bool:
    return device.kind in ("selector", "reversing switch", "switch")


def panel_back(layout: Layout, panel: str) -> PanelBack:
    """The back of a panel: its switches pin by pin, its strips row by row, and what to buy.

    Args:
        layout: the document. panel: id of a control panel.

    Raises:
        KeyError: there is no such panel.
    """
    layout.panels[panel]
    switches: list[SwitchBack] = []
    for number, i in enumerate(levers(layout, panel), start=1):
        switches.append(_back(layout, i, number))
        riders = sorted((k for k, d in layout.devices.items() if d.gang == i), key=natural)
        switches += [_back(layout, k, number, 2 * n) for n, k in enumerate(riders, start=1)]
    rows = _rows(layout, switches)
    jumpers = sum(len(r.tied) for r in rows if r.purpose != "block") + 2 * sum(len(s.links) > 0 for s in switches)
    return PanelBack(panel, tuple(switches), tuple(rows), tuple(_parts(layout, switches, rows)), jumpers)


def _wire(layout: Layout, circuit: str, conductor: str) -> tuple[str, str]:
    """Label and colour of a circuit's conductor."""
    c = layout.circuits[circuit]
    return f"{c.name} {conductor}", c.colour_a if conductor == "A" else c.colour_b


def _back(layout: Layout, i: str, number: int, deck: int = 0) -> SwitchBack:
    """One switch. deck: of a ganged one, how many poles of the lever come before its own."""
    device = layout.devices[i]
    if device.kind == "reversing switch":
        return _reversing(layout, i, number)
    ways = device.inputs if device.kind == "selector" else [device.input or device.output]
    poles = 1 if device.made.endswith("one pole") and device.kind == "selector" else 2
    if device.gang is not None:
        lever = layout.devices[device.gang]
        given = [layout.circuits[c].name for c in device.on_with]
        pins = _rotary_pins(
            layout, device.output, [ways[0] if c in device.on_with else None for c in lever.inputs], poles, deck
        )
        lies: tuple[str, ...] = (f"on while {lever.name} gives {' or '.join(given)}",)
        return SwitchBack(i, number, device.name, f"{poles} more poles of {lever.name}", pins, lies, True)
    if device.made.startswith("rotary") or len(ways) > 2:
        pins = _rotary_pins(layout, device.output, list(ways), poles)
        part = f"rotary, {poles} pole{'s' if poles > 1 else ''}, {len(ways) + 1} positions"
        lies = ("1: off", *(f"{k}: {layout.circuits[w].name}" for k, w in enumerate(ways, start=2)))
        return SwitchBack(i, number, device.name, part, pins, lies, False)
    pins = _toggle_pins(layout, device.output, list(ways), poles)
    if len(ways) == 1:
        part, lies = f"toggle, on–off, {poles} pole{'s' if poles > 1 else ''}", ("on", "off")
    else:
        part = f"toggle, {'double' if poles == 2 else 'single'} pole, double throw, centre off"
        lies = (f"up: {layout.circuits[ways[0]].name}", "centre: off", f"down: {layout.circuits[ways[1]].name}")
    return SwitchBack(i, number, device.name, part, pins, lies, False)


def _toggle_pins(layout: Layout, output: str, ways: list[str], poles: int) -> tuple[Pin, ...]:
    """Three pins a pole, the block on the middle one, the first way above and the second below; two for on–off."""
    found = []
    for pole, conductor in enumerate("AB"[:poles]):
        column = [ways[0], output, *ways[1:2]]
        for row, circuit in enumerate(column):
            label, colour = _wire(layout, circuit, conductor)
            joins = (
                f"to {layout.circuits[circuit].name}" if circuit == output else f"from {layout.circuits[circuit].name}"
            )
            found.append(Pin(str(1 + pole * len(column) + row), label, colour, joins, pole, row))
    return tuple(found)


def _rotary_pins(layout: Layout, output: str, ways: list[str | None], poles: int, deck: int = 0) -> tuple[Pin, ...]:
    """A common pin a pole and one for each position; position 1 is off and has no wire."""
    found = []
    for pole, conductor in enumerate("AB"[:poles]):
        letter = DECKS[deck + pole]
        label, colour = _wire(layout, output, conductor)
        found.append(Pin(f"{letter}0", label, colour, f"to {layout.circuits[output].name}", pole, 0))
        for k, way in enumerate(ways, start=2):
            if way is None:
                continue
            label, colour = _wire(layout, way, conductor)
            found.append(Pin(f"{letter}{k}", label, colour, f"from {layout.circuits[way].name}", pole, k - 1))
    return tuple(found)


def _reversing(layout: Layout, i: str, number: int) -> SwitchBack:
    """Supply on the pins of one end, two wires crossed to the other end, track on the middle."""
    device = layout.devices[i]
    above = device.input or device.output
    pins = []
    for pole, conductor in enumerate("AB"):
        other = "B" if conductor == "A" else "A"
        label, colour = _wire(layout, above, conductor)
        pins.append(Pin(str(1 + 3 * pole), label, colour, f"from {layout.circuits[above].name}", pole, 0))
        label, colour = _wire(layout, device.output, conductor)
        pins.append(Pin(str(2 + 3 * pole), label, colour, f"to {layout.circuits[device.output].name}", pole, 1))
        label, colour = _wire(layout, above, other)
        pins.append(Pin(str(3 + 3 * pole), label, colour, f"crossed over from pin {4 if pole == 0 else 1}", pole, 2))
    return SwitchBack(
        i,
        number,
        device.name,
        "toggle, double pole, double throw",
        tuple(pins),
        ("up: as it comes", "down: turned round"),
        False,
        (("1", "6"), ("4", "3")),
    )


def _rows(layout: Layout, switches: Sequence[SwitchBack]) -> list[StripRow]:
    """Comb rows for what several pins share, and pairs of posts where block wires leave."""
    taken: dict[tuple[str, str], list[str]] = {}
    for s in switches:
        device = layout.devices[s.device]
        poles = "A" if device.kind == "selector" and device.made.endswith("one pole") else "AB"
        for circuit in device.inputs or ([device.input] if device.input else []):
            for conductor in poles:
                pin = next((p.number for p in s.pins if p.label == _wire(layout, circuit, conductor)[0]), "")
                taken.setdefault((circuit, conductor), []).append(f"switch {s.number} pin {pin}")
    common: dict[str, list[str]] = {}
    for s in switches:
        output = layout.devices[s.device].output
        over = layout.circuits[output].return_of
        if over is not None:
            common.setdefault(over, []).append(f"{layout.circuits[output].name} B")
    found = [
        StripRow(f"{_wire(layout, c, k)[0]}", _wire(layout, c, k)[1], "cab", ("in", *tied))
        for (c, k), tied in sorted(taken.items())
        if len(tied) > 1
    ]
    found += [
        StripRow(f"Common, with {layout.circuits[c].name} B", _wire(layout, c, "B")[1], "common", ("in", *tied))
        for c, tied in sorted(common.items())
    ]
    for s in switches:
        device = layout.devices[s.device]
        for conductor in "A" if layout.circuits[device.output].return_of is not None else "AB":
            label, colour = _wire(layout, device.output, conductor)
            homes = sorted(
                r.label
                for r in layout.runs.values()
                if r.circuit == device.output and r.fed.device == s.device and conductor in (r.wires, *_both(r.wires))
            )
            found.append(StripRow(label, colour, "block", tuple(homes) or ("no wire home yet",)))
    return found


def _both(wires: str) -> tuple[str, ...]:
    return ("A", "B") if wires == "both" else ()


def _parts(layout: Layout, switches: Sequence[SwitchBack], rows: Sequence[StripRow]) -> list[tuple[int, str]]:
    """What the panel takes: switches by kind, posts and combs of strips."""
    counts: dict[str, int] = {}
    for s in switches:
        if not s.ganged:
            riders = sum(r.ganged and r.number == s.number for r in switches)
            part = s.part if not riders else s.part.replace("2 poles", f"{2 + 2 * riders} poles")
            counts[part] = counts.get(part, 0) + 1
    found = [(n, part) for part, n in sorted(counts.items())]
    posts = sum(len(r.tied) for r in rows)
    combs = sum(r.purpose != "block" for r in rows)
    if posts:
        found.append((posts, "posts of screw strip"))
    if combs:
        found.append((combs, "combs, one for each row that shares a wire"))
    return found
