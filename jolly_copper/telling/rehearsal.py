"""A rehearsal as it goes to the page: short lines, an opening, and what it came to."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import Any

from pydantic import BaseModel, Field

from jolly_copper.core.layout.plans import RunningPlan
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.evenings import OneEvening, Weakness
from jolly_copper.core.rehearsal.other_ways import OtherWay
from jolly_copper.core.rehearsal.power import acts_after, sees_from
from jolly_copper.core.rehearsal.proof import Proof
from jolly_copper.core.rehearsal.smallest import Trial
from jolly_copper.core.rehearsal.trace import (
    Entry,
    Head,
    Line,
    Lit,
    Motion,
    Opening,
    Sample,
    Switched,
    Thrown,
    Way,
)
from jolly_copper.core.rehearsal.verdict import Mend, Sentence, verdict
from jolly_copper.core.signals.heads import can_show, shows

AT_ONCE = 200
"""Lines sent in one go."""
Short = list[Any]
"""One line: its letter, then its fields in order. S sample, M motion, W way, L lit, H head, T turnout, D device, E log
entry."""


class PlanProblem(BaseModel):
    path: str
    sentence: str


class WatchedShape(BaseModel):
    """A device whose amps are told. trip: from how many amps on it acts; after: s."""

    id: str
    name: str
    kind: str
    label: float | None
    trip: float | None
    after: float
    source: bool


class RollingShape(BaseModel):
    key: str
    train: str
    name: str
    length: float
    by: str


class OpeningShape(BaseModel):
    """What is watched, in which order, and for how long, s."""

    seconds: float
    devices: list[WatchedShape]
    trains: list[RollingShape]
    assumed: list[str]
    lit: list[int]
    heads: dict[str, str]
    lies: dict[str, str]
    extents: list[str]
    """What every stretch between gaps is called."""
    lights: dict[str, dict[str, list[str]]]
    """What burns in each head for each aspect."""
    under: dict[str, list[list[str | float]]]
    """For each device the track it feeds: track, mm from its A end, mm."""


class MendOffer(BaseModel):
    words: str
    step: str
    patch: list[dict[str, Any]]


class SentenceShape(BaseModel):
    grade: str
    words: str
    t: float | None
    entry: int | None
    mends: list[MendOffer]


class ProofShape(BaseModel):
    rule: str
    verdict: str
    words: str
    states: int
    story: list[str]
    trains: list[str]


class OtherWayShape(BaseModel):
    words: str
    patch: list[dict[str, Any]]


class ProvedShape(BaseModel):
    """What is known of a plan under each rule, and other ways that free it where no rule does."""

    rules: list[ProofShape]
    other_ways: list[OtherWayShape]


class CameTo(BaseModel):
    """What a rehearsal came to. revision: of the layout it ran on. version: of the engine. counts: of
    log entries, by kind."""

    revision: int
    seed: int
    version: int
    sentences: list[SentenceShape] = []
    problems: list[PlanProblem] = []
    counts: dict[str, int] = {}


class PlayedEvening(BaseModel):
    seed: int
    faults: list[str]
    stopped: float = Field(description="Minutes trains stood dark or in knots, all together.")
    opens: dict[str, int]
    kinds: dict[str, int]
    first: str | None


class WeaknessShape(BaseModel):
    words: str
    evenings: int
    low: float
    high: float
    minutes: float
    seed: int


class EveningsShape(BaseModel):
    played: int
    weaknesses: list[WeaknessShape]
    undisturbed: int


class TrialShape(BaseModel):
    what: str
    stands_for: int
    why: str
    build: list[str]
    tracks: list[str]
    x: float
    y: float
    prove: list[str]


class MadePlan(BaseModel):
    """A plan made from a scene. homeless: trains that found no room."""

    plan: RunningPlan
    homeless: list[str]


def short(line: Line) -> Short:
    """One line as it goes to the page."""
    match line:
        case Sample():
            return ["S", line.t, line.amps, line.volts]
        case Motion():
            return ["M", round(line.t, 4), line.train, [[round(x, 4) for x in p] for p in line.phases]]
        case Way():
            return ["W", round(line.t, 4), line.train, [list(s) for s in line.spans], line.fresh]
        case Lit():
            return ["L", round(line.t, 3), line.extent, line.on]
        case Head():
            return ["H", round(line.t, 3), line.signal, line.aspect]
        case Thrown():
            return ["T", round(line.t, 3), line.node, line.lies]
        case Switched():
            return ["D", round(line.t, 4), line.device, line.state]
        case Entry():
            return [
                "E",
                round(line.t, 3),
                line.kind,
                line.words,
                line.train,
                line.device,
                line.head,
                line.node,
                line.track,
                line.at,
                line.cause,
                list(line.others),
            ]
        case _:
            return ["?"]


def batches(lines: Iterable[Line]) -> Iterator[tuple[float, list[Short]]]:
    """Lines in handfuls, each with the time it reaches, s."""
    some: list[Short] = []
    for line in lines:
        if isinstance(line, Opening):
            continue
        some.append(short(line))
        if len(some) >= AT_ONCE:
            yield line.t, some
            some = []
    if some:
        yield float(some[-1][1]), some


def opening_told(evening: Evening, opening: Opening) -> OpeningShape:
    layout = evening.layout
    return OpeningShape(
        seconds=opening.seconds,
        devices=[_watched(evening, i) for i in opening.devices],
        trains=[
            RollingShape(key=k, train=x.plan.train, name=x.stock.name, length=x.stock.length, by=x.plan.by)
            for k, x in evening.trains.items()
        ],
        assumed=list(opening.assumed),
        lit=list(opening.lit),
        heads=opening.heads,
        lies={i: v for i, v in opening.lies.items() if i in layout.nodes},
        extents=[s.name for s in evening.ground.known.sensed],
        lights={i: {a: list(shows(s, a)) for a in can_show(s)} for i, s in layout.signals.items()},
        under={i: _under(evening, i) for i in opening.devices},
    )


def _under(evening: Evening, device_id: str) -> list[list[str | float]]:
    """The track that is dark when a device opens."""
    below = frozenset({evening.layout.devices[device_id].output})
    found: list[list[str | float]] = []
    for circuit, extent in zip(evening.facts.meant, evening.facts.rails.extents, strict=True):
        if circuit is not None and evening.facts.tree.within(circuit, below):
            found += [[p.track, round(p.start, 1), round(p.end, 1)] for p in extent]
    return found


def _watched(evening: Evening, device_id: str) -> WatchedShape:
    device = evening.layout.devices[device_id]
    return WatchedShape(
        id=device_id,
        name=device.name,
        kind=device.kind,
        label=device.measured_amps or device.label_amps,
        trip=sees_from(evening, device_id),
        after=acts_after(evening, device_id),
        source=device.kind in SOURCES,
    )


def came_to(evening: Evening, plan_id: str, revision: int, seed: int, version: int) -> CameTo:
    """What an evening that has ended came to."""
    counts: dict[str, int] = {}
    for e in evening.entries:
        counts[e.kind] = counts.get(e.kind, 0) + 1
    return CameTo(
        revision=revision,
        seed=seed,
        version=version,
        sentences=[_sentence(s) for s in verdict(evening, plan_id)],
        counts=counts,
    )


def _sentence(s: Sentence) -> SentenceShape:
    return SentenceShape(grade=s.grade, words=s.words, t=s.t, entry=s.entry, mends=[_mend(m) for m in s.mends])


def _mend(m: Mend) -> MendOffer:
    return MendOffer(words=m.words, step=m.step, patch=list(m.patch))


def proof_told(p: Proof) -> ProofShape:
    return ProofShape(
        rule=p.rule, verdict=p.verdict, words=p.words, states=p.states, story=list(p.story), trains=list(p.trains)
    )


def other_way_told(plan_id: str, plan: RunningPlan, way: OtherWay) -> OtherWayShape:
    patch: list[dict[str, Any]] = [
        {"op": "add", "path": f"/plans/{plan_id}/trains/{way.train}/calls/{n}/via", "value": [way.via]}
        for n in way.calls
    ]
    if way.rule != plan.single_lines:
        patch.append({"op": "add", "path": f"/plans/{plan_id}/single_lines", "value": way.rule})
    return OtherWayShape(words=way.words, patch=patch)


def evening_told(e: OneEvening) -> PlayedEvening:
    return PlayedEvening(
        seed=e.seed, faults=list(e.faults), stopped=round(e.stopped, 1), opens=e.opens, kinds=e.kinds, first=e.first
    )


def evenings_told(played: list[OneEvening], weak: list[Weakness]) -> EveningsShape:
    return EveningsShape(
        played=len(played),
        undisturbed=sum(e.stopped < 0.05 for e in played),
        weaknesses=[
            WeaknessShape(
                words=w.words,
                evenings=w.evenings,
                low=round(w.between[0], 3),
                high=round(w.between[1], 3),
                minutes=round(w.minutes, 1),
                seed=w.seed,
            )
            for w in weak
        ],
    )


def trial_told(t: Trial) -> TrialShape:
    return TrialShape(
        what=t.what,
        stands_for=t.stands_for,
        why=t.why,
        build=list(t.build),
        tracks=list(t.tracks),
        x=t.at[0],
        y=t.at[1],
        prove=list(t.prove),
    )
