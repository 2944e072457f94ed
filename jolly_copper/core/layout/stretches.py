"""Stretches of one rail that are cut at both ends and do something by themselves: trains stop there, or wheels close a
switch."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jolly_copper.core.layout.fields import Amperes, Id, Millimetres, Model, Name, Number, Text


class Stretch(Model):
    """A stretch of one rail between two cuts of its own."""

    name: Name
    track: Id
    at: Millimetres = Field(description="Where it begins, mm from the track's A end.")
    length: Annotated[Millimetres, Field(gt=0)]

    @property
    def start(self) -> float:
        """Its cut nearer to the track's A end, mm from there."""
        return self.at

    @property
    def end(self) -> float:
        """Its other cut, mm from the track's A end."""
        return self.at + self.length


class BrakingSection(Stretch):
    """A stretch of one rail fed through a module that makes the halves of the wave unequal, so that trains stop there.

    Its two cuts are its own and no entries of `gaps`. `module` and its two terminals are named as on the module.
    """

    rail: Literal["left", "right"]
    towards: Literal["a", "b"] = Field(default="b", description="The way a train goes that stops here.")
    why: Literal["shuttle", "stop", "signal"] = "stop"
    module: Name
    terminal_in: Text = ""
    terminal_out: Text = ""
    drop: Annotated[Number, Field(ge=0, le=10)] = Field(default=2.8, description="V its diodes take one way.")
    amps: Amperes = Field(default=2, description="Amps the module stands.")
    held_by: Id | None = Field(default=None, description="The signal that lifts it when it clears.")
    seconds: Annotated[Number, Field(ge=0, le=3600)] | None = Field(default=None, description="How long it waits, s.")


class IsolatedRail(Stretch):
    """A stretch of one outer rail of three-rail track, cut at both ends and fed by nothing: wheels close it.

    Its two cuts are its own and no entries of `gaps`.
    """

    outer: Literal["left", "right"]
    works: Name
    amps: Amperes = Field(default=0.5, description="What it works draws through the wheels, A.")
    seconds: Annotated[Number, Field(ge=0, le=600)] | None = Field(
        default=None, description="How long before the train it should begin, s."
    )
