"""Boards that travel, in the layout document: connectors the club owns, what goes through which, and who looks on."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jolly_copper.core.layout.fields import Amperes, GaugeText, Id, Millimetres, Model, Name, Number

MOST_POLES, MOST_CODINGS = 60, 12
Edge = Literal["top", "right", "bottom", "left"]
"""An edge of the plan as it is drawn."""
WireKey = Annotated[str, Field(pattern=r"^(plug|cable):[A-Za-z0-9_.:/-]+$", max_length=120)]
"""What crosses a joint: `plug:P3`, a run where its plug is; `cable:control:S4/1`, a cable at the first joint it
passes."""


class Connector(Model):
    """A kind of connector, in pairs of a plug and a socket, that the club owns or may buy."""

    name: Name
    poles: Annotated[int, Field(ge=1, le=MOST_POLES)] = 2
    amps: Annotated[Amperes, Field(gt=0)] = Field(default=10, description="What each pole carries, as printed on it.")
    takes: GaugeText = Field(default="14 AWG", description="The thickest wire it takes, as printed on it.")
    codings: Annotated[int, Field(ge=1, le=MOST_CODINGS)] = Field(
        default=1, description="Ways it can be keyed, so that halves keyed unlike do not mate; 1 where it cannot."
    )
    on_hand: Annotated[int, Field(ge=0, le=2000)] = Field(default=0, description="Pairs in the drawer.")
    buy: bool = Field(default=False, description="More than those on hand may be bought.")
    price: Annotated[Number, Field(ge=0, le=1000)] | None = Field(
        default=None, description="Of a pair, in the club's own money."
    )


class Held(Model):
    """Wires that go through a coupling: of what, from which of its wires on, and how many."""

    of: WireKey
    first: Annotated[int, Field(ge=1, le=MOST_POLES)] = 1
    wires: Annotated[int, Field(ge=1, le=MOST_POLES)] = 2


class Coupling(Model):
    """A connector at the joint of two boards, both halves. Its poles are taken in the order of what it holds."""

    name: Name
    boards: Annotated[list[Id], Field(min_length=1, max_length=2)] = Field(
        description="The two boards it joins; one, where what it joins to hangs off the boards."
    )
    kind: Id = Field(description="Of the connectors.")
    coding: Annotated[int, Field(ge=1, le=MOST_CODINGS)] = 1
    socket_on: Id | None = Field(
        default=None, description="The board whose half has the sockets; what is off the boards when not given."
    )
    holds: Annotated[list[Held], Field(max_length=MOST_POLES)] = []


RailEnds = Literal["sliding joiners", "bridged by wire", "butted"]
"""How rails meet at joints: joiners slid over, wires clipped across, or ends that only touch."""


class Travelling(Model):
    """How the railroad is shown: where the public stands, and what the club wishes at joints."""

    public: Edge | None = Field(default=None, description="The edge of the plan where the public stands.")
    rail_ends: RailEnds = Field(default="sliding joiners", description="How the rails meet at joints of boards.")
    feeder_by_joint: Millimetres | None = Field(
        default=None, description="A feeder on both sides within so far of every joint, mm; no such wish when null."
    )
    proof_minutes: Annotated[Number, Field(gt=0, le=120)] = Field(
        default=10, description="For the proof before the doors open."
    )
