"""What the inductance of the wires does on a square wave: volts that trains lose, and what a breaker reads of a short.

Behind a decoder's rectifier the line current turns round at every edge. Over half a bit of T seconds, with R Ω and L H
of loop and a load of I amperes, the current starts near nothing and ends at some i_end; the mean volts lost besides
R·I are L·i_end/T exactly. What i_end is depends on the reservoir behind the rectifier, so the loss is a band:

- high end, a large reservoir (100 µF and more): its volts stand still, the current rises along
  1 − exp(−t·R/L), and its mean must be I;
- low end, a small one (10 µF and more): it swings with the line's inductance, and lets the current end lower.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
LEAST_RESERVOIR_F = 10e-6
"""The smallest reservoir behind a decoder's rectifier, F. Common practice, no source; certainty C."""
LEAST_HENRIES = 1e-12
RECTIFIER_VOLTS = 1.4
"""Two diodes in series. Certainty B."""


def low_end_share(ohms: float | Floats, henries: float | Floats, half_bit: float) -> Floats:
    """The low end of i_end over I: the least that any reservoir of 10 µF or more leaves, no unit.

    With α = R/2L and ω = √(1/LC − α²) the current is I + exp(−αt)·(b·sin ωt − I·cos ωt), with b such
    that its mean over half a bit is I. Where the reservoir can be chosen so that ωT = 2π, that is the least:
    i_end = I·(1 − exp(−αT)); where even 10 µF swings slower than ωT = π, i_end is taken at 10 µF. Between,
    where the current may stop early, along a straight line.

    Args:
        ohms: Ω of the loop. henries: H of the loop. half_bit: T, s.

    >>> round(float(low_end_share(0.3, 9.3e-6, 58e-6)), 2)   # 15 m of 14 AWG, side by side
    0.61

    Source: derived; holds below a circuit simulator's transient over 10 to 470 µF, 2 to 5 A, 5 to 30 m. Certainty A
    for the formula, C for the reservoir and for L.
    """
    r, l = np.asarray(ohms, dtype=float), np.maximum(np.asarray(henries, dtype=float), LEAST_HENRIES)  # noqa: E741
    t = half_bit
    alpha = r / (2 * l)
    resonant = 1 - np.exp(-alpha * t)
    # Far beyond critical damping the swing is gone long before the next edge: nothing is left to add.
    squared = np.maximum(1 / (l * LEAST_RESERVOIR_F) - alpha**2, -((300 / t) ** 2))
    omega = np.sqrt(squared.astype(complex))
    omega = np.where(np.abs(omega) < 1.0, 1.0, omega)
    s, c = np.sin(omega * t), np.cos(omega * t)
    fade = np.exp(-alpha * t)
    # ∫ exp(−αt)·cos ωt and ∫ exp(−αt)·sin ωt over half a bit, both times (α² + ω²)
    cosines = alpha - fade * (alpha * c - omega * s)
    sines = omega - fade * (alpha * s + omega * c)
    slow = np.real(1 + fade * (cosines / np.where(np.abs(sines) < 1e-9, 1e-9, sines) * s - c))
    swings = np.where(np.abs(omega.imag) > 0, 0.0, omega.real) * t
    near = np.clip(swings / math.pi - 1, 0.0, 1.0)
    return np.asarray(near * resonant + (1 - near) * np.maximum(slow, resonant))


def high_end_volts(
    amps: float | Floats, ohms: float | Floats, henries: float | Floats, half_bit: float, volts: float | Floats
) -> Floats:
    """The high end of what inductance takes from a train, V: with a large reservoir behind its rectifier.

    I·T = i_end·t0/2 + (D/R)·[(T − t0) − τ·(1 − exp(−(T − t0)/τ))],
    i_end = (D/R)·(1 − exp(−(T − t0)/τ)), t0 = L·i_end/(2V − D), τ = L/R; D is all that is lost and
    D − R·I the answer. Never more than what is left of V.

    Args:
        amps: I, A. ohms: R, Ω. henries: L, H. half_bit: T, s. volts: V of the square wave.

    >>> round(float(high_end_volts(3.0, 0.3, 9.3e-6, 58e-6, 14.4)), 2)
    0.76

    Source: derived; a circuit simulator's transient loses no more, with 470 µF within 25 % of it, with 100 µF within
    40 %. Certainty A for the formula, C for L.
    """
    i, r = np.asarray(amps, dtype=float), np.maximum(np.asarray(ohms, dtype=float), 1e-6)
    l, v = np.maximum(np.asarray(henries, dtype=float), LEAST_HENRIES), np.asarray(volts, dtype=float)  # noqa: E741
    inside = np.maximum(v - RECTIFIER_VOLTS, 0.1)
    tau = l / r
    turning = np.zeros(np.broadcast(i, r, l, v).shape)
    lost = np.zeros_like(turning)
    for _ in range(12):
        left = np.maximum(half_bit - turning, 0.02 * half_bit)
        risen = 1 - np.exp(-left / tau)
        per_volt = (turning * risen / 2 + left - tau * risen) / (r * half_bit)
        lost = np.minimum(i / np.maximum(per_volt, 1e-12), inside)
        turning = np.minimum(l * (lost / r) * risen / np.maximum(2 * inside - lost, 0.1), 0.9 * half_bit)
    return np.asarray(np.maximum(lost - r * i, 0.0))


def square_wave_share(ohms: float | Floats, henries: float | Floats, half_bit: float) -> Floats:
    """RMS of a short's current on a square wave over V/R: √(1 − tanh x / x), x = T·R/(2L).

    Args:
        ohms: Ω of the whole loop, the coin in it. henries: H of the whole loop. half_bit: T, s.

    >>> float(round(square_wave_share(0.75, 60.6e-6, 58e-6), 2))   # 30 m of 14 AWG run 100 mm apart
    0.2

    Source: derived; agrees with a circuit simulator within 0.01 %. Certainty A for the formula, C for L.
    """
    x = _x(ohms, henries, half_bit)
    small = x < 1e-3
    safe = np.where(small, 1.0, x)
    return np.sqrt(np.where(small, x**2 / 3, np.maximum(1 - np.tanh(safe) / safe, 0.0)))


def _x(ohms: float | Floats, henries: float | Floats, half_bit: float) -> Floats:
    return np.asarray(
        half_bit * np.asarray(ohms, dtype=float) / (2 * np.maximum(np.asarray(henries, dtype=float), LEAST_HENRIES))
    )


@dataclass(frozen=True)
class ShortReading:
    """A short's current on a square wave as breakers read it, A: effective (rms), mean of its size, and its peak."""

    effective: float
    mean: float
    peak: float


def short_reading(amps: float, ohms: float, henries: float, half_bit: float) -> ShortReading:
    """What a breaker reads of a short, by what it measures.

    i(t) = (V/R)·(1 − (1 + tanh x)·exp(−t·R/L)) over half a bit, from −i_peak to +i_peak = (V/R)·tanh x; its
    mean size is (V/R)·[1 − (ln(1 + tanh x))/x]. A triangle when inductance rules: the mean is then 13 % under the
    effective value.

    Args:
        amps: V/R, A. ohms: R, Ω. henries: L, H. half_bit: T, s.

    >>> r = short_reading(10.0, 0.1, 1e-3, 58e-6)
    >>> round(r.mean / r.effective, 3), round(r.peak / r.effective, 2)
    (0.866, 1.73)

    Source: derived. Certainty A for the formula, C for L.
    """
    x = float(_x(ohms, henries, half_bit))
    th = math.tanh(x)
    # Below a hair the series 1 − ln(1 + x)/x would lose its digits: the current is a triangle of half its peak.
    mean = amps * (th / 2 if x < 1e-3 else 1 - math.log1p(th) / x)
    return ShortReading(amps * float(square_wave_share(ohms, henries, half_bit)), mean, amps * th)
