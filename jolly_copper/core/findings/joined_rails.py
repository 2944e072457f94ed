"""Rules about rails that turnouts join: shorts, told by yards, and power-routing turnouts fed from their frogs."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, RailStretch, Severity, rule
from jolly_copper.core.findings.reversing import mixed, node_name
from jolly_copper.core.layout.control import control_of, has_three_rails
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.frogs import routing_turnouts
from jolly_copper.core.layout.ids import natural, next_number
from jolly_copper.core.layout.levers import lies_in_words, where_they_differ
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.words import sources_word
from jolly_copper.core.rails.nets import Nets, Rail, gap_sides, map_nets
from jolly_copper.core.rails.pieces import RailMap, frog_rails, map_rails
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


def _follows(facts: Facts, short: Short) -> str:
    layout = facts.layout
    one, other = _circuit_of(layout, short.one), _circuit_of(layout, short.other)
    if short.kind == "selectors":
        met = where_they_differ(facts.tree, one, other)
        if met is None:
            alike = short.one_conductor == short.other_conductor
            return "one switch between them turns nothing off" if alike else FOLLOWS["short"]
        names = " and ".join(sorted(layout.devices[w.source].name for w in met))
        wires = "" if short.one_conductor == short.other_conductor else ", opposite conductors,"
        return f"{names}{wires} meet on one rail with {lies_in_words(layout, *met)}"
    source = facts.tree.source(one)
    control = control_of(facts.tree, one) if source else layout.brief.control
    return FOLLOWS[short.kind].format(sources=sources_word(control))


def _severity(facts: Facts, short: Short) -> Severity:
    if short.kind != "selectors":
        return "should" if short.kind in ("districts", "boosters") else "must"
    one, other = _circuit_of(facts.layout, short.one), _circuit_of(facts.layout, short.other)
    if short.one_conductor != short.other_conductor:
        return "must"
    return "should" if short.one_conductor == "B" or where_they_differ(facts.tree, one, other) is None else "must"


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
    """Two feeders joined in metal though their wires differ, always or for some turnout setting. Of a yard with many
    such settings one finding tells, with a list."""
    topology = facts.topology
    zones = topology.zones
    named = {z.number for z in zones.zones if z.odd or mixed(topology, z) or z.minority}
    from_behind = {node for node, _ in _fed_frogs(facts.layout, facts.rails, topology.nets)}
    groups: dict[tuple[object, ...], list[Short]] = defaultdict(list)
    for short in topology.shorts:
        numbers = {zones.zone_of[r.piece] for r in short.rails}
        if numbers & named or {s.node for s in short.settings} & from_behind or not short.rails:
            continue  # a rule of its own says what is wrong there
        if _common_outers(facts, short):
            continue  # outers are one metal on three-rail track; whether the commons are joined is a rule of its own
        groups[short.yard, short.kind, bool(short.settings)].append(short)
    for group in groups.values():
        if len(group) <= FEW and not any(s.one_of_many for s in group):
            yield from (_one_short(facts, s) for s in group)
        else:
            yield _many_shorts(facts, group)
    if not topology.all_shorts.settled:
        yield _not_settled(facts)


def _common_outers(facts: Facts, short: Short) -> bool:
    """Whether two transformers meet on the outer rails alone, as they do on every three-rail railroad."""
    if not short.one_conductor == short.other_conductor == "B":
        return False
    three = all(has_three_rails(facts.layout, facts.layout.tracks[r.piece.track]) for r in short.rails)
    return three and all(
        control_of(facts.tree, _circuit_of(facts.layout, f)) == "ac3" for f in (short.one, short.other)
    )


def _when(layout: Layout, short: Short) -> str:
    return " and ".join(f"{node_name(layout, s.node)} set {s.lies}" for s in short.settings)


def _one_short(facts: Facts, short: Short) -> Finding:
    layout = facts.layout
    when = _when(layout, short)
    one, other = layout.feeders[short.one], layout.feeders[short.other]
    middle = short.rails[len(short.rails) // 2].piece
    common = _common_return(facts, short)
    return Finding(
        key=f"joined:{short.one}:{short.other}:{'+'.join(f'{s.node}.{s.lies}' for s in short.settings)}",
        rule="rails joined through turnouts",
        severity=_severity(facts, short),
        title=f"{one.label} and {other.label} are joined{' with ' + when if when else ' by rail'}: "
        f"{_follows(facts, short)}",
        why=rail_path(layout, short)
        + (". Other turnouts do not matter." if when else ". No turnout matters.")
        + (" Two cabs may share one rail as their common return: say so, and it is no fault." if common else ""),
        mend="A gap in that rail between the two feeders, on the frog side of the turnout."
        if when
        else "A gap in both rails between the two feeders.",
        place=Place("track", middle.track, middle.track, (middle.start + middle.end) / 2),
        shows=(short.one, short.other, *dict.fromkeys(r.piece.track for r in short.rails)),
        figures=(("rails on the way", str(len(short.rails))),),
        rails=metal(short),
        mends=(*_gap_between(facts, short), *common),
    )


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
        key=f"joined-many:{first.kind}:{first.one}:{first.other}",
        rule="rails joined through turnouts",
        severity=_severity(facts, first),
        title=f"{count} join feeders whose wires differ: {_follows(facts, first)}",
        why=f"Turnouts that route power, fed from both sides, must agree at both ends. Such as: {listed}. "
        f"{rail_path(layout, first)}.",
        mend="Gap the frog-side rails of the turnouts at one end at least, and feed each track; step Track, Dead "
        "track, works it out.",
        place=Place("track", middle.track, middle.track, (middle.start + middle.end) / 2),
        shows=tuple(dict.fromkeys((first.one, first.other, *nodes))),
        figures=(("settings found", f"{len(group)}{' or more' if more else ''}"), ("turnouts", str(len(nodes)))),
        rails=metal(first),
        mends=(Mend(f"Gap the frog rails of {len(nodes)} turnouts", patch),) if patch else (),
    )


def _numbered_on(layout: Layout, patch: Patch, before: Patch) -> Patch:
    """Gaps of a patch under ids that one before it has not given out."""
    first = next_number(layout.gaps, "G") + len(before)
    return [{**operation, "path": f"/gaps/G{first + k}"} for k, operation in enumerate(patch)]


def _common_return(facts: Facts, short: Short) -> tuple[Mend, ...]:
    """Where two sources meet on their B alone: that it is meant so. Joined in their A too they want a gap."""
    layout = facts.layout
    if short.kind not in ("boosters", "selectors") or short.one_conductor != "B" or short.other_conductor != "B":
        return ()
    one, other = (_circuit_of(layout, f) for f in (short.one, short.other))
    for fed in facts.topology.nets.fed.values():
        if {one, other} <= {_circuit_of(layout, f) for f, wire in fed if wire.conductor == "A"}:
            return ()
    names = layout.circuits[other].name, layout.circuits[one].name
    patch: Patch = [{"op": "add", "path": f"/circuits/{other}/return_of", "value": one}]
    return (Mend(f"{names[0]} returns over {names[1]}: it is meant", patch),)


def _circuit_of(layout: Layout, feeder: str) -> str:
    return layout.runs[layout.terminals[layout.feeders[feeder].terminal].run].circuit


def _not_settled(facts: Facts) -> Finding:
    track = min(facts.layout.tracks)
    return Finding(
        key="joined-not-settled",
        rule="rails joined through turnouts",
        severity="look",
        title="Whether some setting of the turnouts joins feeders whose wires differ was not settled",
        why="There are too many turnouts that route power in one yard for the bound on this work; what was found is "
        "told, more there may be.",
        mend="Gap the frog-side rails of some of them: the yard then falls into parts.",
        place=Place("track", track, track, None),
        figures=(("turnouts that route power", str(len(routing_turnouts(facts.layout)))),),
    )


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
        if any(side in gap_sides(layout, g) for g in near):
            continue
        patch.append(
            {"op": "add", "path": f"/gaps/G{number}", "value": {"track": track, "at": round(at, 1), "rails": side}}
        )
        number += 1
    return patch


def _fed_frogs(layout: Layout, rails: RailMap, nets: Nets) -> Iterator[tuple[str, list[str]]]:
    """Power-routing turnouts whose frog rails carry a feeder, with the feeders."""
    for node_id in sorted(routing_turnouts(layout), key=natural):
        feeders: set[str] = set()
        for track, end, side in frog_rails(layout, node_id):
            feeders.update(f for f, _ in nets.fed.get(nets.net_of[Rail(rails.end_piece(track, end), side)], ()))
        if feeders:
            yield node_id, sorted(feeders)


@rule("power-routing turnout fed from its frog", "track")
def fed_from_frog(facts: Facts) -> Iterator[Finding]:
    """A power-routing turnout wants its power from the points; a feeder beyond the frog shorts it when it is thrown."""
    layout = facts.layout
    for node_id, feeders in _fed_frogs(layout, facts.rails, facts.topology.nets):
        labels = " and ".join(layout.feeders[f].label for f in feeders[:3]) + (" and more" if len(feeders) > 3 else "")
        first = layout.feeders[feeders[0]]
        patch = frog_gaps(facts, node_id)
        after = apply_patch(layout, patch)
        cured = bool(patch) and node_id not in dict(
            _fed_frogs(after, rails := map_rails(after), map_nets(after, rails))
        )
        yield Finding(
            key=f"frog-fed:{node_id}",
            rule="power-routing turnout fed from its frog",
            severity="must",
            title=f"{node_name(layout, node_id)} routes power but {labels} feed{'s' if len(feeders) == 1 else ''} it "
            f"from behind its frog",
            why="Its frog takes the stock rail of the way it is set; a feeder beyond holds the frog to one phase, so "
            "one of the two settings is a dead short.",
            mend="Gap the frog-side rail of each leg just beyond the frog, before the first feeder."
            if cured
            else "Gap the frog-side rails just beyond the frog, and wherever else they come round to it.",
            place=Place("feeder", feeders[0], first.track, first.at),
            shows=(node_id, *feeders[:3], first.track),
            figures=(("feeders behind the frog", str(len(feeders))),),
            mends=(Mend(f"Gap the frog rails of {node_name(layout, node_id)}", patch),) if cured else (),
        )
