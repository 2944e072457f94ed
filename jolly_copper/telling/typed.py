"""What people and phones send beside the layout: ids they give, lines they type, moments by their clocks."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated

from pydantic import AfterValidator, StringConstraints

RowId = Annotated[str, StringConstraints(pattern=r"^[\w-]{8,60}$")]
"""Given by who sends a row, so that one sent twice is kept once."""
Line = Annotated[str, StringConstraints(max_length=60, strip_whitespace=True)]
About = Annotated[str, StringConstraints(pattern=r"^([a-z]+:[A-Za-z0-9_.-]{1,40})?$", max_length=60)]
"""A thing of the layout, as `board:b6`; empty for the whole railroad."""


def _a_time(text: str) -> str:
    try:
        moment = datetime.fromisoformat(text)
        if moment.tzinfo is None:
            raise ValueError("the time wants its zone, such as Z")
        return moment.astimezone(UTC).isoformat(timespec="milliseconds")
    except OverflowError:  # the first and last hours of all calendars, elsewhere
        raise ValueError("no clock shows that time") from None
    except ValueError as error:
        if "zone" in str(error):
            raise
        raise ValueError("a time such as 2026-11-24T19:40:00Z is wanted") from None


Moment = Annotated[str, StringConstraints(max_length=40), AfterValidator(_a_time)]
"""A moment with its zone, in UTC."""
