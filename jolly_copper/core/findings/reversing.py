"""Rules about reversing sections: where trains come back on themselves, and sections that cannot do their work."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Iterator

from jolly_copper.core.circuits.edits import Patch, nearest_terminal
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, RailStretch, rule
from jolly_copper.core.layout.document import Gap, Layout
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.conflicts import Conflict
from jolly_copper.core.rails.pieces import Piece, map_rails, opposite
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.core.rails.zones import Zone, circuit_of_feeder, shortest_run

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
    """The names of a few tracks, the longest ones, in the order met."""
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
        way=some_names(layout, conflict.tracks), at=node_name(layout, conflict.at), link=some_names(layout, conflict.link)
    )  # fmt: skip


def mixed(topology: Topology, zone: Zone) -> bool:
    """A zone with a reverser's feeders and any other."""
    return len(zone.roots) > 1 and topology.is_reversing(zone)


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
        metal = any(topology.zones.at(p).odd for t in conflict.tracks for p in facts.rails.pieces[t])
        yield Finding(
            key=f"comes-back:{conflict.at}:{min(conflict.link)}", rule="train comes back on itself", severity="must",
            title=f"{in_words(layout, conflict)}: {conflict.kind} without a reversing section",
            why="Its left rail meets its right rail there"
            + (", in metal: fed at one place it is already a dead short." if metal else ": no way of wiring the feeders suits both directions."),
            mend="Gap both rails at both ends of a stretch as long as the longest train and feed it by a reverser; step Reverse offers places.",
            place=Place("track", track, track, 0.0), shows=conflict.tracks,
            figures=(("kind", conflict.kind), ("way round", print_length(conflict.length, units)),
                     ("turnouts where it must back", str(max(len(conflict.cusps) - 1, 0)))),
            source="every closed way with an odd number of reversals, by two-colouring",
        )  # fmt: skip


@rule("reversing section not cut off", "reverse")
def not_cut_off(facts: Facts) -> Iterator[Finding]:
    """A reverser's section that other feeders reach: a one-rail gap, a forgotten gap pair, or a stray feeder."""
    layout, topology = facts.layout, facts.topology
    for zone in topology.zones.zones:
        if not mixed(topology, zone):
            continue
        half = _half_gaps(facts, zone)
        whole = _with_gaps(layout, {g: layout.gaps[g].model_copy(update={"rails": "both"}) for g in half})
        if half and not _mixed_still(whole, zone):
            yield from (_one_rail_only(facts, g) for g in half)
            continue
        own = topology.zones.borders_of.get(zone.number, ())
        round_the_back = any(topology.zones.zone_of[b.before] == topology.zones.zone_of[b.after] for b in own)
        if zone.odd or round_the_back or not own:
            yield _missing_pair(facts, zone)
        else:
            yield from _strays(facts, zone)


def _half_gaps(facts: Facts, zone: Zone) -> list[str]:
    full = {g for b in facts.topology.zones.borders for g in b.gaps}
    return sorted(
        g for g, gap in facts.layout.gaps.items()
        if gap.rails != "both" and g not in full and facts.topology.zones.zone_of[facts.rails.piece_at(gap.track, gap.at)] == zone.number
    )  # fmt: skip


def _with_gaps(layout: Layout, gaps: dict[str, Gap]) -> Topology:
    changed = layout.model_copy(update={"gaps": {**layout.gaps, **gaps}})
    return map_topology(changed, map_rails(changed))


def _mixed_still(topology: Topology, zone: Zone) -> bool:
    tracks = {p.track for p in zone.pieces}
    return any(mixed(topology, z) for z in topology.zones.zones if any(p.track in tracks for p in z.pieces))


def _one_rail_only(facts: Facts, gap_id: str) -> Finding:
    gap = facts.layout.gaps[gap_id]
    other = opposite("left" if gap.rails == "left" else "right")
    return Finding(
        key=f"one-rail:{gap_id}", rule="reversing section not cut off", severity="must",
        title=f"Gap {gap_id} cuts only the {gap.rails} rail; the {other} one joins the reverser to the plain bus",
        why=f"A reverser must turn both rails. On {near_gap(facts.layout, gap.track, gap.at)} the {other} rail runs on, so it cannot.",
        mend="Cut the other rail at the same place.", place=Place("gap", gap_id, gap.track, gap.at), shows=(gap_id, gap.track), figures=(("rails cut", "1 of 2"),),
        mends=(Mend(f"Cut both rails at {gap_id}", [{"op": "replace", "path": f"/gaps/{gap_id}/rails", "value": "both"}]),),
    )  # fmt: skip


def _missing_pair(facts: Facts, zone: Zone) -> Finding:
    layout, topology = facts.layout, facts.topology
    feeders = sorted(zone.votes)
    turned = next(
        f for f in feeders if topology.sources.root[circuit_of_feeder(layout, f)] in topology.sources.reverses
    )
    plain = next(
        f for f in feeders if topology.sources.root[circuit_of_feeder(layout, f)] not in topology.sources.reverses
    )
    spot = layout.feeders[turned]
    mend, words = _place_for_pair(facts, zone)
    device = next(
        (
            d.name
            for d in layout.devices.values()
            if d.output == topology.sources.root[circuit_of_feeder(layout, turned)]
        ),
        "its reverser",
    )
    return Finding(
        key=f"missing-pair:{min(p.track for p in zone.pieces)}", rule="reversing section not cut off", severity="must",
        title=f"{layout.tracks[spot.track].name} is fed by {device} and, round the back, by the plain bus: a pair of gaps is missing",
        why=f"{layout.feeders[turned].label} and {layout.feeders[plain].label} stand on the same rails without a full gap between them, "
        "so the unit cannot turn one without the other.",
        mend=words, place=Place("track", spot.track, spot.track, spot.at), shows=tuple({layout.feeders[turned].track, layout.feeders[plain].track}),
        figures=(("pairs of gaps found", str(len(topology.zones.borders_of.get(zone.number, ())))),),
        mends=(mend,) if mend else (),
    )  # fmt: skip


def _place_for_pair(facts: Facts, zone: Zone) -> tuple[Mend | None, str]:
    """A full gap that parts the reverser's feeders from the others, tried on the longest bare stretches first."""
    layout, units = facts.layout, facts.layout.brief.units
    spots: list[tuple[float, Piece, float]] = []
    for piece in zone.pieces:
        on = sorted(f.at for f in layout.feeders.values() if facts.rails.piece_at(f.track, f.at) == piece)
        marks = [piece.start, *on, piece.end]
        for a, b in itertools.pairwise(marks):
            if b - a > 120:
                spots.append((b - a, piece, (a + b) / 2))
    number = next_id(layout.gaps, "G")
    for _, piece, at in sorted(spots, key=lambda s: (-s[0], s[1]))[:24]:
        gap = Gap(track=piece.track, at=round(at, 1))
        if not _mixed_still(_with_gaps(layout, {number: gap}), zone):
            patch: Patch = [{"op": "add", "path": f"/gaps/{number}", "value": gap.model_dump(mode="json")}]
            where = f"{layout.tracks[piece.track].name}, {print_length(at, units)} from its A end"
            return Mend(f"Gap both rails of {layout.tracks[piece.track].name}", patch), f"Gap both rails on {where}."
    return None, "Gap both rails at the section's other end as well, or move its feeders; step Reverse offers places."


def _strays(facts: Facts, zone: Zone) -> Iterator[Finding]:
    layout, topology = facts.layout, facts.topology
    root_of = {f: topology.sources.root[circuit_of_feeder(layout, f)] for f in sorted(zone.votes)}
    counts = Counter(root_of.values())
    anchored = [topology.sources.root[c] for c in topology.anchored(zone)]
    home = max(sorted(counts), key=lambda r: (counts[r], r in anchored))
    for feeder_id, root in root_of.items():
        feeder = layout.feeders[feeder_id]
        section = facts.rails.section_at(feeder.track, feeder.at)
        if root == home or (section and layout.sections[section].circuit != circuit_of_feeder(layout, feeder_id)):
            continue  # tied to a circuit that is not its section's: said by that rule
        circuit = next(circuit_of_feeder(layout, f) for f, r in root_of.items() if r == home)
        terminal = nearest_terminal(facts, circuit, feeder.track, feeder.at)
        own, here = layout.circuits[circuit_of_feeder(layout, feeder_id)].name, layout.circuits[circuit].name
        turned = home in topology.sources.reverses
        yield Finding(
            key=f"stray:{feeder_id}", rule="reversing section not cut off", severity="must",
            title=f"Feeder {feeder.label} on {layout.tracks[feeder.track].name} goes to {own}, everything else here to {here}",
            why=("It holds the section to the plain bus while the reverser turns the rest: the unit trips at once." if turned
                 else "It brings the reverser's output to plain track: when the unit turns over, the two meet head on."),
            mend=f"Move it to a terminal of {here}.", place=Place("feeder", feeder_id, feeder.track, feeder.at), shows=(feeder_id, feeder.track),
            figures=(("feeders here on " + here, str(counts[home])), ("on " + own, str(counts[root]))),
            mends=(Mend(f"Move {feeder.label} to terminal {terminal}", [{"op": "replace", "path": f"/feeders/{feeder_id}/terminal", "value": terminal}]),) if terminal else (),
        )  # fmt: skip


@rule("reversing section too short", "reverse")
def too_short(facts: Facts) -> Iterator[Finding]:
    """The shortest drive from gap to gap in a reversing section against the longest train let in."""
    layout, topology, units = facts.layout, facts.topology, facts.layout.brief.units
    for zone in topology.zones.zones:
        if not topology.is_reversing(zone) or mixed(topology, zone) or zone.odd:
            continue
        run = shortest_run(topology.zones, facts.rails, topology.ways, zone)
        longest = topology.longest_train(zone)
        if run is None or run.length >= longest - 0.5:
            continue
        trains = [t for t in layout.trains.values() if t.metal_wheels and t.length == longest]
        who = (
            f"{trains[0].name}, {print_length(longest, units)}"
            if trains
            else f"the longest train, {print_length(longest, units)}"
        )
        (a, a_at), (b, b_at) = run.start, run.finish
        track = layout.tracks[a].name
        yield Finding(
            key=f"too-short:{a}:{a_at:.0f}", rule="reversing section too short", severity="must",
            title=f"{print_length(run.length, units)} between the gaps on {track}; {who}, is {print_length(longest - run.length, units)} too long",
            why="Its first and last metal wheels would stand on both gaps at once, and no reverser can suit both ends.",
            mend="Move a gap outwards, or let only shorter trains in (set the section's longest train).",
            place=Place("track", a, a, a_at), shows=tuple(dict.fromkeys((a, b))),
            figures=(("from", near_gap(layout, a, a_at)), ("to", near_gap(layout, b, b_at)), ("between the gaps", print_length(run.length, units)),
                     ("longest train", print_length(longest, units))),
        )  # fmt: skip


@rule("reversing sections touch", "reverse")
def touching(facts: Facts) -> Iterator[Finding]:
    """Two reversers that share a gap answer each other."""
    layout, topology = facts.layout, facts.topology
    for border in topology.zones.borders:
        one, other = topology.zones.at(border.before), topology.zones.at(border.after)
        if one.number == other.number or one.roots == other.roots:
            continue
        if topology.is_reversing(one) and topology.is_reversing(other):
            yield Finding(
                key=f"touching:{border.gaps[0]}", rule="reversing sections touch", severity="must",
                title=f"Two reversing sections touch at gap {border.gaps[0]} on {layout.tracks[border.track].name}",
                why="When a train bridges that gap both reversers may turn at once and meet head on again; which wins is luck.",
                mend="Leave plain track at least as long as the longest engine between them, fed from the plain bus.",
                place=Place("gap", border.gaps[0], border.track, border.at), shows=(*border.gaps, border.track), figures=(("reversers at this gap", "2"),),
            )  # fmt: skip


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
                key=f"swapped:{feeder_id}", rule="feeder swapped", severity="must",
                title=f"Feeder {feeder.label} on {layout.tracks[feeder.track].name} is the other way round than its neighbours",
                why=f"Its {circuit.colour_a} wire is on the {feeder.a_rail} rail, where {len(mates)} other feeder{'s' if len(mates) != 1 else ''} "
                "of these rails would have it on the other: a dead short the moment power goes on.",
                mend=f"Swap its two wires at the rail: {circuit.colour_a} to the {right} rail.",
                place=Place("feeder", feeder_id, feeder.track, feeder.at), shows=(feeder_id, *([mates[0]] if mates else []), feeder.track),
                figures=(("feeders that agree", str(len(mates))), ("this way round", str(len(zone.minority)))),
                rails=_short_of(topology, feeder_id),
                mends=(Mend(f"Swap the wires of {feeder.label}", [{"op": "replace", "path": f"/feeders/{feeder_id}/a_rail", "value": right}]),),
            )  # fmt: skip


def _short_of(topology: Topology, feeder_id: str) -> tuple[RailStretch, ...]:
    """The rails that join a feeder to one it clashes with."""
    found = [s for s in topology.shorts if feeder_id in (s.one, s.other)]
    rails = min(found, key=lambda s: len(s.rails)).rails if found else ()
    return tuple(RailStretch(r.piece.track, r.piece.start, r.piece.end, r.side) for r in rails)


@rule("phases meet at a gap", "reverse")
def phases_meet(facts: Facts) -> Iterator[Finding]:
    """Plain track on both sides of a gap, but left is A on one side and B on the other: a train shorts as it crosses."""
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
            for f, vote in sorted(lesser.votes.items()) if vote == lesser.agrees
        ]  # fmt: skip
        names = [layout.tracks[p.track].name for p in (border.before, border.after)]
        place = names[0] if names[0] == names[1] else " and ".join(names)
        yield Finding(
            key=f"phases:{border.gaps[0]}", rule="phases meet at a gap", severity="must",
            title=f"A train that crosses gap {border.gaps[0]} on {place} joins opposite phases",
            why="Each side by itself is sound, so a meter finds nothing; the first metal wheel over the gap is a short.",
            mend=f"Swap the wires of the {len(patch)} feeder{'s' if len(patch) != 1 else ''} on the shorter side.",
            place=Place("gap", border.gaps[0], border.track, border.at), shows=(*border.gaps, border.track),
            figures=(("left rail on the A side", f"conductor {'A' if one.a_rail(border.before) == 'left' else 'B'}"),
                     ("left rail beyond", f"conductor {'A' if other.a_rail(border.after) == 'left' else 'B'}")),
            mends=(Mend(f"Swap {len(patch)} feeder{'s' if len(patch) != 1 else ''}", patch),),
        )  # fmt: skip


@rule("reverser with nothing to do", "reverse")
def idle(facts: Facts) -> Iterator[Finding]:
    """A reversing section whose gaps all want the same phase: the unit never turns over, or only once."""
    layout, topology = facts.layout, facts.topology
    for zone in topology.zones.zones:
        if not topology.is_reversing(zone) or mixed(topology, zone) or zone.odd or not zone.votes:
            continue
        wants: list[bool] = []
        for border in topology.zones.borders_of.get(zone.number, ()):
            inside, outside = (
                (border.before, border.after)
                if topology.zones.zone_of[border.before] == zone.number
                else (border.after, border.before)
            )
            beyond = topology.zones.at(outside)
            if beyond.number == zone.number or not beyond.votes:
                wants = []
                break
            wants.append(zone.a_rail(inside) == beyond.a_rail(outside))
        if len(wants) < 2 or len(set(wants)) > 1:
            continue
        track = max(zone.pieces, key=lambda p: (p.end - p.start, p.track)).track
        yield Finding(
            key=f"idle:{track}", rule="reverser with nothing to do", severity="look",
            title=f"The reverser of {layout.tracks[track].name} has nothing to do: all {len(wants)} gaps want the same phase",
            why="Trains cannot come back on themselves over these gaps, so plain feeders would serve.",
            mend="Feed the section from the plain bus, or check that the gaps are where they should be.",
            place=Place("track", track, track, 0.0), shows=(track,), figures=(("gaps", str(len(wants))),),
        )  # fmt: skip
