"""What is told of detection: sections with their channels, what they see, boards, a resistor axle, the choices."""

from __future__ import annotations

import itertools
from typing import Literal

from pydantic import BaseModel

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import point_on_track, run_length
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.signalling import Detecting
from jolly_copper.core.layout.underways import cable_length
from jolly_copper.core.materials.detectors import DETECTORS, usual_kind
from jolly_copper.core.quantities import print_current, print_length, print_long_length, print_ohms, print_volts
from jolly_copper.core.rails.pieces import Piece
from jolly_copper.core.signals.numbering import module_words
from jolly_copper.core.signals.occupancy import sensing
from jolly_copper.core.signals.report_line import Stop, hand_line, report_line
from jolly_copper.core.signals.sensitivity import sensitivity, vanishing


class InkedPiece(BaseModel):
    """A stretch of track and the detection section (by number) it is part of."""

    track: str
    start: float
    end: float
    section: int


class SensedShape(BaseModel):
    """A stretch between gaps with what detects it, and what that sees."""

    number: int
    name: str
    section: str | None
    block: str | None
    role: str
    board: str | None
    board_name: str | None
    channel: int | None
    address: int | None
    district: str | None
    ink: str
    track: str
    at: float
    x: float
    y: float
    length: float
    length_text: str
    home_text: str
    """Wire home of its channel, all runs together; empty without one."""
    sees: str
    misses: str
    fooled: str
    tracks: list[str]


class DetectorBoardShape(BaseModel):
    """A board of channels."""

    id: str
    name: str
    kind: str
    channels: int
    used: int
    first: int
    last: int
    x: float
    y: float
    sensed: str
    threshold_text: str
    home_text: str
    module_text: str
    """Which modules it is, where boards are numbered by module."""


class VanishShape(BaseModel):
    train: str
    words: str


class DetectionShape(BaseModel):
    """Everything step Detect and look Blocks show."""

    revision: int
    pieces: list[InkedPiece]
    sections: list[SensedShape]
    boards: list[DetectorBoardShape]
    vanishing: list[VanishShape]
    start_kind: Literal["current transformer", "diode drop", "opto", "isolated rail"]
    words: str
    line: list[str]
    """Stops of the report line in order, with the length of each leg; empty where the club wants none."""
    hand_line: list[str]
    """The same of the line of the hand controllers; empty where there are no sockets."""


def sections_shape(facts: Facts) -> list[SensedShape]:
    """Every stretch between gaps, as the table and the plan show it."""
    layout, units = facts.layout, facts.layout.brief.units
    seen = {s.number: s for s in sensitivity(facts)}
    runs: dict[str, float] = {}
    for run in layout.runs.values():
        runs[run.circuit] = runs.get(run.circuit, 0.0) + run_length(run)
    found = []
    for s in sensing(layout, facts.rails):
        extent = facts.rails.extents[s.number]
        widest: Piece = max(extent, key=lambda p: (p.end - p.start, p.track))
        at = (widest.start + widest.end) / 2
        x, y = point_on_track(layout, widest.track, at)
        device = layout.devices[s.device] if s.device else None
        see = seen.get(s.number)
        found.append(
            SensedShape(
                number=s.number,
                name=s.name,
                section=s.section,
                block=layout.blocks[s.block].name if s.block else None,
                role=layout.sections[s.section].role if s.section else "",
                board=s.board,
                board_name=layout.detectors[s.board].name if s.board else None,
                channel=s.channel,
                address=s.address,
                district=layout.circuits[device.input].name if device and device.input else None,
                ink=layout.circuits[device.output].ink if device else "",
                track=widest.track,
                at=round(at, 1),
                x=round(x, 1),
                y=round(y, 1),
                length=sum(p.end - p.start for p in extent),
                length_text=print_length(sum(p.end - p.start for p in extent), units),
                home_text=print_long_length(runs[device.output], units) if device and device.output in runs else "",
                sees=", ".join(see.sees) if see else "",
                misses=", ".join(see.blind) if see else "",
                fooled=", ".join(see.ghost) if see else "",
                tracks=sorted({p.track for p in extent}),
            )
        )
    return found


INKS = ("#B5622B", "#3B5B92", "#4F7A3A", "#8A3A5E", "#9A7B16", "#4C8C9A", "#7A4E8C", "#6F9A3A", "#B0467C", "#6B5B2E")


class AxleShape(BaseModel):
    """A resistor axle worked out."""

    amps_text: str
    watts_text: str
    buy_text: str
    each_car: int
    train: int
    words: str


class DetectorKindShape(BaseModel):
    kind: str
    drop_text: str
    threshold_text: str
    ohms_text: str
    common_input: bool
    why: str


class DetectingShape(BaseModel):
    kinds: list[DetectorKindShape]
    usual: Detecting
    per_block: list[str]
    gaps: list[str]
    order: str


def detection_shape(facts: Facts, revision: int) -> DetectionShape:
    """What detection tells, whole."""
    layout, units = facts.layout, facts.layout.brief.units
    pieces = [
        InkedPiece(track=p.track, start=round(p.start, 1), end=round(p.end, 1), section=facts.rails.extent_of[p])
        for ps in facts.rails.pieces.values()
        for p in ps
    ]
    sections = sections_shape(facts)
    boards = []
    for i, board in sorted(layout.detectors.items(), key=lambda b: natural(b[1].name)):
        mine = [d for d in layout.devices.values() if d.board == i]
        outs = {d.output for d in mine}
        home = sum(run_length(r) for r in layout.runs.values() if r.circuit in outs)
        boards.append(
            DetectorBoardShape(
                id=i,
                name=board.name,
                kind=board.kind,
                channels=board.channels,
                used=len(mine),
                first=board.address,
                last=board.address + board.channels - 1,
                x=board.at.x,
                y=board.at.y,
                sensed=board.sensed,
                threshold_text=print_current(board.threshold),
                home_text=print_long_length(home, units) if home else "",
                module_text=module_words(board, layout.brief.detecting),
            )
        )
    gone = [
        VanishShape(
            train=v.train,
            words=f"{v.name}: about {v.cars} dark car{'s' if v.cars != 1 else ''}, {v.axles} resistor "
            f"axle{'s' if v.axles != 1 else ''}; {v.wanted} wanted so that every car shows",
        )
        for v in vanishing(facts)
    ]
    used, all_channels = sum(b.used for b in boards), sum(b.channels for b in boards)
    seen = [s for s in sections if s.board is not None]
    dark = [s for s in sections if s.board is None and s.length > 60]
    words = (
        f"{len(seen)} sections on {used} of {all_channels} channels; {len(layout.blocks)} blocks. {len(dark)} "
        f"stretches have no detector."
        if boards
        else "No detector yet."
    )
    return DetectionShape(
        line=_line(layout, report_line(layout)),
        hand_line=_line(layout, hand_line(layout)),
        revision=revision,
        pieces=pieces,
        sections=sections,
        boards=boards,
        vanishing=gone,
        words=words,
        start_kind=usual_kind(layout.brief.control, layout.brief.detecting.kind),
    )


def detecting_shape() -> DetectingShape:
    """The choices there are, with their reasons."""
    kinds = [
        DetectorKindShape(
            kind=k,
            drop_text=print_volts(u.drop) if u.drop else "none",
            threshold_text=print_current(u.threshold),
            ohms_text=print_ohms(u.ohms),
            common_input=u.common_input,
            why=u.why,
        )
        for k, u in DETECTORS.items()
    ]
    return DetectingShape(
        kinds=kinds,
        usual=Detecting(),
        per_block=[
            "One: a train is in the block or not. Fewest channels.",
            "Two: it tells a train that comes in from one that is about to leave.",
            "Three: besides, that a train is all the way in, so that it can be made to stop at its end.",
        ],
        gaps=[
            "One rail, always the sensed one: half the cutting, and the other rail stays whole for its current.",
            "Both rails: a section can become a district of its own later.",
        ],
        order="First the breaker, then the reverser, then the detectors: a detector sees its own section and nothing "
        "of the reverser's electronics.",
    )


def _line(layout: Layout, stops: tuple[Stop, ...]) -> list[str]:
    """A line from board to board, stop by stop."""
    legs = [cable_length(layout, a.at, b.at) for a, b in itertools.pairwise(stops)]
    return [s.name for s in stops[:1]] + [
        f"{stop.name}, {print_length(leg, layout.brief.units)} on" for stop, leg in zip(stops[1:], legs, strict=True)
    ]
