"""Dates of a club, in the layout document: evenings of building, shows, tests that come again."""

from __future__ import annotations

from datetime import date, time
from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from jolly_copper.core.layout.fields import Model, Name, Text


def _a_day(text: str) -> str:
    try:
        return date.fromisoformat(text).isoformat()
    except ValueError:
        raise ValueError("a day such as 2026-11-30 is wanted") from None


def _a_time(text: str) -> str:
    try:
        return time.fromisoformat(text).strftime("%H:%M")
    except ValueError:
        raise ValueError("a time of day such as 19:30 is wanted") from None


Day = Annotated[str, Field(max_length=10), AfterValidator(_a_day)]
TimeOfDay = Annotated[str, Field(max_length=8), AfterValidator(_a_time)]
DateKind = Literal["building", "show", "test", "other"]


class ClubDate(Model):
    """A day in the club's calendar. Times are of the place it is at; the whole day where none is given."""

    kind: DateKind = "building"
    name: Name
    day: Day
    starts: TimeOfDay | None = None
    ends: TimeOfDay | None = None
    every: Literal["never", "week", "fortnight", "year"] = Field(default="never", description="When it comes again.")
    until: Day | None = Field(default=None, description="The last day it comes again on.")
    place: Text = ""
    note: Text = ""
