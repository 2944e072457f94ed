"""Rules about reversing sections: where trains come back on themselves, and sections that cannot do their work."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, RailStretch, rule
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import REVERSERS, Layout
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.conflicts import Conflict
from jolly_copper.core.rails.pieces import opposite
from jolly_copper.core.rails.topology import Topology, plain_drives
from jolly_copper.core.rails.zones import Run, Zone, circuit_of_feeder, shortest_run

WORDS = {
    "balloon loop": "A train that goes round {way} comes back to {at} facing the other way",
    "dogbone": "A train that goes round {way}, one end of a dogbone, comes back to {at} facing the other way",
    "wye": "A train that backs round the wye of {way} comes back to {at} the other way round",
    "star": "A train that backs round {way} comes back to {at} the other way round",
    "return cut-off": "A train that takes the cut-off {link} comes back to {at} facing the other way",
    "diagonal": "A train that crosses over by {link} runs the rest of the way round facing the other way",
    "turntable loop": "Over the turntable, {way} leads a train back to {at} facing the other way",
    "traverser loop": "Over the traverser, {way} leads a train back to {at} facing the other way",
}


def some_names(layout: Layout, tracks: tuple[str, ...], most: int = 3) -> str:
    """The names of a few tracks in the order met, and how many more there are. Pieces of one name are told once."""
    named = list(dict.fromkeys(layout.tracks[t].name for t in tracks))
    if len(named) <= most:
        return named[0] if len(named) == 1 else ", ".join(named[:-1]) + f" and {named[-1]}"
    return ", ".join(named[:most]) + f" and {len(named) - most} more"


def node_name(layout: Layout, node_id: str) -> str:
    """A node as people call it: its own name, else its kind and id."""
    node = layout.nodes[node_id]
    return node.name or f"{node.kind} {node_id}"


def in_words(layout: Layout, conflict: Conflict) -> str:
    """Where a train comes back on itself, as a sentence without its stop."""
    return WORDS[conflict.kind].format(
        way=some_names(layout, conflict.tracks),
        at=node_name(layout, conflict.at),
        link=some_names(layout, conflict.link),
    )


def mixed(topology: Topology, zone: Zone) -> bool:
    """A zone with a reverser's feeders and any other."""
    return topology.is_mixed(zone)


def near_gap(layout: Layout, track: str, at: float) -> str:
    """A gap as people would find it."""
    return f"{layout.tracks[track].name}, {print_length(at, layout.brief.units)} from its A end"


@rule("train comes back on itself", "reverse")
def comes_back(facts: Facts) -> Iterator[Finding]:
    """Every independent way round on which left rail meets right rail and no reverser stands."""
    layout, topology, units = facts.layout, facts.topology, facts.layout.brief.units
    troubled = {p.track for z in topology.zones.zones if mixed(topology, z) for p in z.pieces}
    for conflict in topology.open_conflicts:
        if troubled & set(conflict.tracks):
            continue  # the reverser is there; what keeps it from working is said by its own rule
        track = conflict.tracks[0]
        alike = _fed_alike(topology, set(conflict.tracks))
        metal = any(topology.zones.at(p).odd for t in conflict.tracks for p in facts.rails.pieces[t])
        yield Finding(
            key=f"comes-back:{conflict.at}:{min(conflict.link)}",
            rule="train comes back on itself",
            severity="must",
            title=f"{in_words(layout, conflict)}: {conflict.kind} without a reversing section",
            why="Its left rail meets its right rail there"
            + (
                ", in metal: fed at one place it is already a dead short."
                if metal
                else ": no way of wiring the feeders suits both directions."
            )
            + (f" {alike} feeds both sides of its gaps, so they turn together and nothing is gained." if alike else ""),
            mend="Gap both rails at both ends of a stretch as long as the longest train and feed it by a reverser; "
            "step Reverse offers places.",
            place=Place("track", track, track, 0.0),
            shows=conflict.tracks,
            figures=(
                ("kind", conflict.kind),
                ("way round", print_length(conflict.length, units)),
                ("turnouts where it must back", str(max(len(conflict.cusps) - 1, 0))),
            ),
            source="every closed way with an odd number of reversals, by two-colouring",
        )


def _fed_alike(topology: Topology, tracks: set[str]) -> str | None:
    """The reverser that feeds both sides of a gap on some tracks."""
    devices = {d.output: d.name for d in topology.layout.devices.values() if d.kind in REVERSERS}
    for border in topology.zones.borders:
        one, other = (topology.roots_of(topology.zones.at(p)) for p in (border.before, border.after))
        if border.track in tracks and one == other and (shared := one & set(devices)):
            return devices[min(shared)]
    return None


@rule("reversing section too short", "reverse")
def too_short(facts: Facts) -> Iterator[Finding]:
    """The shortest drive from gap to gap in a reversing section against the longest train let in. Gaps of blocks inside
    it do not count; of two that adjoin on direct current, the smaller is the section and the larger what turns
    outside."""
    layout, topology, units = facts.layout, facts.topology, facts.layout.brief.units
    for region in topology.regions:
        if topology.is_outer(region) or any(topology.zones.zones[n].odd for n in region):
            continue
        run = shortest_run(topology.zones, facts.rails, topology.ways, region)
        longest = max(topology.longest_train(topology.zones.zones[n]) for n in region)
        if run is None or run.length >= longest - 0.5:
            continue
        (a, a_at), (b, _) = run.start, run.finish
        track = layout.tracks[a].name
        yield Finding(
            key=f"too-short:{a}:{a_at:.0f}",
            rule="reversing section too short",
            severity="must",
            title=f"{print_length(run.length, units)} between the gaps on {track}; {_who(layout, longest)}, is "
            f"{print_length(longest - run.length, units)} too long",
            why="Its first and last metal wheels would stand on both gaps at once, and no reverser can suit both ends.",
            mend="Move a gap outwards, or let only shorter trains in (set the section's longest train).",
            place=Place("track", a, a, a_at),
            shows=tuple(dict.fromkeys((a, b))),
            figures=_between(layout, run, longest),
        )


def _between(layout: Layout, run: Run, longest: float) -> tuple[tuple[str, str], ...]:
    """The figures of a way between two gaps and the train that is too long for it."""
    units = layout.brief.units
    return (
        ("from", near_gap(layout, *run.start)),
        ("to", near_gap(layout, *run.finish)),
        ("between the gaps", print_length(run.length, units)),
        ("longest train", print_length(longest, units)),
    )


def _who(layout: Layout, longest: float) -> str:
    names = [t.name for t in layout.trains.values() if t.metal_wheels and t.length == longest]
    return f"{names[0] if names else 'the longest train'}, {print_length(longest, layout.brief.units)}"


@rule("plain track between reversers too short", "reverse")
def plain_between(facts: Facts) -> Iterator[Finding]:
    """Plain track that a train drives from one gap of a reverser to another: a must where both gaps are the same
    reverser's and want opposite phases, for then no way round suits a train that stands on both."""
    layout, topology, units = facts.layout, facts.topology, facts.layout.brief.units
    longest = topology.longest_train()
    told: set[frozenset[tuple[str, float]]] = set()
    for start, run, one, other in plain_drives(topology, longest):
        ends = frozenset((run.start, run.finish))
        if ends in told or run.length >= longest - 0.5:
            continue
        told.add(ends)
        same = one == other
        (a, a_at), (b, b_at) = run.start, run.finish
        wants = topology.wants(run.start), topology.wants(run.finish)
        if same and (None in wants or wants[0] == wants[1]):
            continue  # both gaps suit one way round, so standing on both does no harm
        if not same and not topology.automatic(one | other):
            continue
        name = layout.tracks[start].name
        yield Finding(
            key=f"between:{a}:{a_at:.0f}:{b}:{b_at:.0f}",
            rule="plain track between reversers too short",
            severity="must" if same else "look",
            title=f"{print_length(run.length, units)} of plain track on {name} between two gaps of "
            f"{'one reverser' if same else 'two reversers'}; "
            f"{_who(layout, longest)}, stands on both",
            why="The two gaps want the section opposite ways round at the same moment, and the unit can suit only one."
            if same
            else "Both units may turn at the same moment. Each suits its own gap, so most bear it; test it with the "
            "longest train with metal wheels.",
            mend="Move a gap outwards, or let only shorter trains over here.",
            place=Place("track", a, a, a_at),
            shows=tuple(dict.fromkeys((a, b))),
            figures=_between(layout, run, longest),
        )


@rule("reversing sections touch", "reverse")
def touching(facts: Facts) -> Iterator[Finding]:
    """Two automatic reversers that share a gap answer each other; one that hangs behind the other only may chatter."""
    layout, topology = facts.layout, facts.topology
    for border in topology.zones.borders:
        one, other = topology.zones.at(border.before), topology.zones.at(border.after)
        if one.number == other.number or topology.roots_of(one) == topology.roots_of(other):
            continue
        if any(len(topology.roots_of(z)) != 1 or z.odd or not topology.is_reversing(z) for z in (one, other)):
            continue  # a section that is not cut off is said by its own rule; it touches everything round it
        if not topology.automatic({one.number, other.number}):
            continue  # somebody throws a switch: nothing answers by itself
        behind = _behind(topology, one, other)
        if behind is not None:
            lower, upper = (layout.devices[d] for d in behind)
            quicker = (
                lower.trip_seconds is not None
                and upper.trip_seconds is not None
                and lower.trip_seconds < upper.trip_seconds
            )
            if quicker:
                continue
            yield Finding(
                key=f"touching:{border.gaps[0]}",
                rule="reversing sections touch",
                severity="look",
                title=f"{lower.name} hangs behind {upper.name}, and their sections touch at gap {border.gaps[0]} on "
                f"{layout.tracks[border.track].name}",
                why="That is the usual way to feed a terminal behind a loop. The lower unit must turn first, or the "
                "two chatter; how quick they are nobody has said.",
                mend=f"Type how long each takes, {lower.name} the less. Test: a metal wheel set slowly over the gap, "
                f"ten times each way, no chatter.",
                place=Place("gap", border.gaps[0], border.track, border.at),
                shows=(*border.gaps, border.track),
                figures=(("below", lower.name), ("above", upper.name)),
            )
            continue
        yield Finding(
            key=f"touching:{border.gaps[0]}",
            rule="reversing sections touch",
            severity="must",
            title=f"Two reversing sections touch at gap {border.gaps[0]} on {layout.tracks[border.track].name}",
            why="When a train bridges that gap both reversers may turn at once and meet head on again; which wins is "
            "luck.",
            mend="Leave plain track at least as long as the longest engine between them, fed from the plain bus.",
            place=Place("gap", border.gaps[0], border.track, border.at),
            shows=(*border.gaps, border.track),
            figures=(("reversers at this gap", "2"),),
        )


def _behind(topology: Topology, one: Zone, other: Zone) -> tuple[str, str] | None:
    """The reversers of two zones, lower first, where one takes its power from the section of the other."""
    feeds = {d.output: i for i, d in topology.layout.devices.items() if d.kind in REVERSERS}
    (a,), (b,) = topology.roots_of(one), topology.roots_of(other)
    tree = grow_tree(topology.layout)
    for lower, upper in ((a, b), (b, a)):
        if lower in feeds and upper in feeds and feeds[upper] in tree.upstream(lower):
            return feeds[lower], feeds[upper]
    return None


@rule("feeder swapped", "track", "reverse")
def swapped(facts: Facts) -> Iterator[Finding]:
    """Feeders the other way round than most on the same rails: each a dead short."""
    layout, topology = facts.layout, facts.topology
    for zone in topology.zones.zones:
        if zone.odd or mixed(topology, zone):
            continue
        for feeder_id in zone.minority:
            feeder = layout.feeders[feeder_id]
            mates = [f for f in zone.votes if f not in zone.minority]
            circuit = layout.circuits[circuit_of_feeder(layout, feeder_id)]
            right = opposite(feeder.a_rail)
            yield Finding(
                key=f"swapped:{feeder_id}",
                rule="feeder swapped",
                severity="must",
                title=f"Feeder {feeder.label} on {layout.tracks[feeder.track].name} is the other way round than its "
                "neighbours",
                why=f"Its {circuit.colour_a} wire is on the {feeder.a_rail} rail, where {len(mates)} other "
                f"feeder{'s' if len(mates) != 1 else ''} "
                "of these rails would have it on the other: a dead short the moment power goes on.",
                mend=f"Swap its two wires at the rail: {circuit.colour_a} to the {right} rail.",
                place=Place("feeder", feeder_id, feeder.track, feeder.at),
                shows=(feeder_id, *([mates[0]] if mates else []), feeder.track),
                figures=(("feeders that agree", str(len(mates))), ("this way round", str(len(zone.minority)))),
                rails=_short_of(topology, feeder_id),
                mends=(
                    Mend(
                        f"Swap the wires of {feeder.label}",
                        [{"op": "replace", "path": f"/feeders/{feeder_id}/a_rail", "value": right}],
                    ),
                ),
            )


def _short_of(topology: Topology, feeder_id: str) -> tuple[RailStretch, ...]:
    """The rails that join a feeder to one it clashes with."""
    found = [s for s in topology.shorts if feeder_id in (s.one, s.other)]
    rails = min(found, key=lambda s: len(s.rails)).rails if found else ()
    return tuple(RailStretch(r.piece.track, r.piece.start, r.piece.end, r.side) for r in rails)


@rule("phases meet at a gap", "reverse")
def phases_meet(facts: Facts) -> Iterator[Finding]:
    """Plain track on both sides of a gap, but left is A on one side and B on the other: a train shorts as it
    crosses."""
    layout, topology = facts.layout, facts.topology
    in_conflict = {n for c in topology.open_conflicts for n in c.chains}
    told: set[tuple[int, int]] = set()
    for border in topology.zones.borders:
        one, other = topology.zones.at(border.before), topology.zones.at(border.after)
        pair = (min(one.number, other.number), max(one.number, other.number))
        if pair in told or one.number == other.number or topology.ways.chain_of[border.track] in in_conflict:
            continue
        if any(not z.votes or z.odd or topology.is_reversing(z) for z in (one, other)):
            continue
        if one.a_rail(border.before) == other.a_rail(border.after):
            continue
        told.add(pair)
        lesser = min((one, other), key=lambda z: (len(z.votes), z.number))
        patch: Patch = [
            {"op": "replace", "path": f"/feeders/{f}/a_rail", "value": opposite(layout.feeders[f].a_rail)}
            for f, vote in sorted(lesser.votes.items())
            if vote == lesser.agrees
        ]
        names = [layout.tracks[p.track].name for p in (border.before, border.after)]
        place = names[0] if names[0] == names[1] else " and ".join(names)
        yield Finding(
            key=f"phases:{border.gaps[0]}",
            rule="phases meet at a gap",
            severity="must",
            title=f"A train that crosses gap {border.gaps[0]} on {place} joins opposite phases",
            why="Each side by itself is sound, so a meter finds nothing; the first metal wheel over the gap is a "
            "short.",
            mend=f"Swap the wires of the {len(patch)} feeder{'s' if len(patch) != 1 else ''} on the shorter side.",
            place=Place("gap", border.gaps[0], border.track, border.at),
            shows=(*border.gaps, border.track),
            figures=(
                ("left rail on the A side", f"conductor {'A' if one.a_rail(border.before) == 'left' else 'B'}"),
                ("left rail beyond", f"conductor {'A' if other.a_rail(border.after) == 'left' else 'B'}"),
            ),
            mends=(Mend(f"Swap {len(patch)} feeder{'s' if len(patch) != 1 else ''}", patch),),
        )


@rule("reverser with nothing to do", "reverse")
def idle(facts: Facts) -> Iterator[Finding]:
    """A reversing section whose gaps all want the same phase: the unit never turns over, or only once."""
    layout, topology = facts.layout, facts.topology
    for region in topology.regions:
        zones = [topology.zones.zones[n] for n in sorted(region)]
        if "dc" in {control_of(facts.tree, root) for z in zones for root in z.roots}:
            continue  # a switch thrown by hand sets direction; that is work enough
        if any(z.odd or not z.votes for z in zones):
            continue
        wants: list[bool | None] = [topology.wants((b.track, b.at)) for b in topology.borders_out(region)]
        if len(wants) < 2 or None in wants or len(set(wants)) > 1:
            continue
        track = max((p for z in zones for p in z.pieces), key=lambda p: (p.end - p.start, p.track)).track
        yield Finding(
            key=f"idle:{track}",
            rule="reverser with nothing to do",
            severity="look",
            title=f"The reverser of {layout.tracks[track].name} has nothing to do: all {len(wants)} gaps want the "
            "same phase",
            why="Trains cannot come back on themselves over these gaps, so plain feeders would serve.",
            mend="Feed the section from the plain bus, or check that the gaps are where they should be.",
            place=Place("track", track, track, 0.0),
            shows=(track,),
            figures=(("gaps", str(len(wants))),),
        )
