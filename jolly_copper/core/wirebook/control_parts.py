"""What detection and signals want from the shop: boards, signals, motors and the resistor in each lamp's wire."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.frogs import turned_frogs
from jolly_copper.core.quantities import print_ohms
from jolly_copper.core.signals.heads import lamps_of
from jolly_copper.core.signals.outputs import resistor_for

Part = tuple[str, str, int, str]
"""Key of its price, name, how many, and what they are for."""


def control_parts(layout: Layout) -> Iterator[Part]:
    """Boards by kind and size, signals by kind, turnout motors by kind, resistors by value."""
    yield from _alike(
        (
            f"detector-{d.kind.replace(' ', '-')}-{d.channels}",
            f"Detector board, {d.kind}, {d.channels} channels",
            d.name,
        )
        for d in layout.detectors.values()
    )
    yield from _alike(
        (
            f"driver-{d.drives}-{d.outputs}",
            f"Driver board for {d.drives}, {d.outputs} {'inputs' if d.drives == 'buttons' else 'outputs'}"
            if d.drives != "hand controllers"
            else f"Plate of {d.outputs} sockets for hand controllers",
            d.name,
        )
        for d in layout.drivers.values()
    )
    yield from _alike(
        (
            f"signal-{s.kind.replace(' ', '-')}-{s.aspects}-{s.heads}",
            f"Signal, {s.kind}"
            + (f", {s.heads} heads" if s.heads > 1 else "")
            + (f", {s.aspects} aspects" if s.kind != "dwarf" else ""),
            s.name,
        )
        for s in layout.signals.values()
    )
    yield from _alike(
        (f"motor-{n.motor.replace(' ', '-')}", f"Turnout motor, {n.motor}", n.name or i)
        for i, n in layout.nodes.items()
        if n.motor not in (None, "hand")
    )
    turned = turned_frogs(layout)
    units = [n.name or i for i, n in layout.nodes.items() if n.contact == "automatic" and i in turned]
    if units:
        yield "frog-unit", "Automatic frog unit", len(units), ", ".join(units)
    resistors: Counter[tuple[float, float]] = Counter()
    for signal in layout.signals.values():
        if signal.driver is not None and signal.kind != "semaphore":
            found = resistor_for(layout.drivers[signal.driver], signal)
            if not isinstance(found, str):
                resistors[found.ohms, found.buy_watts] += len(lamps_of(signal))
    for (ohms, watts), count in sorted(resistors.items()):
        yield (
            f"resistor-{ohms:.0f}-{watts:g}",
            f"Resistor, {print_ohms(ohms)} {watts:g} W",
            count,
            "one in each lamp's wire",
        )


def _alike(things: Iterator[tuple[str, str, str]]) -> Iterator[Part]:
    """Things that are the same to buy, counted, with their names."""
    names: dict[tuple[str, str], list[str]] = {}
    for key, words, name in things:
        names.setdefault((key, words), []).append(name)
    for (key, words), who in names.items():
        yield key, words, len(who), ", ".join(who)
