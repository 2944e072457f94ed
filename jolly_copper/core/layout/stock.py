"""The part of the document that rolls: kinds of locomotive, trains, and scenes of who is where at once."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jolly_copper.core.layout.fields import Amperes, Id, Millimetres, Model, Name, Number, Volts

TrackUse = Literal["main", "branch", "siding", "yard", "staging", "engine terminal", "industry", "programming"]


RunsOn = Literal["digital", "direct current", "both"]


class LocoKind(Model):
    """A kind of locomotive and what it draws, A. `measured` false means a starting guess."""

    name: Name
    idle: Amperes
    running: Amperes
    stall: Amperes
    inrush: Amperes | None = Field(
        default=None, description="For the moment power returns, A: decoder and sound filling up; idle when not given."
    )
    measured: bool = False
    measured_on: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")] | None = Field(
        default=None, description="Day it was measured."
    )
    most_volts: Volts | None = Field(
        default=None, description="The most its decoder or motor stands, V, as on its leaflet."
    )
    pickups: Millimetres | None = Field(default=None, description="First to last wheel that picks up power, mm.")
    runs_on: RunsOn | None = Field(default=None, description="The control it is made for; not known when not given.")


class Train(Model):
    """A train: its engines, its length and what its coaches draw."""

    name: Name
    engines: Annotated[list[Id], Field(min_length=1, max_length=12)]
    length: Millimetres
    lit_cars: Annotated[int, Field(ge=0, le=100)] = 0
    amps_per_lit_car: Amperes = 0.03
    resistor_axles: Annotated[int, Field(ge=0, le=400)] = 0
    ohms_per_axle: Annotated[Number, Field(ge=100, le=1e6)] = 10000
    metal_wheels: bool = Field(default=True, description="Metal wheels, lit cars or a helper reach from end to end.")


class Placement(Model):
    """What one train does in a scene: runs or idles somewhere, or stands at one place.

    It roams the track of these circuits (and of what hangs below them) and of these uses; both must hold where both
    are given.
    """

    train: Id
    doing: Literal["running", "idling"] = "running"
    circuits: Annotated[list[Id], Field(max_length=60)] = []
    uses: Annotated[list[TrackUse], Field(max_length=12)] = []
    track: Id | None = None
    at: Millimetres | None = None


class Scene(Model):
    """Who runs, idles or is parked where, at once, and how selectors lie and bridges point meanwhile."""

    name: Name
    placements: Annotated[list[Placement], Field(max_length=200)] = []
    selectors: dict[Id, Id | None] = Field(
        default={}, description="How selectors lie in it: the circuit each gives its track to, or null for off."
    )
    bridges: dict[Id, Annotated[str, Field(max_length=20)]] = Field(
        default={}, description="The port each bridge of a turntable or traverser meets in it."
    )
