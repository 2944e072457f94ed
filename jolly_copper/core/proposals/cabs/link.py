"""A block that may be of either control: the source beyond its gap as one more way, and a buffer that parts the two."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.pickups import Reach, longest_reach
from jolly_copper.core.drawing.copper import add_circuit, cut_gap
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.findings.mixed_control import meets_other_control
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.levers import ways_of
from jolly_copper.core.materials.copper import in_units
from jolly_copper.core.proposals.laying.corridors import map_ground
from jolly_copper.core.proposals.laying.feeding import fresh_places, lay_circuit, usual_wire
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.phase import orient
from jolly_copper.core.rails.pieces import Piece, map_rails
from jolly_copper.core.rails.through import longest_way
from jolly_copper.core.rails.zones import Border

CLEAR_MM = 30.0
OVER_PICKUP = 1.15
"""How much longer than the longest pickup a buffer is made. Certainty C."""


@dataclass(frozen=True)
class Link:
    """selector: that chooses; ways: names of all it chooses from now. buffers: track with the start and end of each, mm
    from its A end. room: what is left between them for a train, mm. reach: what each buffer must exceed."""

    selector: str
    ways: tuple[str, ...]
    buffers: tuple[tuple[str, float, float], ...]
    room: float
    reach: Reach
    patch: Patch


def link_controls(facts: Facts, track: str, at: float) -> Link:
    """Make the block beside a gap one of either control.

    Its selector gains the circuit beyond the gap as a way. At each of its ends stands a buffer longer than the longest
    pickup, on the same lever: live only while the block is of the control beyond it, so a train that comes before the
    lever is thrown stops in it and bridges nothing.

    Args:
        facts: of the layout.
        track, at: near a pair of gaps where track of two controls meets, mm from the track's A end.

    Raises:
        DrawingError: no such gap is near, neither side has a selector, or there is no room for the buffers.
    """
    layout = facts.layout
    border = _nearest(facts, track, at)
    selector, beyond, piece = _sides(facts, border)
    block = layout.devices[selector].output
    reach = longest_reach(layout)
    length = round(reach.millimetres * OVER_PICKUP + 5.0, 0)
    extent = facts.rails.extent_of[piece]
    sheet = Sheet(layout)
    ways = _another_way(sheet, layout, selector, beyond)
    buffers: list[tuple[str, float, float, list[str]]] = []
    for edge in facts.topology.zones.borders:
        inside = [facts.rails.extent_of[p] == extent for p in (edge.before, edge.after)]
        if inside.count(True) != 1:
            continue
        near, far = (edge.before, edge.after) if inside[0] else (edge.after, edge.before)
        there = facts.meant[facts.rails.extent_of[far]]
        on_with = [c for c in (*layout.devices[selector].inputs, beyond) if there is None or _alike(facts, c, there)]
        sign = -1.0 if inside[0] else 1.0
        _room(facts, near, edge, length, reach)
        other = edge.at + sign * length
        start, end = sorted((edge.at, other))
        cut_gap(sheet, edge.track, other, "both")
        _clear_out(sheet, edge.track, start, end, sign)
        buffers.append((edge.track, start, end, on_with))
    for k, (where, start, end, on_with) in enumerate(buffers):
        _buffer(sheet, layout, where, (start + end) / 2, selector, block, on_with, k)
    held = longest_way(facts.rails, facts.topology.ways, facts.rails.extents[extent])
    room = held - length * len(buffers)
    return Link(selector, ways, tuple(b[:3] for b in buffers), room, reach, sheet.patch())


def _sides(facts: Facts, border: Border) -> tuple[str, str, Piece]:
    """The selector of one side of a gap, the circuit of the other, and the piece on the selector's side."""
    layout = facts.layout
    pieces = (border.before, border.after)
    circuits = [facts.meant[facts.rails.extent_of[p]] for p in pieces]
    chosen = [None if c is None else _selector_of(facts, c) for c in circuits]
    k = next((n for n in (0, 1) if chosen[n] is not None), None)
    if k is None:
        raise DrawingError(
            f"Neither side of the gap on {layout.tracks[border.track].name} has a selector: press Block it for cabs "
            "first, or give one of them a selector."
        )
    beyond = circuits[1 - k]
    if beyond is None or chosen[1 - k] is not None:
        raise DrawingError(
            "Both sides of that gap have selectors; a buffer wants one side that is always of one control."
        )
    return str(chosen[k]), beyond, pieces[k]


def _alike(facts: Facts, circuit: str, beyond: str) -> bool:
    """Whether a way of the block is of a control that the track beyond may have."""
    kinds = [
        {control_given(facts.layout, facts.layout.devices[w.source]) for w in ways_of(facts.tree, c)}
        for c in (circuit, beyond)
    ]
    return bool(kinds[0] & kinds[1])


def _room(facts: Facts, piece: Piece, edge: Border, length: float, reach: Reach) -> None:
    units = facts.layout.brief.units
    if piece.end - piece.start < length + 2 * CLEAR_MM:
        raise DrawingError(
            f"A buffer for {reach.whose} wants {print_length(length, units)} of plain track, and "
            f"{facts.layout.tracks[edge.track].name} has {print_length(piece.end - piece.start, units)} there before "
            "its next gap or turnout."
        )


def _nearest(facts: Facts, track: str, at: float) -> Border:
    found = [b for b in facts.topology.zones.borders if b.track == track and meets_other_control(facts, b) is not None]
    if not found:
        name = facts.layout.tracks[track].name if track in facts.layout.tracks else track
        raise DrawingError(f"No gap on {name} parts track of two controls.")
    return min(found, key=lambda b: abs(b.at - at))


def _selector_of(facts: Facts, circuit: str) -> str | None:
    device = facts.tree.fed_by.get(circuit)
    return device if device is not None and facts.layout.devices[device].kind == "selector" else None


def _clear_out(sheet: Sheet, track: str, start: float, end: float, sign: float) -> None:
    """Feeders of the block go out of the buffer, and so does the name of its section."""
    for feeder in sheet["feeders"].values():
        if feeder["track"] == track and start <= feeder["at"] <= end:
            feeder.update(at=round(end + CLEAR_MM if sign > 0 else start - CLEAR_MM, 1), tape=None)
    for section in sheet["sections"].values():
        if section["track"] == track and start <= section["at"] <= end:
            section["at"] = round(end + CLEAR_MM if sign > 0 else start - CLEAR_MM, 1)


def _another_way(sheet: Sheet, layout: Layout, selector: str, beyond: str) -> tuple[str, ...]:
    device = sheet["devices"][selector]
    if beyond not in device["inputs"]:
        device["inputs"] = [*device["inputs"], beyond]
    device["made"] = "toggle, two poles" if len(device["inputs"]) <= 2 else "rotary, two poles"
    sheet["circuits"][device["output"]]["return_of"] = None
    return tuple(layout.circuits[c].name for c in device["inputs"])


def _buffer(
    sheet: Sheet,
    layout: Layout,
    track: str,
    at: float,
    selector: str,
    block: str,
    on_with: list[str],
    number: int,
) -> None:
    """A buffer's circuit, its switch on the selector's lever, its section, and its wire. It takes the block's own
    power, so it can never be of another control than the block."""
    lever = sheet["devices"][selector]
    name = f"Buffer {layout.tracks[track].name} {number + 1}"
    circuit = add_circuit(sheet, name)
    device = sheet.free("devices", "S")
    sheet["devices"][device] = {
        "kind": "selector",
        "name": f"Switch {name}",
        "at": {"x": round(lever["at"]["x"] + 30.0 * (number + 1), 1), "y": round(lever["at"]["y"] + 20.0, 1)},
        "input": block if lever["input"] in on_with else None,
        "inputs": [block],
        "output": circuit,
        "made": "toggle, two poles",
        "contact_amps": lever["contact_amps"],
        "panel": lever["panel"],
        "gang": selector,
        "on_with": on_with,
        "ohms": 0.02,
    }
    section = {"name": name, "track": track, "at": round(at, 1), "circuit": circuit, "longest": None}
    sheet.add("sections", "section-", section)
    now = sheet.layout()
    rails, wire = map_rails(now), usual_wire(now, in_units("18 AWG", now.brief.units))
    places = fresh_places(now, rails, [rails.extent_of[rails.piece_at(track, at)]])
    lay_circuit(sheet, now, rails, circuit, (), places, (), wire, map_ground(now), orient(now, rails))
