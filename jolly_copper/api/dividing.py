"""Routes about dividing: a proposal with the change that makes it, and an evening played many times."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import StreamingResponse

from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, known_scene
from jolly_copper.core.circuits.giving import gives
from jolly_copper.core.circuits.session import Habits, play
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.dividing.choose import Wish, divide
from jolly_copper.core.proposals.dividing.make import make_division
from jolly_copper.core.proposals.laying.accessory import lay_accessory_bus
from jolly_copper.core.quantities import print_current
from jolly_copper.telling.dividing import ChanceShape, DivisionShape, SessionShape, chance_text, shape
from jolly_copper.telling.shapes import MendShape

router = APIRouter(prefix="/api")


PREVIEWED_EVENINGS = 300


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
        return shape(facts, proposal, patch, then, chances)

    return streamed(work, "The division")


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
