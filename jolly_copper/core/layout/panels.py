"""Panels that people stand at: where they are, what their lamps show, what their turnouts are worked by."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from jolly_copper.core.layout.fields import Model, Name, Number, Point

PanelLamp = Literal["turnouts, one of two colours", "turnouts, one a leg", "occupancy", "breakers", "cab in use"]
TurnoutsBy = Literal["toggle switches", "push buttons, one a leg"]


class ControlPanel(Model):
    """A panel that people stand at: where it is, and how wide its sheet is."""

    name: Name
    at: Point
    width: Annotated[Number, Field(ge=200, le=2000)] = Field(default=300, description="Of its sheet, mm.")
    lamps: Annotated[list[PanelLamp], Field(max_length=5)] = Field(default=[], description="What its lamps show.")
    turnouts_by: TurnoutsBy = Field(default="toggle switches", description="What its turnouts are thrown with.")
