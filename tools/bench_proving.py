"""Times and success of the bench on the demo: tests, learning, hunts. Run by `make bench`."""

from __future__ import annotations

import time

import numpy as np

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.proving.cases import case_of
from jolly_copper.core.proving.cause_tables import TABLES
from jolly_copper.core.proving.drill import hide, in_order, play
from jolly_copper.core.proving.hunt import best_next, stand
from jolly_copper.core.proving.learn import Read, learn
from jolly_copper.core.proving.shorts import short_case
from jolly_copper.demo import gannet_bay

HUNTS = 300
SHARES = {"trips": 0.33, "stalls": 0.40, "gap": 0.07, "turnout": 0.08, "dead": 0.04, "hot": 0.02, "control": 0.02}
"""How often each symptom comes. Common practice, no source."""


def _timed(words: str, start: float) -> float:
    now = time.perf_counter()
    print(f"{words:52} {1000 * (now - start):7.0f} ms")
    return time.perf_counter()


def main() -> None:
    """Print what the issue asks for, beside what is measured."""
    facts = derive(gannet_bay(), "open-day")
    start = time.perf_counter()
    bench = Bench(facts)
    count = len(bench.tests)
    start = _timed(f"{count} tests with what they foretell (1000)", start)
    _ = bench.least
    start = _timed("bounds of the smallest sets", start)
    for tier, cover in bench.covers.items():
        print(f"  {tier}: {len(cover.places)} places, no fewer than {bench.least[tier]}")
    places = bench.covers["every part"].places
    rows = [(p.key, bench.dc.where[p.key]) for p in places]
    read = [Read(k, float(bench.dc.grounds[g].loop[n]) * 1.02) for k, (g, n) in rows]
    start = time.perf_counter()
    learn(bench.dc, read)
    start = _timed(f"what {len(read)} readings teach (500)", start)
    case = short_case(bench, "west")
    start = _timed("the causes of one district", start)
    best_next(case, stand(case, []), [])
    _timed("the next question (300)", start)
    _hunts(bench)


def _hunts(bench: Bench) -> None:
    rng = np.random.default_rng(1)
    guarded = ["west", "east", "yard", "quays", "shed", "quarry", "staging"]
    took: dict[str, list[float]] = {}
    usual: dict[str, list[float]] = {}
    for kind, share in SHARES.items():
        for seed in range(max(int(HUNTS * share), 6)):
            symptom: dict[str, object] = {"kind": kind}
            if kind in ("trips", "dead"):
                symptom["circuit"] = guarded[int(rng.integers(len(guarded)))]
            elif kind not in TABLES:
                ground = bench.ac.grounds[int(rng.integers(len(bench.ac.grounds)))]
                place = ground.places[int(rng.integers(len(ground.places)))]
                symptom |= {"track": place.track, "at": place.at}
            case = case_of(bench, symptom)
            hidden = hide(case, seed)
            took.setdefault(kind, []).append(play(case, hidden).minutes)
            usual.setdefault(kind, []).append(play(case, hidden, in_order).minutes)
    for kind, minutes in took.items():
        _row(kind, minutes, usual[kind])
    _row("all", [m for x in took.values() for m in x], [m for x in usual.values() for m in x])


def _row(name: str, took: list[float], usual: list[float]) -> None:
    print(
        f"{name:10} {len(took):4} hunts, mean {np.mean(took):5.1f} min, nine in ten within "
        f"{np.quantile(took, 0.9):5.1f}, longest {max(took):5.1f}; all in order {np.mean(usual):5.1f}, "
        f"{np.quantile(usual, 0.9):5.1f}"
    )


if __name__ == "__main__":
    main()
