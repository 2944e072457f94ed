"""Rules about rails: shorts through turnouts, dead track, gaps, anchors and frogs."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, RailStretch, rule
from jolly_copper.core.findings.reversing import mixed, near_gap, node_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import next_number
from jolly_copper.core.layout.words import PARKED, sources_word
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.nets import Rail, gap_sides
from jolly_copper.core.rails.pieces import frog_rails
from jolly_copper.core.rails.shorts import Short

BEYOND_FROG_MM = 50.0
"""Where a frog-side rail is gapped: this far beyond the frog, shorter than anything that stands there."""
FEW = 3
"""So many shorts of one yard are told one by one."""
LISTED = 4
FOLLOWS = {
    "short": "opposite conductors meet: a dead short",
    "bypass": "the reverser's output meets a wire that does not turn with it: the unit cannot turn over",
    "districts": "two districts become one: a short in either trips both breakers",
    "boosters": "two {sources} work on one rail: neither can protect it, and a short gets the amps of both",
}


def _follows(layout: Layout, short: Short) -> str:
    return FOLLOWS[short.kind].format(sources=sources_word(layout.brief.control))


def metal(short: Short) -> tuple[RailStretch, ...]:
    """The rails a short runs along."""
    return tuple(RailStretch(r.piece.track, r.piece.start, r.piece.end, r.side) for r in short.rails)


def rail_path(layout: Layout, short: Short) -> str:
    """The way of a short in words: feeder, rails, turnouts, feeder."""
    one, other = layout.feeders[short.one], layout.feeders[short.other]
    steps = [f"{one.label} {_colour(layout, short.one, short.one_conductor)}"]
    for rail in short.rails:
        words = f"{rail.side} rail of {layout.tracks[rail.piece.track].name}"
        if steps[-1] != words:
            steps.append(words)
    if len(steps) > 7:
        steps = [*steps[:3], "…", *steps[-3:]]
    steps.append(f"{other.label} {_colour(layout, short.other, short.other_conductor)}")
    return " → ".join(steps)


def _colour(layout: Layout, feeder_id: str, conductor: str) -> str:
    circuit = layout.circuits[_circuit_of(layout, feeder_id)]
    return circuit.colour_a if conductor == "A" else circuit.colour_b


@rule("rails joined through turnouts", "track", "zones")
def shorts(facts: Facts) -> Iterator[Finding]:
    """Two feeders joined in metal though their wires differ, always or for some turnout setting. Of a yard with many such
    settings one finding tells, with a list."""
    topology = facts.topology
    zones = topology.zones
    named = {z.number for z in zones.zones if z.odd or mixed(topology, z) or z.minority}
    from_behind = {node for node, _ in _fed_frogs(facts)}
    groups: dict[tuple[object, ...], list[Short]] = defaultdict(list)
    for short in topology.shorts:
        numbers = {zones.zone_of[r.piece] for r in short.rails}
        if numbers & named or {s.node for s in short.settings} & from_behind or not short.rails:
            continue  # a rule of its own says what is wrong there
        groups[short.yard, short.kind, bool(short.settings)].append(short)
    for group in groups.values():
        if len(group) <= FEW and not any(s.one_of_many for s in group):
            yield from (_one_short(facts, s) for s in group)
        else:
            yield _many_shorts(facts, group)
    if not topology.all_shorts.settled:
        yield _not_settled(facts)


def _when(layout: Layout, short: Short) -> str:
    return " and ".join(f"{node_name(layout, s.node)} set {s.lies}" for s in short.settings)


def _one_short(facts: Facts, short: Short) -> Finding:
    layout = facts.layout
    when = _when(layout, short)
    one, other = layout.feeders[short.one], layout.feeders[short.other]
    middle = short.rails[len(short.rails) // 2].piece
    common = _common_return(layout, short)
    return Finding(
        key=f"joined:{short.one}:{short.other}:{'+'.join(f'{s.node}.{s.lies}' for s in short.settings)}",
        rule="rails joined through turnouts", severity="should" if short.kind in ("districts", "boosters") else "must",
        title=f"{one.label} and {other.label} are joined{' with ' + when if when else ' by rail'}: {_follows(layout, short)}",
        why=rail_path(layout, short) + (". Other turnouts do not matter." if when else ". No turnout matters.")
        + (" Two cabs may share one rail as their common return: say so, and it is no fault." if common else ""),
        mend="A gap in that rail between the two feeders, on the frog side of the turnout." if when else "A gap in both rails between the two feeders.",
        place=Place("track", middle.track, middle.track, (middle.start + middle.end) / 2),
        shows=(short.one, short.other, *dict.fromkeys(r.piece.track for r in short.rails)),
        figures=(("rails on the way", str(len(short.rails))),), rails=metal(short), mends=(*_gap_between(facts, short), *common),
    )  # fmt: skip


def _many_shorts(facts: Facts, group: list[Short]) -> Finding:
    """Many settings of one yard that join wires which differ, as one finding with the first few of them."""
    layout = facts.layout
    first = min(group, key=lambda s: (len(s.settings), s.settings))
    more = any(s.one_of_many for s in group)
    nodes = sorted({x.node for s in group for x in s.settings})
    middle = first.rails[len(first.rails) // 2].piece
    patch: Patch = []
    for node in nodes:
        patch += _numbered_on(layout, frog_gaps(facts, node), patch)
    listed = "; ".join(
        _when(layout, s) or "always" for s in sorted(group, key=lambda s: (len(s.settings), s.settings))[:LISTED]
    )
    count = "Many settings of the turnouts here" if more else f"{len(group)} settings of {len(nodes)} turnouts"
    return Finding(
        key=f"joined-many:{first.kind}:{first.one}:{first.other}", rule="rails joined through turnouts", severity="should" if first.kind in ("districts", "boosters") else "must",
        title=f"{count} join feeders whose wires differ: {_follows(layout, first)}",
        why=f"Turnouts that route power, fed from both sides, must agree at both ends. Such as: {listed}. {rail_path(layout, first)}.",
        mend="Gap the frog-side rails of the turnouts at one end at least, and feed each track; step Track, Dead track, works it out.",
        place=Place("track", middle.track, middle.track, (middle.start + middle.end) / 2), shows=tuple(dict.fromkeys((first.one, first.other, *nodes))),
        figures=(("settings found", f"{len(group)}{' or more' if more else ''}"), ("turnouts", str(len(nodes)))), rails=metal(first),
        mends=(Mend(f"Gap the frog rails of {len(nodes)} turnouts", patch),) if patch else (),
    )  # fmt: skip


def _numbered_on(layout: Layout, patch: Patch, before: Patch) -> Patch:
    """Gaps of a patch under ids that one before it has not given out."""
    first = next_number(layout.gaps, "G") + len(before)
    return [{**operation, "path": f"/gaps/G{first + k}"} for k, operation in enumerate(patch)]


def _common_return(layout: Layout, short: Short) -> tuple[Mend, ...]:
    """Where two sources meet on their B alone: that it is meant so."""
    if short.kind != "boosters" or short.one_conductor != "B" or short.other_conductor != "B":
        return ()
    one, other = (_circuit_of(layout, f) for f in (short.one, short.other))
    names = layout.circuits[other].name, layout.circuits[one].name
    patch: Patch = [{"op": "add", "path": f"/circuits/{other}/return_of", "value": one}]
    return (Mend(f"{names[0]} returns over {names[1]}: it is meant", patch),)


def _circuit_of(layout: Layout, feeder: str) -> str:
    return layout.runs[layout.terminals[layout.feeders[feeder].terminal].run].circuit


def _not_settled(facts: Facts) -> Finding:
    track = min(facts.layout.tracks)
    return Finding(
        key="joined-not-settled", rule="rails joined through turnouts", severity="look",
        title="Whether some setting of the turnouts joins feeders whose wires differ was not settled",
        why="There are too many turnouts that route power in one yard for the bound on this work; what was found is told, more there may be.",
        mend="Gap the frog-side rails of some of them: the yard then falls into parts.", place=Place("track", track, track, None),
        figures=(("turnouts that route power", str(sum(n.frog == "routing" for n in facts.layout.nodes.values()))),),
    )  # fmt: skip


def _gap_between(facts: Facts, short: Short) -> tuple[Mend, ...]:
    """A cut beside the last turnout of the way, in the one rail the short runs through."""
    if not short.settings:
        return ()
    node = short.settings[-1].node
    patch = frog_gaps(facts, node)
    return (Mend(f"Gap the frog rails of {node_name(facts.layout, node)}", patch),) if patch else ()


def frog_gaps(facts: Facts, node_id: str) -> Patch:
    """Gaps in both frog-side rails just beyond a power-routing frog, where there are none yet."""
    layout, patch = facts.layout, []
    number = next_number(layout.gaps, "G")
    for track, end, side in frog_rails(layout, node_id):
        length = facts.rails.lengths[track]
        at = min(BEYOND_FROG_MM, length / 3)
        at = at if end == "a" else length - at
        near = [g for g in layout.gaps.values() if g.track == track and abs(g.at - at) <= 2 * BEYOND_FROG_MM]
        if any(side in gap_sides(g) for g in near):
            continue
        patch.append(
            {"op": "add", "path": f"/gaps/G{number}", "value": {"track": track, "at": round(at, 1), "rails": side}}
        )
        number += 1
    return patch


def _fed_frogs(facts: Facts) -> Iterator[tuple[str, list[str]]]:
    """Power-routing turnouts whose frog rails carry a feeder, with the feeders."""
    layout, topology = facts.layout, facts.topology
    for node_id, node in layout.nodes.items():
        if node.kind != "turnout" or node.frog != "routing":
            continue
        feeders: set[str] = set()
        for track, end, side in frog_rails(layout, node_id):
            piece = facts.rails.pieces[track][0 if end == "a" else -1]
            feeders.update(f for f, _ in topology.nets.fed.get(topology.nets.net_of[Rail(piece, side)], ()))
        if feeders:
            yield node_id, sorted(feeders)


@rule("power-routing turnout fed from its frog", "track")
def fed_from_frog(facts: Facts) -> Iterator[Finding]:
    """A power-routing turnout wants its power from the points; a feeder beyond the frog shorts it when it is thrown."""
    layout = facts.layout
    for node_id, feeders in _fed_frogs(facts):
        labels = " and ".join(layout.feeders[f].label for f in feeders[:3]) + (" and more" if len(feeders) > 3 else "")
        first = layout.feeders[feeders[0]]
        patch = frog_gaps(facts, node_id)
        yield Finding(
            key=f"frog-fed:{node_id}", rule="power-routing turnout fed from its frog", severity="must",
            title=f"{node_name(layout, node_id)} routes power but {labels} feed{'s' if len(feeders) == 1 else ''} it from behind its frog",
            why="Its frog takes the stock rail of the way it is set; a feeder beyond holds the frog to one phase, so one of the two settings is a dead short.",
            mend="Gap the frog-side rail of each leg just beyond the frog, before the first feeder.",
            place=Place("feeder", feeders[0], first.track, first.at), shows=(node_id, *feeders[:3], first.track), figures=(("feeders behind the frog", str(len(feeders))),),
            mends=(Mend(f"Gap the frog rails of {node_name(layout, node_id)}", patch),) if patch else (),
        )  # fmt: skip


@rule("dead in some setting", "track")
def dead_track(facts: Facts) -> Iterator[Finding]:
    """Track a train may stand on that some turnout setting leaves without power."""
    layout, units = facts.layout, facts.layout.brief.units
    by_track = defaultdict(list)
    for stand in facts.topology.stands.values():
        fed = facts.network.fed_extents.get(facts.rails.extent_of[stand.piece])
        if stand.status != "always" and (fed or stand.status != "never"):
            by_track[stand.piece.track].append(stand)
    for track_id, stands in by_track.items():
        stand = min(stands, key=lambda s: ("dead when lined up", "never", "not settled", "lined up").index(s.status))
        name, piece = layout.tracks[track_id].name, stand.piece
        length = print_length(piece.end - piece.start, units)
        at = (piece.start + piece.end) / 2
        case = " and ".join(f"{node_name(layout, n)} set {lies}" for n, lies in stand.case)
        if stand.status == "lined up":
            yield Finding(
                key=f"lined-up:{track_id}", rule="dead in some setting", severity="look",
                title=f"{name} has power only while the turnouts are set for it", place=Place("track", track_id, track_id, at),
                why=f"That is how power-routing turnouts work. {PARKED[layout.brief.control]}",
                mend="Leave it if parked engines should sleep; else gap the frog rails and feed it.", shows=(track_id,), figures=(("track", length),),
            )  # fmt: skip
        elif stand.status == "not settled":
            yield Finding(
                key=f"not-settled:{track_id}", rule="dead in some setting", severity="look",
                title=f"Whether {length} of {name} can be dead for a train was not settled", place=Place("track", track_id, track_id, at),
                why="Too many turnouts that route power decide it for the bound on this work.", mend="Gap the frog-side rails of some of them, and feed beyond.",
                shows=(track_id,), figures=(("track", length),),
            )  # fmt: skip
        elif stand.status == "never":
            yield Finding(
                key=f"never:{track_id}", rule="dead in some setting", severity="must",
                title=f"{length} of {name} never has both rails live, whatever the turnouts", place=Place("track", track_id, track_id, at),
                why="Only one of its rails can reach a feeder, or both reach the same conductor.",
                mend="A feeder pair here, and a gap in the frog-side rail if the turnout routes power.", shows=(track_id,), figures=(("track", length),),
            )  # fmt: skip
        else:
            yield Finding(
                key=f"dead:{track_id}", rule="dead in some setting", severity="must",
                title=f"{length} of {name} is dead with {case}",
                why=f"A train may stand there on its way over {' → '.join(layout.tracks[t].name for t in stand.route)}; turnouts off its way decide whether it has power.",
                mend="Step Track, Dead track, works out the fewest gaps and feeders that mend it.",
                place=Place("track", track_id, track_id, at), shows=tuple(dict.fromkeys((track_id, *stand.route))),
                figures=(("track", length), ("turnouts that matter", str(len(stand.case)))),
            )  # fmt: skip


@rule("gap that parts nothing", "track")
def idle_gaps(facts: Facts) -> Iterator[Finding]:
    """A cut whose two sides meet again by another way."""
    layout, topology = facts.layout, facts.topology
    nets = topology.nets
    for gap_id, gap in sorted(layout.gaps.items()):
        pieces = facts.rails.pieces[gap.track]
        after = facts.rails.piece_at(gap.track, facts.rails.cut_at[gap_id])
        k = pieces.index(after)
        if k == 0:
            continue
        before = pieces[k - 1]
        sides = gap_sides(gap)
        if all(nets.net_of[Rail(before, s)] == nets.net_of[Rail(after, s)] for s in sides):
            yield Finding(
                key=f"idle-gap:{gap_id}", rule="gap that parts nothing", severity="look",
                title=f"Gap {gap_id} on {layout.tracks[gap.track].name} parts nothing: its two sides meet another way",
                why=f"From {near_gap(layout, gap.track, gap.at)} the same rail leads round to the other side without a cut.",
                mend="Cut the other way as well, or close this gap.", place=Place("gap", gap_id, gap.track, gap.at), shows=(gap_id, gap.track), figures=(("rails cut", str(len(sides))),),
                mends=(Mend(f"Close gap {gap_id}", [{"op": "remove", "path": f"/gaps/{gap_id}"}]),),
            )  # fmt: skip


@rule("section anchors", "track")
def anchors(facts: Facts) -> Iterator[Finding]:
    """Every stretch between gaps belongs to one section: not two, not none."""
    layout, units = facts.layout, facts.layout.brief.units
    if not layout.sections:
        return
    for number, extent in enumerate(facts.rails.extents):
        sections = facts.rails.sections_in[number]
        length = sum(p.end - p.start for p in extent)
        longest = max(extent, key=lambda p: (p.end - p.start, p.track))
        at, name = (longest.start + longest.end) / 2, layout.tracks[longest.track].name
        if len(sections) > 1:
            names = [layout.sections[s].name for s in sections]
            circuits = {layout.sections[s].circuit for s in sections}
            yield Finding(
                key=f"two-anchors:{'+'.join(sorted(sections))}"[:110], rule="section anchors", severity="must" if len(circuits) > 1 else "look",
                title=f"{' and '.join(names)} are one stretch of rail: a gap is missing between them",
                why="No gap parts them" + (", yet they are meant for different circuits." if len(circuits) > 1 else ", so they are one section under two names."),
                mend="Cut the gap, or drop one of the two.", place=Place("track", longest.track, longest.track, at),
                shows=tuple(layout.sections[s].track for s in sections), figures=(("sections", str(len(sections))), ("track", print_length(length, units))),
                mends=tuple(Mend(f"Drop the section {layout.sections[s].name}", [{"op": "remove", "path": f"/sections/{s}"}]) for s in sections[1:3]),
            )  # fmt: skip
        elif not sections and length >= SHORTEST_STAND_MM:
            circuits_here = sorted(
                {
                    layout.runs[layout.terminals[layout.feeders[f].terminal].run].circuit
                    for f in facts.network.fed_extents.get(number, ())
                }
            )
            circuit = circuits_here[0] if circuits_here else None
            new = _free(layout, longest.track)
            patch: Patch = [
                {
                    "op": "add",
                    "path": f"/sections/{new}",
                    "value": {"name": name, "track": longest.track, "at": round(at, 1), "circuit": circuit},
                }
            ]
            yield Finding(
                key=f"no-anchor:{longest.track}:{longest.start:.0f}", rule="section anchors", severity="look",
                title=f"{print_length(length, units)} of track round {name} belongs to no section",
                why="Nobody has said which circuit it is meant for, so a feeder tied to the wrong one would not be noticed.",
                mend="Name it and say which circuit feeds it.", place=Place("track", longest.track, longest.track, at), shows=(longest.track,),
                figures=(("track", print_length(length, units)),), mends=(Mend(f"A section on {layout.circuits[circuit].name}", patch),) if circuit else (),
            )  # fmt: skip


def _free(layout: Layout, base: str) -> str:
    base = base[:34]
    return next(n for k in range(1, 10000) if (n := base if k == 1 else f"{base}-{k}") not in layout.sections)


@rule("frogs", "track")
def frogs(facts: Facts) -> Iterator[Finding]:
    """Live frogs that nothing turns, and dead frogs longer than an engine can bridge."""
    layout, units = facts.layout, facts.layout.brief.units
    met = Counter(p.node for t in layout.tracks.values() for p in (t.a, t.b))
    pickups = sorted((k.pickups, k.name) for k in layout.locos.values() if k.pickups)
    legs = {p.node: i for i, t in sorted(layout.tracks.items()) for p in (t.a, t.b)}
    for node_id, node in layout.nodes.items():
        if node.kind not in ("turnout", "three-way", "slip", "crossing") or node_id not in legs:
            continue
        track = legs[node_id]
        end = 0.0 if layout.tracks[track].a.node == node_id else facts.rails.lengths[track]
        place, name = Place("track", track, track, end), node_name(layout, node_id)
        if node.frog == "live" and node.contact == "none":
            yield Finding(
                key=f"frog-contact:{node_id}", rule="frogs", severity="must", title=f"The live frog of {name} has nothing to turn its polarity",
                why="The frog must carry the one rail or the other as the points lie; without a contact it is dead at best, a short when a wheel bridges it at worst.",
                mend="A contact on the switch motor, or an automatic frog unit.", place=place, shows=(node_id, track), figures=(("tracks that meet here", str(met[node_id])),),
                mends=(Mend(f"A contact for {name}", [{"op": "replace", "path": f"/nodes/{node_id}/contact", "value": "contact"}]),
                       Mend(f"A frog unit for {name}", [{"op": "replace", "path": f"/nodes/{node_id}/contact", "value": "automatic"}])),
            )  # fmt: skip
        if node.frog == "dead" and node.frog_length and pickups and node.frog_length >= pickups[0][0]:
            shortest, engine = pickups[0]
            yield Finding(
                key=f"frog-dead:{node_id}", rule="frogs", severity="should",
                title=f"The dead frog of {name} is {print_length(node.frog_length, units)}; {engine} picks up over {print_length(shortest, units)}",
                why="All its pickup wheels can stand on the frog at once, so it stalls there at walking pace.",
                mend="Make the frog live with a contact, or keep that engine off this turnout.", place=place, shows=(node_id, track),
                figures=(("frog", print_length(node.frog_length, units)), ("pickups", print_length(shortest, units))),
                mends=(Mend(f"A live frog at {name}", [{"op": "replace", "path": f"/nodes/{node_id}/frog", "value": "live"}]),),
            )  # fmt: skip
