"""What is told of trains: what they draw, and what a scene asks of every source and breaker."""

from __future__ import annotations

from pydantic import BaseModel

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.loads import train_amps
from jolly_copper.core.quantities import print_current


class Starting(BaseModel):
    """A starting guess: A."""

    idle: float
    running: float
    stall: float
    inrush: float


class TrainDraws(BaseModel):
    running_text: str
    idling_text: str
    guessed: bool
    """Whether one of its engines still goes by a guess."""


class AskedShape(BaseModel):
    """What one source or breaker may be asked for in the scene."""

    device: str
    name: str
    kind: str
    worst: float
    worst_text: str
    stalled_text: str
    steady_text: str
    lit_text: str
    inrush_text: str
    starts_text: str | None
    restarts: bool
    """Whether it lets all of it start together after a trip."""
    gives_text: str | None
    room_text: str | None
    over: bool
    more: int | None
    trains: list[str]


class FleetShape(BaseModel):
    """What every train draws, and what the scene asks of every source and breaker at worst."""

    scene: str | None
    trains: dict[str, TrainDraws]
    asked: list[AskedShape]
    total_text: str
    guesses: int


def fleet_shape(facts: Facts) -> FleetShape:
    """Trains and the budget of a scene."""
    layout, name = facts.layout, facts.scene
    chosen = layout.scenes[name] if name else None
    test = layout.brief.rules.test_train
    rows = []
    for a in facts.asked:
        device, room = layout.devices[a.device], a.head_room
        rows.append(
            AskedShape(
                device=a.device,
                name=device.name,
                kind=device.kind,
                worst=a.worst,
                worst_text=print_current(a.worst),
                stalled_text=print_current(a.stalled),
                steady_text=print_current(a.steady),
                lit_text=print_current(a.lit),
                inrush_text=print_current(a.inrush),
                starts_text=None if a.starts is None else print_current(a.starts),
                restarts=a.starts is None or a.inrush <= a.starts + 1e-9,
                gives_text=print_current(a.gives) if a.gives is not None else None,
                room_text=None if room is None else ("−" if room < -1e-9 else "") + print_current(abs(room)),
                over=room is not None and room < -1e-9,
                more=a.more_trains(test),
                trains=[layout.trains[t].name for t in a.trains],
            )
        )
    draws = {
        i: TrainDraws(
            running_text=print_current(train_amps(layout, t)),
            idling_text=print_current(train_amps(layout, t, False)),
            guessed=any(not layout.locos[e].measured for e in t.engines),
        )
        for i, t in layout.trains.items()
    }
    total = sum(
        train_amps(layout, layout.trains[p.train], p.doing == "running") for p in (chosen.placements if chosen else [])
    )
    guesses = sum(not k.measured for k in layout.locos.values())
    return FleetShape(scene=name, trains=draws, asked=rows, total_text=print_current(total), guesses=guesses)
