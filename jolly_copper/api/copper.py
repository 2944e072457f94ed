"""Routes about copper: a railroad laid by the chosen school, and its runs sized."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, HTTPException, Query
from fastapi.responses import StreamingResponse

from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, known_scene
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.materials.copper import Make
from jolly_copper.core.materials.joints import TerminalKind
from jolly_copper.core.proposals.laying.best_place import best_place
from jolly_copper.core.proposals.laying.corridors import Way
from jolly_copper.core.proposals.laying.feeding import Spacing
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.core.proposals.ring import NoRing, close_ring
from jolly_copper.core.proposals.sizing import Limits, designed, size_runs
from jolly_copper.core.proposals.sizing_feeders import size_feeders
from jolly_copper.core.proposals.wire_market import market
from jolly_copper.core.quantities import print_long_length, read_gauge
from jolly_copper.telling.copper import (
    BestPlaceShape,
    Laid,
    RingShape,
    SchoolsShape,
    SizedShape,
    laid,
    ring_shape,
    schools_shape,
    sized_shape,
)
from jolly_copper.telling.shapes import MendShape

router = APIRouter(prefix="/api")


@router.get("/wiring-schools")
def wiring_schools() -> SchoolsShape:
    """How feeders may be spaced, what terminals and makes of run there are, and the drops clubs size for."""
    return schools_shape()


@router.get("/layouts/{layout_id}/laying", response_model=Laid)
def laying(
    layout_id: str,
    store: StoreUsed,
    revision: int | None = None,
    spacing: Spacing = "by rail code",
    terminal: TerminalKind = "screw strip",
    make: Make = "twisted",
    anew: bool = False,
    way: Way = "under the track",
) -> StreamingResponse:
    """Buses, terminals and feeders for the whole railroad: lines of JSON with circuits done and in all, then the
    answer."""
    layout = store.get(layout_id, revision).layout
    school = School(spacing, terminal, make, anew=anew, way=way)

    def work(tell: Tell) -> Laid:
        patch = lay_railroad(layout, school, lambda done, total: tell({"done": done, "total": total}))
        return laid(layout, apply_patch(layout, patch), patch)

    return streamed(work, "The wiring")


Share = Annotated[float | None, Query(gt=0.005, le=0.5, allow_inf_nan=False)]


@router.get("/layouts/{layout_id}/sizing", response_model=SizedShape)
def sizing(
    layout_id: str,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    revision: int | None = None,
    drop: Share = None,
    feeders: bool = False,
) -> StreamingResponse:
    """The cheapest gauges that hold drop, coin test and heat: lines of JSON with sources done and in all, then the
    answer."""
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    rules = found.layout.brief.rules
    limits = Limits(drop or rules.largest_drop, rules.coin_margin)
    if not facts.layout.runs:
        raise DrawingError("There is no run to size yet: lay the railroad first.")

    def work(tell: Tell) -> SizedShape:
        sized = size_runs(facts, limits, lambda done, total: tell({"done": done, "total": total}))
        tell({"done": 0, "total": 1})  # whoever hung up need not wait for the feeders
        design = {x.run: read_gauge(x.after) for s in sized for x in s.runs}
        sizes = size_feeders(derive(designed(facts.layout, design), facts.scene), limits) if feeders else []
        return sized_shape(facts, sized, market(facts.layout), limits, sizes)

    return streamed(work, "The sizes")


@router.get("/layouts/{layout_id}/best-place")
def best(
    layout_id: str, store: StoreUsed, device: Annotated[str, Query(max_length=40)], revision: int | None = None
) -> BestPlaceShape:
    """The middle of what a source feeds, as wire goes."""
    layout = store.get(layout_id, revision).layout
    found = best_place(layout, device)
    units, name = layout.brief.units, layout.devices[device].name

    def text(mm: float) -> str:
        return print_long_length(mm, units)

    if found.here:
        words = (
            f"{name} stands well: {text(found.mean_now)} of bus to a feeder in the mean, "
            f"{text(found.farthest_now)} to the farthest; no place is better by a foot."
        )
        return BestPlaceShape(words=words, change=None)
    where = board_name(layout, found.board)
    words = (
        f"{where}: {text(found.mean_then)} of bus to a feeder in the mean instead of {text(found.mean_now)}, "
        f"{text(found.farthest_then)} to the farthest "
        f"instead of {text(found.farthest_now)}. Its breakers come along. Lay its buses again afterwards."
    )
    return BestPlaceShape(words=words, change=MendShape(label=f"Move {name} to {where}", patch=found.patch))


@router.get("/layouts/{layout_id}/ring")
def ring(
    layout_id: str,
    store: StoreUsed,
    worked: WorkedUsed,
    run: Annotated[str, Query(max_length=40)],
    scene: Scene = None,
    revision: int | None = None,
) -> RingShape:
    """A bus that ends free, closed into a ring: volts, shorts and edges of both, and the change that makes it."""
    found = store.get(layout_id, revision)
    if run not in found.layout.runs:
        raise HTTPException(404, f"There is no run {run}.")
    facts = worked.facts(found, known_scene(found, scene))
    try:
        return ring_shape(found.layout, run, close_ring(facts, run))
    except NoRing as error:
        raise HTTPException(422, str(error)) from None
