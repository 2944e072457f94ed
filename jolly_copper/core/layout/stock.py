"""The part of the document that rolls: kinds of locomotive, trains, and scenes of who is where at once."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jolly_copper.core.layout.fields import Amperes, Id, LeafletText, Millimetres, Model, Name, Number, Text, Volts

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
    fill_seconds: Annotated[Number, Field(gt=0, le=30)] | None = Field(
        default=None, description="How long its decoder takes its inrush when power returns, s."
    )
    hold_seconds: Annotated[Number, Field(gt=0, le=60)] | None = Field(
        default=None, description="How long it runs on without power, s."
    )
    capacitor: bool = Field(
        default=False, description="A suppression capacitor of its DC days is still across its pickups."
    )
    runs_on: RunsOn | None = Field(default=None, description="The control it is made for; not known when not given.")


class Engine(Model):
    """One engine of the club's roster, by the number it answers to. kind: what it draws until it is measured itself.

    idle, running, stall: measured of this one, A: standing, running, and held for a moment.
    """

    name: Name
    kind: Id
    number: Annotated[int, Field(ge=1, le=9999)] | None = Field(default=None, description="What it answers to.")
    most_volts: Volts | None = Field(default=None, description="The most it stands, V, as on its leaflet.")
    idle: Amperes | None = None
    running: Amperes | None = None
    stall: Amperes | None = None
    stops_in: Annotated[Number, Field(gt=0, le=20000)] | None = Field(
        default=None, description="What it needs to stop from line speed, mm on the layout."
    )
    settings: LeafletText = ""
    reacts: Text = Field(default="", description="What it does on DC, in a braking section, after a short.")
    troubles: Text = ""


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
    scale_kmh: Annotated[Number, Field(gt=0, le=400)] | None = Field(
        default=None, description="Its line speed, km/h of the real thing; usual of a local line when not given."
    )
    stops_in: Annotated[Number, Field(gt=0, le=20000)] | None = Field(
        default=None, description="What it needs to stop from line speed, mm on the layout."
    )
    helpers: Annotated[int, Field(ge=0, le=11)] = Field(
        default=0, description="How many of its engines, the last ones, push at its rear."
    )


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
