"""Routes about block detection: sections with their channels, what they see, blocks proposed, addresses, a resistor
axle."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query, Response

from jolly_copper.api.sums import FieldError
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.blocking.make import (
    renumber,
    take_off,
)
from jolly_copper.core.quantities import print_current
from jolly_copper.core.signals.sensitivity import MARGIN, axle, axles_needed
from jolly_copper.telling.detection import (
    AxleShape,
    DetectingShape,
    DetectionShape,
    detecting_shape,
    detection_shape,
)
from jolly_copper.telling.shapes import MendShape

router = APIRouter(prefix="/api")


@router.get("/layouts/{layout_id}/detection", response_model=DetectionShape)
def detection(
    layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: int | None = None
) -> Response:
    found = store.get(layout_id, revision)
    facts = worked.facts(found, known_scene(found, scene))
    return as_json(detection_shape(facts, found.number))


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


@router.get("/sums/axle")
def axle_sum(
    volts: Annotated[float, Query(allow_inf_nan=False)],
    ohms: Annotated[float, Query(allow_inf_nan=False)],
    threshold: Annotated[float, Query(allow_inf_nan=False)],
    cars: Annotated[int, Query(ge=1, le=200)] = 10,
) -> AxleShape:
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
        f"One axle draws {one.amps / threshold * 100:.0f} % of the threshold. So that every car shows by itself, "
        f"{MARGIN:g} times over, it needs {each}; "
        f"only the last car of each train: {each} in all."
    )
    return AxleShape(
        amps_text=print_current(one.amps),
        watts_text=f"{one.watts * 1000:.0f} mW",
        buy_text=buy,
        each_car=each,
        train=each * cars,
        words=words,
    )


@router.get("/detecting-schools")
def detecting_schools() -> DetectingShape:
    """The choices there are, with their reasons."""
    return detecting_shape()
