"""Rules about how wires are made and where they lie: cut lengths, how two wires lie to each other, what is in the
way."""

from __future__ import annotations

import math
from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import (
    cut_of_runs,
    feeder_length,
    feeder_needs,
    point_on_track,
    run_length,
    terminal_point,
)
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.geometry import Box, Polyline, box_of, crossings, draw, inside
from jolly_copper.core.quantities import print_length

TAPE_SHORT = 0.97
"""A tape that reads less than this share of the straight way on the plan was read wrong, or the plan is. Common
practice, no source."""


@rule("cut too short", "book")
def cut_too_short(facts: Facts) -> Iterator[Finding]:
    """Wire cut already that leaves less slack than the house asks, or does not reach."""
    layout, units, wanted = facts.layout, facts.layout.brief.units, cut_of_runs(facts.layout)
    wires = [("run", i, r.label, r.cut, run_length(r), wanted[i]) for i, r in layout.runs.items()]
    wires += [
        ("feeder", i, f.label, f.cut, n := feeder_length(layout, f), feeder_needs(layout, n))
        for i, f in layout.feeders.items()
    ]
    for kind, i, label, cut, length, want in wires:
        if cut is None or cut >= want - 2.5:
            continue
        reaches = cut > length
        yield Finding(
            key=f"cut-short:{kind}:{i}",
            rule="cut too short",
            severity="should" if reaches else "must",
            title=f"{'Bus' if kind == 'run' else 'Feeder'} {label} is cut to {print_length(cut, units)}; "
            + (
                f"with slack it wants {print_length(want, units)}"
                if reaches
                else f"the way alone is {print_length(length, units)}"
            ),
            why="Slack is what lets an end be stripped again, a terminal be moved, and a board be dropped for work."
            if reaches
            else "It does not reach, or only pulled tight: it comes off when somebody leans on the board.",
            mend="Cut it anew, or move its terminal nearer.",
            place=_place(layout, kind, i),
            shows=(i,),
            figures=(
                ("cut to", print_length(cut, units)),
                ("way", print_length(length, units)),
                ("with slack", print_length(want, units)),
            ),
            mends=(Mend(f"{label} will be cut anew", [{"op": "remove", "path": f"/{kind}s/{i}/cut"}]),),
            source="house rule: slack at each end and along the way",
        )
    for kind, i, label, tape, straight in _taped(layout):
        if tape < TAPE_SHORT * straight:
            yield Finding(
                key=f"tape-short:{kind}:{i}",
                rule="cut too short",
                severity="look",
                title=f"{label} measures {print_length(tape, units)} by tape, but its ends are "
                f"{print_length(straight, units)} apart on the plan",
                why="A wire is never shorter than the straight way. It would be cut too short, or the plan is not to "
                "scale here.",
                mend="Measure again, or let the plan say how long it is.",
                place=_place(layout, kind, i),
                shows=(i,),
                figures=(("by tape", print_length(tape, units)), ("straight", print_length(straight, units))),
                mends=(Mend("Go by the plan", [{"op": "remove", "path": f"/{kind}s/{i}/tape"}]),),
                source="geometry",
            )


def _place(layout: Layout, kind: str, i: str) -> Place:
    if kind == "run":
        return Place("run", i)
    return Place("feeder", i, layout.feeders[i].track, layout.feeders[i].at)


def _taped(layout: Layout) -> Iterator[tuple[str, str, str, float, float]]:
    """Wires measured by tape, with the straight way between their ends, mm."""
    for i, run in layout.runs.items():
        if run.tape:
            line = run.line
            yield "run", i, f"Bus {run.label}", run.tape, math.dist(line.point(0), line.point(line.length))
    for i, feeder in layout.feeders.items():
        if feeder.tape:
            straight = math.dist(
                point_on_track(layout, feeder.track, feeder.at),
                terminal_point(layout, layout.terminals[feeder.terminal]),
            )
            yield "feeder", i, f"Feeder {feeder.label}", feeder.tape, straight


@rule("run longer than its make allows", "book")
def too_long_for_its_make(facts: Facts) -> Iterator[Finding]:
    """Track buses of a digital railroad whose wires lie apart, or side by side, for longer than the house allows."""
    layout = facts.layout
    rules, units = layout.brief.rules, layout.brief.units
    for i, run in layout.runs.items():
        if control_of(facts.tree, run.circuit) != "dcc":
            continue
        limit = {"apart": rules.longest_apart, "side by side": rules.longest_side_by_side}.get(run.make)
        length = run_length(run)
        if limit is None or layout.circuits[run.circuit].purpose != "track" or length <= limit + 0.5:
            continue
        lies = "with its two wires apart" if run.make == "apart" else "side by side"
        yield Finding(
            key=f"make:{i}",
            rule="run longer than its make allows",
            severity="should" if run.make == "apart" else "look",
            title=f"Bus {run.label} runs {print_length(length, units)} {lies}; the house rule is "
            f"{print_length(limit, units)}",
            why="Inductance grows with the length and with how far apart the two wires lie. It slows the edges of the "
            "signal, and makes a short at the far end look smaller to its breaker."
            if run.make == "apart"
            else "Schools differ: some twist everything over this length, others see no benefit without symptoms. "
            "Step Wire, Waveform, shows what it does here.",
            mend="Twist it two or three turns a foot, or lay paired cable.",
            place=Place("run", i),
            shows=(i,),
            figures=(("length", print_length(length, units)), ("at most", print_length(limit, units))),
            mends=(Mend(f"Twist {run.label}", [{"op": "replace", "path": f"/runs/{i}/make", "value": "twisted"}]),),
        )


@rule("wire through an obstacle", "book")
def through_an_obstacle(facts: Facts) -> Iterator[Finding]:
    """Wire drawn through a brace, a leg or a machine under the boards."""
    layout, units = facts.layout, facts.layout.brief.units
    if not layout.obstacles:
        return
    boxes = {k: box_of(tuple(thing.corners)) for k, thing in layout.obstacles.items()}
    for i, run in layout.runs.items():
        line = run.line
        lies_in = line.box[:2], line.box[2:]
        for k, thing in layout.obstacles.items():
            if _beside(boxes[k], *lies_in):
                continue
            met = crossings(line, [thing.corners])
            if met or inside(thing.corners, *line.point(line.length / 2)):
                at = met[0] if met else line.length / 2
                yield Finding(
                    key=f"obstacle:{k}:{i}",
                    rule="wire through an obstacle",
                    severity="should",
                    title=f"Bus {run.label} goes through {_thing(layout, k)}, {print_length(at, units)} from its start",
                    why="Drawn so, it is cut too short for the way round; drilled so, it may weaken what holds the "
                    "board, or meet a moving part.",
                    mend="Draw it round; or through a hole, if that is meant: then accept this and say so.",
                    place=Place("run", i),
                    shows=(i, k),
                    figures=(("from its start", print_length(at, units)),),
                    source="geometry",
                )
    for i, feeder in layout.feeders.items():
        ends = (
            point_on_track(layout, feeder.track, feeder.at),
            terminal_point(layout, layout.terminals[feeder.terminal]),
        )
        for k, thing in layout.obstacles.items():
            if not _beside(boxes[k], *ends) and crossings(_straight(*ends), [thing.corners]):
                yield Finding(
                    key=f"obstacle:{k}:{i}",
                    rule="wire through an obstacle",
                    severity="look",
                    title=f"Feeder {feeder.label} goes through {_thing(layout, k)}",
                    why="The straight way from rail to terminal is blocked: it needs more wire than its cut length "
                    "says.",
                    mend="Measure the way round by tape and type it in, or tie it elsewhere.",
                    place=Place("feeder", i, feeder.track, feeder.at),
                    shows=(i, k),
                    figures=(("in the way", thing.name),),
                    source="geometry",
                )


def _beside(box: Box, a: tuple[float, float], b: tuple[float, float]) -> bool:
    """Whether a straight line passes a box by, as its own box tells at once."""
    x0, y0, x1, y1 = box
    return max(a[0], b[0]) < x0 or min(a[0], b[0]) > x1 or max(a[1], b[1]) < y0 or min(a[1], b[1]) > y1


def _straight(a: tuple[float, float], b: tuple[float, float]) -> Polyline:
    return draw([Bend(x=a[0], y=a[1]), Bend(x=b[0], y=b[1])])


def _thing(layout: Layout, obstacle: str) -> str:
    thing = layout.obstacles[obstacle]
    return thing.name if thing.kind in thing.name.lower() else f"{thing.kind} {thing.name}"
