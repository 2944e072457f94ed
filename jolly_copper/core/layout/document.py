"""The layout: one document holding what a person decided or measured. Everything else is worked out from it.

Things stand in maps by id, so a change is a short JSON Patch with a readable path such as `/runs/R3/gauge`.
Lengths in millimetres, amperes, volts, ohms, seconds.
"""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field

from jolly_copper.core.layout.dates import ClubDate
from jolly_copper.core.layout.fields import (
    Amperes,
    Bend,
    ColourName,
    Coordinate,
    Id,
    LeafletText,
    Millimetres,
    Model,
    Name,
    Number,
    Ohms,
    Point,
    Text,
    Volts,
)
from jolly_copper.core.layout.geometry import Polyline, draw
from jolly_copper.core.layout.panels import ControlPanel
from jolly_copper.core.layout.plans import RunningPlan
from jolly_copper.core.layout.rules import HouseRules
from jolly_copper.core.layout.signalling import (
    Block,
    Conductor,
    Detecting,
    DetectorBoard,
    Driver,
    Motor,
    Role,
    Signal,
    Signalling,
    Way,
)
from jolly_copper.core.layout.stock import Engine, LocoKind, Scene, TrackUse, Train
from jolly_copper.core.layout.stretches import BrakingSection, IsolatedRail
from jolly_copper.core.layout.supplies import OwnedSupply
from jolly_copper.core.layout.travel import Connector, Coupling, Travelling
from jolly_copper.core.layout.wiring import Feeder, MeasuredPart, Plug, Run, Spool, Terminal
from jolly_copper.core.materials.joints import JoinerKind
from jolly_copper.core.materials.rail import Metal

SCHEMA_VERSION = 1

Control = Literal["dcc", "dc", "ac3"]
Scale = Literal["Z", "N", "TT", "HO", "OO", "S", "O", "G"]
Rails = Literal["both", "left", "right", "centre", "outer left", "outer right", "all"]
"""The rails a gap cuts: both, left or right of two-rail track; centre, one outer, or all of three-rail track."""
DeviceKind = Literal[
    "supply",
    "step-down",
    "station",
    "booster",
    "cab",
    "transformer output",
    "breaker",
    "reverser",
    "reversing switch",
    "detector",
    "switch",
    "selector",
]
REVERSERS = frozenset({"reverser", "reversing switch"})
"""Devices whose output may stand either way round against their input."""
SwitchMade = Literal["toggle, two poles", "toggle, one pole", "rotary, two poles", "rotary, one pole"]
"""How a selector is made. A toggle has a centre position that is off; a rotary has one position more than it has
ways."""
NodeKind = Literal["joint", "bumper", "turnout", "three-way", "crossing", "slip", "turntable", "traverser"]


class Brief(Model):
    """What was settled first."""

    scale: Scale = "HO"
    control: Control = "dcc"
    track_volts: Volts = 14.4
    units: Literal["imperial", "metric"] = "imperial"
    lead: Name | None = None
    memory_aid: Text = ""
    rules: HouseRules = HouseRules()
    detecting: Detecting = Detecting()
    signalling: Signalling = Signalling()
    travelling: Travelling = Travelling()


class Board(Model):
    """A piece of benchwork: its outline on the plan, and whether it lifts out."""

    name: Name
    outline: Annotated[list[Point], Field(min_length=3, max_length=200)]
    removable: bool = False
    box: Name | None = Field(default=None, description="The lid, crate or bundle it travels in.")

    @property
    def corners(self) -> list[tuple[float, float]]:
        """Its outline as plain pairs."""
        return [(p.x, p.y) for p in self.outline]


ObstacleKind = Literal["brace", "leg", "switch machine", "panel", "other"]


class Obstacle(Model):
    """Something under the boards that wire goes round: a brace, a leg, a motor. Its outline on the plan."""

    name: Name
    kind: ObstacleKind = "brace"
    outline: Annotated[list[Point], Field(min_length=3, max_length=100)]

    @property
    def corners(self) -> list[tuple[float, float]]:
        """Its outline as plain pairs."""
        return [(p.x, p.y) for p in self.outline]


Bridge = Literal["split ring", "aligned stub", "reverser"]
PortName = Annotated[str, Field(pattern=r"^[a-z]*[0-9]*$", min_length=1, max_length=20)]


class Node(Model):
    """A place where tracks end or meet.

    Ports: joint `1`, `2`; bumper `1`; turnout `points`, `through`, `diverging`; three-way `points`, `left`,
    `through`, `right`; crossing and slip `west1`–`east1` and `west2`–`east2`; turntable `stub…`; traverser
    `west…` and `east…`. Rails cross a node as the trade expects; see docs/layout-file.md.
    """

    kind: NodeKind
    at: Point
    name: Name | None = None
    hand: Literal["left", "right"] | None = None
    frog: Literal["dead", "live", "routing"] = "live"
    lies: Literal["through", "diverging", "left", "right"] = "through"
    contact: Literal["none", "contact", "automatic"] = Field(
        default="contact",
        description="What turns a live frog's polarity: nothing, a contact on the motor, a frog unit.",
    )
    frog_length: Millimetres | None = Field(
        default=None, description="Length of rail without power at a dead frog, mm."
    )
    diameter: Millimetres | None = Field(default=None, description="Turntable pit, or traverser bridge length, mm.")
    angle: Annotated[Number, Field(ge=-360, le=360)] = Field(
        default=0, description="Which way a traverser's bridge points, degrees clockwise from east."
    )
    bridge: Bridge = Field(
        default="split ring", description="Where the rails of a turntable's or traverser's bridge take their power."
    )
    points_at: PortName | None = Field(default=None, description="The port a bridge meets with its near end.")
    motor: Motor | None = Field(default=None, description="What throws a turnout; not said when not given.")
    reports: bool = Field(default=False, description="It tells how it lies.")
    driver: Id | None = Field(default=None, description="The driver board that throws it.")
    output: Way | None = Field(default=None, description="Of that board; both ends of a crossover may share one.")
    inverted: bool = Field(default=False, description="The command for straight sends it diverging.")
    report_board: Id | None = Field(default=None, description="The board of inputs its report is wired to.")
    report_input: Way | None = None
    button_board: Id | None = Field(default=None, description="The board of inputs its panel button is wired to.")
    button_input: Way | None = Field(default=None, description="Both ends of a crossover may share one.")


class Port(Model):
    """One way into a node."""

    node: Id
    port: PortName


class Track(Model):
    """A track from port A to port B. Left and right rail are as seen going from A to B."""

    name: Name
    a: Port
    b: Port
    path: Annotated[list[Bend], Field(min_length=2, max_length=500)]
    tape: Millimetres | None = Field(default=None, description="Length by tape measure, mm; overrides the drawing.")
    code: Annotated[int, Field(ge=25, le=400)] = 83
    metal: Metal = "nickel silver"
    ohms_per_metre: Ohms | None = Field(default=None, description="Measured, one rail; overrides code and metal.")
    joiner_every: Millimetres | None = Field(default=914.4, description="Spacing of joiners, mm; null for none.")
    joiners: JoinerKind = "usual"
    use: TrackUse = "main"
    rails: Literal[2, 3] | None = Field(
        default=None, description="Rails it has; three where the brief says three-rail, when not given."
    )
    outers: Literal["joined", "apart"] = Field(
        default="joined", description="Whether the two outer rails of three-rail track are joined by its ties."
    )
    runs: Literal["both", "forward", "backward"] = Field(
        default="both", description="Which way trains run: both, from A to B, or from B to A."
    )

    @cached_property
    def line(self) -> Polyline:
        """Its path worked out; once for as long as this lives."""
        return draw(self.path)


class Gap(Model):
    """A cut in one rail or both, at a distance from the track's A end."""

    track: Id
    at: Millimetres
    rails: Rails = "both"
    made: Literal["insulated joiner", "cut and filled"] = "insulated joiner"


class Section(Model):
    """A named anchor: all rail reachable from here without crossing a gap is this section, fed by this circuit."""

    name: Name
    track: Id
    at: Millimetres
    circuit: Id
    longest: Millimetres | None = Field(
        default=None, description="Longest train let in here, mm; all trains when not given."
    )
    block: Id | None = Field(default=None, description="The block it belongs to.")
    role: Role = "whole"


class Circuit(Model):
    """One electrically distinct pair of conductors, A and B, each with its wire colour."""

    name: Name
    colour_a: ColourName = "red"
    colour_b: ColourName = "black"
    purpose: Literal["track", "accessory"] = Field(
        default="track", description="Feeds rails, or turnout motors, lamps and signals."
    )
    return_of: Id | None = Field(
        default=None, description="The circuit whose conductor B is this one's too: a common return."
    )
    ink: Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$")] = "#B5622B"


class Device(Model):
    """Passes power from one circuit (input) to the next (output).

    Power for the track starts at a station, booster, cab or transformer output. A selector gives its output to one of
    `inputs`: the one that `input` names, or to none (off). A supply starts an accessory bus, or feeds a source; a
    step-down makes fewer volts of an accessory bus.

    `ohms` is the loss there and back, sensing and switches together (for a source: internal resistance).
    A breaker, reverser or detector carries it in one conductor, `sensed`.
    """

    kind: DeviceKind
    name: Name
    at: Point
    input: Id | None = None
    output: Id
    inputs: Annotated[list[Id], Field(max_length=11)] = Field(
        default=[], description="The circuits a selector chooses from, by way; `input` is the one it lies at."
    )
    made: SwitchMade = Field(default="toggle, two poles", description="How a selector is made.")
    contact_amps: Amperes | None = Field(default=None, description="Amps the contacts of a selector may switch.")
    panel: Id | None = Field(default=None, description="The control panel it stands on.")
    gang: Id | None = Field(default=None, description="The selector whose lever throws this one too.")
    on_with: Annotated[list[Id], Field(max_length=11)] = Field(
        default=[], description="Of a ganged selector: it is on where that lever gives one of these circuits."
    )
    turned: bool = Field(
        default=False,
        description="A cab's direction knob stands to the left; a reversing switch is thrown.",
    )
    gives: Control | None = Field(
        default=None, description="The control a source gives; by its kind or the brief when not given."
    )
    winding: Name | None = Field(
        default=None,
        description="Of a cab: the supply winding behind it; of a transformer output: its transformer.",
    )
    phasing_volts: Annotated[Number, Field(ge=0, le=100)] | None = Field(
        default=None,
        description="Of a transformer output: volts read from its centre post to that of the first transformer, both "
        "set alike and their commons joined.",
    )
    label_amps: Amperes | None = Field(default=None, description="Amps on the label.")
    measured_amps: Amperes | None = None
    volts: Volts | None = Field(default=None, description="Open-circuit volts of a source; track volts when not given.")
    measured_volts: Volts | None = Field(default=None, description="Volts measured; overrides the label.")
    measured_at_amps: Amperes = Field(
        default=0, description="Amps drawn while those volts were read; 0 when nothing was drawn."
    )
    guessed: bool = Field(
        default=False, description="Its volts and amps are a start for its scale, not read from a label."
    )
    least_volts: Volts | None = Field(default=None, description="Least input volts a step-down works from.")
    efficiency: Annotated[Number, Field(gt=0.1, le=1)] = Field(
        default=0.85, description="Of a step-down: power given over power taken."
    )
    limit_amps: Amperes | None = Field(default=None, description="The most a source gives, even into a short.")
    supply_most_volts: Volts | None = Field(default=None, description="The most volts a source stands at its input.")
    trip_amps: Annotated[Number, Field(gt=0, le=100)] | None = None
    trip_seconds: Annotated[Number, Field(gt=0, le=60)] | None = None
    recovery_seconds: Annotated[Number, Field(gt=0, le=600)] | None = Field(
        default=None, description="After a trip it tries again after so long, s; null where a person resets it."
    )
    inrush_amps: Annotated[Number, Field(gt=0, le=200)] | None = Field(
        default=None, description="The most it lets through for the moment power returns; its trip when not given."
    )
    reference: bool = Field(default=False, description="A booster tied to the others by a floating reference wire.")
    ohms: Annotated[Number, Field(ge=0.001, le=100)] = 0.02
    sensed: Conductor = "A"
    board: Id | None = Field(default=None, description="The detector board this channel is on; its figures hold.")
    channel: Annotated[int, Field(ge=1, le=64)] | None = None
    settings: LeafletText = ""


LoadKind = Literal["switch machine", "solenoid", "servo", "signal", "lamp", "LED", "stationary decoder", "other"]


class Load(Model):
    """Something that draws power and is not a train: so many alike, on one circuit, perhaps on one of its terminals.

    `amps` and `working_amps` are those of one of them, resting and at work (a stall motor at its stop is at rest);
    `at_once` is how many work in the same moment.
    """

    kind: LoadKind
    name: Name
    circuit: Id
    terminal: Id | None = Field(
        default=None, description="Where it is tied; the farthest of its circuit when not said."
    )
    at: Point | None = Field(default=None, description="Its place on the plan; only counted when not given.")
    count: Annotated[int, Field(ge=1, le=2000)] = 1
    at_once: Annotated[int, Field(ge=0, le=2000)] = 0
    amps: Amperes = 0
    working_amps: Amperes = 0
    draws: Literal["current", "power", "resistance"] = Field(
        default="current",
        description="Whether its amps stay as volts sag, rise (a converter) or fall with them (a lamp, a heater); its "
        "amps are those at the volts of its source.",
    )
    least_volts: Volts | None = None
    most_volts: Volts | None = None
    throws: bool = Field(default=False, description="It throws turnouts, or tells what does: needed to clear a short.")
    measured: bool = False


class Accepted(Model):
    """A finding somebody decided to live with, and why."""

    reason: Annotated[str, Field(min_length=3, max_length=500)]
    by: Text = ""
    on: Text = ""


class Backdrop(Model):
    """A picture under the plan to draw over: where its upper left corner lies, and how many mm one pixel is.

    The picture itself is kept beside the layouts in the club file, under its SHA-256 in hexadecimal.
    """

    picture: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    width: Annotated[Number, Field(gt=0, le=1e5)] = Field(description="Pixels.")
    height: Annotated[Number, Field(gt=0, le=1e5)] = Field(description="Pixels.")
    x: Coordinate = 0
    y: Coordinate = 0
    mm_per_pixel: Annotated[Number, Field(gt=0, le=1e4)] = 10
    dim: Annotated[Number, Field(ge=0, le=1)] = Field(default=0.5, description="0 as bright as it is, 1 gone.")


class Layout(Model):
    """A club layout as decided and measured. Strict: unknown fields and dangling ids are refused."""

    schema_version: Literal[1] = 1
    name: Name
    club: Text = ""
    notes: Text = ""
    brief: Brief = Brief()
    backdrop: Backdrop | None = None
    boards: dict[Id, Board] = {}
    obstacles: dict[Id, Obstacle] = {}
    nodes: dict[Id, Node] = {}
    tracks: dict[Id, Track] = {}
    gaps: dict[Id, Gap] = {}
    sections: dict[Id, Section] = {}
    circuits: dict[Id, Circuit] = {}
    devices: dict[Id, Device] = {}
    runs: dict[Id, Run] = {}
    terminals: dict[Id, Terminal] = {}
    plugs: dict[Id, Plug] = {}
    feeders: dict[Id, Feeder] = {}
    measured: dict[Id, MeasuredPart] = {}
    loads: dict[Id, Load] = {}
    spools: dict[Id, Spool] = {}
    prices: dict[Id, Annotated[Number, Field(ge=0, le=1e5)]] = Field(
        default={}, description="What one of something in the list of materials costs, in the club's own money."
    )
    detectors: dict[Id, DetectorBoard] = {}
    blocks: dict[Id, Block] = {}
    signals: dict[Id, Signal] = {}
    drivers: dict[Id, Driver] = {}
    panels: dict[Id, ControlPanel] = {}
    supplies: dict[Id, OwnedSupply] = {}
    braking: dict[Id, BrakingSection] = {}
    isolated: dict[Id, IsolatedRail] = {}
    connectors: dict[Id, Connector] = {}
    couplings: dict[Id, Coupling] = {}
    dates: dict[Id, ClubDate] = {}
    locos: dict[Id, LocoKind] = {}
    engines: dict[Id, Engine] = {}
    trains: dict[Id, Train] = {}
    scenes: dict[Id, Scene] = {}
    plans: dict[Id, RunningPlan] = {}
    accepted: dict[Annotated[str, Field(max_length=120)], Accepted] = {}
