"""Routes about dividing: a proposal with the change that makes it, and an evening played many times."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from jolly_copper.api.shapes import MendShape
from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, known_scene
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import gives
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.circuits.session import Chance, Habits, play
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.dividing.choose import Division, Wish, divide
from jolly_copper.core.proposals.dividing.make import make_division
from jolly_copper.core.proposals.dividing.words import many, needs, warning
from jolly_copper.core.proposals.laying.accessory import lay_accessory_bus
from jolly_copper.core.quantities import print_current, print_length, print_long_length

router = APIRouter(prefix="/api")
PREVIEWED_EVENINGS = 300


class DistrictShape(BaseModel):
    """A district of a proposal."""

    name: str
    ink: str
    why: str
    length_text: str
    trains: list[str]
    worst_text: str
    stalled_text: str
    trip_text: str
    booster: str
    kept: bool
    over: bool
    chance_text: str


class BoosterShape(BaseModel):
    """A booster of a proposal, and what is asked of it."""

    name: str
    bought: bool
    asked_text: str
    gives_text: str
    share: float
    chance_text: str


class CutShape(BaseModel):
    """A place to gap both rails."""

    x: float
    y: float
    words: str
    new: bool


class InkShape(BaseModel):
    """Track inked by the district it would be in."""

    track: str
    start: float
    end: float
    ink: str


class DivisionShape(BaseModel):
    """A division worked out: districts, boosters, gaps, what it needs, and the change that makes it."""

    districts: list[DistrictShape]
    boosters: list[BoosterShape]
    cuts: list[CutShape]
    inks: list[InkShape]
    needs: list[str]
    warning: str | None
    change: MendShape


def chance_text(chance: Chance | None) -> str:
    """How likely a device is asked for too much, in words."""
    if chance is None or chance.over_evenings is None or chance.between is None:
        return "not known: nobody said what it gives"
    low, high = (round(100 * x) for x in chance.between)
    return f"in {100 * chance.over_evenings:.0f} of 100 evenings ({low} to {max(high, 1)})"


Amps = Annotated[float, Query(gt=0.5, le=40, allow_inf_nan=False)]
Parts = Annotated[int | None, Query(ge=1, le=12)]


@router.get("/layouts/{layout_id}/division", response_model=DivisionShape)
def division(
    layout_id: str,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    revision: int | None = None,
    booster_amps: Amps = 5.0,
    main_parts: Parts = None,
    keep: bool = False,
) -> StreamingResponse:
    """A division proposed: lines of JSON with what is being worked out, then one with `answer`."""
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    wish = Wish(booster_amps, main_parts, keep)

    def work(tell: Tell) -> DivisionShape:
        proposal = divide(facts, wish, progress=lambda what: tell({"doing": what}))
        tell({"doing": "gaps, breakers and wires"})
        patch = make_division(facts.layout, proposal, wish)
        tell({"doing": "playing evenings"})
        then = apply_patch(facts.layout, patch)
        scenes = then.scenes.get(facts.scene) if facts.scene else None
        chances = {c.device: c for c in play(then, scenes, Habits(evenings=PREVIEWED_EVENINGS))}
        return _shape(facts, proposal, patch, then, chances)

    return streamed(work, "The division")


def _shape(
    facts: Facts, proposal: Division, patch: list[dict[str, Any]], then: Layout, chances: dict[str, Chance]
) -> DivisionShape:
    layout, units = facts.layout, facts.layout.brief.units
    by_name = {d.name: i for i, d in then.devices.items()}
    breaker_of = {then.circuits[d.output].name: i for i, d in then.devices.items() if d.kind == "breaker"}
    ink_of = {c.name: c.ink for c in then.circuits.values()}
    inks = [ink_of[d.name] for d in proposal.districts]
    districts = [
        DistrictShape(
            name=d.name,
            ink=inks[k],
            why=d.why,
            length_text=print_long_length(d.length, units),
            trains=[layout.trains[t].name for t in d.trains],
            worst_text=print_current(d.worst),
            stalled_text=print_current(d.stalled),
            trip_text=print_current(d.trip),
            booster=proposal.boosters[d.booster].name,
            kept=d.kept is not None,
            over=d.worst > d.trip + 1e-9,
            chance_text=chance_text(chances.get(breaker_of.get(d.name, ""))),
        )
        for k, d in enumerate(proposal.districts)
    ]
    boosters = [
        BoosterShape(
            name=b.name,
            bought=b.device is None,
            asked_text=print_current(b.asked),
            gives_text=print_current(b.gives),
            share=b.asked / b.gives,
            chance_text=chance_text(chances.get(by_name.get(b.name, ""))),
        )
        for b in proposal.boosters
    ]
    cuts = []
    for edge in proposal.cuts:
        x, y = point_on_track(layout, edge.track, edge.at)
        where = f"{layout.tracks[edge.track].name}, {print_length(edge.at, units)} from its A end: {edge.why}"
        cuts.append(CutShape(x=round(x, 1), y=round(y, 1), words=where, new=not edge.gaps))
    drawn = [
        InkShape(track=t, start=start, end=end, ink=inks[k])
        for k, d in enumerate(proposal.districts)
        for n in d.stretches
        for t, start, end in proposal.plan.stretches[n].pieces
    ]
    label = f"Divide into {many(len(districts), 'district')} on {many(len(boosters), 'booster')}"
    return DivisionShape(
        districts=districts,
        boosters=boosters,
        cuts=cuts,
        inks=drawn,
        needs=needs(layout, proposal, then),
        warning=warning(layout, proposal),
        change=MendShape(label=label, patch=patch),
    )


class ChanceShape(BaseModel):
    """What a source or breaker met over all evenings."""

    device: str
    name: str
    kind: str
    mean_text: str
    usual_text: str
    most_text: str
    gives_text: str | None
    share: float | None
    """The busiest of twenty minutes over what it gives."""
    over: bool
    chance_text: str
    minutes_text: str


class SessionShape(BaseModel):
    """Evenings played."""

    scene: str | None
    words: str
    chances: list[ChanceShape]


@router.get("/layouts/{layout_id}/session", response_model=SessionShape)
def session(
    layout_id: str,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    revision: int | None = None,
    evenings: Annotated[int, Query(ge=100, le=5000)] = 1000,
    minutes: Annotated[int, Query(ge=10, le=600)] = 180,
    stays: Annotated[float, Query(ge=1, le=60, allow_inf_nan=False)] = 5.0,
    running: Annotated[float, Query(ge=0, le=1, allow_inf_nan=False)] = 0.7,
    seed: Annotated[int, Query(ge=0, le=10**9)] = 1,
) -> StreamingResponse:
    """An evening of the scene played many times: the chance that each source and breaker is asked for too much."""
    found = store.get(layout_id, revision)
    layout, name = found.layout, known_scene(found, scene)
    facts = worked.facts(found, name)
    habits = Habits(evenings, minutes, stays, running, seed)

    def work(tell: Tell) -> SessionShape:
        chosen = layout.scenes[name] if name else None
        chances = play(layout, chosen, habits, lambda done, total: tell({"done": done, "total": total}), facts.rails)
        rows = []
        for c in chances:
            device = layout.devices[c.device]
            limit = gives(layout, c.device)
            rows.append(
                ChanceShape(
                    device=c.device,
                    name=device.name,
                    kind=device.kind,
                    mean_text=print_current(c.mean),
                    usual_text=print_current(c.usual),
                    most_text=print_current(c.most),
                    gives_text=None if limit is None else print_current(limit),
                    share=None if limit is None else c.usual / limit,
                    over=bool(c.over_minutes),
                    chance_text=chance_text(c),
                    minutes_text="" if c.over_minutes is None else f"{100 * c.over_minutes:.1f} % of the time",
                )
            )
        told = (
            f"{evenings} evenings of {minutes} minutes; a train stays {stays:g} minutes on one circuit and runs "
            f"{100 * running:.0f} % of the time. "
            "It compares designs; how your trains really move nobody has measured."
        )
        return SessionShape(scene=name, words=told, chances=rows)

    return streamed(work, "The session")


@router.get("/layouts/{layout_id}/accessory-bus")
def accessory_bus(
    layout_id: str, store: StoreUsed, device: Annotated[str, Query(max_length=40)], revision: int | None = None
) -> MendShape:
    """The change that lays a bus from a supply or step-down to its loads on the plan."""
    layout = store.get(layout_id, revision).layout
    patch = lay_accessory_bus(layout, device)
    return MendShape(label=f"Lay the bus of {layout.devices[device].name}", patch=patch)
