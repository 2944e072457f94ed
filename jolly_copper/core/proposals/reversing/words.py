"""Reversing sections in words: what a place is, why it was chosen, and what else the control system asks for."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jolly_copper.core.findings.reversing import node_name, some_names
from jolly_copper.core.layout.control import control_of, controls
from jolly_copper.core.layout.document import Control, Layout
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.layout.words import CONTROL
from jolly_copper.core.proposals.reversing.candidates import SPARE, Candidate
from jolly_copper.core.proposals.reversing.choose import longest_that_fits
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.conflicts import Conflict
from jolly_copper.core.rails.tables import aligned_pairs, faces
from jolly_copper.core.rails.topology import Topology
from jolly_copper.core.rails.ways import ENDS, TrackEnd, stub_angle


def title(topology: Topology, place: Candidate) -> str:
    """The name of a place."""
    layout, ways = topology.layout, topology.ways
    if place.kind == "plain track":
        (number, _, _) = place.spans[0]
        return f"On {some_names(layout, ways.chains[number].names, 2)}"
    if place.kind == "bridge":
        return f"The bridge of {node_name(layout, place.key.removeprefix('bridge:'))}"
    return "Round " + " and ".join(node_name(layout, c.node) for c in sorted(place.cores))


def reasons(topology: Topology, place: Candidate, train: float) -> list[str]:
    """Why a place suits, and what speaks against it, each a short sentence."""
    layout, units = topology.layout, topology.layout.brief.units
    found = []
    if place.run is None:
        found.append("No train can drive straight from gap to gap, so any length will do.")
    else:
        spare = place.run - train
        found.append(
            f"{print_length(place.run, units)} from gap to gap, {print_length(spare, units)} more than the longest "
            "train."
        )
    cuts = len(place.gaps)
    found.append(
        "The pit parts its rails already."
        if cuts == 0
        else f"{cuts} pair{'s' if cuts != 1 else ''} of gaps"
        + (
            ", on plain track."
            if place.turnouts == 0
            else f", {place.turnouts} turnout{'s' if place.turnouts != 1 else ''} inside."
        )
    )
    uses = sorted({layout.tracks[t].use for n, _, _ in place.spans for t in topology.ways.chains[n].names})
    found.append(f"Track: {', '.join(uses)}.")
    if place.crossings:
        found.append(f"{place.crossings} crossing{'s' if place.crossings != 1 else ''} inside.")
    if len(place.gaps) > 2:
        found.append("A train on each of its tracks could bridge two gaps at once: one train at a time.")
    return found


def why_later(mine: tuple[Candidate, ...], first: tuple[Candidate, ...]) -> str:
    """How a choice stands to the best one, in a few words."""
    found = []
    if len(mine) > len(first):
        found.append("more reversers")
    if sum(p.turnouts for p in mine) > sum(p.turnouts for p in first):
        found.append("turnouts inside")
    if sum(len(p.gaps) for p in mine) > sum(len(p.gaps) for p in first):
        found.append("more gaps")
    if sum(p.traffic for p in mine) > sum(p.traffic for p in first) + 0.5:
        found.append("busier track")
    if sum(p.crossings for p in mine) > sum(p.crossings for p in first):
        found.append("a crossing inside")
    return f"after the first for {', '.join(found)}" if found else "as good as the first"


def no_room(topology: Topology, conflict: Conflict, train: float) -> str:
    """Why no section has room on a conflict's way round, by how much, and what would make room."""
    layout, units = topology.layout, topology.layout.brief.units
    where = f"the {conflict.kind} at {node_name(layout, conflict.at)}"
    fits = longest_that_fits(topology, conflict, train)
    if fits is None:
        return (
            f"No room for a section on {where}, for any train: its turnouts stand too near to each other. Move one of "
            "them."
        )
    lacks = print_length((train - fits) * (1 + SPARE), units)
    return (
        f"No room for a section on {where}: a train of up to {print_length(fits, units)} would fit, "
        f"{longest_words(layout, train)}, does not. "
        f"Let only shorter trains in, or lengthen the track there by about {lacks}."
    )


def control_words(topology: Topology) -> list[str]:
    """What the control asks for besides the gaps; of a railroad with several, each by its name."""
    there = sorted(controls(topology.layout), key=list(CONTROL).index)
    if len(there) == 1:
        return _of_control(topology, there[0])
    return [f"On {CONTROL[c]} track: {words}" for c in there for words in _of_control(topology, c)]


def _of_control(topology: Topology, control: Control) -> list[str]:
    layout = topology.layout
    if control == "dcc":
        return [
            "An automatic reverser feeds the section and turns it over under the train. It must answer faster than "
            "the breaker above it trips.",
            "By hand there is nothing to buy but a switch: somebody throws it while the whole train stands or runs in "
            "the section. Forgotten, the train shorts the gap and the breaker opens.",
        ]
    if control == "ac3":
        return [
            "Three-rail track has the same rail on both outsides: a train may come back on itself freely, and no "
            "section is needed."
        ]
    tree = grow_tree(layout)
    turned = sorted(
        {layout.circuits[s.circuit].name for s in layout.sections.values() if control_of(tree, s.circuit) == "dc"}
    )
    outer = f" With them turn {', '.join(turned)}." if turned else ""
    return [
        "Two reversing switches are wanted: one for the section, one for the track outside it. Stop nothing: "
        "while the train stands or "
        "runs in the section, throw the outer one; every other train on that outer track turns round with it." + outer,
        "Keep the outer part small, or give it a cab of its own.",
    ]


@dataclass(frozen=True)
class TableAdvice:
    """What a turntable or traverser asks for: how the bridge is fed, and which stubs want their wires swapped."""

    node: str
    sentences: tuple[str, ...]
    swap: tuple[str, ...]


def table_advice(topology: Topology) -> list[TableAdvice]:
    """Advice for every turntable and traverser by the way its bridge is wired."""
    layout, found = topology.layout, []
    for node_id, node in sorted(layout.nodes.items()):
        if node.kind not in ("turntable", "traverser"):
            continue
        name = node_name(layout, node_id)
        stubs = [
            TrackEnd(t, e)
            for t, v in sorted(layout.tracks.items())
            for e in ENDS
            if (v.a if e == "a" else v.b).node == node_id
        ]
        swap: tuple[str, ...] = ()
        words = [
            f"Every stub of {name} wants its own feeders: a stub without power silences sound engines. The pit edge "
            f"is a gap of both rails already."
        ]
        if node.kind == "traverser":
            words.append(
                "A traverser does not turn its bridge, so the bridge may be fed like any track; stubs on one side "
                "never conflict."
            )
        elif node.bridge == "split ring":
            clear, swap = ring_axis(topology, node_id, stubs)
            words.append(
                "A split ring turns the bridge's rails over by itself as it passes the splits: no reverser is needed."
            )
            words.append(
                f"Stand the splits {clear:.0f}° clear of the nearest stub."
                if clear < 180
                else "With one stub the splits may stand anywhere else."
            )
            if swap:
                names = [layout.tracks[t].name for t in swap]
                words.append(
                    f"Feed {', '.join(names)} with the wires swapped: {'it lies' if len(swap) == 1 else 'they lie'} "
                    f"on the other half of the ring."
                )
        elif node.bridge == "aligned stub":
            words.append(
                "A bridge fed by the stub it meets needs no reverser, but two live stubs opposite each other must "
                "agree, or the bridge shorts them."
            )
            swap = disagreeing(topology, node_id)
            if swap:
                words.append(f"{' and '.join(layout.tracks[t].name for t in swap)} disagree over the bridge now.")
        else:
            words.append(
                "A reverser on the bridge makes the bridge a section of its own: the longest engine must fit on it, "
                "and all stubs may be fed alike."
            )
        if _off_a_reversing_section(topology, stubs):
            words.append(
                f"The lead of {name} leaves from inside a reversing section: give the terminal a reverser of its own "
                f"fed from the plain side, "
                "or make it part of that section, so that it follows whatever the section is."
            )
        found.append(TableAdvice(node_id, tuple(words), swap))
    return found


def _off_a_reversing_section(topology: Topology, stubs: list[TrackEnd]) -> bool:
    """Whether a stub's track is plain itself but leaves a reversing section at its other end."""
    for stub in stubs:
        zone = topology.zones.at(topology.rails.pieces[stub.track][0 if stub.end == "a" else -1])
        if topology.is_reversing(zone):
            continue
        for border in topology.zones.borders_of.get(zone.number, ()):
            if any(topology.is_reversing(topology.zones.at(p)) for p in (border.before, border.after)):
                return True
    return False


def ring_axis(topology: Topology, node_id: str, stubs: list[TrackEnd]) -> tuple[float, tuple[str, ...]]:
    """Where the splits of a ring stand best: degrees clear of the nearest stub, and the stubs on the other half.

    The ring obeys f(θ + 180°) = −f(θ), so one axis per interval between neighbouring stubs (mod 180°) is enough,
    both ways round: fewest stubs that would have to be swapped, then the most clearance.
    """
    layout = topology.layout
    node = layout.nodes[node_id]
    angles = {s.track: stub_angle(layout, node, s) for s in stubs}
    if not angles:
        return 180.0, ()
    folded = sorted({round(a % 180, 3) for a in angles.values()})
    gaps = [((folded[(k + 1) % len(folded)] - a) % 180 or 180.0, a) for k, a in enumerate(folded)]
    best: tuple[int, float, tuple[str, ...]] | None = None
    for width, start in gaps:
        axis = start + width / 2
        halves: tuple[list[str], list[str]] = ([], [])
        for s in stubs:
            # A feeder's A conductor on the rail to the left of someone looking out along the stub counts as one way
            # round.
            outwards = faces(topology, s)
            upper = math.sin(math.radians(angles[s.track] - axis)) > 0
            halves[upper == outwards].append(s.track)
        wrong = min(halves, key=lambda h: (len(h), h))
        offer = (len(wrong), -width / 2, tuple(sorted(wrong)))
        if best is None or offer < best:
            best = offer
    assert best is not None
    return -best[1], best[2]


def disagreeing(topology: Topology, node_id: str) -> tuple[str, ...]:
    """Opposite stubs of a table whose feeders would meet head on over the bridge."""
    for one, other in aligned_pairs(topology, node_id):
        if faces(topology, one) == faces(
            topology, other
        ):  # looking outwards both ways, left of one is right of the other
            return (one.track, other.track)
    return ()


def longest_words(layout: Layout, train: float) -> str:
    """Which train the sections were measured for."""
    mine = [t.name for t in layout.trains.values() if t.metal_wheels and t.length == train]
    return f"{mine[0]}, {print_length(train, layout.brief.units)}" if mine else print_length(train, layout.brief.units)
