"""What the waveform looks like at the end of a bus: the run as a line of many small sections, a square-wave edge,
decoders at its end, with and without an end filter; and the kick when a short lets go.

Everything here is calculation. Nothing was measured on a layout; an oscilloscope at the end of the bus settles it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import expm

from jolly_copper.core.circuits.giving import circuit_volts
from jolly_copper.core.circuits.lengths import run_length
from jolly_copper.core.circuits.wires import run_ohms_per_metre
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.layout.wiring import EndFilter
from jolly_copper.core.materials.copper import SPACING_MM, Make, area_mm2, pair_henries_per_metre
from jolly_copper.core.quantities import Gauge, read_gauge

Floats = NDArray[np.float64]
SECTIONS = 20
STEP_S = 25e-9
EDGE_S = 1e-6
"""Rise of a booster's edge from end to end, s; the one that is drawn. Certainty C."""
RISES_S = (0.3e-6, 1e-6, 2e-6)
"""Edges of boosters as they are found, s. Certainty C."""
DECODERS_F = 2e-9
"""Decoders and cable at the end of an otherwise empty bus, F; those that are drawn. Certainty C."""
ENDS_F = (1e-9, 2e-9, 10e-9)
"""What may hang at the end of a bus: nothing but cable, a decoder or two, a row of them. Certainty C."""
LOAD_OHMS = 1000.0
USUAL_SOURCE_OHMS = 0.05
"""Of booster and breaker where a run starts at a terminal, Ω. Certainty C."""
FILTER_OHMS = 100.0
FILTER_F = 0.1e-6
"""End filter. Common practice, no source."""
TOUCHING_F_PER_M: dict[str, float] = {"side by side": 53e-12, "paired cable": 73e-12, "twisted": 80e-12}
"""Capacitance of a touching pair, F per metre. Calculated for 14 AWG with usual insulation; certainty C."""
VACUUM_F_PER_M = 8.854e-12
PEAK_VOLTS = 22.0
"""Track volts never above this at their peak. Source: NMRA S-9.1, from memory; certainty B."""
SUPPRESSED_VOLTS = 26.0
"""What a suppressor across a district, or a train with a reservoir, holds a kick near. Calculated; certainty C."""
USUAL_TRIP_AMPS = 5.0
RATINGS_W = (0.25, 0.5, 1.0, 2.0, 3.0, 5.0, 10.0)


@dataclass(frozen=True)
class Line:
    """A bus as its end sees it. length: m. ohms, henries, farads: of the pair, per metre. source: Ω of booster and
    breaker. branches: (m from its start, F) of what leaves it on the way. volts: V of the square wave, either side of
    zero."""

    length: float
    ohms: float
    henries: float
    farads: float
    source: float
    volts: float
    branches: tuple[tuple[float, float], ...] = ()
    end_farads: float = DECODERS_F
    filtered: bool = False
    filter_ohms: float = FILTER_OHMS
    filter_farads: float = FILTER_F


@dataclass(frozen=True)
class Edge:
    """One edge at the end of a line: s after it begins at the source, V. over: V beyond the square wave. crossings: how
    often it goes through zero again after the edge: each may be read as an edge that was not sent. ring: Hz, None where
    it does not ring. late: s after the source's own crossing."""

    seconds: Floats
    volts: Floats
    over: float
    crossings: int
    ring: float | None
    late: float


def pair_farads_per_metre(make: Make, gauge: Gauge, spacing_mm: float | None = None) -> float:
    """Capacitance between two wires, F per metre of pair: πε0/acosh(D/d) apart in air, calculated figures where they
    touch.

    >>> round(pair_farads_per_metre("apart", read_gauge("14 AWG"), 100) * 1e12, 1)
    5.8

    Source: two-wire line, any electrical engineering handbook. Certainty B (formula), C (touching).
    """
    if make != "apart":
        return TOUCHING_F_PER_M[make]
    diameter = 2 * math.sqrt(area_mm2(gauge) / math.pi)
    return math.pi * VACUUM_F_PER_M / math.acosh(max(spacing_mm or SPACING_MM["apart"], diameter * 1.2) / diameter)


def line_of(layout: Layout, run_id: str, make: Make | None = None, filtered: bool = False) -> Line:
    """A run as a line from where it is fed to its end, with what branches off it.

    Args:
        run_id: the run. make: as if its wires lay so; as they do when not given. filtered: with an end filter.
    """
    run, length = layout.runs[run_id], run_length(layout.runs[run_id])
    kind, gauge = make or run.make, read_gauge(run.gauge)
    start = run.fed.along
    branches = []
    for other in layout.runs.values():
        terminal = layout.terminals.get(other.fed.terminal or "")
        if terminal is not None and terminal.run == run_id:
            farads = (
                pair_farads_per_metre(other.make, read_gauge(other.gauge), other.spacing) * run_length(other) / 1000
            )
            branches.append((abs(terminal.along - start) / 1000, farads))
    device = layout.devices.get(run.fed.device or "")
    parts = (run.filter.ohms, run.filter.farads) if run.filter else (FILTER_OHMS, FILTER_F)
    return Line(
        max(length - start, start, 100.0) / 1000,
        2 * run_ohms_per_metre(layout, run),
        pair_henries_per_metre(kind, gauge, run.spacing if kind == run.make else None),
        pair_farads_per_metre(kind, gauge, run.spacing if kind == run.make else None),
        device.ohms if device else USUAL_SOURCE_OHMS,
        bus_volts(layout, run_id),
        tuple(branches),
        filtered=filtered,
        filter_ohms=parts[0],
        filter_farads=parts[1],
    )


def _system(line: Line) -> tuple[Floats, Floats]:
    """dx/dt = A·x + B·u. x: currents of the sections, volts after each, volts of the filter's capacitor. u: source
    volts, and amps drawn at the end."""
    n = SECTIONS
    part = line.length / n
    ohms, henries = line.ohms * part, line.henries * part
    farads = np.full(n, line.farads * part)
    for at, more in line.branches:
        farads[min(int(at / part), n - 1)] += more
    farads[-1] += line.end_farads
    a, b = np.zeros((2 * n + 1, 2 * n + 1)), np.zeros((2 * n + 1, 2))
    for k in range(n):
        a[k, k] = -(ohms + (line.source if k == 0 else 0.0)) / henries
        a[k, n + k] = -1 / henries
        if k == 0:
            b[0, 0] = 1 / henries
        else:
            a[k, n + k - 1] = 1 / henries
        a[n + k, k] = 1 / farads[k]
        if k + 1 < n:
            a[n + k, k + 1] = -1 / farads[k]
    end = 2 * n - 1
    a[end, end] -= 1 / (LOAD_OHMS * farads[-1])
    b[end, 1] = -1 / farads[-1]
    if line.filtered:
        a[end, end] -= 1 / (line.filter_ohms * farads[-1])
        a[end, 2 * n] = 1 / (line.filter_ohms * farads[-1])
        a[2 * n, end], a[2 * n, 2 * n] = (
            1 / (line.filter_ohms * line.filter_farads),
            -1 / (line.filter_ohms * line.filter_farads),
        )
    else:
        a[2 * n, 2 * n] = -1.0  # nothing there: it stays at zero
    return a, b


def _play(line: Line, start: Floats, inputs: Floats, step: float) -> Floats:
    """Volts at the end for inputs given at every step and straight between: exact by the matrix exponential.

    start: (states,) or (states, k). inputs: (steps, 2) or (steps, 2, k), k drives at once. Answers (steps,) or (steps,
    k).
    """
    a, b = _system(line)
    size = len(a)
    whole = np.zeros((size + 4, size + 4))
    whole[:size, :size], whole[:size, size : size + 2] = a * step, b * step
    whole[size : size + 2, size + 2 :] = np.eye(2)
    ahead = expm(whole)
    stay, now, slope = ahead[:size, :size], ahead[:size, size : size + 2], ahead[:size, size + 2 :]
    state, found = start, np.empty((len(inputs), *start.shape[1:]))
    found[0] = state[2 * SECTIONS - 1]
    for k in range(1, len(inputs)):
        state = stay @ state + now @ inputs[k - 1] + slope @ (inputs[k] - inputs[k - 1])
        found[k] = state[2 * SECTIONS - 1]
    return found


def _settled(line: Line, volts: float, amps: float) -> Floats:
    """The state that source volts and amps drawn at the end come to rest in."""
    a, b = _system(line)
    return np.asarray(np.linalg.solve(a, -b @ np.array([volts, amps])))


def edges_at_end(
    line: Line, rises: Sequence[float] = (EDGE_S,), seconds: float = 40e-6, step: float = STEP_S
) -> list[Edge]:
    """Edges from −V to +V as they arrive at the end of the line, one for each rise, s from end to end."""
    count = round(seconds / step)
    times: Floats = np.arange(count, dtype=float) * step
    drive = np.stack([np.interp(times, [0, r], [-line.volts, line.volts]) for r in rises], axis=1)
    start = np.repeat(_settled(line, -line.volts, 0.0)[:, None], len(rises), axis=1)
    volts = _play(line, start, np.stack([drive, np.zeros_like(drive)], axis=1), step)
    return [_read(line, times, volts[:, k], rise) for k, rise in enumerate(rises)]


def _read(line: Line, times: Floats, volts: Floats, rise: float) -> Edge:
    rest = line.volts * LOAD_OHMS / (LOAD_OHMS + line.source + line.ohms * line.length)
    signs = np.flatnonzero(np.diff(np.sign(volts)) != 0)
    first = float(times[signs[0]]) if len(signs) else float(times[-1])
    around = np.flatnonzero(np.diff(np.sign(volts - rest)) != 0)
    ring = None
    if len(around) >= 4 and volts.max() - rest > 0.02 * line.volts:
        ring = 1 / (2 * float(np.mean(np.diff(times[around[:6]]))))
    over, late = float(volts.max() - line.volts), first - rise / 2
    return Edge(times, volts, over, len(signs) - 1 if len(signs) else 0, ring, late)


@dataclass(frozen=True)
class Spread:
    """Edges at the end of a line for boosters of 0.3 to 2 µs and 1 to 10 nF at its end: the mildest and the worst of
    them.

    drawn: the edge of 1 µs and 2 nF. least, most: V from peak to peak of the wave they make.
    """

    drawn: Edge
    mildest: Edge
    worst: Edge
    least: float
    most: float


def spread_at_end(line: Line) -> Spread:
    """What the end of a line may see, over what nobody knows of the booster's edge and of what hangs there."""
    found: dict[tuple[float, float], Edge] = {}
    for farads in ENDS_F:
        edges = edges_at_end(replace(line, end_farads=farads), RISES_S)
        found |= {(rise, farads): edge for rise, edge in zip(RISES_S, edges, strict=True)}
    by_harm = sorted(found.values(), key=lambda e: (e.crossings, e.over))
    swing = [2 * (line.volts + max(e.over, 0.0)) for e in found.values()]
    return Spread(found[EDGE_S, DECODERS_F], by_harm[0], by_harm[-1], min(swing), max(swing))


def against_measured(spread: Spread, measured: float) -> str:
    """How a peak-to-peak reading at the end of a bus stands to the sum, in a sentence or two."""
    band = f"the sum says {spread.least:.0f} to {spread.most:.0f} V"
    if spread.least * 0.97 <= measured <= spread.most * 1.03:
        return f"Measured {measured:g} V from peak to peak; {band}: they agree."
    off = measured - (spread.most if measured > spread.most else spread.least)
    return (
        f"Measured {measured:g} V from peak to peak; {band}: {abs(off):.0f} V {'more' if off > 0 else 'less'} than it "
        "explains. "
        + (
            "The instrument's own leads may be in it: measure with a short ground lead, right at the end of the bus."
            if off > 0
            else "A train or a decoder with a reservoir on the bus holds the wave down: measure with nothing on the "
            "track."
        )
    )


def kick(line: Line, amps: float, gone_in: float = 1e-6) -> float:
    """The largest volts at the end when a short there of so many amps lets go within a microsecond and nothing clamps
    it, V.

    Prospective: a train with a bridge and a reservoir, a suppressor or an arc holds it far lower.
    """
    count = round(30e-6 / STEP_S)
    times = np.arange(count) * STEP_S
    drawn = np.interp(times, [0, gone_in], [amps, 0.0])
    volts = _play(line, _settled(line, line.volts, amps), np.column_stack([np.full(count, line.volts), drawn]), STEP_S)
    return float(np.abs(volts).max())


def filter_watts(volts: float, half_bit: float = 58e-6, ohms: float = FILTER_OHMS, farads: float = FILTER_F) -> float:
    """Heat in the end filter's resistor, W: N·2·C·V²·tanh(T/2RC), N = 1/T edges a second, ones all the time.

    >>> round(filter_watts(14.4), 3)
    0.711

    Source: derived; agrees with a circuit simulator within 0.03 %. Certainty A for ideal edges.
    """
    return 2 * farads * volts**2 * math.tanh(half_bit / (2 * ohms * farads)) / half_bit


def safe_rating(watts: float) -> float:
    """The next usual rating that is at least twice the heat, W: it sits in still air under a board. Certainty C.

    >>> safe_rating(filter_watts(14.4)), safe_rating(filter_watts(18))
    (2.0, 3.0)
    """
    return next((r for r in RATINGS_W if r >= 2 * watts), RATINGS_W[-1])


def why_no_edges(layout: Layout, run_id: str) -> str | None:
    """Why a run has no waveform to look at; None where it has one."""
    if control_of(grow_tree(layout), layout.runs[run_id].circuit) != "dcc":
        return "Edges matter on digital track only; this run carries direct or alternating current."
    if layout.circuits[layout.runs[run_id].circuit].purpose == "accessory":
        return "This run carries direct current for accessories: it has no edges."
    return None


def short_amps(layout: Layout, run_id: str) -> float:
    """The current of a short on a run when its protection opens, A: the trip, or the usual one where nothing trips."""
    guard = grow_tree(layout).protection(layout.runs[run_id].circuit)
    return guard[1].trip_amps if guard and guard[1].trip_amps else USUAL_TRIP_AMPS


IDLE_PACKET = (31, 11)
"""Ones and zeros of an idle packet. NMRA S-9.2, from memory; the count is arithmetic."""
ZERO_BIT_S = 100e-6
"""Nominal half of a zero bit, s. NMRA S-9.1, from memory; certainty B."""


def filter_watts_in_use(
    volts: float, half_bit: float = 58e-6, ohms: float = FILTER_OHMS, farads: float = FILTER_F
) -> float:
    """Heat in the end filter's resistor while idle packets run, W: each edge's 2·C·V²·tanh(T/2RC), over the
    packet's time.

    >>> round(filter_watts_in_use(14.4), 2)
    0.6

    Source: as `filter_watts`, with the mix of ones and zeros of an idle packet.
    """
    ones, zeros = IDLE_PACKET
    heat = sum(2 * n * filter_watts(volts, t, ohms, farads) * t for n, t in ((ones, half_bit), (zeros, ZERO_BIT_S)))
    return heat / (2 * (ones * half_bit + zeros * ZERO_BIT_S))


def bus_volts(layout: Layout, run_id: str) -> float:
    """What a run's own source gives with nothing drawn, V; the brief's volts where none feeds it."""
    return circuit_volts(layout, grow_tree(layout), layout.runs[run_id].circuit)


def filter_advice(layout: Layout, run_id: str) -> str:
    """What the parts of an end filter must stand at the volts of a run."""
    volts, half_bit = bus_volts(layout, run_id), layout.brief.rules.half_bit
    worst, usual = filter_watts(volts, half_bit), filter_watts_in_use(volts, half_bit)
    return (
        f"The filter's resistor gives off {usual:.2f} W at {volts:g} V in usual traffic and {worst:.2f} W when only "
        f"ones are sent: use one of "
        f"{safe_rating(worst):g} W, flameproof, in free air, with a film capacitor of 100 V or more. Half a watt is "
        f"one school: it runs at or over "
        "its rating, hot enough to char paint. Never behind a detector: it reads as a train."
    )


def filter_heat(layout: Layout, run_id: str, fitted: EndFilter) -> float:
    """Heat in the resistor of a filter at the volts of its run, W."""
    return filter_watts(bus_volts(layout, run_id), layout.brief.rules.half_bit, fitted.ohms, fitted.farads)


def behind_detector(layout: Layout, run_id: str) -> str | None:
    """The detector a run's current goes through, nearest first; None where there is none."""
    upstream = grow_tree(layout).upstream(layout.runs[run_id].circuit)
    return next((d for d in upstream if layout.devices[d].kind == "detector"), None)


def kick_advice(amps: float) -> str:
    """What a short that lets go does, and what holds it."""
    return (
        f"A short of {amps:g} A that lets go kicks as tabled with nothing on the bus; a train with a reservoir, or a "
        f"suppressor for the district, "
        f"holds it near {SUPPRESSED_VOLTS:g} V. A filter alone does not."
    )


SCHOOLS = (
    "Side by side will do under 30 ft; beyond that, or over 5 A, twist two or three turns to the foot, or use paired "
    "cable.",
    "No filter unless decoders misbehave; or one at the end of every bus over 30 ft.",
)
"""Common practice, no source."""
SETTLED_BY = "Calculated, not measured: an oscilloscope across the end of the bus, with no train on it, settles it."


def _cure(tied: bool, filtered: bool) -> str:
    if filtered:
        return "A suppressor across the district holds what is left."
    return "Put the filter at the end." if tied else "Tie the two wires together, or put the filter at the end."


def verdict(spread: Spread, volts: float, tied: bool = False, filtered: bool = False) -> str:
    """What the edges at the end of a bus mean for trains, judged by the worst of them, in a sentence or two.

    Args:
        volts: of the square wave. tied: its wires touch already. filtered: a filter hangs at its end.
    """
    worst, mild = spread.worst, spread.mildest
    if worst.crossings > 0:
        times = "once more" if worst.crossings == 1 else f"{worst.crossings} times more"
        some = "" if mild.crossings > 0 else "With the quickest edges and a row of decoders at its end "
        start = f"{some}it goes" if some else "It goes"
        return (
            f"{start} through zero {times} after each edge: a decoder may read an edge nobody sent. "
            f"{_cure(tied, filtered)}"
        )
    if volts + worst.over > PEAK_VOLTS:
        mildly = f", {volts + mild.over:.0f} V at best" if volts + mild.over <= PEAK_VOLTS else ""
        return (
            f"It peaks at up to {volts + worst.over:.0f} V{mildly}, over the {PEAK_VOLTS:g} V track should never "
            f"see, while the bus is empty. {_cure(tied, filtered)}"
        )
    if worst.over > 0.1 * volts:
        return (
            f"It rings by {max(mild.over, 0.0):.1f} to {worst.over:.1f} V and settles without harm: no filter is "
            "needed here."
        )
    return "A clean edge, with any booster: neither twisting nor a filter would be noticed."
