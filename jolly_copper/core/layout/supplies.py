"""Supplies a club owns: bricks and transformers with labels, and the box each serves."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jolly_copper.core.layout.fields import Amperes, Id, Model, Name, Number, Volts


class OwnedSupply(Model):
    """A supply on the shelf or at work: what its label says, what was measured, and the source it feeds."""

    name: Name
    kind: Literal["dc", "ac"] = "dc"
    volts: Volts = Field(description="On its label.")
    amps: Annotated[Number, Field(gt=0, le=100)] = Field(description="On its label.")
    measured_volts: Volts | None = None
    measured_amps: Amperes | None = Field(default=None, description="What it held for an hour.")
    isolated: bool | None = Field(
        default=None, description="Whether its output is apart from the mains earth and from other outputs."
    )
    serves: Id | None = Field(default=None, description="The source that hangs on it.")

    @property
    def gives(self) -> float:
        """Amps it gives for long, measured where somebody measured."""
        return self.measured_amps or self.amps

    @property
    def reads(self) -> float:
        """Its volts, measured where somebody measured."""
        return self.measured_volts or self.volts
