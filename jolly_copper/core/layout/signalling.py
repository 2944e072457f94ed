"""The part of the document that says who is where and what may move: detector boards, blocks, signals, drivers,
wishes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jolly_copper.core.layout.fields import Amperes, Id, LeafletText, Millimetres, Model, Name, Number, Point

Conductor = Literal["A", "B"]
DetectorKind = Literal["current transformer", "diode drop", "opto", "isolated rail"]
Role = Literal["whole", "enter", "middle", "leave", "junction"]
"""What a detection section is to its block: all of it, the end where trains come in, and so on; or the turnouts
between."""
SignalKind = Literal["colour light", "searchlight", "semaphore", "dwarf"]
Motor = Literal["hand", "stall motor", "solenoid", "servo"]
Drives = Literal["lamps", "turnouts", "buttons", "hand controllers"]
School = Literal["two aspects", "three aspects", "three aspects and diverging"]
Way = Annotated[int, Field(ge=1, le=256)]
"""One output or input of a board."""
Address = Annotated[int, Field(ge=1, le=9999)]


class DetectorBoard(Model):
    """A board of detector channels. Channel k reports as `address` + k − 1. A channel itself is a device of kind
    detector.

    drop: volts its diodes take whatever the current, V. ohms: of each channel in series, Ω. threshold: the least
    current it is sure to see, A. supply: the accessory circuit its electronics run from, with what they draw, A.
    """

    name: Name
    kind: DetectorKind = "current transformer"
    at: Point
    channels: Annotated[int, Field(ge=1, le=64)] = 8
    sensed: Conductor = "A"
    address: Address = 1
    drop: Annotated[Number, Field(ge=0, le=4)] = 0
    ohms: Annotated[Number, Field(ge=0.001, le=100)] = 0.01
    threshold: Annotated[Number, Field(gt=0, le=5)] = 0.005
    supply: Id | None = None
    supply_amps: Amperes = 0.03
    measured: bool = Field(default=False, description="Its figures were measured or read off its own sheet.")
    settings: LeafletText = ""


class Block(Model):
    """A length of railroad that one train may hold: one or more detection sections, which name it."""

    name: Name


class Signal(Model):
    """A signal beside a track, for trains that run towards one end of it.

    heads: 1, or 2 where the lower one speaks for the diverging way. driver, output: the driver board and the first of
    its outputs; one output to a lamp. tape: length of its cable, mm, when measured.
    """

    name: Name
    track: Id
    at: Millimetres
    towards: Literal["a", "b"]
    kind: SignalKind = "colour light"
    aspects: Literal[2, 3] = 3
    heads: Literal[1, 2] = 1
    side: Literal["left", "right"] = "right"
    lamp_volts: Annotated[Number, Field(gt=0.5, le=16)] = 2.0
    lamp_amps: Annotated[Number, Field(gt=0.0005, le=0.5)] = 0.008
    driver: Id | None = None
    output: Way | None = None
    tape: Millimetres | None = None


class Driver(Model):
    """A board with outputs for lamps or turnout motors, inputs for buttons and feedback, or sockets that hand
    controllers are plugged into. Output k answers to `address` + k − 1; sockets have no numbers.

    common: what all lamps share. most: A one output gives. supply: the accessory circuit it runs from; volts: what it
    gives its lamps.
    """

    name: Name
    drives: Drives = "lamps"
    at: Point
    outputs: Way = 16
    address: Address = 1
    common: Literal["anode", "cathode"] = "anode"
    supply: Id | None = None
    volts: Annotated[Number, Field(gt=1, le=30)] = 12
    most: Annotated[Number, Field(gt=0.001, le=5)] = 0.02
    amps: Amperes = 0.02
    settings: LeafletText = ""


class Detecting(Model):
    """What the club wishes of detection."""

    wanted: bool = Field(default=True, description="Whether the club wants detection at all.")
    per_block: Literal[1, 2, 3] = 1
    gaps: Literal["one rail", "both rails"] = "one rail"
    sensed: Conductor = "A"
    kind: DetectorKind = "current transformer"
    channels: Annotated[int, Field(ge=1, le=64)] = 8
    spare: Annotated[Number, Field(ge=0, le=1)] = Field(default=0.1, description="Share of channels kept free.")
    first_address: Address = 1
    module: Annotated[int, Field(ge=2, le=64)] | None = Field(
        default=None,
        description="Channels to a module number, where the boards in hand are numbered by module: one of 16 takes two "
        "numbers where a module is 8; every channel is counted when not given.",
    )
    from_one: bool = Field(default=False, description="The numbers of the boards in hand must begin at one.")
    line_wires: Annotated[int, Field(ge=2, le=8)] | None = Field(
        default=None,
        description="Wires of the line that joins station, detector and driver boards, each to the next; no such line "
        "is planned when not given.",
    )
    hand_wires: Annotated[int, Field(ge=2, le=8)] = Field(
        default=6, description="Wires of the line from the station to every socket of hand controllers."
    )
    axle_ohms: Annotated[Number, Field(ge=100, le=1e6)] = 10000
    shortest_block: Annotated[Number, Field(ge=100, le=1e5)] | None = Field(
        default=None,
        description="Least length of a block on the main, mm; longest train and stopping distance when not given.",
    )


class Signalling(Model):
    """What the club wishes of signals."""

    wanted: bool = Field(default=True, description="Whether the club wants lineside signals at all.")
    school: School = "three aspects"
    kind: SignalKind = "colour light"
    approach_lit: bool = Field(default=False, description="Lamps burn only while a train comes near.")
    stopping: Annotated[Number, Field(ge=0, le=1e5)] = Field(
        default=800, description="What a train needs to stop from line speed, mm on the layout."
    )
    both_ways: bool = Field(default=False, description="Trains run both ways on every track of the main.")
    outputs: Annotated[int, Field(ge=2, le=256)] = 18
    restricting: bool = Field(default=True, description="A signal into track without detection may show restricting.")
