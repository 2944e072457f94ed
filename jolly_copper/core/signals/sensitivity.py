"""What a detector must see and what it must not: parked engines, lit cars and resistor axles against its threshold;
ballast that leaks and rails that fill with every edge of the signal."""

from __future__ import annotations

import math
from dataclasses import dataclass

from jolly_copper.core.circuits.facts import Facts, diodes
from jolly_copper.core.circuits.giving import circuit_volts
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.layout.power_tree import reads_a_rail
from jolly_copper.core.layout.stock import Train
from jolly_copper.core.materials.detectors import AXLE_WATTS, LEAK_OHM_METRES, TRACK_FARADS_PER_METRE
from jolly_copper.core.signals.occupancy import engine_length, sensing

MARGIN = 1.5
"""What should be seen draws at least so many times the threshold, what should not at most one part in so many. Common
practice, no source."""
EDGE_SECONDS = 1e-6


@dataclass(frozen=True)
class AxleSum:
    """One resistor axle: amps, A; watts it gives off, W; buy: rating to buy, W, None where no axle takes one so
    large."""

    amps: float
    watts: float
    buy: float | None


def axle(volts: float, ohms: float) -> AxleSum:
    """What a resistor across an axle draws and gives off: I = V/R, P = V²/R, bought at twice its heat.

    Args:
        volts: track volts, V. ohms: of the resistor, Ω.

    >>> a = axle(14.4, 10000)
    >>> round(a.amps * 1000, 2), round(a.watts, 4), a.buy
    (1.44, 0.0207, 0.1)

    Raises:
        ValueError: a figure is not above zero.

    Source: Ohm's law. Certainty A.
    """
    if not volts > 0 or not ohms > 0:
        raise ValueError("Volts and ohms must be above zero.")
    watts = volts * volts / ohms
    return AxleSum(volts / ohms, watts, next((w for w in AXLE_WATTS if w >= 2 * watts - 1e-12), None))


def axles_needed(threshold: float, volts: float, ohms: float, leak: float = 0.0) -> int:
    """Resistor axles that together are sure to be seen: n = ⌈M·I_threshold·R/V⌉, M the margin.

    Args:
        threshold: A the detector is sure to see. volts: V. ohms: Ω of each axle. leak: what the ballast draws besides,
        A; it
            helps the axles, but dries up, so it is not counted.

    >>> axles_needed(0.005, 14.4, 10000)
    6

    Raises:
        ValueError: a figure is not above zero.
    """
    if leak < 0 or not threshold > 0:
        raise ValueError("A threshold must be above zero.")
    return max(1, math.ceil(MARGIN * threshold / axle(volts, ohms).amps - 1e-9))


def leakage(volts: float, metres: float, state: str) -> float:
    """What flows from rail to rail through ballast over a length: I = V·l/R, R in Ω·m. A.

    >>> round(leakage(14.4, 4, "wet") * 1000, 1)
    11.5

    Source: Ohm's law; R is a guess, certainty C.
    """
    return volts * metres / LEAK_OHM_METRES[state]


def filling(volts: float, metres: float, half_bit: float) -> tuple[float, float]:
    """What an empty section draws only to fill with each edge of a digital signal: mean and peak, A.

    I_mean = 2·V·C·l/T, I_peak = 2·V·C·l/t_edge. Calculated; certainty C, as is C.
    """
    charge = 2 * volts * TRACK_FARADS_PER_METRE * metres
    return charge / half_bit, charge / EDGE_SECONDS


@dataclass(frozen=True)
class Seen:
    """A detection section against its detector. Amps: threshold; idle of the lightest engine; one lit car; one axle;
    leaks dry, damp and wet; filling with the signal's edges. sees, blind: what it is sure to see and what not, in
    words. ghost: what it takes for a train."""

    number: int
    name: str
    length: float
    volts: float
    threshold: float
    engine: tuple[str, float] | None
    lit_car: float | None
    axle: float
    leaks: tuple[float, float, float]
    filling: float
    sees: tuple[str, ...]
    blind: tuple[str, ...]
    ghost: tuple[str, ...]
    axles: int


def sensitivity(facts: Facts) -> list[Seen]:
    """Every detection section with what it sees and what it should not."""
    layout = facts.layout
    wishes = layout.brief.detecting
    kinds = sorted((k.idle, k.name) for k in layout.locos.values())
    lit = min((t.amps_per_lit_car for t in layout.trains.values() if t.lit_cars), default=None)
    found = []
    for sensed in sensing(layout, facts.rails):
        if sensed.board is None or sensed.device is None:
            continue
        board = layout.detectors[sensed.board]
        device = layout.devices[sensed.device]
        volts = _volts(facts, device)
        metres = sum(p.end - p.start for p in facts.rails.extents[sensed.number]) / 1000
        each = axle(volts, wishes.axle_ohms).amps
        dry, damp, wet = (leakage(volts, metres, s) for s in ("dry", "damp", "wet"))
        digital = control_of(facts.tree, device.output) == "dcc"
        fill = filling(volts, metres, layout.brief.rules.half_bit)[0] if digital else 0.0
        engine = (kinds[0][1], kinds[0][0]) if kinds else None
        axles = axles_needed(board.threshold, volts, wishes.axle_ohms)
        sees: list[str] = []
        blind: list[str] = []
        ghost: list[str] = []
        if reads_a_rail(layout, device):  # what a train draws is nothing to it
            axles, sees = 1, ["any metal wheel"]
        else:
            for amps, seen, unseen in (
                (engine and engine[1], "parked engine", f"{engine[0] if engine else ''} standing still"),
                (lit, "lit car", "one lit car"),
                (each, "", "one resistor axle"),
            ):
                if amps is not None:
                    sure = amps >= MARGIN * board.threshold
                    (sees if sure else blind).append(seen if sure else unseen)
            sees = [*filter(None, sees), f"{axles} axle{'s' if axles > 1 else ''}"]
        for state, amps in (("dry", dry), ("damp", damp), ("wet", wet)):
            if amps + fill > board.threshold / MARGIN:
                ghost.append(f"{state} ballast")
        found.append(
            Seen(
                sensed.number,
                sensed.name,
                metres * 1000,
                volts,
                board.threshold,
                engine,
                lit,
                each,
                (dry, damp, wet),
                fill,
                tuple(sees),
                tuple(blind),
                tuple(ghost),
                axles,
            )
        )
    return found


@dataclass(frozen=True)
class Vanishes:
    """A train parts of which no detector sees. axles: it has; wanted: so that every car is seen by itself; cars: a
    guess at how many it has."""

    train: str
    name: str
    axles: int
    wanted: int
    cars: int


CAR_MM = {"Z": 65.0, "N": 90.0, "TT": 120.0, "HO": 170.0, "OO": 190.0, "S": 220.0, "O": 300.0, "G": 420.0}
"""Length of a car, where nobody counts them. A guess by scale, certainty C."""


def cars_of(layout: Layout, train: Train) -> int:
    """How many cars a train has, by its length less its engines."""
    return max(0, round((train.length - engine_length(layout, train)) / CAR_MM[layout.brief.scale]))


def _volts(facts: Facts, channel: Device) -> float:
    """What is behind a detector channel with nothing drawn: of its own source, less its diodes. V."""
    return circuit_volts(facts.layout, facts.tree, channel.output) - diodes(facts.network, channel.output)


def vanishing(facts: Facts) -> list[Vanishes]:
    """Trains whose cars do not all show: a car left behind, or the rear of a train, is not seen.

    Every channel counts by the volts of its own source, boards without a channel by the brief's; isolated rails not at
    all, since any metal wheel closes them.
    """
    layout, ohms = facts.layout, facts.layout.brief.detecting.axle_ohms
    boards = {i: b for i, b in layout.detectors.items() if b.kind != "isolated rail"}
    if not boards:
        return []
    channels = [d for d in layout.devices.values() if d.board in boards]
    ready = {d.board for d in channels}
    needed = max(
        *(axles_needed(boards[d.board or ""].threshold, max(_volts(facts, d), 1.0), ohms) for d in channels),
        *(
            axles_needed(b.threshold, max(layout.brief.track_volts - b.drop, 1.0), ohms)
            for i, b in boards.items()
            if i not in ready
        ),
        0,
    )
    found = []
    for i, train in layout.trains.items():
        dark = max(0, cars_of(layout, train) - train.lit_cars)
        wanted = dark * needed
        if train.resistor_axles < wanted:
            found.append(Vanishes(i, train.name, train.resistor_axles, wanted, dark))
    return found
