"""What a sound railroad would read, with its band: first order in the ohms nobody knows, exact in how they join."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jolly_copper.core.circuits.points import Floats, Ints
from jolly_copper.core.proving.copper import Ground, Method

BAND = 2.25
"""Standard deviations to either side. Parts spread with longer tails than a bell: 2.25 holds what 1.96 should."""


@dataclass(frozen=True)
class Noise:
    """What the meter adds. floor: Ω. share: of the reading, each by itself. gain: common to all of one meter."""

    floor: float
    share: float
    gain: float


NOISE: dict[Method, Noise] = {"dc": Noise(0.003, 0.01, 0.01), "ac": Noise(0.014, 0.02, 0.03)}
"""By method, at one ampere. Common practice, no source."""


def spread_matrix(ground: Ground, rows: Sequence[int] | Ints, method: Method) -> Floats:
    """C of readings at these places, Ω²: C = J·S·Jᵀ + N.

    J_pk = f_k(p)²·R_k; S holds every part's own spread, and what all of a kind share as terms of rank one;
    N = floor² + (share·z)² on the diagonal and gain²·z·zᵀ.

    Args:
        ground: the copper.
        rows: of the places in it.
        method: how they are read.

    Returns:
        Shape (len(rows), len(rows)).
    """
    felt = ground.felt[np.asarray(rows, dtype=np.int64)]
    loop = ground.loop[np.asarray(rows, dtype=np.int64)]
    noise = NOISE[method]
    shared = felt @ ground.shared
    found = (felt * ground.variance) @ felt.T + shared @ shared.T
    found += noise.gain**2 * np.outer(loop, loop)
    found[np.diag_indices_from(found)] += noise.floor**2 + (noise.share * loop) ** 2
    return np.asarray(found)


def alone(ground: Ground, method: Method) -> Floats:
    """One standard deviation of a reading at every place, Ω, by itself. Shape (places,)."""
    noise = NOISE[method]
    own = ground.felt**2 @ ground.variance + ((ground.felt @ ground.shared) ** 2).sum(axis=1)
    return np.asarray(np.sqrt(own + noise.floor**2 + (noise.share**2 + noise.gain**2) * ground.loop**2))


def given_others(spread: Floats, residual: Floats) -> tuple[Floats, Floats]:
    """Each residual against what the other readings foretell of it, and its standard deviation.

    e_p = (C⁻¹r)_p / (C⁻¹)_pp with spread (C⁻¹)_pp^−½: leave-one-out, all from one inverse.

    Args:
        spread: C, Ω².
        residual: read less foretold, Ω.
    """
    inverse = np.linalg.inv(spread)
    own = np.diagonal(inverse)
    return np.asarray((inverse @ residual) / own), np.asarray(1 / np.sqrt(own))
