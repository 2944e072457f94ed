"""An evening of trains played many times over: how likely each source and breaker is asked for more than it gives.

Trains of the scene roam where they may: each stays on one circuit's track for a while, then goes on to another with a
chance in proportion to its track, runs most of the time and stands the rest. Seeded, so the same layout gives the same
figures. How trains really move no formula knows: the figures compare designs, they do not foretell an evening.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from jolly_copper.core.circuits.budget import budget
from jolly_copper.core.circuits.loads import train_amps
from jolly_copper.core.circuits.whereabouts import roams, stands_on, survey
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.layout.stock import Scene
from jolly_copper.core.rails.pieces import RailMap, map_rails

AT_ONCE = 100
"""Evenings played in one go: keeps memory small and tells of progress."""


@dataclass(frozen=True)
class Habits:
    """How an evening goes.

    evenings: how many are played. minutes: length of one. stays: minutes a train stays on one circuit, on average.
    running: share of the time a running train runs; the rest it stands. seed: of the random numbers.
    """

    evenings: int = 1000
    minutes: int = 180
    stays: float = 5.0
    running: float = 0.7
    seed: int = 1


@dataclass(frozen=True)
class Chance:
    """What a source or breaker met over all evenings.

    mean, usual, most: A on average, exceeded in 5 % of all minutes, and the most of all. over_minutes: share of
    minutes in which more was asked than it gives. over_evenings: share of evenings with at least one such minute, with
    the 95 % interval (Wilson) that playing only so many leaves; None where nobody knows what it gives.
    """

    device: str
    mean: float
    usual: float
    most: float
    over_minutes: float | None
    over_evenings: float | None
    between: tuple[float, float] | None


def wilson(hits: int, tries: int, z: float = 1.96) -> tuple[float, float]:
    """The interval a share lies in, 95 % by default, when `hits` of `tries` were counted.

    >>> tuple(round(x, 3) for x in wilson(0, 100))
    (0.0, 0.037)

    Source: E. B. Wilson's score interval (1927), from memory.
    """
    p = hits / tries
    middle = (p + z * z / (2 * tries)) / (1 + z * z / tries)
    half = z / (1 + z * z / tries) * math.sqrt(p * (1 - p) / tries + z * z / (4 * tries * tries))
    return max(0.0, middle - half), min(1.0, middle + half)


@dataclass(frozen=True)
class _Rover:
    """One train: the circuits it may be on (numbers), their cumulated chances, amps running and standing."""

    circuits: NDArray[np.int64]
    chances: NDArray[np.float64]
    runs: float
    stands: float
    moves: bool


def play(
    layout: Layout,
    scene: Scene | None,
    habits: Habits | None = None,
    progress: Callable[[int, int], None] | None = None,
    rails: RailMap | None = None,
) -> list[Chance]:
    """Play evenings of a scene.

    Args:
        layout: the document.
        scene: who is there.
        habits: how an evening goes; the usual ones when not given.
        progress: called with evenings played and to play.

    Returns:
        One `Chance` for each source and breaker, in the order of `budget`.
    """
    habits, rails = habits or Habits(), rails or map_rails(layout)
    tree, circuits = grow_tree(layout), list(layout.circuits)
    asked = budget(layout, scene, rails)
    rovers = _rovers(layout, scene, rails, {c: k for k, c in enumerate(circuits)})
    behind = np.array([[tree.within(c, frozenset({a.circuit})) for c in circuits] for a in asked], dtype=bool)
    amps: list[NDArray[np.float64]] = []
    rng = np.random.default_rng(habits.seed)
    done = 0
    while done < habits.evenings:
        count = min(AT_ONCE, habits.evenings - done)
        total = np.zeros((len(asked), count, habits.minutes))
        for rover in rovers:
            at, drawn = _evening(rover, rng, count, habits)
            for number in range(len(asked)):
                total[number] += np.where(behind[number][at], drawn, 0.0)
        amps.append(total + np.array([a.steady for a in asked])[:, None, None])
        done += count
        if progress:
            progress(done, habits.evenings)
    if not asked:
        return []
    whole = np.concatenate(amps, axis=1)
    return [_chance(a.device, whole[k], a.gives) for k, a in enumerate(asked)]


def _rovers(layout: Layout, scene: Scene | None, rails: RailMap, number: dict[str, int]) -> list[_Rover]:
    tree, grounds = grow_tree(layout), survey(layout, rails)
    found = []
    for placed in scene.placements if scene else []:
        train, running = layout.trains[placed.train], placed.doing == "running"
        if placed.track is not None:
            here = stands_on(layout, rails, placed)
            fits = {here: 1.0} if here else {}
        else:
            where = roams(tree, grounds, placed)
            fits = {c: mm for c, mm in where.items() if mm >= train.length} or where
        if not fits:
            continue
        weight = np.cumsum(list(fits.values()))
        stands = train_amps(layout, train, False)
        runs = train_amps(layout, train) if running else stands
        numbers = np.array([number[c] for c in fits])
        found.append(_Rover(numbers, weight / weight[-1], runs, stands, running and placed.track is None))
    return found


def _evening(
    rover: _Rover, rng: np.random.Generator, count: int, habits: Habits
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """Circuit and amps of a train in every minute of so many evenings: shape (count, minutes) each."""
    shape = (count, habits.minutes)
    changes = rng.random(shape) < (1 / max(habits.stays, 1.0) if rover.moves else 0.0)
    changes[:, 0] = True
    drawn = rover.circuits[
        np.searchsorted(rover.chances, rng.random(shape), side="right").clip(max=len(rover.circuits) - 1)
    ]
    running = rng.random(shape) < habits.running
    since = np.maximum.accumulate(np.where(changes, np.arange(habits.minutes), 0), axis=1)
    rows = np.arange(count)[:, None]
    return drawn[rows, since], np.where(running[rows, since], rover.runs, rover.stands)


def _chance(device: str, amps: NDArray[np.float64], limit: float | None) -> Chance:
    usual = float(np.quantile(amps, 0.95))
    if limit is None:
        return Chance(device, float(amps.mean()), usual, float(amps.max()), None, None, None)
    over = amps > limit + 1e-9
    evenings = int(over.any(axis=1).sum())
    return Chance(
        device,
        float(amps.mean()),
        usual,
        float(amps.max()),
        float(over.mean()),
        evenings / len(amps),
        wilson(evenings, len(amps)),
    )
