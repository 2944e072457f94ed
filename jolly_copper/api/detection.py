"""Routes about block detection: sections with their channels, what they see, blocks proposed, addresses, a resistor axle."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from jolly_copper.api.shapes import MendShape
from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.sums import FieldError
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import point_on_track, run_length
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.signalling import Detecting
from jolly_copper.core.materials.detectors import DETECTORS, usual_kind
from jolly_copper.core.proposals.blocking.lots import NAMED
from jolly_copper.core.proposals.blocking.make import (
    Blocking,
    make_blocks,
    propose_blocks,
    renumber,
    take_off,
    with_wishes,
)
from jolly_copper.core.quantities import print_current, print_length, print_long_length, print_ohms, print_volts
from jolly_copper.core.rails.pieces import Piece
from jolly_copper.core.signals.occupancy import sensing
from jolly_copper.core.signals.sensitivity import MARGIN, axle, axles_needed, sensitivity, vanishing

router = APIRouter(prefix="/api")


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
        found.append(SensedShape(
            number=s.number, name=s.name, section=s.section, block=layout.blocks[s.block].name if s.block else None,
            role=layout.sections[s.section].role if s.section else "", board=s.board, board_name=layout.detectors[s.board].name if s.board else None,
            channel=s.channel, address=s.address, district=layout.circuits[device.input].name if device and device.input else None,
            ink=layout.circuits[device.output].ink if device else "", track=widest.track, at=round(at, 1), x=round(x, 1), y=round(y, 1),
            length=sum(p.end - p.start for p in extent), length_text=print_length(sum(p.end - p.start for p in extent), units),
            home_text=print_long_length(runs[device.output], units) if device and device.output in runs else "", sees=", ".join(see.sees) if see else "",
            misses=", ".join(see.blind) if see else "", fooled=", ".join(see.ghost) if see else "", tracks=sorted({p.track for p in extent}),
        ))  # fmt: skip
    return found


@router.get("/layouts/{layout_id}/detection", response_model=DetectionShape)
def detection(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> Response:
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    layout, units = facts.layout, facts.layout.brief.units
    pieces = [
        InkedPiece(track=p.track, start=round(p.start, 1), end=round(p.end, 1), section=facts.rails.extent_of[p])
        for ps in facts.rails.pieces.values() for p in ps
    ]  # fmt: skip
    sections = sections_shape(facts)
    boards = []
    for i, board in sorted(layout.detectors.items(), key=lambda b: natural(b[1].name)):
        mine = [d for d in layout.devices.values() if d.board == i]
        outs = {d.output for d in mine}
        home = sum(run_length(r) for r in layout.runs.values() if r.circuit in outs)
        boards.append(DetectorBoardShape(
            id=i, name=board.name, kind=board.kind, channels=board.channels, used=len(mine), first=board.address, last=board.address + board.channels - 1,
            x=board.at.x, y=board.at.y, sensed=board.sensed, threshold_text=print_current(board.threshold), home_text=print_long_length(home, units) if home else "",
        ))  # fmt: skip
    gone = [
        VanishShape(train=v.train, words=f"{v.name}: about {v.cars} dark car{'s' if v.cars != 1 else ''}, {v.axles} resistor axle{'s' if v.axles != 1 else ''}; {v.wanted} wanted so that every car shows")
        for v in vanishing(facts)
    ]  # fmt: skip
    used, all_channels = sum(b.used for b in boards), sum(b.channels for b in boards)
    seen = [s for s in sections if s.board is not None]
    dark = [s for s in sections if s.board is None and s.length > 60]
    words = (
        f"{len(seen)} sections on {used} of {all_channels} channels; {len(layout.blocks)} blocks. {len(dark)} stretches have no detector."
        if boards else "No detector yet."
    )  # fmt: skip
    return as_json(
        DetectionShape(
            revision=found.number,
            pieces=pieces,
            sections=sections,
            boards=boards,
            vanishing=gone,
            words=words,
            start_kind=usual_kind(layout.brief.control, layout.brief.detecting.kind),
        )
    )


class LotShape(BaseModel):
    """A detection section proposed."""

    name: str
    block: str
    role: str
    length_text: str
    district: str
    board: int
    """Number of the board its channel is on, from 1; 0 for none."""
    why: str


class LotCut(BaseModel):
    x: float
    y: float
    words: str
    new: bool = True


class LotInk(BaseModel):
    track: str
    start: float
    end: float
    ink: str


class BlockingShape(BaseModel):
    """Blocks proposed, and the change that makes them."""

    words: list[str]
    lots: list[LotShape]
    cuts: list[LotCut]
    inks: list[LotInk]
    blind: list[str]
    bound_text: str
    change: MendShape


INKS = ("#B5622B", "#3B5B92", "#4F7A3A", "#8A3A5E", "#9A7B16", "#4C8C9A", "#7A4E8C", "#6F9A3A", "#B0467C", "#6B5B2E")


@router.get("/layouts/{layout_id}/blocking", response_model=BlockingShape)
def blocking(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None,
    per_block: Annotated[int, Query(ge=1, le=3)] = 1, gaps: Literal["one rail", "both rails"] = "one rail", sensed: Literal["A", "B"] = "A",
    kind: Literal["current transformer", "diode drop", "opto", "isolated rail"] = "current transformer", channels: Annotated[int, Query(ge=1, le=64)] = 8,
    spare: Annotated[float, Query(ge=0, le=1, allow_inf_nan=False)] = 0.1, first_address: Annotated[int, Query(ge=1, le=9999)] = 1,
    shortest: Annotated[float | None, Query(ge=100, le=1e5, allow_inf_nan=False)] = None, stopping: Annotated[float | None, Query(ge=0, le=1e5, allow_inf_nan=False)] = None,
) -> StreamingResponse:  # fmt: skip
    """Blocks proposed: lines of JSON with what is being worked out, then one with `answer`."""
    found = store.get(layout_id, revision)
    layout = found.layout

    def work(tell: Tell) -> BlockingShape:
        wishes: dict[str, Any] = {
            "per_block": per_block, "gaps": gaps, "sensed": sensed, "kind": kind, "channels": channels, "spare": spare, "first_address": first_address, "shortest_block": shortest,
        }  # fmt: skip
        wished = with_wishes(layout, stopping, **wishes)
        tell({"doing": "cuts, blocks and boards"})
        proposal = propose_blocks(wished)
        patch = make_blocks(wished, proposal, lambda doing: tell({"doing": doing}))
        keep = [{"op": "replace", "path": "/brief/detecting", "value": wished.brief.detecting.model_dump(mode="json")}]
        if wished.brief.signalling != layout.brief.signalling:
            keep.append(
                {"op": "replace", "path": "/brief/signalling", "value": wished.brief.signalling.model_dump(mode="json")}
            )
        return _blocking_shape(wished, proposal, [*keep, *patch])

    return streamed(work, "The blocks")


def _blocking_shape(layout: Layout, proposal: Blocking, patch: list[dict[str, Any]]) -> BlockingShape:
    units, plan = layout.brief.units, proposal.plan
    board_of: dict[int, int] = {}
    boards = sorted(
        ((min(g.lots[m] for m in members), [g.lots[m] for m in members]) for g in proposal.groups for members in g.packing.members),
        key=lambda b: b[0],
    )  # fmt: skip
    for number, (_, lots) in enumerate(boards, start=1):
        for n in lots:
            board_of[n] = number
    shapes = [
        LotShape(name=x.name, block=x.block, role=x.role, length_text=print_length(x.length, units), why=x.why, board=board_of.get(n, 0),
                 district=layout.circuits[x.circuit].name if x.circuit else "fed by nothing yet")
        for n, x in enumerate(plan.lots)
    ]  # fmt: skip
    cuts = []
    for c in plan.cuts:
        x, y = point_on_track(layout, c.track, c.at)
        rails = "both rails" if c.rails == "both" else f"the {c.rails} rail"
        cuts.append(LotCut(x=round(x, 1), y=round(y, 1), words=f"{layout.tracks[c.track].name}, {rails}: {c.why}"))
    inks = [
        LotInk(track=p.track, start=p.start, end=p.end, ink=INKS[n % len(INKS)])
        for n, lot in enumerate(plan.lots) for number in lot.extents for p in plan.rails.extents[number]
    ]  # fmt: skip
    blocks = len({x.block for x in plan.lots})
    used = len(plan.lots) - len(proposal.unfed)
    words = [
        f"{blocks} blocks, {len(plan.lots)} detection sections", f"{len(plan.cuts)} new gaps", f"{proposal.boards} boards, {proposal.channels - used} channels spare",
        f"addresses {layout.brief.detecting.first_address} to {layout.brief.detecting.first_address + proposal.channels - 1}",
    ]  # fmt: skip
    if proposal.unfed:
        words.append(f"{len(proposal.unfed)} sections are fed by nothing and get no channel")
    gap = (proposal.wire - proposal.bound) / proposal.wire if proposal.wire else 0.0
    proved = (
        "No sharing out has less wire."
        if gap < 1e-3
        else f"No sharing out on so many boards has over {gap * 100:.0f} % less wire."
    )
    home = f"{print_long_length(proposal.wire, units)} from sections to boards along the boards. {proved}"
    blind = sorted(
        {
            f"{layout.tracks[max(plan.rails.extents[n], key=lambda p: p.end - p.start).track].name}: {why}"
            for n, why in plan.blind
            if "too short" not in why
        }
    )
    return BlockingShape(
        words=words, lots=shapes, cuts=cuts, inks=inks, blind=blind, bound_text=f"{home} {NAMED}",
        change=MendShape(label=f"Block it: {blocks} blocks on {proposal.boards} boards", patch=patch),
    )  # fmt: skip


@router.get("/layouts/{layout_id}/renumbering")
def renumbering(
    layout_id: str, store: StoreUsed, first: Annotated[int, Query(ge=1, le=9999)] = 1, revision: int | None = None
) -> MendShape:
    """All addresses from a first one on, without a hole: the change, and in its label which boards move."""
    layout = store.get(layout_id, revision).layout
    patch = renumber(layout, first)
    then = apply_patch(layout, patch).detectors
    names = ", ".join(f"{b.name} from {b.address}" for i, b in then.items() if b != layout.detectors[i])
    return MendShape(label=f"Renumber: {names}"[:200], patch=patch)


@router.get("/layouts/{layout_id}/detection-off")
def detection_off(layout_id: str, store: StoreUsed, revision: int | None = None) -> MendShape:
    """The change that takes all detection off."""
    layout = store.get(layout_id, revision).layout
    return MendShape(label=f"Take off {len(layout.detectors)} detector boards with their wire", patch=take_off(layout))


class AxleShape(BaseModel):
    """A resistor axle worked out."""

    amps_text: str
    watts_text: str
    buy_text: str
    each_car: int
    train: int
    words: str


@router.get("/sums/axle")
def axle_sum(
    volts: Annotated[float, Query(allow_inf_nan=False)], ohms: Annotated[float, Query(allow_inf_nan=False)], threshold: Annotated[float, Query(allow_inf_nan=False)],
    cars: Annotated[int, Query(ge=1, le=200)] = 10,
) -> AxleShape:  # fmt: skip
    """What one axle draws and gives off, and how many a train needs so that no car vanishes."""
    if not 1 <= volts <= 30:
        raise FieldError("volts", "Track volts are between 1 and 30 V.")
    if not 100 <= ohms <= 1e6:
        raise FieldError("ohms", "An axle's resistor is between 100 Ω and 1 MΩ.")
    if not 0.0001 <= threshold <= 1:
        raise FieldError("threshold", "A threshold is between 0.1 mA and 1 A.")
    one, each = axle(volts, ohms), axles_needed(threshold, volts, ohms)
    buy = f"{one.buy:g} W" if one.buy is not None else "more than an axle takes: a larger resistance"
    words = (
        f"One axle draws {one.amps / threshold * 100:.0f} % of the threshold. So that every car shows by itself, {MARGIN:g} times over, it needs {each}; "
        f"only the last car of each train: {each} in all."
    )
    return AxleShape(
        amps_text=print_current(one.amps), watts_text=f"{one.watts * 1000:.0f} mW", buy_text=buy, each_car=each, train=each * cars, words=words
    )  # fmt: skip


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


@router.get("/detecting-schools")
def detecting_schools() -> DetectingShape:
    """The choices there are, with their reasons."""
    kinds = [
        DetectorKindShape(kind=k, drop_text=print_volts(u.drop) if u.drop else "none", threshold_text=print_current(u.threshold), ohms_text=print_ohms(u.ohms), common_input=u.common_input, why=u.why)
        for k, u in DETECTORS.items()
    ]  # fmt: skip
    return DetectingShape(
        kinds=kinds, usual=Detecting(),
        per_block=[
            "One: a train is in the block or not. Fewest channels.",
            "Two: it tells a train that comes in from one that is about to leave.",
            "Three: besides, that a train is all the way in, so that it can be made to stop at its end.",
        ],
        gaps=[
            "One rail, always the sensed one: half the cutting, and the other rail stays whole for its current.",
            "Both rails: a section can become a district of its own later.",
        ],
        order="First the breaker, then the reverser, then the detectors: a detector sees its own section and nothing of the reverser's electronics.",
    )  # fmt: skip
