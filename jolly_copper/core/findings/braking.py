"""Rules about digital braking sections: too short for a train, bypassed, over a reversing section, shared."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.pickups import reach_of
from jolly_copper.core.circuits.stopping import SHARE, stopping_distance
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.stretches import BrakingSection
from jolly_copper.core.layout.words import CONTROL
from jolly_copper.core.quantities import print_length


def wanted_length(facts: Facts, train: str) -> tuple[float, float]:
    """The length a braking section needs for a train, mm, and the stopping distance in it: pickups all inside, then the
    way to stand still, and a margin.

    l = p + 1.3·v²/(2a).
    """
    layout = facts.layout
    stops = stopping_distance(layout)
    return reach_of(layout, layout.trains[train]).millimetres + SHARE * stops, stops


@rule("braking section", "cabs")
def braking(facts: Facts) -> Iterator[Finding]:
    """A braking section that some train runs through, or that does not brake."""
    layout, units = facts.layout, facts.layout.brief.units
    for i, section in layout.braking.items():
        middle = (section.start + section.end) / 2
        piece = facts.rails.piece_at(section.track, middle)
        circuit = facts.meant[facts.rails.extent_of[piece]]
        place = Place("braking", i, section.track, middle)
        name = layout.tracks[section.track].name
        if circuit is not None and control_of(facts.tree, circuit) != "dcc":
            kind = CONTROL[control_of(facts.tree, circuit)]
            yield Finding(
                key=f"braking-control:{i}",
                rule="braking section",
                severity="should",
                title=f"{section.name} brakes by an unequal wave, and {name} carries {kind} as its selectors lie",
                why="Only a decoder reads the two halves of the wave; a throttle's engine runs on, a diode slower.",
                mend="Another track, or a stop by a switched-off block.",
                place=place,
                shows=(section.track,),
                figures=(("carries", kind),),
            )
        yield from _too_short(facts, i, section, place)
        inside = [
            f for f, x in layout.feeders.items() if x.track == section.track and section.start <= x.at <= section.end
        ]
        if inside:
            feeder = layout.feeders[inside[0]]
            at = max(section.start - 80.0, 0.0)
            yield Finding(
                key=f"braking-bypass:{i}",
                rule="braking section",
                severity="must",
                title=f"{feeder.label} feeds the {section.rail} rail inside {section.name}: the module is bypassed",
                why="What reaches that rail another way is not unequal, and nothing stops there.",
                mend="Move the feeder out of the stretch; its rail is fed by the module alone.",
                place=Place("feeder", inside[0], section.track, feeder.at),
                shows=(inside[0], section.track),
                figures=(("feeders inside", str(len(inside))),),
                mends=(
                    Mend(
                        f"{feeder.label} at {print_length(at, units)}",
                        [{"op": "replace", "path": f"/feeders/{inside[0]}/at", "value": round(at, 1)}],
                    ),
                ),
            )
        zone = facts.topology.zones.at(piece)
        if facts.topology.is_reversing(zone):
            yield Finding(
                key=f"braking-reversing:{i}",
                rule="braking section",
                severity="must",
                title=f"{section.name} lies in a reversing section",
                why="A reverser that turns the rails over turns the unequal wave with them: decoders that stopped go "
                "on.",
                mend="Put it before or beyond the reversing section.",
                place=place,
                shows=(section.track,),
                figures=(("reversers here", "1"),),
            )
        gaps = [g for g, x in layout.gaps.items() if x.track == section.track and section.start < x.at < section.end]
        if gaps:
            yield Finding(
                key=f"braking-gap:{i}",
                rule="braking section",
                severity="should",
                title=f"Gap {gaps[0]} lies inside {section.name}",
                why="Beyond that gap nothing joins the rail to the module: a train that brakes there stands dead, or "
                "not at all.",
                mend="Move the gap or the section.",
                place=Place("gap", gaps[0], section.track, layout.gaps[gaps[0]].at),
                shows=(gaps[0], section.track),
                figures=(("gaps inside", str(len(gaps))),),
            )


def _too_short(facts: Facts, i: str, section: BrakingSection, place: Place) -> Iterator[Finding]:
    layout, units = facts.layout, facts.layout.brief.units
    length = section.end - section.start
    wanting = [
        (need - length, t.name, need, stops)
        for k, t in layout.trains.items()
        for need, stops in [wanted_length(facts, k)]
        if need > length + 1e-6
    ]
    if not wanting:
        return
    short, train, need, stops = max(wanting)
    many = f" and {len(wanting) - 1} more trains" if len(wanting) > 1 else ""
    yield Finding(
        key=f"braking-short:{i}",
        rule="braking section",
        severity="look",
        title=f"{section.name} is {print_length(length, units)} long, {print_length(short, units)} too short for "
        f"{train}{many}",
        why="Its first pickup leaves the stretch before it stands, and there it speeds up again. Stopping distances "
        "are reckoned from scale speed until somebody measures them.",
        mend=f"Make it {print_length(need, units)} long, keep longer trains off, or set the decoder to stop shorter.",
        place=place,
        shows=(section.track,),
        figures=(
            ("length", print_length(length, units)),
            ("wanted", print_length(need, units)),
            ("stopping distance, reckoned", print_length(stops, units)),
        ),
    )


@rule("braking module", "cabs")
def shared_module(facts: Facts) -> Iterator[Finding]:
    """A module that serves stretches more than one train may be in at once, or rails on two sides of a shuttle."""
    layout = facts.layout
    by: dict[str, list[tuple[str, BrakingSection]]] = defaultdict(list)
    for i, section in layout.braking.items():
        by[section.module].append((i, section))
    for module, mine in by.items():
        if len(mine) < 2:
            continue
        (i, one), (k, other) = mine[:2]
        rails = [_seen_alike(facts, s) for _, s in mine]
        if len(set(rails)) > 1 and None not in rails:
            yield Finding(
                key=f"braking-rails:{i}:{k}",
                rule="braking module",
                severity="must",
                title=f"{one.name} and {other.name} hang on {module} and are in unlike rails",
                why="Seen from one side of the railroad the braking rail is the same all along: one module in both "
                "rails brakes at one end and drives on at the other.",
                mend="Put both in the rail on the same side, or give each a module.",
                place=Place("braking", k, other.track, (other.start + other.end) / 2),
                shows=(one.track, other.track),
                figures=(("modules", "1"), ("rails", "2")),
            )
        if len(mine) > 2 or any(s.why != "shuttle" for _, s in mine):
            yield Finding(
                key=f"braking-shared:{i}:{k}",
                rule="braking module",
                severity="look",
                title=f"{len(mine)} stretches share {module}",
                why="One module serves both ends of a shuttle, since one train alone is there. Two trains on it "
                "release and brake each other.",
                mend="A module for each stretch a train of its own may stand in.",
                place=Place("braking", k, other.track, (other.start + other.end) / 2),
                shows=(one.track, other.track),
                figures=(("stretches", str(len(mine))), ("modules", "1")),
            )


def _seen_alike(facts: Facts, section: BrakingSection) -> str | None:
    """The conductor the braking rail carries, which is the same on one side of the railroad; None where it is not
    known."""
    piece = facts.rails.piece_at(section.track, (section.start + section.end) / 2)
    zone = facts.topology.zones.at(piece)
    a = zone.a_rail(piece) if zone.votes else facts.phase[piece]
    return "A" if a == section.rail else "B"
