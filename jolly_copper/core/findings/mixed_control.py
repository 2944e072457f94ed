"""Rules about track of one control beside track of another: bare gaps, buffers, selectors and commons between them."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.pickups import longest_reach
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.control import control_given, controls, has_three_rails
from jolly_copper.core.layout.document import Control
from jolly_copper.core.layout.levers import Way, lies_in_words, ways_of
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.words import CONTROL
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.zones import Border


def _ways(facts: Facts, border: Border) -> tuple[list[Way], list[Way]]:
    """What the track before a gap and the track after it may get their power from."""
    circuits = [facts.meant[facts.rails.extent_of[p]] for p in (border.before, border.after)]
    one, other = ([] if c is None else ways_of(facts.tree, c) for c in circuits)
    return one, other


def meets_other_control(facts: Facts, border: Border) -> tuple[Way, Way] | None:
    """A lie of the selectors in which track of two controls meets at a gap; None where there is none."""
    layout = facts.layout
    one, other = _ways(facts, border)
    return next(
        (
            (a, b)
            for a in one
            for b in other
            if control_given(layout, layout.devices[a.source]) != control_given(layout, layout.devices[b.source])
            and all(b.lies.get(i, at) == at for i, at in a.lies.items())
        ),
        None,
    )


@rule("two controls at a bare gap", "cabs")
def bare_gap(facts: Facts) -> Iterator[Finding]:
    """Track of two controls that meets at a single pair of gaps: the first train over it joins a throttle to a
    booster."""
    layout = facts.layout
    if len(controls(layout)) < 2:
        return
    for border in facts.topology.zones.borders:
        met = meets_other_control(facts, border)
        if met is None:
            continue
        names = [layout.devices[w.source].name for w in met]
        kinds = [CONTROL[control_given(layout, layout.devices[w.source])] for w in met]
        when = lies_in_words(layout, *met)
        reach = longest_reach(layout)
        yield Finding(
            key=f"bare-gap:{border.track}:{border.at:.0f}",
            rule="two controls at a bare gap",
            severity="must",
            title=f"{names[0]} ({kinds[0]}) and {names[1]} ({kinds[1]}) meet at one gap of "
            f"{layout.tracks[border.track].name}{' with ' + when if when else ''}",
            why="The first wheels that bridge the gap tie the two together: an electronic throttle then meets a "
            "booster, and one of them burns.",
            mend=f"A buffer between them: both rails gapped at both ends, longer than {reach.whose} picks up "
            f"({print_length(reach.millimetres, layout.brief.units)}), live with one side only; or no way for trains.",
            place=Place("track", border.track, border.track, border.at),
            shows=(border.track, *border.gaps),
            figures=(
                ("longest pickup", print_length(reach.millimetres, layout.brief.units)),
                ("whose", reach.whose + (" (a guess)" if reach.guess else "")),
            ),
        )


def buffers(facts: Facts) -> Iterator[tuple[int, float, Border, Border]]:
    """Stretches between two full gaps of one track whose far sides may be of two controls: the stretch's number, its
    length in mm, and its two gaps."""
    borders = sorted(facts.topology.zones.borders, key=lambda b: (b.track, b.at))
    for one, other in itertools.pairwise(borders):
        if one.track != other.track or one.after != other.before:
            continue
        near, far = _ways(facts, one)[0], _ways(facts, other)[1]
        kinds = [{control_given(facts.layout, facts.layout.devices[w.source]) for w in ways} for ways in (near, far)]
        if kinds[0] and kinds[1] and kinds[0] != kinds[1]:
            yield facts.rails.extent_of[one.after], one.after.end - one.after.start, one, other


@rule("buffer too short", "cabs")
def short_buffer(facts: Facts) -> Iterator[Finding]:
    """A buffer between two controls that is shorter than what some train picks up over."""
    layout = facts.layout
    if len(controls(layout)) < 2:
        return
    reach = longest_reach(layout)
    units = layout.brief.units
    for _, length, one, other in buffers(facts):
        if length > reach.millimetres or any(meets_other_control(facts, b) for b in (one, other)):
            continue  # long enough, or told as a bare gap
        yield Finding(
            key=f"buffer-short:{one.track}:{one.at:.0f}",
            rule="buffer too short",
            severity="should" if reach.guess else "must",
            title=f"The buffer on {layout.tracks[one.track].name} is {print_length(length, units)} long; {reach.whose} "
            f"picks up over {print_length(reach.millimetres, units)}",
            why="Its first and last wheels then stand on both sides at once and tie the two controls together.",
            mend=f"Make it longer than {print_length(reach.millimetres, units)}, or keep that train off the link.",
            place=Place("track", one.track, one.track, (one.at + other.at) / 2),
            shows=(one.track, *one.gaps, *other.gaps),
            figures=(
                ("buffer", print_length(length, units)),
                ("longest pickup", print_length(reach.millimetres, units) + (", a guess" if reach.guess else "")),
            ),
        )


@rule("one pole between two controls", "cabs")
def one_pole(facts: Facts) -> Iterator[Finding]:
    """A selector of one pole, or a common wire, between a digital source and a throttle."""
    layout, sources = facts.layout, facts.topology.sources
    for i, device in layout.devices.items():
        if device.kind != "selector" or "one pole" not in device.made:
            continue
        found = {w.source: control_given(layout, layout.devices[w.source]) for w in ways_of(facts.tree, device.output)}
        if len(set(found.values())) < 2:
            continue
        yield Finding(
            key=f"one-pole-mixed:{i}",
            rule="one pole between two controls",
            severity="must",
            title=f"{device.name} changes between two controls with one pole",
            why="The wire it does not switch stays tied to both: a throttle and a booster then have one metal in "
            "common.",
            mend="Two poles, centre off, break before make.",
            place=Place("device", i),
            shows=(i, *sorted(found)),
            figures=(("poles", "1"), ("controls", " and ".join(sorted(CONTROL[c] for c in set(found.values()))))),
            mends=(
                Mend(
                    "Two poles",
                    [{"op": "replace", "path": f"/devices/{i}/made", "value": device.made.replace("one", "two") + "s"}],
                ),
            ),
        )
    seen: dict[str, tuple[str, Control]] = {}
    for i, device in layout.devices.items():
        if device.kind not in SOURCES:
            continue
        wire, kind = sources.wire(device.output, "B"), control_given(layout, device)
        other, before = seen.setdefault(wire, (i, kind))
        if before == kind:
            continue
        yield Finding(
            key=f"common-mixed:{other}:{i}",
            rule="one pole between two controls",
            severity="must",
            title=f"{layout.devices[other].name} ({CONTROL[before]}) and {device.name} ({CONTROL[kind]}) share a "
            "common rail",
            why="A common rail is for cabs with windings of their own; a booster's two wires both carry its signal.",
            mend="Gaps in both rails between them, and no wire in common.",
            place=Place("device", i),
            shows=(other, i),
            figures=(("controls on one wire", "2"),),
            mends=tuple(
                Mend(
                    f"{layout.circuits[c].name} returns by itself",
                    [{"op": "replace", "path": f"/circuits/{c}/return_of", "value": None}],
                )
                for c in (device.output, layout.devices[other].output)
                if layout.circuits[c].return_of is not None
            ),
        )


@rule("rails that do not fit", "track")
def misfits(facts: Facts) -> Iterator[Finding]:
    """A gap in a rail its track does not have, and three-rail track joined to two-rail track."""
    layout = facts.layout
    for i, gap in layout.gaps.items():
        three = has_three_rails(layout, layout.tracks[gap.track])
        if three or gap.rails in ("both", "left", "right", "all"):
            continue
        name = layout.tracks[gap.track].name
        yield Finding(
            key=f"gap-rail:{i}",
            rule="rails that do not fit",
            severity="should",
            title=f"Gap {i} cuts the {gap.rails} rail of {name}, which has two rails",
            why="Two-rail track has no centre and no outer rail: the gap cuts nothing.",
            mend="Say which rail it cuts, or that the track has three.",
            place=Place("gap", i, gap.track, gap.at),
            shows=(i, gap.track),
            figures=(("rails", "2"),),
            mends=(
                Mend("It cuts both rails", [{"op": "replace", "path": f"/gaps/{i}/rails", "value": "both"}]),
                Mend(f"{name} has three rails", [{"op": "add", "path": f"/tracks/{gap.track}/rails", "value": 3}]),
            ),
        )
    at: dict[str, dict[bool, str]] = {}
    for i, track in layout.tracks.items():
        for node in {track.a.node, track.b.node}:
            at.setdefault(node, {}).setdefault(has_three_rails(layout, track), i)
    for node, found in at.items():
        if len(found) == 2:
            two, three_rail = (layout.tracks[found[k]].name for k in (False, True))
            yield Finding(
                key=f"rails-meet:{node}",
                rule="rails that do not fit",
                severity="should",
                title=f"{three_rail} has three rails and meets {two}, which has two",
                why="No train runs from one onto the other, and a wheel there ties centre and outer rails together.",
                mend="Say of one of them how many rails it has.",
                place=Place("node", node, found[False]),
                shows=(found[False], found[True]),
                figures=(("rails", "2 and 3"),),
            )
