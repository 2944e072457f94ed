"""The kinds of field the document is made of: what a length, an id or a gauge may be, and nothing looser."""

from __future__ import annotations

import re
from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, Field, StringConstraints

from jolly_copper.core.layout.bounds import FARTHEST_MM
from jolly_copper.core.quantities import read_gauge


class Model(BaseModel):
    """Frozen, and refuses what it does not know."""

    model_config = ConfigDict(extra="forbid", frozen=True, validate_default=False)


def _a_real_number(value: Any) -> Any:
    """Lax reading would take `true` and `"1"` for numbers."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise ValueError("this must be a number")
    return value


def _a_place(value: Any) -> Any:
    if abs(_a_real_number(value)) > FARTHEST_MM:
        away = abs(value) / 1e6
        raise ValueError(f"a plan reaches 1 km each way from its origin, and this is {away:.4g} km away")
    return value


CONTROL = re.compile(r"[\x00-\x09\x0a-\x1f\x7f-\x9f]+")
CONTROL_IN_TEXT = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f]")


def _one_line(text: str) -> str:
    """What is pasted with tabs and line ends is a name all the same; nothing can print the rest of the control
    characters."""
    return CONTROL.sub(" ", text).strip() if CONTROL.search(text) else text


def _printable(text: str) -> str:
    return CONTROL_IN_TEXT.sub("", text)


def _not_empty(text: str) -> str:
    if not text:
        raise ValueError("this must not be empty")
    return text


def _canonical_gauge(text: str) -> str:
    return str(read_gauge(text))


Number = Annotated[float, BeforeValidator(_a_real_number), Field(allow_inf_nan=False)]
Millimetres = Annotated[Number, Field(ge=0, le=1e7)]
Coordinate = Annotated[float, BeforeValidator(_a_place), Field(ge=-FARTHEST_MM, le=FARTHEST_MM, allow_inf_nan=False)]
Amperes = Annotated[Number, Field(ge=0, le=100)]
Volts = Annotated[Number, Field(gt=0, le=30)]
Ohms = Annotated[Number, Field(ge=0, le=1000)]
Id = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9_.-]{0,39}$")]
Name = Annotated[
    str,
    StringConstraints(min_length=1, max_length=80, strip_whitespace=True),
    AfterValidator(_one_line),
    AfterValidator(_not_empty),
]
Text = Annotated[str, StringConstraints(max_length=2000), AfterValidator(_printable)]
LeafletText = Annotated[
    Text,
    Field(description="Jumpers, switches and values as typed from its leaflet, and what the leaflet has wrong."),
]
GaugeText = Annotated[str, StringConstraints(max_length=20), AfterValidator(_canonical_gauge)]
ColourName = Annotated[str, StringConstraints(pattern=r"^[a-z]+(/[a-z]+)?$", max_length=24)]
"""A wire colour as printed on the spool: `red`, `black`, `white/blue` (base, then stripe)."""


class Point(Model):
    """A place on the plan, millimetres right of and below the plan's origin."""

    x: Coordinate
    y: Coordinate


class Bend(Model):
    """A vertex of a drawn path. Between straight legs the path turns on an arc of this radius.

    `radius` left out means the largest arc that fits the two legs. The first and last vertex are plain ends.
    """

    x: Coordinate
    y: Coordinate
    radius: Millimetres | None = None
