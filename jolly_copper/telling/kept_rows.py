"""What rows beside a layout may hold, as an archive brings them: looked at before any is kept.

Everything this program has written passes. What does not would be kept and then stand in the way each time the
notebook, the bench or the book is opened.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints, TypeAdapter, ValidationError

from jolly_copper.core.layout.dates import Day
from jolly_copper.core.proving.causes import SYMPTOMS
from jolly_copper.telling.rehearsal import SentenceShape
from jolly_copper.telling.typed import About, Line, Moment, RowId


def _held(check: Callable[[Any], object]) -> AfterValidator:
    """A column that holds JSON, which the check must take."""

    def look(text: str) -> str:
        try:
            check(json.loads(text))
        except (ValueError, TypeError, RecursionError):
            raise ValueError("what it holds cannot be read") from None
        return text

    return AfterValidator(look)


class _Symptom(BaseModel):
    model_config = ConfigDict(extra="forbid")

    kind: str
    circuit: str | None = None
    track: str | None = None
    at: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] | None = None


def _symptom(held: Any) -> None:
    if _Symptom.model_validate(held, strict=True).kind not in SYMPTOMS:
        raise ValueError(held)


Key = Annotated[str, StringConstraints(pattern=r"^[\w.-]{1,80}$")]
Words = Annotated[str, StringConstraints(max_length=5000)]
Number = Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]
Counted = Annotated[int, Field(ge=0, le=2**53)]


class _Row(BaseModel):
    model_config = ConfigDict(extra="ignore", strict=True)


class _Work(_Row):
    id: Key
    task: Annotated[str, StringConstraints(pattern=r"^[a-z][a-z-]{1,19}:.{1,200}$")]
    state: Literal["wired", "tested", "trouble", "open"]
    note: Words
    reading: Words
    who: Words
    done: Moment
    told: Words
    taken: Moment


class _Meter(_Row):
    id: Key
    name: Words
    setting: Words
    factor: Annotated[float, Field(gt=0, le=1e3, allow_inf_nan=False)] | None
    checked: Literal[""] | Moment
    who: Words
    note: Words


class _Reading(_Row):
    id: Key
    revision: Counted
    test: Words
    told: Words
    meter: Words
    shown: Words
    unit: Words
    value: Number | None
    amps: Number | None
    before: Words
    foretold: Words
    low: Number | None
    high: Number | None
    sound: Annotated[int, Field(ge=0, le=1)] | None
    verdict: Words
    who: Words
    done: Moment
    note: Words
    withdraws: Words
    taken: Moment


class _Hunt(_Row):
    id: Key
    revision: Counted
    symptom: Annotated[str, StringConstraints(max_length=2000), _held(_symptom)]
    who: Words
    opened: Moment
    cause: Words | None
    mend: Words
    minutes: Number
    closed: Literal[""] | Moment


class _Answer(_Row):
    id: Key
    hunt: Key
    act: Words
    said: Words
    who: Words
    done: Moment


_PLAN, _SENTENCES = TypeAdapter(dict[str, Any]), TypeAdapter(list[SentenceShape])


class _Rehearsal(_Row):
    id: Key
    plan_id: Key
    revision: Counted
    name: Words
    plan: Annotated[str, StringConstraints(max_length=2_000_000), _held(_PLAN.validate_python)]
    seed: Counted
    engine: Counted
    came_to: Annotated[str, StringConstraints(max_length=2_000_000), _held(_SENTENCES.validate_python)]
    who: Words
    made: Moment


class _Tried(_Row):
    id: Key
    show: Words
    day: Day
    what: Words
    state: Literal["sound", "failed", "open"]
    note: Words
    who: Words
    done: Moment
    taken: Moment


class _Note(_Row):
    id: RowId
    kind: Literal["note", "decision", "trouble"]
    about: About
    text: Annotated[str, StringConstraints(max_length=4000)]
    photo: Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{64}$")] | None
    who: Line
    made: Moment


class _Version(_Row):
    number: Counted
    name: Words
    note: Words
    who: Words
    made: Moment


class _Change(_Row):
    """A change of the history; whether its patch fits is found by making it."""

    summary: Words
    who: Words
    made: Moment
    patch: list[dict[str, Any]]


ROWS: Mapping[str, type[_Row]] = {
    "work": _Work,
    "meter": _Meter,
    "reading": _Reading,
    "hunt": _Hunt,
    "rehearsal": _Rehearsal,
    "show_entry": _Tried,
    "note": _Note,
    "version": _Version,
}


def check_rows(rows: Mapping[str, Any]) -> None:
    """Look whether all rows beside a layout, and when its changes were made, are such as this program writes.

    Raises:
        ValueError: one is not; with a sentence that says which table, which column, and why.
    """
    beside, answers, changes = rows.get("beside"), rows.get("answers"), rows.get("changes")
    if not isinstance(rows.get("first"), dict) or not isinstance(changes, list):
        raise ValueError("There is no history in it that could be followed.")
    if not isinstance(beside, dict) or not isinstance(answers, list):
        raise ValueError("What stands beside the layout cannot be read.")
    for table, of in ROWS.items():
        _check_all(table, of, beside.get(table, []))
    _check_all("hunt_answer", _Answer, answers)
    for n, change in enumerate(changes, start=1):
        try:
            _Change.model_validate(change)
        except ValidationError:
            raise ValueError(f"Change {n} of its history is not one.") from None


def _check_all(table: str, of: type[_Row], found: Any) -> None:
    if not isinstance(found, list):
        raise ValueError(f"A row of {table} cannot be taken in: there is no list of them.")
    for row in found:
        try:
            of.model_validate(row)
        except ValidationError as error:
            first = error.errors(include_url=False)[0]
            where = f"its {first['loc'][0]}" if first["loc"] else "it"
            why = f"; {first['ctx']['error']}" if first["type"] == "value_error" else ""
            raise ValueError(
                f"A row of {table} cannot be taken in: {where} is not as this program writes it{why}."
            ) from None


__all__ = ["check_rows"]
