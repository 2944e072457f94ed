"""A reversing section made: gaps, section, circuit, reverser, its wires, and the feeders inside tied to it. One
change."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from typing import Any

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.lengths import nearest_terminal_to, point_on_track, terminal_point
from jolly_copper.core.drawing.copper import add_circuit, draw_run
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import REVERSERS, DeviceKind, Layout
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.layout.reading import track_length
from jolly_copper.core.materials.copper import in_units
from jolly_copper.core.proposals.reversing.candidates import Candidate
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.pieces import map_rails, opposite
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.core.rails.zones import Zone, circuit_of_feeder

SAME_GAP_MM = 60.0
ASIDE_MM = 180.0
UNDER_MM = 110.0


def make_sections(
    layout: Layout, sections: Sequence[Candidate], longest: float | None = None, by_hand: bool = False
) -> Patch:
    """The change that makes these reversing sections.

    Gaps and a reverser already there are used; feeders inside go over to the reverser and are brought into one phase,
    those outside back to the plain bus; track inside without feeders gets some; what the cuts leave without a section
    gets one.

    Args:
        layout: the document as it stands.
        sections: places from `propose`.
        longest: the longest train let in, mm, where a person said so; kept with the section.
        by_hand: a switch somebody throws instead of a unit that answers by itself; on DC there is no other.
    """
    sheet = Sheet(layout)
    for section in sections:
        if section.kind == "bridge":  # its pit parts the rails already: all it wants is a reverser of its own
            sheet["nodes"][section.key.removeprefix("bridge:")]["bridge"] = "reverser"
    parents = {_make(sheet, section, longest, by_hand): section for section in sections if section.kind != "bridge"}
    for (circuit, parent), section in parents.items():
        _settle_outside(sheet, section, circuit, parent)
    return sheet.patch()


def _make(sheet: Sheet, section: Candidate, train: float | None, by_hand: bool) -> tuple[str, str]:
    """One section made. Answers its circuit and the one it hangs on."""
    before = sheet.layout()
    old = map_topology(before, map_rails(before))
    for gap in section.gaps:
        _cut(sheet, gap.track, gap.at)
    cut = sheet.layout()
    topology = map_topology(cut, map_rails(cut))
    zone = topology.zones.at(topology.rails.piece_at(*section.anchor))
    parent = _parent(sheet, topology, old, zone)
    name = cut.tracks[max(zone.pieces, key=lambda p: (p.end - p.start, p.track)).track].name
    kind: DeviceKind = "reversing switch" if by_hand or control_of(grow_tree(cut), parent) != "dcc" else "reverser"
    circuit = _own_reverser(topology, zone) or _new_reverser(sheet, cut, zone, parent, name, kind)
    _tie(sheet, topology, zone, circuit)
    _anchor(sheet, topology, old, zone, circuit, name)
    for value in sheet["sections"].values():
        if value["circuit"] == circuit and train is not None:
            value["longest"] = train
    return circuit, parent


def _own_reverser(topology: Topology, zone: Zone) -> str | None:
    """The circuit of a reverser that is there already, feeds this zone, and does no sound work elsewhere."""
    layout = topology.layout
    circuits = Counter(c for f in zone.votes if (c := circuit_of_feeder(layout, f)) in topology.sources.reverses)
    at_work = {
        circuit_of_feeder(layout, f)
        for other in topology.zones.zones
        if other.number != zone.number and len(other.roots) == 1 and topology.is_reversing(other)
        for f in other.votes
    }
    own = [c for c in circuits if c not in at_work]
    return min(own, key=lambda c: (-circuits[c], c), default=None)


def _new_reverser(sheet: Sheet, cut: Layout, zone: Zone, parent: str, name: str, kind: DeviceKind) -> str:
    """A reverser with its circuit and wires. Answers the circuit."""
    longest = max(zone.pieces, key=lambda p: (p.end - p.start, p.track))
    colours = sheet["circuits"][parent]
    circuit = add_circuit(
        sheet,
        f"{name}, reversing"[:80],
        colour_a=f"{colours['colour_a'].split('/')[0]}/white" if colours["colour_a"] != "white" else "white/red",
        colour_b=colours["colour_b"],
    )
    middle = (longest.start + longest.end) / 2
    x, y = _aside(cut, longest.track, middle, ASIDE_MM)
    device = sheet.add(
        "devices",
        "V",
        {
            "kind": kind,
            "name": f"{kind.capitalize()} {name}"[:80],
            "at": {"x": round(x, 1), "y": round(y, 1)},
            "input": parent,
            "output": circuit,
            "label_amps": None,
            "measured_amps": None,
            "volts": None,
            "limit_amps": None,
            "trip_amps": None,
            "trip_seconds": None,
            "ohms": 0.04,
            "sensed": "A",
        },
    )
    _wires(sheet, cut, zone, parent, device, longest.track)
    return circuit


def _settle_outside(sheet: Sheet, section: Candidate, circuit: str, parent: str) -> None:
    """Beyond the gaps: feeders of the reverser go back to the plain bus, and all stand as their neighbours do."""
    layout = sheet.layout()
    topology = map_topology(layout, map_rails(layout))
    zone = topology.zones.at(topology.rails.piece_at(*section.anchor))
    terminals = [
        (i, terminal_point(layout, t)) for i, t in layout.terminals.items() if layout.runs[t.run].circuit == parent
    ]
    beyond = {
        topology.zones.zone_of[p] for b in topology.zones.borders_of.get(zone.number, ()) for p in (b.before, b.after)
    } - {zone.number}
    for number in sorted(beyond):
        other = topology.zones.zones[number]
        strays = {f for f in other.votes if circuit_of_feeder(layout, f) == circuit}
        if other.odd or (len(strays) == len(other.votes) > 0 and not terminals):
            continue
        agrees = _as_neighbours(topology, other)
        for feeder_id in other.votes:
            feeder = sheet["feeders"][feeder_id]
            piece = topology.rails.piece_at(feeder["track"], feeder["at"])
            if feeder_id in strays and terminals:
                here = point_on_track(layout, feeder["track"], feeder["at"])
                feeder.update(terminal=min(terminals, key=lambda t: (math.dist(here, t[1]), t[0]))[0], tape=None)
            feeder["a_rail"] = other.facing[piece] if agrees else opposite(other.facing[piece])


def _as_neighbours(topology: Topology, zone: Zone) -> bool:
    """Whether A belongs on the facing rail of a plain zone: as the plain track beyond its gaps has it, else as most
    feeders."""
    votes = []
    for border in topology.zones.borders_of.get(zone.number, ()):
        mine, theirs = (
            (border.before, border.after)
            if topology.zones.zone_of[border.before] == zone.number
            else (border.after, border.before)
        )
        other = topology.zones.at(theirs)
        if other.number != zone.number and other.votes and not other.odd and not topology.is_reversing(other):
            votes.append(other.a_rail(theirs) == zone.facing[mine])
    return 2 * sum(votes) > len(votes) if votes else zone.agrees


def _cut(sheet: Sheet, track: str, at: float) -> None:
    """A gap of both rails, or the one already there made whole."""
    for gap in sheet["gaps"].values():
        if gap["track"] == track and abs(gap["at"] - at) <= SAME_GAP_MM:
            gap["rails"] = "both"
            return
    sheet.add("gaps", "G", {"track": track, "at": round(at, 1), "rails": "both", "made": "insulated joiner"})


def _parent(sheet: Sheet, topology: Topology, old: Topology, zone: Zone) -> str:
    """The plain circuit the section hangs on: that of the track beyond its gaps, else what fed it before."""
    layout = topology.layout
    plain = {c for c in layout.circuits if c not in topology.sources.reverses}
    votes: Counter[str] = Counter()
    for border in topology.zones.borders_of.get(zone.number, ()):
        for piece in (border.before, border.after):
            beyond = topology.zones.at(piece)
            if beyond.number != zone.number:
                found = [circuit_of_feeder(layout, f) for f in beyond.votes] or topology.anchored(beyond)
                votes.update(set(found) & plain)
    for source in (
        [circuit_of_feeder(layout, f) for f in zone.votes],
        topology.anchored(zone),
        _was_anchored(old, zone),
    ):
        if not votes:
            votes.update(c for c in source if c in plain)
    if votes:
        return min(votes, key=lambda c: (-votes[c], c))
    fed = {d.output for d in layout.devices.values() if d.kind not in REVERSERS}
    best = sorted(plain, key=lambda c: (c not in fed, c))
    return best[0] if best else add_circuit(sheet, "Track")


def _was_anchored(old: Topology, zone: Zone) -> list[str]:
    """The circuits of the sections this track belonged to before it was cut."""
    sections = (old.rails.section_at(p.track, (p.start + p.end) / 2) for p in zone.pieces)
    return [old.layout.sections[s].circuit for s in sections if s is not None]


def _aside(layout: Layout, track: str, at: float, off: float) -> tuple[float, float]:
    """A place beside a track, to its right."""
    (ax, ay), (bx, by) = point_on_track(layout, track, max(at - 20, 0)), point_on_track(layout, track, at + 20)
    length = math.hypot(bx - ax, by - ay) or 1.0
    x, y = point_on_track(layout, track, at)
    return x - (by - ay) / length * off, y + (bx - ax) / length * off


def _wires(sheet: Sheet, layout: Layout, zone: Zone, parent: str, device: str, track: str) -> None:
    """The pair from the nearest terminal of the parent to the reverser, and a bus from it under the section."""
    at = sheet["devices"][device]["at"]
    here = (at["x"], at["y"])
    nearest = nearest_terminal_to(layout, parent, here)
    if nearest is not None:
        draw_run(
            sheet, [terminal_point(layout, layout.terminals[nearest]), here], terminal=nearest, ends_at_device=device
        )
    piece = max((p for p in zone.pieces if p.track == track), key=lambda p: p.end - p.start)
    line, length = layout.tracks[track].line, track_length(layout.tracks[track])
    count = max(2, min(12, math.ceil((piece.end - piece.start) / 400)))
    marks = [piece.start + (piece.end - piece.start) * k / (count - 1) for k in range(count)]
    if math.dist(here, line.point(marks[-1] * line.length / length)) < math.dist(
        here, line.point(marks[0] * line.length / length)
    ):
        marks.reverse()
    draw_run(sheet, [here, *(_aside(layout, track, m, UNDER_MM) for m in marks)], device=device)


def _tie(sheet: Sheet, topology: Topology, zone: Zone, circuit: str) -> None:
    """Feeders inside go to the nearest terminal of the reverser's bus, all one way round; bare track gets feeders."""
    layout = sheet.layout()
    ours = [
        (i, terminal_point(layout, t)) for i, t in layout.terminals.items() if layout.runs[t.run].circuit == circuit
    ]

    def nearest(track: str, at: float) -> str:
        here = point_on_track(layout, track, at)
        return min(ours, key=lambda t: (math.dist(here, t[1]), t[0]))[0]

    fed = set()
    for feeder_id in zone.votes:
        feeder = sheet["feeders"][feeder_id]
        piece = topology.rails.piece_at(feeder["track"], feeder["at"])
        fed.add(topology.rails.extent_of[piece])
        feeder.update(terminal=nearest(feeder["track"], feeder["at"]), a_rail=zone.a_rail(piece), tape=None)
    usual = Counter((f.gauge, f.strands) for f in layout.feeders.values()).most_common(1)
    gauge, strands = usual[0][0] if usual else (in_units("20 AWG", layout.brief.units), "solid")
    rules = layout.brief.rules
    for piece in zone.pieces:
        every = rules.feeder_spacing(layout.tracks[piece.track].code)
        length = piece.end - piece.start
        if topology.rails.extent_of[piece] in fed or length < 300:
            continue
        count = max(1, math.ceil(length / every))
        for k in range(count):
            at = round(piece.start + length * (k + 0.5) / count, 1)
            i = sheet.free("feeders", "F")
            sheet["feeders"][i] = {
                "label": i,
                "track": piece.track,
                "at": at,
                "terminal": nearest(piece.track, at),
                "gauge": gauge,
                "strands": strands,
                "a_rail": zone.a_rail(piece),
                "tape": None,
            }


def _anchor(sheet: Sheet, topology: Topology, old: Topology, zone: Zone, circuit: str, name: str) -> None:
    """One anchor for each stretch inside, on the reverser; and for each stretch the cuts took away from its anchor."""
    rails = topology.rails
    inside = {rails.extent_of[p] for p in zone.pieces}
    for number in sorted(inside):
        anchors = rails.sections_in[number]
        for i in anchors:
            sheet["sections"][i]["circuit"] = circuit
        extent = rails.extents[number]
        if not anchors and sum(p.end - p.start for p in extent) >= SHORTEST_STAND_MM:
            piece = max(extent, key=lambda p: (p.end - p.start, p.track))
            _name(sheet, f"{name}, reversing", piece.track, (piece.start + piece.end) / 2, circuit)
    for number, extent in enumerate(rails.extents):
        if number in inside or rails.sections_in[number] or sum(p.end - p.start for p in extent) < SHORTEST_STAND_MM:
            continue
        middle = max(extent, key=lambda p: (p.end - p.start, p.track))
        was = old.rails.section_at(middle.track, (middle.start + middle.end) / 2)
        if was is not None:
            value: dict[str, Any] = old.layout.sections[was].model_dump(mode="json")
            _name(
                sheet,
                f"{value['name']}, beyond {name}",
                middle.track,
                (middle.start + middle.end) / 2,
                value["circuit"],
            )


def _name(sheet: Sheet, name: str, track: str, at: float, circuit: str) -> None:
    sheet.add(
        "sections",
        "section-",
        {"name": name[:80], "track": track, "at": round(at, 1), "circuit": circuit, "longest": None},
    )
