"""Routes for reading what people type, and for the quick sums."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from jolly_copper.core.circuits.quick_sums import led_resistor, size_run, trains_per_booster
from jolly_copper.core.circuits.what_wire import WireFound, wire_by_ohms, wire_by_strands
from jolly_copper.core.materials.copper import AWG_SIZES, METRIC_SIZES
from jolly_copper.core.quantities import (
    QuantityError,
    Units,
    print_current,
    print_length,
    print_ohms,
    print_volts,
    read_current,
    read_gauge,
    read_length,
    read_ohms,
    read_volts,
)
from jolly_copper.telling.sums import (
    LedReply,
    RunReply,
    TrainsReply,
    WireReply,
    led_told,
    run_told,
    trains_told,
    wire_told,
)

router = APIRouter(prefix="/api")
Typed = Annotated[str, Field(max_length=60)]


class FieldError(ValueError):
    """A typed text that could not be read, with the field it stood in."""

    def __init__(self, field: str, sentence: str) -> None:
        self.field = field
        super().__init__(sentence)


class ReadAnswer(BaseModel):
    """A typed quantity as understood: the value in the program's own unit (mm, A, V, Ω) or a gauge's text."""

    value: float | None
    gauge: str | None
    text: str


@router.get("/read")
def read(
    kind: Literal["length", "current", "volts", "ohms", "gauge"],
    text: Typed,
    units: Units = "imperial",
    bare: str | None = None,
) -> ReadAnswer:
    """Read a quantity the way people write it."""
    try:
        if kind == "gauge":
            gauge = str(read_gauge(text))
            return ReadAnswer(value=None, gauge=gauge, text=gauge)
        if kind == "length":
            unit = bare if bare in ("mm", "cm", "m", "in", "ft", "yd") else ("ft" if units == "imperial" else "m")
            mm = read_length(text, unit)
            return ReadAnswer(value=mm, gauge=None, text=print_length(mm, units))
        if kind == "current":
            return ReadAnswer(value=(amps := read_current(text)), gauge=None, text=print_current(amps))
        if kind == "volts":
            return ReadAnswer(value=(volts := read_volts(text)), gauge=None, text=print_volts(volts))
        return ReadAnswer(value=(ohms := read_ohms(text)), gauge=None, text=print_ohms(ohms))
    except QuantityError as error:
        raise FieldError("text", str(error)) from None


class Gauges(BaseModel):
    imperial: list[str]
    metric: list[str]


@router.get("/gauges")
def gauges() -> Gauges:
    return Gauges(imperial=[f"{n} AWG" for n in AWG_SIZES], metric=[f"{a:g} mm²" for a in reversed(METRIC_SIZES)])


def _read(field: str, text: str, reader: object, *more: object) -> float:
    try:
        value = reader(text, *more)  # type: ignore[operator]
    except QuantityError as error:
        raise FieldError(field, str(error)) from None
    if value <= 0:
        raise FieldError(field, "This must be more than zero.")
    return float(value)


def _or_said(field: str, work: Callable[[], WireFound]) -> WireFound:
    """An answer; what the core refuses is told beside the field."""
    try:
        return work()
    except ValueError as error:
        raise FieldError(field, str(error)) from None


def _percent(field: str, text: str) -> float:
    try:
        share = float(text.replace("%", "").replace(",", ".").strip()) / 100
    except ValueError:
        raise FieldError(field, f"“{text}” is not a percentage. Try 5 or 5 %.") from None
    if not 0 <= share < 1:
        raise FieldError(field, "This must be from 0 up to 100 %.")
    return share


class RunQuestion(BaseModel):
    """One run: length one way, current at its end, volts at its start, allowed drop in percent, as typed."""

    length: Typed
    current: Typed
    volts: Typed
    drop: Typed = "5"
    units: Units = "imperial"
    strands: Literal["solid", "stranded"] = "stranded"


@router.post("/quick/run")
def quick_run(question: RunQuestion) -> RunReply:
    length = _read("length", question.length, read_length, "ft" if question.units == "imperial" else "m")
    amps = _read("current", question.current, read_current)
    volts = _read("volts", question.volts, read_volts)
    allowed = _percent("drop", question.drop)
    if allowed <= 0:
        raise FieldError("drop", "This must be more than zero.")
    rows = size_run(length, amps, volts, allowed, "awg" if question.units == "imperial" else "mm2", question.strands)
    return run_told(rows, length, amps, volts, allowed, question.units)


class WireQuestion(BaseModel):
    """A wire of unknown make: its strands and the diameter of one, or the ohms of a known length, as typed."""

    by: Literal["strands", "ohms"] = "strands"
    strands: Annotated[int, Field(ge=1, le=5000)] = 19
    diameter: Typed = "0.29 mm"
    ohms: Typed = "0.166"
    length: Typed = "10 m"
    pair: bool = True
    units: Units = "imperial"


@router.post("/quick/wire")
def quick_wire(question: WireQuestion) -> WireReply:
    if question.by == "strands":
        diameter = _read("diameter", question.diameter, read_length, "mm")
        found = _or_said("diameter", lambda: wire_by_strands(question.strands, diameter))
    else:
        ohms = _read("ohms", question.ohms, read_ohms)
        length = _read("length", question.length, read_length, "ft" if question.units == "imperial" else "m")
        found = _or_said("ohms", lambda: wire_by_ohms(ohms, length, there_and_back=question.pair))
    return wire_told(found, question.units)


class TrainsQuestion(BaseModel):
    booster: Typed
    train: Typed
    idle: Typed = "100 mA"
    keep: Typed = "20"


@router.post("/quick/trains")
def quick_trains(question: TrainsQuestion) -> TrainsReply:
    booster, train, idle = (_read(f, getattr(question, f), read_current) for f in ("booster", "train", "idle"))
    keep = _percent("keep", question.keep)
    return trains_told(trains_per_booster(booster, train, idle, keep), booster, train, keep)


class LedQuestion(BaseModel):
    supply: Typed
    led: Typed
    current: Typed
    series: Annotated[int, Field(ge=1, le=20)] = 1


@router.post("/quick/led")
def quick_led(question: LedQuestion) -> LedReply:
    supply, led = _read("supply", question.supply, read_volts), _read("led", question.led, read_volts)
    amps = _read("current", question.current, read_current)
    try:
        found = led_resistor(supply, led, amps, question.series)
    except ValueError as error:
        raise FieldError("supply", str(error)) from None
    return led_told(found)
