"""Routes about the waveform at the end of a run."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from fastapi import APIRouter, HTTPException, Query
from pydantic import BaseModel

from jolly_copper.api.used import StoreUsed
from jolly_copper.core.circuits.lengths import run_length
from jolly_copper.core.circuits.signal import (
    EDGE_S,
    SCHOOLS,
    SETTLED_BY,
    Edge,
    Spread,
    against_measured,
    behind_detector,
    filter_advice,
    filter_heat,
    filter_watts,
    kick,
    kick_advice,
    line_of,
    safe_rating,
    short_amps,
    spread_at_end,
    verdict,
    why_no_edges,
)
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials.copper import Make
from jolly_copper.core.quantities import print_long_length

router = APIRouter(prefix="/api")
MAKES: tuple[Make, ...] = ("apart", "side by side", "paired cable", "twisted")
DRAWN = 400
"""Points of a curve sent to the page."""


class Wave(BaseModel):
    """Volts at the end of the run over time after an edge begins at the source."""

    microseconds: list[float]
    volts: list[float]


class WaveRow(BaseModel):
    """One way to lay the two wires, with or without the end filter."""

    make: Make
    filtered: bool
    here: bool
    over_text: str
    crossings: int
    ring_text: str
    late_text: str
    kick_text: str
    verdict: str


class SignalShape(BaseModel):
    """The waveform at the end of a run. All of it is calculated."""

    run: str
    label: str
    length_text: str
    track_volts: float
    wave: Wave
    worst: Wave
    """The worst of booster edges from 0.3 to 2 µs and 1 to 10 nF at the end."""
    swing_text: str
    measured: float | None
    """V from peak to peak at its end, as somebody measured."""
    measured_text: str | None
    calmer: Wave
    """The same with the end filter, or without it where it is asked for with."""
    source: Wave
    rows: list[WaveRow]
    verdict: str
    filter_text: str
    short_text: str
    schools: list[str]
    settle: str
    fitted_text: str | None
    """The filter that hangs at its end by the layout; None where there is none."""
    rating: float
    """What a usual filter's resistor should be rated, W."""
    barred: str | None
    """Why no filter may hang here; None where one may."""


@router.get("/layouts/{layout_id}/signal")
def signal(
    layout_id: str,
    store: StoreUsed,
    run: Annotated[str, Query(max_length=40)],
    revision: int | None = None,
    make: Make | None = None,
    filtered: bool = False,
) -> SignalShape:
    """An edge of the square wave at the end of a run, as its wires lie or as if they lay otherwise."""
    layout = store.get(layout_id, revision).layout
    if run not in layout.runs:
        raise HTTPException(404, f"There is no run {run}.")
    why = why_no_edges(layout, run)
    if why is not None:
        raise HTTPException(422, why)
    kind = make or layout.runs[run].make
    amps = short_amps(layout, run)
    spreads: dict[tuple[Make, bool], Spread] = {}
    rows = []
    for m in MAKES:
        for f in (False, True):
            line = line_of(layout, run, m, f)
            spread = spreads[m, f] = spread_at_end(line)
            worst, mild = spread.worst, spread.mildest
            rows.append(
                WaveRow(
                    make=m,
                    filtered=f,
                    here=m == kind and f == filtered,
                    over_text=f"{mild.over:+.1f} to {worst.over:+.1f} V",
                    crossings=worst.crossings,
                    ring_text=f"{worst.ring / 1000:.0f} kHz" if worst.ring else "no ring",
                    late_text=f"{worst.late * 1e6:.1f} µs",
                    kick_text=f"{kick(line, amps):.0f} V",
                    verdict=verdict(spread, line.volts, m != "apart", f),
                )
            )
    volts = layout.brief.track_volts
    here, measured = spreads[kind, filtered], layout.runs[run].peak_to_peak
    # A reading is of the wires as they lie and the filter as it hangs, whatever else is asked about.
    lies = spreads[layout.runs[run].make, layout.runs[run].filter is not None]
    return SignalShape(
        run=run,
        label=layout.runs[run].label,
        length_text=print_long_length(run_length(layout.runs[run]), layout.brief.units),
        track_volts=volts,
        wave=_wave(here.drawn),
        worst=_wave(here.worst),
        calmer=_wave(spreads[kind, not filtered].drawn),
        rows=rows,
        verdict=verdict(here, volts, kind != "apart", filtered),
        swing_text=f"{here.least:.0f} to {here.most:.0f} V from peak to peak, for edges of 0.3 to 2 µs and 1 to 10 nF "
        f"at its end",
        measured=measured,
        measured_text=against_measured(lies, measured) if measured is not None else None,
        source=Wave(microseconds=[0, EDGE_S * 1e6, 40], volts=[-volts, volts, volts]),
        filter_text=filter_advice(layout),
        short_text=kick_advice(amps),
        schools=list(SCHOOLS),
        settle=SETTLED_BY,
        fitted_text=_fitted(layout, run),
        rating=safe_rating(filter_watts(volts, layout.brief.rules.half_bit)),
        barred=_barred(layout, run),
    )


def _fitted(layout: Layout, run: str) -> str | None:
    fitted = layout.runs[run].filter
    if fitted is None:
        return None
    heat = filter_heat(layout, fitted)
    return (
        f"{fitted.ohms:g} Ω rated {fitted.watts:g} W, with {fitted.farads * 1e6:g} µF; it gives off {heat:.2f} W here"
    )


def _barred(layout: Layout, run: str) -> str | None:
    detector = behind_detector(layout, run)
    if detector is None:
        return None
    return f"Not here: this bus is behind {layout.devices[detector].name}, which would take the filter for a train."


def _wave(edge: Edge) -> Wave:
    pick = np.linspace(0, len(edge.seconds) - 1, DRAWN).astype(int)
    return Wave(
        microseconds=[round(float(t) * 1e6, 3) for t in edge.seconds[pick]],
        volts=[round(float(v), 3) for v in edge.volts[pick]],
    )
