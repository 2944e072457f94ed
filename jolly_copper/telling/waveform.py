"""What is told of the waveform at the end of a run."""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel

from jolly_copper.core.circuits.waveform import (
    Edge,
    behind_detector,
    filter_heat,
)
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials.copper import Make

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


class WaveformShape(BaseModel):
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


def fitted(layout: Layout, run: str) -> str | None:
    fitted = layout.runs[run].filter
    if fitted is None:
        return None
    heat = filter_heat(layout, run, fitted)
    return (
        f"{fitted.ohms:g} Ω rated {fitted.watts:g} W, with {fitted.farads * 1e6:g} µF; it gives off {heat:.2f} W here"
    )


def barred(layout: Layout, run: str) -> str | None:
    detector = behind_detector(layout, run)
    if detector is None:
        return None
    return f"Not here: this bus is behind {layout.devices[detector].name}, which would take the filter for a train."


def wave(edge: Edge) -> Wave:
    pick = np.linspace(0, len(edge.seconds) - 1, DRAWN).astype(int)
    return Wave(
        microseconds=[round(float(t) * 1e6, 3) for t in edge.seconds[pick]],
        volts=[round(float(v), 3) for v in edge.volts[pick]],
    )
