"""A layout's network as a netlist any general circuit simulator reads: resistors, sources, trains as current sinks."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_copper.core.circuits.network import Network, assemble
from jolly_copper.core.circuits.solution import solve
from jolly_copper.core.layout.document import Layout


def netlist(layout: Layout, trains: Sequence[tuple[str, float, float]] = (), control: bool = False) -> str:
    """The netlist of every part of a layout that holds a source.

    Args:
        layout: the document.
        trains: (track id, mm from A, amperes) each; the volts at these places are what one wants to know.
        control: add commands that solve the operating point and print the volts at each train, in order.

    Returns:
        Text with one resistor for every single contact, joiner, wire and rail, so that it checks the series sums too.
    """
    network = assemble(layout, [(track, at) for track, at, _ in trains])
    islands = solve(network)
    lines = [f"* {layout.name}: track power network, DC equivalent, trains as constant current"]
    grounds: dict[int, str] = {i.sources[0].b: "0" for i in islands}
    inside = {int(e) for i in islands for e in i.elements}
    alive = {n for e in inside for n in (network.elements[e].a, network.elements[e].b)}

    def name(node: int) -> str:
        return grounds.get(node, f"n{node}")

    source_elements = {s.element: s for s in network.sources}
    for number in sorted(inside):
        element = network.elements[number]
        if number in source_elements:
            volts = source_elements[number].volts
            lines.append(f"V{number} s{number} {name(element.b)} DC {volts:.9g}")
            lines.append(f"R{number} s{number} {name(element.a)} {element.ohms:.12g} ; {element.owner} inside")
            continue
        at = name(element.a)
        for k, part in enumerate(element.parts):
            to = name(element.b) if k == len(element.parts) - 1 else f"n{number}_{k}"
            lines.append(f"R{number}_{k} {at} {to} {part.ohms:.12g} ; {part.kind} {part.owner} {element.conductor}")
            at = to
    prints = []
    for k, (track, at_mm, amps) in enumerate(trains):
        left, right = _rail_nodes(network, track, at_mm)
        if left not in alive or right not in alive:
            continue
        lines.append(f"I{k} {name(left)} {name(right)} DC {amps:.9g} ; train on {track} at {at_mm:.0f} mm")
        prints.append(f"print v({name(left)})-v({name(right)})" if name(right) != "0" else f"print v({name(left)})")
    if control:
        lines += [
            ".options reltol=1e-9 abstol=1e-12 vntol=1e-12 numdgt=12",
            ".control",
            "set numdgt=12",
            "op",
            *prints,
            "quit",
            ".endc",
        ]
    return "\n".join([*lines, ".end", ""])


def _rail_nodes(network: Network, track: str, at: float) -> tuple[int, int]:
    piece = network.rails.piece_at(track, at)
    for span in network.spans:
        if span.piece == piece and abs(span.start - at) < 1e-6:
            return span.left[0], span.right[0]
        if span.piece == piece and abs(span.end - at) < 1e-6:
            return span.left[1], span.right[1]
    raise KeyError(f"no node at {at:.0f} mm on {track}")
