"""What is told of the rails: phase as fed, sections, where trains come back, dead track, reversing proposals."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.circuits.sections import list_sections
from jolly_copper.core.findings.reversing import in_words
from jolly_copper.core.proposals.dead_track import DeadStretch
from jolly_copper.core.proposals.reversing import words
from jolly_copper.core.proposals.reversing.choose import Group, Option
from jolly_copper.core.quantities import print_length, print_long_length
from jolly_copper.core.rails.nets import Potential, Rail
from jolly_copper.telling.shapes import MendShape

Carries = Literal["A", "B", "none", "clash"]


class PieceShape(BaseModel):
    """A piece of track between gaps: what each rail carries as the turnouts lie, and whether a reverser turns it."""

    track: str
    start: float
    end: float
    left: Carries
    right: Carries
    turns: bool
    circuit: str | None
    """The circuit it is meant for, by its section; else by its feeders."""


class ConflictShape(BaseModel):
    """A place where a train comes back on itself. `settled`: a reversing section parts it."""

    kind: str
    words: str
    at: str
    tracks: list[str]
    length_text: str
    settled: bool


class SectionRow(BaseModel):
    """A stretch of rail between gaps, as the section table shows it."""

    ids: list[str]
    name: str
    circuit: str | None
    circuit_name: str
    role: Literal["plain", "reversing", "mixed", "unfed"]
    length: float
    length_text: str
    feeders: int
    run_text: str | None
    longest_text: str | None
    track: str
    at: float
    tracks: list[str]


class TableShape(BaseModel):
    node: str
    sentences: list[str]
    swap: list[str]


class RailsShape(BaseModel):
    """All that the rails of a revision tell."""

    revision: int
    pieces: list[PieceShape]
    conflicts: list[ConflictShape]
    sections: list[SectionRow]
    tables: list[TableShape]
    dead: int


def carries(put: frozenset[Potential]) -> Carries:
    conductors = {p.conductor for p in put}
    if len(conductors) == 2:
        return "clash"
    return conductors.pop() if conductors else "none"


def sections(facts: Facts) -> list[SectionRow]:
    layout, units = facts.layout, facts.layout.brief.units
    rows = [
        SectionRow(
            ids=list(s.ids),
            name=s.name,
            circuit=s.circuit,
            circuit_name=layout.circuits[s.circuit].name if s.circuit else "nobody said",
            role=s.role,
            length=s.length,
            length_text=print_long_length(s.length, units),
            feeders=s.feeders,
            run_text=print_length(s.run, units) if s.run else None,
            longest_text=print_length(s.longest, units) if s.longest else None,
            track=s.track,
            at=s.at,
            tracks=list(s.tracks),
        )
        for s in list_sections(facts)
    ]
    return sorted(rows, key=lambda r: (r.name, r.track))


class DeadShape(BaseModel):
    """A stretch that some turnout setting leaves dead, with its smallest remedy where one was found."""

    track: str
    at: float
    title: str
    status: str
    settings: dict[str, str]
    route: list[str]
    remedy: MendShape | None


class DeadList(BaseModel):
    """Every such stretch, the worst first."""

    stretches: list[DeadShape]


def dead(d: DeadStretch) -> DeadShape:
    return DeadShape(
        track=d.stand.piece.track,
        at=(d.stand.piece.start + d.stand.piece.end) / 2,
        title=d.title,
        status=d.stand.status,
        settings=dict(d.stand.case),
        route=list(d.stand.route),
        remedy=MendShape(label=d.remedy[:1].upper() + d.remedy[1:], patch=d.patch) if d.remedy and d.patch else None,
    )


class PlaceShape(BaseModel):
    """A place for a reversing section."""

    key: str
    title: str
    reasons: list[str]
    tracks: list[str]
    gaps: list[dict[str, float]]
    kept: bool


class OptionShape(BaseModel):
    """One way to settle a group of conflicts: its sections, why it ranks where it does, and what the change is
    called."""

    sections: list[PlaceShape]
    why: str
    label: str


class GroupShape(BaseModel):
    conflicts: list[str]
    tracks: list[str]
    options: list[OptionShape]
    no_room: list[str]
    weighed: int


class Proposed(BaseModel):
    """Where reversing sections could go, group by group, and what the control system asks for."""

    train: float
    train_text: str
    control: list[str]
    groups: list[GroupShape]


def group(facts: Facts, group: Group, train: float, keep: set[str]) -> GroupShape:
    layout = facts.layout
    tracks = sorted({t for c in group.conflicts for t in c.tracks})
    options = [_option(facts, o, k, group.options, train, keep) for k, o in enumerate(group.options)]
    no_room = [words.no_room(facts.topology, c, train) for c in group.no_room]
    return GroupShape(
        conflicts=[in_words(layout, c) for c in group.conflicts],
        tracks=tracks,
        options=options,
        no_room=no_room,
        weighed=group.weighed,
    )


def _option(
    facts: Facts, option: Option, rank: int, options: tuple[Option, ...], train: float, keep: set[str]
) -> OptionShape:
    topology, units = facts.topology, facts.layout.brief.units
    shown = []
    for s in option.sections:
        gaps = []
        for g in s.gaps:
            x, y = point_on_track(facts.layout, g.track, g.at)
            gaps.append({"x": round(x, 1), "y": round(y, 1), "at": g.at})
        shown.append(
            PlaceShape(
                key=s.key,
                title=words.title(topology, s),
                reasons=words.reasons(topology, s, train),
                gaps=gaps,
                kept=s.key in keep,
                tracks=sorted({t for n, _, _ in s.spans for t in topology.ways.chains[n].names}),
            )
        )
    count = len(option.sections)
    spare = "any train fits" if option.spare is None else f"{print_length(option.spare, units)} to spare"
    why = (
        f"{count} reverser{'s' if count != 1 else ''}, {sum(len(s.gaps) for s in option.sections)} pairs of gaps, "
        f"{spare}"
    )
    if rank:
        why += f"; {words.why_later(option.sections, options[0].sections)}"
    return OptionShape(sections=shown, why=why, label=label([p.title for p in shown]))


def label(titles: list[str]) -> str:
    joined = " and ".join(t[:1].lower() + t[1:] for t in titles)
    return f"Make {joined} {'reversing sections' if len(titles) > 1 else 'a reversing section'}"


def rails_shape(facts: Facts, revision: int) -> RailsShape:
    """What rails tells, whole."""
    topology = facts.topology
    turns = {z.number for z in topology.zones.zones if topology.is_reversing(z)}
    live = topology.live_now
    pieces = [
        PieceShape(
            track=p.track,
            start=round(p.start, 1),
            end=round(p.end, 1),
            left=carries(live[Rail(p, "left")]),
            right=carries(live[Rail(p, "right")]),
            turns=topology.zones.zone_of[p] in turns,
            circuit=facts.tree.unsensed(facts.meant[facts.rails.extent_of[p]]),
        )
        for ps in facts.rails.pieces.values()
        for p in ps
    ]
    still_open = {id(c) for c in topology.open_conflicts}
    units = facts.layout.brief.units
    conflicts = [
        ConflictShape(
            kind=c.kind,
            words=in_words(facts.layout, c),
            at=c.at,
            tracks=list(c.tracks),
            length_text=print_long_length(c.length, units),
            settled=id(c) not in still_open,
        )
        for c in topology.conflicts
    ]
    tables = [
        TableShape(node=t.node, sentences=list(t.sentences), swap=list(t.swap)) for t in words.table_advice(topology)
    ]
    dead = sum(s.status != "always" for s in topology.stands.values()) if facts.layout.feeders else 0
    return RailsShape(
        revision=revision,
        pieces=pieces,
        conflicts=conflicts,
        sections=sections(facts),
        tables=tables,
        dead=dead,
    )
