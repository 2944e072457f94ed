"""Rules about cabs and selectors: commons, poles, contacts, blocks that no lie feeds, blocks too short for a train."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.control import control_given, control_of
from jolly_copper.core.layout.document import Device
from jolly_copper.core.layout.levers import Way, all_followed, ways_of
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.quantities import print_current, print_length
from jolly_copper.core.rails.through import longest_way

ON_ONE_POLE = "one pole"


def selectors(facts: Facts) -> Iterator[tuple[str, Device, list[Way]]]:
    """Every selector with the ways power may come through it."""
    for i, device in facts.layout.devices.items():
        if device.kind == "selector":
            yield i, device, ways_of(facts.tree, device.output)


@rule("common rail on one winding", "cabs")
def one_winding(facts: Facts) -> Iterator[Finding]:
    """Two cabs whose tracks share a rail hang on one supply winding: each drives through the other."""
    layout, sources = facts.layout, facts.topology.sources
    cabs = [(i, d) for i, d in layout.devices.items() if d.kind in SOURCES and control_given(layout, d) == "dc"]
    for (i, one), (k, other) in itertools.combinations(cabs, 2):
        if sources.wire(one.output, "B") != sources.wire(other.output, "B"):
            continue
        same = one.winding is not None and one.winding == other.winding
        behind = one.input is not None and one.input == other.input
        if same or behind:
            what = one.winding if same else layout.circuits[str(one.input)].name
            yield Finding(
                key=f"winding:{i}:{k}",
                rule="common rail on one winding",
                severity="must",
                title=f"{one.name} and {other.name} share a common rail and both hang on {what}",
                why="Two throttles from one rectifier meet twice: behind in the supply, and in front over the common "
                "rail. One that is turned round is a short through the other.",
                mend="A supply winding of its own for each cab, or gaps in both rails and selectors of two poles.",
                place=Place("device", k),
                shows=(i, k),
                figures=(("windings", "1 for 2 cabs"),),
            )
        elif one.winding is None or other.winding is None:
            unsaid = one if one.winding is None else other
            yield Finding(
                key=f"winding-unsaid:{i}:{k}",
                rule="common rail on one winding",
                severity="look",
                title=f"{one.name} and {other.name} share a common rail; nobody said which winding {unsaid.name} is on",
                why="With a common rail every cab needs a supply winding of its own, never two from one rectifier.",
                mend="Look behind the throttle, and type the winding on its card.",
                place=Place("device", i if unsaid is one else k),
                shows=(i, k),
                figures=(("winding", "not known"),),
            )


@rule("selector with one pole", "cabs")
def one_pole(facts: Facts) -> Iterator[Finding]:
    """A selector that switches one wire, of track whose other wire is not common to all it chooses from."""
    layout, shared = facts.layout, facts.topology.sources
    for i, device, _ in selectors(facts):
        if ON_ONE_POLE not in device.made:
            continue
        own = shared.wire(device.output, "B")
        strange = [c for c in device.inputs if shared.wire(c, "B") != own]
        if not strange:
            continue
        name = layout.circuits[strange[0]].name
        together = len({shared.wire(c, "B") for c in device.inputs}) == 1
        patch = (
            [{"op": "add", "path": f"/circuits/{device.output}/return_of", "value": device.inputs[0]}]
            if together
            else [{"op": "replace", "path": f"/devices/{i}/made", "value": device.made.replace("one", "two") + "s"}]
        )
        yield Finding(
            key=f"one-pole:{i}",
            rule="selector with one pole",
            severity="must",
            title=f"{device.name} switches one wire, and the other is not common with {name}",
            why="With one pole the second wire is never switched: it has to be one metal for all it chooses from, the "
            "common rail. As it stands that wire goes nowhere.",
            mend="A selector of two poles, or a common wire behind it.",
            place=Place("device", i),
            shows=(i,),
            figures=(("poles", "1"), ("commons met", str(len({shared.wire(c, "B") for c in device.inputs})))),
            mends=(Mend("Its other wire is the common one" if together else "Two poles", patch),),
        )


@rule("selector's contacts", "cabs")
def contacts(facts: Facts) -> Iterator[Finding]:
    """A selector whose contacts switch fewer amps than what stands before them lets through."""
    for i, device, ways in selectors(facts):
        trips = [
            (d.trip_amps, d.name)
            for w in ways
            for c in device.inputs
            if (guard := facts.tree.protection(c)) is not None
            and (d := guard[1]).trip_amps is not None
            and w.source in facts.tree.upstream(c)
        ]
        if device.contact_amps is None or not trips:
            continue
        most, name = max(trips)
        if most is None or device.contact_amps >= most - 1e-9:
            continue
        yield Finding(
            key=f"contacts:{i}",
            rule="selector's contacts",
            severity="should",
            title=f"{device.name} switches {print_current(device.contact_amps)}; {name} lets through "
            f"{print_current(most)}",
            why="Contacts that break more than they are made for weld or burn, and then the block is never off.",
            mend=f"Contacts for {print_current(most)} or more, or a lower trip.",
            place=Place("device", i),
            shows=(i,),
            figures=(("contacts", print_current(device.contact_amps)), ("trip", print_current(most))),
        )


@rule("selector without power", "cabs")
def without_power(facts: Facts) -> Iterator[Finding]:
    """A selector that gives its track to no source, however it lies."""
    for i, device, ways in selectors(facts):
        if ways or not all_followed(facts.tree, device.output):
            continue
        yield Finding(
            key=f"selector-dead:{i}",
            rule="selector without power",
            severity="should",
            title=f"{device.name} reaches no source in any position",
            why="Whatever chooses from circuits that nothing feeds leaves its track dead.",
            mend="Feed one of the circuits it chooses from, or give it another.",
            place=Place("device", i),
            shows=(i,),
            figures=(("ways", str(len(device.inputs))),),
        )


@rule("too many ways to try", "cabs")
def not_settled(facts: Facts) -> Iterator[Finding]:
    """A selector over so many others that not all its lies were tried: what was not found there is not settled."""
    for i, device, _ in selectors(facts):
        if all_followed(facts.tree, device.output):
            continue
        yield Finding(
            key=f"ways-unsettled:{i}",
            rule="too many ways to try",
            severity="look",
            title=f"Not settled: {device.name} may get its power in more ways than are tried",
            why="Only the first of them were tried. That nothing is found about its track does not mean that nothing "
            "is wrong there.",
            mend="Fewer levels of selectors: let each choose from cabs, not from other selectors.",
            place=Place("device", i),
            shows=(i,),
            figures=(("ways tried", str(len(ways_of(facts.tree, device.output)))),),
        )


@rule("block shorter than a train", "cabs")
def short_block(facts: Facts) -> Iterator[Finding]:
    """A block on the line that the longest train does not fit into: two selectors must lie alike for it."""
    layout = facts.layout
    outputs = {d.output: (i, d) for i, d, ways in selectors(facts) if len(d.inputs) > 1 and ways}
    trains = [(t.length, t.name) for t in layout.trains.values()]
    if not outputs or not trains:
        return
    longest, name = max(trains)
    lengths: dict[str, float] = defaultdict(float)
    where: dict[str, tuple[str, float]] = {}
    for circuit, extent in zip(facts.meant, facts.rails.extents, strict=True):
        if circuit not in outputs or circuit is None or control_of(facts.tree, circuit) != "dc":
            continue
        uses = {layout.tracks[p.track].use for p in extent}
        held = longest_way(facts.rails, facts.topology.ways, extent)
        if not uses & {"main", "branch"} or held < lengths[circuit]:
            continue
        widest = max(extent, key=lambda p: (p.end - p.start, p.track))
        lengths[circuit], where[circuit] = held, (widest.track, (widest.start + widest.end) / 2)
    for circuit, length in lengths.items():
        if length >= longest - 1e-6:
            continue
        i, _ = outputs[circuit]
        track, at = where[circuit]
        units = layout.brief.units
        yield Finding(
            key=f"block-short:{i}",
            rule="block shorter than a train",
            severity="look",
            title=f"{layout.circuits[circuit].name} is {print_length(length, units)} long, and {name} "
            f"{print_length(longest, units)}",
            why="A train in two blocks at once needs both selectors at one cab, or it joins two cabs through its "
            "wheels.",
            mend="Set both selectors alike before that train comes, or make one block of two.",
            place=Place("track", track, track, at),
            shows=(i,),
            figures=(("block", print_length(length, units)), ("longest train", print_length(longest, units))),
        )
