"""Routes for reading what people type, and for the quick sums."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal

from fastapi import APIRouter
from pydantic import BaseModel, Field

from jolly_copper.core.circuits.quick_sums import led_resistor, lightest_that_fits, size_run, trains_per_booster
from jolly_copper.core.circuits.what_wire import AS_GOOD, FAR_OFF, WireFound, wire_by_ohms, wire_by_strands
from jolly_copper.core.materials.ampacity import schools
from jolly_copper.core.materials.copper import AWG_SIZES, METRIC_SIZES
from jolly_copper.core.quantities import (
    QuantityError,
    Units,
    print_current,
    print_length,
    print_ohms,
    print_volts,
    print_watts,
    read_current,
    read_gauge,
    read_length,
    read_ohms,
    read_volts,
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


class RunRow(BaseModel):
    gauge: str
    carries_why: str
    drop_text: str
    share_text: str
    short_text: str
    heat_text: str
    carries_text: str
    loop_text: str
    fits: bool
    why_not: str


class RunReply(BaseModel):
    """Every gauge, lightest first; `answer` is the first that fits, with the sum spelt out."""

    answer: str | None
    sentence: str
    rows: list[RunRow]


@router.post("/quick/run")
def quick_run(question: RunQuestion) -> RunReply:
    length = _read("length", question.length, read_length, "ft" if question.units == "imperial" else "m")
    amps = _read("current", question.current, read_current)
    volts = _read("volts", question.volts, read_volts)
    allowed = _percent("drop", question.drop)
    if allowed <= 0:
        raise FieldError("drop", "This must be more than zero.")
    rows = size_run(length, amps, volts, allowed, "awg" if question.units == "imperial" else "mm2", question.strands)
    best = lightest_that_fits(rows)
    there_and_back = print_length(2 * length, question.units)
    start = f"{print_length(length, question.units)} one way is {there_and_back} of wire there and back."
    if best:
        sentence = (
            f"{start} {best.gauge} loses {print_volts(best.drop)} of {print_volts(volts)} at {print_current(amps)}, "
            f"{best.share * 100:.1f} %, and a short at the far end draws {print_current(best.short_amps)} if the "
            f"supply can give it."
        )
    else:
        sentence = (
            f"{start} No gauge held here keeps the drop within {allowed * 100:g} %: shorten the run or feed it nearer."
        )
    return RunReply(
        answer=best.gauge if best else None,
        sentence=sentence,
        rows=[
            RunRow(
                gauge=r.gauge,
                drop_text=print_volts(r.drop),
                share_text=f"{r.share * 100:.1f} %",
                short_text=print_current(r.short_amps),
                heat_text=print_watts(r.heat),
                carries_text=print_current(r.carries),
                carries_why=r.carries_why,
                loop_text=print_ohms(r.loop_ohms),
                fits=r.holds_drop and r.holds_amps,
                why_not=" and ".join(
                    [*([] if r.holds_drop else ["drops too much"]), *([] if r.holds_amps else ["may not carry it"])]
                ),
            )
            for r in rows
        ],
    )


class WireQuestion(BaseModel):
    """A wire of unknown make: its strands and the diameter of one, or the ohms of a known length, as typed."""

    by: Literal["strands", "ohms"] = "strands"
    strands: Annotated[int, Field(ge=1, le=5000)] = 19
    diameter: Typed = "0.29 mm"
    ohms: Typed = "0.166"
    length: Typed = "10 m"
    pair: bool = True
    units: Units = "imperial"


class WireReply(BaseModel):
    """What it behaves as. ohms_per_metre: one conductor at 20 °C, to be typed as a run's own."""

    gauge: str
    ohms_per_metre: float
    sentence: str
    carries: list[list[str]]


@router.post("/quick/wire")
def quick_wire(question: WireQuestion) -> WireReply:
    if question.by == "strands":
        diameter = _read("diameter", question.diameter, read_length, "mm")
        found = _or_said("diameter", lambda: wire_by_strands(question.strands, diameter))
    else:
        ohms = _read("ohms", question.ohms, read_ohms)
        length = _read("length", question.length, read_length, "ft" if question.units == "imperial" else "m")
        found = _or_said("ohms", lambda: wire_by_ohms(ohms, length, there_and_back=question.pair))
    nearest, off = (found.awg, found.awg_off) if question.units == "imperial" else (found.metric, found.metric_off)
    other = found.metric if question.units == "imperial" else found.awg
    how = "as good as" if abs(off) < AS_GOOD else f"{abs(off) * 100:.0f} % {'more' if off > 0 else 'less'} than"
    far = " No gauge held here is near it: type its own ohms per metre." if abs(off) > FAR_OFF else ""
    return WireReply(
        gauge=str(nearest),
        ohms_per_metre=found.ohms_per_metre,
        sentence=f"{found.area:.2f} mm² of copper, {found.ohms_per_metre * 1000:.2f} mΩ in a metre of one wire at 20 "
        f"°C: {how} {nearest} "
        f"stranded ({other} is the nearest in the other world).{far}",
        carries=[[s.name, print_current(s.amps), s.source] for s in schools(nearest)],
    )


class TrainsQuestion(BaseModel):
    booster: Typed
    train: Typed
    idle: Typed = "100 mA"
    keep: Typed = "20"


class TrainsReply(BaseModel):
    trains: int
    idlers: int
    sentence: str


@router.post("/quick/trains")
def quick_trains(question: TrainsQuestion) -> TrainsReply:
    booster, train, idle = (_read(f, getattr(question, f), read_current) for f in ("booster", "train", "idle"))
    keep = _percent("keep", question.keep)
    found = trains_per_booster(booster, train, idle, keep)
    left = (
        f"with {print_current(found.amps_left)} left for {found.idlers} more standing"
        if found.idlers
        else "and no more standing"
    )
    return TrainsReply(
        trains=found.trains,
        idlers=found.idlers,
        sentence=f"{print_current(booster)} less {keep * 100:g} % kept for starts is "
        f"{print_current(found.usable_amps)}: "
        f"{found.trains} trains of {print_current(train)} running, {left}.",
    )


class LedQuestion(BaseModel):
    supply: Typed
    led: Typed
    current: Typed
    series: Annotated[int, Field(ge=1, le=20)] = 1


class LedReply(BaseModel):
    resistor: str
    watts: str
    sentence: str


@router.post("/quick/led")
def quick_led(question: LedQuestion) -> LedReply:
    supply, led = _read("supply", question.supply, read_volts), _read("led", question.led, read_volts)
    amps = _read("current", question.current, read_current)
    try:
        found = led_resistor(supply, led, amps, question.series)
    except ValueError as error:
        raise FieldError("supply", str(error)) from None
    nearest = (
        "which is a preferred value"
        if found.exact_ohms == found.ohms
        else f"so the next preferred value, {print_ohms(found.ohms)}"
    )
    return LedReply(
        resistor=print_ohms(found.ohms),
        watts=f"{found.buy_watts:g} W",
        sentence=f"Exactly {print_ohms(found.exact_ohms)}, {nearest}. It passes "
        f"{print_current(found.amps)} and gives off {print_watts(found.watts)}: buy {found.buy_watts:g} W, twice its "
        f"heat or more.",
    )
