"""Rules about rails: dead track, gaps, anchors and frogs."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, Severity, rule
from jolly_copper.core.findings.reversing import near_gap, node_name
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.frogs import JUNCTIONS, turned_frogs
from jolly_copper.core.layout.words import PARKED
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM, WORST_FIRST, Stand
from jolly_copper.core.rails.nets import Rail, gap_sides


@rule("dead in some setting", "track")
def dead_track(facts: Facts) -> Iterator[Finding]:
    """Track a train may stand on that some turnout setting leaves without power: the worst stretch of each track."""
    by_track = defaultdict(list)
    for stand in facts.topology.stands.values():
        fed = facts.network.fed_extents.get(facts.rails.extent_of[stand.piece])
        if stand.status in WORST_FIRST and (fed or stand.status != "never"):
            by_track[stand.piece.track].append(stand)
    for stands in by_track.values():
        yield _dead(facts, min(stands, key=lambda s: WORST_FIRST.index(s.status)))


def _dead(facts: Facts, stand: Stand) -> Finding:
    layout, piece = facts.layout, stand.piece
    control = control_of(facts.tree, facts.meant[facts.rails.extent_of[piece]])
    name, length = layout.tracks[piece.track].name, print_length(piece.end - piece.start, layout.brief.units)
    severity: Severity = "look" if stand.status in ("lined up", "not settled") else "must"
    figures: tuple[tuple[str, str], ...] = (("track", length),)
    if stand.status == "lined up":
        key, title = "lined-up", f"{name} has power only while the turnouts are set for it"
        why = f"That is how power-routing turnouts work. {PARKED[control]}"
        mend = "Leave it if parked engines should sleep; else gap the frog rails and feed it."
    elif stand.status == "not settled":
        key, title = "not-settled", f"Whether {length} of {name} can be dead for a train was not settled"
        why = "Too many turnouts that route power decide it for the bound on this work."
        mend = "Gap the frog-side rails of some of them, and feed beyond."
    elif stand.status == "never":
        key, title = "never", f"{length} of {name} never has both rails live, whatever the turnouts"
        why = "Only one of its rails can reach a feeder, or both reach the same conductor."
        mend = "A feeder pair here, and a gap in the frog-side rail if the turnout routes power."
    else:
        case = " and ".join(f"{node_name(layout, n)} set {lies}" for n, lies in stand.case)
        way = " → ".join(layout.tracks[t].name for t in stand.route)
        key, title = "dead", f"{length} of {name} is dead with {case}"
        why = f"A train may stand there on its way over {way}; turnouts off its way decide whether it has power."
        mend = "Step Track, Dead track, works out the fewest gaps and feeders that mend it."
        figures += (("turnouts that matter", str(len(stand.case))),)
    return Finding(
        key=f"{key}:{piece.track}",
        rule="dead in some setting",
        severity=severity,
        title=title,
        why=why,
        mend=mend,
        place=Place("track", piece.track, piece.track, (piece.start + piece.end) / 2),
        shows=tuple(dict.fromkeys((piece.track, *(stand.route if key == "dead" else ())))),
        figures=figures,
    )


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
        sides = gap_sides(facts.layout, gap)
        if all(nets.net_of[Rail(before, s)] == nets.net_of[Rail(after, s)] for s in sides):
            meant = {facts.meant[facts.rails.extent_of[p]] for p in (before, after)} - {None}
            yield Finding(
                key=f"idle-gap:{gap_id}",
                rule="gap that parts nothing",
                severity="look",
                title=f"Gap {gap_id} on {layout.tracks[gap.track].name} parts nothing: its two sides meet another way",
                why=f"From {near_gap(layout, gap.track, gap.at)} the same rail leads round to the other side without "
                "a cut.",
                mend="Cut the other way as well, or close this gap."
                if len(meant) < 2
                else "Cut the other way as well: the two sides are meant for different circuits.",
                place=Place("gap", gap_id, gap.track, gap.at),
                shows=(gap_id, gap.track),
                figures=(("rails cut", str(len(sides))),),
                mends=(Mend(f"Close gap {gap_id}", [{"op": "remove", "path": f"/gaps/{gap_id}"}]),)
                if len(meant) < 2
                else (),
            )


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
                key=f"two-anchors:{'+'.join(sorted(sections))}"[:110],
                rule="section anchors",
                severity="must" if len(circuits) > 1 else "look",
                title=f"{' and '.join(names)} are one stretch of rail: a gap is missing between them",
                why="No gap parts them"
                + (
                    ", yet they are meant for different circuits."
                    if len(circuits) > 1
                    else ", so they are one section under two names."
                ),
                mend="Cut the gap, or drop one of the two.",
                place=Place("track", longest.track, longest.track, at),
                shows=tuple(layout.sections[s].track for s in sections),
                figures=(("sections", str(len(sections))), ("track", print_length(length, units))),
                mends=tuple(
                    Mend(f"Drop the section {layout.sections[s].name}", [{"op": "remove", "path": f"/sections/{s}"}])
                    for s in sections[1:3]
                ),
            )
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
                key=f"no-anchor:{longest.track}:{longest.start:.0f}",
                rule="section anchors",
                severity="look",
                title=f"{print_length(length, units)} of track round {name} belongs to no section",
                why="Nobody has said which circuit it is meant for, so a feeder tied to the wrong one would not be "
                "noticed.",
                mend="Name it and say which circuit feeds it.",
                place=Place("track", longest.track, longest.track, at),
                shows=(longest.track,),
                figures=(("track", print_length(length, units)),),
                mends=(Mend(f"A section on {layout.circuits[circuit].name}", patch),) if circuit else (),
            )


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
    turned = turned_frogs(layout)
    for node_id, node in layout.nodes.items():
        if node.kind not in JUNCTIONS or node_id not in legs:
            continue
        track = legs[node_id]
        end = 0.0 if layout.tracks[track].a.node == node_id else facts.rails.lengths[track]
        place, name = Place("track", track, track, end), node_name(layout, node_id)
        if node_id in turned and node.contact == "none":
            yield Finding(
                key=f"frog-contact:{node_id}",
                rule="frogs",
                severity="must",
                title=f"The live frog of {name} has nothing to turn its polarity",
                why="The frog must carry the one rail or the other as the points lie; without a contact it is dead at "
                "best, a short when a wheel bridges it at worst.",
                mend="A contact on the switch motor, or an automatic frog unit.",
                place=place,
                shows=(node_id, track),
                figures=(("tracks that meet here", str(met[node_id])),),
                mends=(
                    Mend(
                        f"A contact for {name}",
                        [{"op": "replace", "path": f"/nodes/{node_id}/contact", "value": "contact"}],
                    ),
                    Mend(
                        f"A frog unit for {name}",
                        [{"op": "replace", "path": f"/nodes/{node_id}/contact", "value": "automatic"}],
                    ),
                ),
            )
        if node.frog == "dead" and node.frog_length and pickups and node.frog_length >= pickups[0][0]:
            shortest, engine = pickups[0]
            yield Finding(
                key=f"frog-dead:{node_id}",
                rule="frogs",
                severity="should",
                title=f"The dead frog of {name} is {print_length(node.frog_length, units)}; {engine} picks up over "
                f"{print_length(shortest, units)}",
                why="All its pickup wheels can stand on the frog at once, so it stalls there at walking pace.",
                mend="Make the frog live with a contact, or keep that engine off this turnout.",
                place=place,
                shows=(node_id, track),
                figures=(("frog", print_length(node.frog_length, units)), ("pickups", print_length(shortest, units))),
                mends=(
                    Mend(
                        f"A live frog at {name}", [{"op": "replace", "path": f"/nodes/{node_id}/frog", "value": "live"}]
                    ),
                ),
            )
