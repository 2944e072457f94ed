"""Routes about the waveform at the end of a run."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, HTTPException, Query

from jolly_copper.api.used import StoreUsed
from jolly_copper.core.circuits.lengths import run_length
from jolly_copper.core.circuits.waveform import (
    EDGE_S,
    SCHOOLS,
    SETTLED_BY,
    Spread,
    against_measured,
    bus_volts,
    filter_advice,
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
from jolly_copper.core.materials.copper import Make
from jolly_copper.core.quantities import print_long_length
from jolly_copper.telling.waveform import Wave, WaveformShape, WaveRow, barred, fitted, wave

router = APIRouter(prefix="/api")


@router.get("/layouts/{layout_id}/waveform")
def waveform(
    layout_id: str,
    store: StoreUsed,
    run: Annotated[str, Query(max_length=40)],
    revision: int | None = None,
    make: Make | None = None,
    filtered: bool = False,
) -> WaveformShape:
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
    volts = bus_volts(layout, run)
    here, measured = spreads[kind, filtered], layout.runs[run].peak_to_peak
    # A reading is of the wires as they lie and the filter as it hangs, whatever else is asked about.
    lies = spreads[layout.runs[run].make, layout.runs[run].filter is not None]
    return WaveformShape(
        run=run,
        label=layout.runs[run].label,
        length_text=print_long_length(run_length(layout.runs[run]), layout.brief.units),
        track_volts=volts,
        wave=wave(here.drawn),
        worst=wave(here.worst),
        calmer=wave(spreads[kind, not filtered].drawn),
        rows=rows,
        verdict=verdict(here, volts, kind != "apart", filtered),
        swing_text=f"{here.least:.0f} to {here.most:.0f} V from peak to peak, for edges of 0.3 to 2 µs and 1 to 10 nF "
        "at its end",
        measured=measured,
        measured_text=against_measured(lies, measured) if measured is not None else None,
        source=Wave(microseconds=[0, EDGE_S * 1e6, 40], volts=[-volts, volts, volts]),
        filter_text=filter_advice(layout, run),
        short_text=kick_advice(amps),
        schools=list(SCHOOLS),
        settle=SETTLED_BY,
        fitted_text=fitted(layout, run),
        rating=safe_rating(filter_watts(volts, layout.brief.rules.half_bit)),
        barred=barred(layout, run),
    )


MAKES: tuple[Make, ...] = ("apart", "side by side", "paired cable", "twisted")
