"""The quick sums in words: wire for one run, a wire of unknown make, trains for a booster, a lamp's resistor."""

from __future__ import annotations

from pydantic import BaseModel

from jolly_copper.core.circuits.quick_sums import ResistorSum, RunSum, TrainSum, lightest_that_fits
from jolly_copper.core.circuits.what_wire import AS_GOOD, FAR_OFF, WireFound
from jolly_copper.core.materials.ampacity import schools
from jolly_copper.core.quantities import Units, print_current, print_length, print_ohms, print_volts, print_watts


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


class WireReply(BaseModel):
    """What it behaves as. ohms_per_metre: one conductor at 20 °C, to be typed as a run's own."""

    gauge: str
    ohms_per_metre: float
    sentence: str
    carries: list[list[str]]


class TrainsReply(BaseModel):
    trains: int
    idlers: int
    sentence: str


class LedReply(BaseModel):
    resistor: str
    watts: str
    sentence: str


def run_told(rows: list[RunSum], length: float, amps: float, volts: float, allowed: float, units: Units) -> RunReply:
    """Every gauge for one run of `length` mm at `amps`, from `volts`, losing the share `allowed` at most."""
    best = lightest_that_fits(rows)
    there_and_back = print_length(2 * length, units)
    start = f"{print_length(length, units)} one way is {there_and_back} of wire there and back."
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


def wire_told(found: WireFound, units: Units) -> WireReply:
    """What a wire of unknown make behaves as."""
    nearest, off = (found.awg, found.awg_off) if units == "imperial" else (found.metric, found.metric_off)
    other = found.metric if units == "imperial" else found.awg
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


def trains_told(found: TrainSum, booster: float, train: float, keep: float) -> TrainsReply:
    """How many trains of `train` A a booster of `booster` A runs with the share `keep` left for starts."""
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


def led_told(found: ResistorSum) -> LedReply:
    """The resistor to buy for a lamp."""
    nearest = (
        "which is a preferred value"
        if found.exact_ohms == found.ohms
        else f"so the next preferred value, {print_ohms(found.ohms)}"
    )
    return LedReply(
        resistor=print_ohms(found.ohms),
        watts=f"{found.buy_watts:g} W",
        sentence=f"Exactly {print_ohms(found.exact_ohms)}, {nearest}. It passes {print_current(found.amps)} and gives "
        f"off {print_watts(found.watts)}: buy {found.buy_watts:g} W, twice its heat or more.",
    )
