"""The copper of the layout document: runs, terminals, plugs, feeders, what was measured of them, and wire owned."""

from __future__ import annotations

from functools import cached_property
from typing import Annotated, Literal

from pydantic import Field

from jolly_copper.core.layout.fields import (
    Bend,
    ColourName,
    GaugeText,
    Id,
    Millimetres,
    Model,
    Name,
    Number,
    Ohms,
    Text,
)
from jolly_copper.core.layout.geometry import Polyline, draw
from jolly_copper.core.materials.copper import Make, Strands
from jolly_copper.core.materials.joints import TerminalKind


class WireStart(Model):
    """Where a run is fed: the output of a device, or a terminal of another run."""

    device: Id | None = None
    terminal: Id | None = None
    along: Millimetres = Field(default=0, description="Distance along this run where it is fed, mm.")


class EndFilter(Model):
    """A resistor and a capacitor in series across the far end of a bus, to quiet its edges. watts: of the resistor's
    rating."""

    ohms: Annotated[Number, Field(ge=1, le=10000)] = 100
    farads: Annotated[Number, Field(gt=0, le=1e-5)] = 1e-7
    watts: Annotated[Number, Field(gt=0, le=50)] = 2


class Run(Model):
    """A pair of wires of one circuit along a path under the plan: a bus, or a branch of one."""

    circuit: Id
    label: Name
    gauge: GaugeText
    strands: Strands = "stranded"
    make: Make = "side by side"
    spacing: Millimetres | None = Field(default=None, description="Distance between wires run apart, mm.")
    path: Annotated[list[Bend], Field(min_length=2, max_length=500)]
    lies: Literal["below", "on top"] = Field(
        default="below", description="Below the board, or on top of it, under the scenery."
    )
    wires: Literal["both", "A", "B"] = Field(
        default="both", description="Which conductors it holds: behind a detector only the sensed one is run home."
    )
    fed: WireStart
    ends_at_device: Id | None = None
    ends_at_terminal: Id | None = None
    tape: Millimetres | None = None
    cut: Millimetres | None = Field(
        default=None, description="What each wire of it was cut to already, all its pieces together, mm."
    )
    ohms_per_metre: Ohms | None = Field(
        default=None, description="Measured or printed, one conductor at 20 °C; overrides what its gauge says."
    )
    filter: EndFilter | None = Field(default=None, description="A filter across its far end.")
    peak_to_peak: Annotated[Number, Field(gt=0, le=500)] | None = Field(
        default=None, description="Volts from peak to peak at its far end, measured with nothing on the track."
    )

    @cached_property
    def line(self) -> Polyline:
        """Its path worked out; once for as long as this lives."""
        return draw(self.path)


Hub = Literal["halved strip", "two strips", "distribution board"]
"""On a plain strip each post joins only the one opposite: combs make one conductor of a row of them. One strip with two
combs, a strip for each conductor with a comb each, or a board whose rows are joined already."""


class Terminal(Model):
    """A joint on a run from which feeders and branch runs leave."""

    run: Id
    along: Millimetres = Field(description="Distance along the run, mm.")
    kind: TerminalKind = "screw strip"
    ohms: Ohms | None = Field(default=None, description="Measured, per contact.")
    pairs: Annotated[int, Field(ge=1, le=100)] | None = Field(
        default=None, description="Pairs of wires it takes; what its kind usually takes when not given."
    )
    hub: Hub = Field(default="halved strip", description="How a screw strip is made into two conductors.")


class Plug(Model):
    """A connector in a run where it crosses a board joint."""

    run: Id
    along: Millimetres
    ohms: Ohms | None = Field(default=None, description="Measured, per pole.")
    takes: GaugeText | None = Field(
        default=None,
        description="The thickest wire it takes, as printed on it; what its kind usually takes when not given.",
    )


class Feeder(Model):
    """A pair of wires from a rail point to a terminal. `a_rail` is the rail that conductor A of the circuit goes to."""

    label: Name
    track: Id
    at: Millimetres
    terminal: Id
    other: Id | None = Field(
        default=None, description="Where the conductor goes that the run of its terminal does not hold."
    )
    gauge: GaugeText = "20 AWG"
    strands: Strands = "solid"
    a_rail: Literal["left", "right"] = "left"
    tape: Millimetres | None = None
    tape_b: Millimetres | None = Field(
        default=None, description="Length of conductor B's wire by tape measure, mm, where it differs."
    )
    gauge_b: GaugeText | None = Field(default=None, description="Gauge of conductor B's wire, where it differs.")
    ohms_per_metre: Ohms | None = Field(
        default=None, description="Measured or printed, one conductor at 20 °C; overrides what its gauge says."
    )
    cut: Millimetres | None = Field(default=None, description="What each of its wires was cut to already, mm.")
    capacitor: bool = Field(
        default=False,
        description="It is a power clip or connection track with a suppression capacitor, as made for DC.",
    )
    temporary: bool = Field(default=False, description="Tied for the time being, to be done properly.")


PartKind = Literal["joiner", "contact", "plug", "wire"]


class MeasuredPart(Model):
    """One contact, joiner or wire that somebody measured by itself, or found broken.

    joiner: of a track, nearest to `at`, in one rail. contact: where a feeder, or the bus at a terminal, is held. plug:
    one pole. wire: of a feeder, from rail to terminal.
    """

    what: PartKind
    of: Id | None = Field(
        default=None, description="The terminal or feeder of a contact; the plug; the feeder of a wire."
    )
    track: Id | None = Field(default=None, description="The track of a joiner.")
    at: Millimetres = Field(default=0, description="Of a joiner: mm from the track's A end.")
    side: Literal["left", "right", "A", "B"] = Field(description="The rail of a joiner; the conductor of all else.")
    ohms: Ohms | None = Field(default=None, description="Measured, Ω; null where it is broken.")
    on: Text = Field(default="", description="When, as people write it.")


class Spool(Model):
    """Wire the club owns or may buy, of one gauge. `price` is for a metre of one conductor, in the club's own money.

    `on_hand` is in one length. Without a colour it may stand for any.
    """

    gauge: GaugeText
    strands: Strands = "stranded"
    colour: ColourName | None = None
    on_hand: Millimetres = 0
    price: Annotated[Number, Field(ge=0, le=1000)] | None = None
    buy: bool = True
