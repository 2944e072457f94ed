"""Rules about three-rail track: transformers that meet at a gap, their commons and breakers, isolated rails."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.circuits.stopping import USUAL_KMH, scale_speed
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.control import control_given, has_three_rails
from jolly_copper.core.layout.levers import ways_of
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.stretches import IsolatedRail
from jolly_copper.core.quantities import print_current, print_length, print_volts

SLOW_SECONDS = 1.0
"""A breaker that takes this long is a thermal one. Common practice, no source."""
NEAR_NOTHING = 0.15
"""Of the track volts: what may stand between two hot posts that are in phase and set alike; meters and knobs are not
better. Certainty C."""
AXLES_APART_MM = {"Z": 25.0, "N": 35.0, "TT": 50.0, "HO": 70.0, "OO": 75.0, "S": 95.0, "O": 130.0, "G": 200.0}
"""The longest a car holds an isolated rail by one axle before the next comes, by scale: between the trucks of a long
car. Certainty C."""


def meeting_transformers(facts: Facts) -> Iterator[tuple[str, str, str, float]]:
    """Pairs of transformer outputs of two transformers that meet at a gap in the centre rail, with the place."""
    layout, seen = facts.layout, set()
    for i, gap in layout.gaps.items():
        if not has_three_rails(layout, layout.tracks[gap.track]) or gap.rails not in ("centre", "all", "both"):
            continue
        pieces = [facts.rails.piece_at(gap.track, facts.rails.cut_at[i] + d) for d in (-1.0, 1.0)]
        circuits = [facts.meant[facts.rails.extent_of[p]] for p in pieces]
        ways = [[] if c is None else [w.source for w in ways_of(facts.tree, c)] for c in circuits]
        for a in ways[0]:
            for b in ways[1]:
                one, other = sorted((a, b))
                same = layout.devices[a].winding is not None and layout.devices[a].winding == layout.devices[b].winding
                if a != b and not same and (one, other) not in seen:
                    seen.add((one, other))
                    yield one, other, gap.track, gap.at


@rule("transformers out of phase", "cabs")
def phasing(facts: Facts) -> Iterator[Finding]:
    """Two transformers that meet at a gap: whether anybody has read the volts between their hot posts."""
    layout, sources = facts.layout, facts.topology.sources
    for one, other, track, at in meeting_transformers(facts):
        a, b = layout.devices[one], layout.devices[other]
        if control_given(layout, a) != "ac3" or control_given(layout, b) != "ac3":
            continue
        full = source_volts(layout, one), source_volts(layout, other)
        if sources.wire(a.output, "B") != sources.wire(b.output, "B"):
            yield Finding(
                key=f"commons:{one}:{other}",
                rule="transformers out of phase",
                severity="should",
                title=f"{a.name} and {b.name} meet on {layout.tracks[track].name} and have no common wire",
                why="Outer rails are one metal for the whole railroad; commons that meet through wheels and rails "
                "alone carry what the bus should.",
                mend=f"First read volts between the two hot posts, both at full: near nothing is right, about "
                f"{print_volts(sum(full))} is wrong. Then join the commons.",
                place=Place("track", track, track, at),
                shows=(one, other, track),
                figures=(("in phase", "0 V"), ("out of phase", print_volts(sum(full)))),
                mends=(
                    Mend(
                        f"{layout.circuits[b.output].name} returns over {layout.circuits[a.output].name}",
                        [{"op": "add", "path": f"/circuits/{b.output}/return_of", "value": a.output}],
                    ),
                ),
            )
        read = b.phasing_volts if b.phasing_volts is not None else a.phasing_volts
        if read is None:
            yield Finding(
                key=f"phasing:{one}:{other}",
                rule="transformers out of phase",
                severity="should",
                title=f"Nobody has read whether {a.name} and {b.name} are in phase; their track meets on "
                f"{layout.tracks[track].name}",
                why="A roller that bridges the gap joins the two windings. Out of phase they stand at twice the track "
                "volts against each other, and both breakers are slow.",
                mend=f"Join the commons, set both to the same volts, and read between the two hot posts: near nothing "
                f"is right; about {print_volts(sum(full))} at full is wrong, then turn one plug round where its maker "
                f"allows it. Mains plugs and cords are for whoever is licensed for them.",
                place=Place("track", track, track, at),
                shows=(one, other, track),
                figures=(("right", "near 0 V"), ("wrong", print_volts(sum(full)))),
            )
        elif read > NEAR_NOTHING * max(full):
            wrong = read > max(full)
            yield Finding(
                key=f"phasing:{one}:{other}",
                rule="transformers out of phase",
                severity="must" if wrong else "should",
                title=f"{print_volts(read)} stand between the hot posts of {a.name} and {b.name}",
                why="That is about twice the track volts: they are out of phase."
                if wrong
                else "In phase it is near nothing: they were not set alike, or are not of one make.",
                mend="Turn one plug round where its maker allows it, and read again."
                if wrong
                else "Set both alike and read again.",
                place=Place("track", track, track, at),
                shows=(one, other, track),
                figures=(("read", print_volts(read)), ("right", "near 0 V")),
            )


@rule("slow breaker", "cabs")
def slow_breaker(facts: Facts) -> Iterator[Finding]:
    """A transformer output with nothing quicker than its own thermal breaker."""
    layout = facts.layout
    for i, device in layout.devices.items():
        if device.kind not in SOURCES or control_given(layout, device) != "ac3":
            continue
        if device.trip_seconds is None or device.trip_seconds < SLOW_SECONDS or device.trip_amps is None:
            continue
        behind = [d for d in layout.devices.values() if d.kind == "breaker" and d.input == device.output]
        if behind and all((d.trip_seconds or 0.0) < SLOW_SECONDS for d in behind):
            continue
        volts = source_volts(layout, i)
        joules = volts * device.trip_amps * device.trip_seconds
        yield Finding(
            key=f"slow:{i}",
            rule="slow breaker",
            severity="look",
            title=f"{device.name} lets a short burn for {device.trip_seconds:g} s before its breaker opens",
            why=f"Thermal breakers wait for heat: {print_volts(volts)} times {print_current(device.trip_amps)} over "
            f"{device.trip_seconds:g} s is {joules:.0f} J in whatever touches. Roller springs and ladder wires go "
            "first.",
            mend=f"A fast fuse or an electronic breaker of {print_current(device.trip_amps)} or less in its hot wire; "
            "a transient absorber near the electronics is another school.",
            place=Place("device", i),
            shows=(i,),
            figures=(("lets through", f"{joules:.0f} J"), ("opens after", f"{device.trip_seconds:g} s")),
        )


def wanted_length(facts: Facts, rail: IsolatedRail) -> tuple[float, str]:
    """The least length of an isolated rail, mm, and why: what a train covers in the warning time, or the longest a car
    bridges between axles.

    l = v·t/s, with v the speed of 60 km/h in mm/s, t the seconds wanted, s the scale.
    """
    scale = facts.layout.brief.scale
    axles = AXLES_APART_MM[scale]
    if rail.seconds is None:
        return axles, "the longest a car leaves between two axles"
    way = scale_speed(scale) * rail.seconds
    if way > axles:
        return way, f"what a train at {USUAL_KMH:.0f} km/h to scale covers in {rail.seconds:g} s"
    return axles, "the longest a car leaves between two axles"


@rule("isolated rail", "cabs")
def isolated_rail(facts: Facts) -> Iterator[Finding]:
    """A train-operated switch that cannot work: no outer rail of its own, too short, fed, or without a return."""
    layout = facts.layout
    for i, rail in layout.isolated.items():
        track = layout.tracks[rail.track]
        place = Place("isolated", i, rail.track, (rail.start + rail.end) / 2)
        length = rail.end - rail.start
        units = layout.brief.units
        size = print_length(length, units)

        def told(
            key: str,
            title: str,
            why: str,
            mend: str,
            figures: tuple[tuple[str, str], ...] = (),
            mends: tuple[Mend, ...] = (),
            i: str = i,
            place: Place = place,
            size: str = size,
        ) -> Finding:
            return Finding(
                key=f"isolated-{key}:{i}",
                rule="isolated rail",
                severity="must" if key in ("two", "ties") else "should",
                title=title,
                why=why,
                mend=mend,
                place=place,
                shows=(place.track or "", i),
                figures=figures or (("length", size),),
                mends=mends,
            )

        if not has_three_rails(layout, track):
            yield told(
                "two",
                f"{rail.name} wants an outer rail of its own, and {track.name} has two rails",
                "On two-rail track both rails carry power: there is none to spare.",
                "A detector for that stretch, or another track.",
            )
            continue
        if track.outers == "joined":
            yield told(
                "ties",
                f"{rail.name} is cut from an outer rail that the ties of {track.name} join to the other",
                "Metal ties make both outers one metal: the rail is never dead, and what it works is always on.",
                "Insulate the ties under that stretch, or lay a piece whose outers are apart.",
                mends=(
                    Mend(
                        f"The outers of {track.name} are apart",
                        [{"op": "add", "path": f"/tracks/{rail.track}/outers", "value": "apart"}],
                    ),
                ),
            )
        least, why = wanted_length(facts, rail)
        if length < least - 1e-6:
            yield told(
                "short",
                f"{rail.name} is {size} long and wants {print_length(least, units)}",
                f"That is {why}; shorter, and {rail.works} comes too late or flickers.",
                f"Cut it {print_length(least, units)} long or more.",
                figures=(("length", size), ("least", print_length(least, units))),
            )
        ends = [g for g, x in layout.gaps.items() if x.track == rail.track and rail.start < x.at < rail.end]
        if ends:
            yield told(
                "gap",
                f"Gap {ends[0]} lies inside {rail.name}",
                "A block that ends there leaves part of the stretch without its other outer rail.",
                "Move the gap or the stretch: an isolated rail lies inside one block.",
            )
        feeders = [
            f.label
            for f in layout.feeders.values()
            if f.track == rail.track and f.at > rail.start - 1500 and f.at < rail.end + 1500
        ]
        if not feeders:
            yield told(
                "return",
                f"No feeder is near {rail.name}: its train returns over one outer rail alone",
                "Where one outer is cut out the other carries the whole return of the train, and twice the drop.",
                "A feeder to the whole outer rail within a metre or so.",
            )
