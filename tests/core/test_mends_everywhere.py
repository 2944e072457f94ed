"""Every mend the program offers, on railroads unlike the demo and after mistakes of many kinds: it can be made, removes
what it mends, and breaks nothing else."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import LayoutError, read_layout
from jolly_copper.demo import DEMOS
from tests.layouts import random_layout
from tests.long import either
from tests.track_plans import routing_yard

MOVES_ON = {"drop", "coin test", "feeder spacing"}
"""Rules that tell the worst place of several: mended there, the next worst comes forward."""

Data = dict[str, Any]
Mistake = Callable[[random.Random, Data], None]


def _one(rng: random.Random, things: dict[str, Any]) -> Any:
    return things[rng.choice(sorted(things))] if things else {}


def swap_wires(rng: random.Random, data: Data) -> None:
    """Somebody ties a feeder the wrong way round."""
    feeder = _one(rng, data["feeders"])
    if feeder:
        feeder["a_rail"] = "left" if feeder["a_rail"] == "right" else "right"


def wrong_terminal(rng: random.Random, data: Data) -> None:
    """Somebody takes the next terminal, whatever bus it is on."""
    feeder = _one(rng, data["feeders"])
    if feeder:
        feeder["terminal"] = rng.choice(sorted(data["terminals"]))


def forgotten_feeder(rng: random.Random, data: Data) -> None:
    if data["feeders"]:
        data["feeders"].pop(rng.choice(sorted(data["feeders"])))


def forgotten_gap(rng: random.Random, data: Data) -> None:
    if data["gaps"]:
        data["gaps"].pop(rng.choice(sorted(data["gaps"])))


def half_a_gap(rng: random.Random, data: Data) -> None:
    gap = _one(rng, data["gaps"])
    if gap and gap["rails"] in ("both", "left", "right"):
        gap["rails"] = rng.choice(["left", "right"])


def another_gap(rng: random.Random, data: Data) -> None:
    track = rng.choice(sorted(data["tracks"]))
    path = data["tracks"][track]["path"]
    across = abs(path[-1]["x"] - path[0]["x"]) + abs(path[-1]["y"] - path[0]["y"])
    data["gaps"]["G990"] = {"track": track, "at": round(rng.uniform(0.1, 0.9) * min(across, 400), 1), "rails": "both"}


def thin_wire(rng: random.Random, data: Data) -> None:
    _one(rng, data["runs"])["gauge"] = "24 AWG"


def wires_apart(rng: random.Random, data: Data) -> None:
    _one(rng, data["runs"]).update(make="apart", spacing=120)


def strong_breaker(rng: random.Random, data: Data) -> None:
    _one(rng, data["devices"]).update(trip_amps=20, trip_seconds=2)


def frog_without_contact(rng: random.Random, data: Data) -> None:
    turnouts = {i: n for i, n in data["nodes"].items() if n["kind"] == "turnout"}
    _one(rng, turnouts).update(contact="none", frog=rng.choice(["live", "routing", "dead"]))


def section_of_another(rng: random.Random, data: Data) -> None:
    section = _one(rng, data["sections"])
    tracked = [i for i, c in data["circuits"].items() if c["purpose"] == "track"]
    if section and tracked:
        section["circuit"] = rng.choice(sorted(tracked))


MISTAKES: tuple[Mistake, ...] = (
    swap_wires,
    wrong_terminal,
    forgotten_feeder,
    forgotten_gap,
    half_a_gap,
    another_gap,
    thin_wire,
    wires_apart,
    strong_breaker,
    frog_without_contact,
    section_of_another,
)


def with_mistakes(layout: Layout, seed: int, most: int = 2) -> Layout:
    """The railroad with one or two mistakes; as it was where they cannot be told from nonsense."""
    rng = random.Random(seed)
    data = layout.model_dump(mode="json")
    for _ in range(rng.randint(1, most)):
        rng.choice(MISTAKES)(rng, data)
    try:
        return read_layout(data)
    except LayoutError:
        return layout


def told(layout: Layout) -> list[Finding]:
    return check(derive(layout, next(iter(layout.scenes), None)))


HIDES = {
    "feeder swapped",
    "feeders in a short",
    "rails joined through turnouts",
    "feeder on another circuit",
    "section anchors",
    "phases meet at a gap",
    "reversing section not cut off",
    "feeder fights a reverser",
    "power-routing turnout fed from its frog",
    "train comes back on itself",
}
"""A short, or a circuit on the wrong side of a gap: what lies behind it is told once it is mended."""


def wrong_with_mends(layout: Layout) -> list[str]:
    """Mends that cannot be made, leave what they mend, or make a must of a kind that was not there."""
    before = told(layout)
    musts = {f.rule for f in before if f.severity == "must"}
    wrong = []
    for f in before:
        for mend in f.mends:
            after = told(apply_patch(layout, mend.patch))
            now = next((g for g in after if g.key == f.key), None)
            if now is not None and (f.rule not in MOVES_ON or (now.figures, now.place) == (f.figures, f.place)):
                wrong.append(f"{mend.label} leaves: {f.title}")
            new = [g.title for g in after if g.severity == "must" and g.rule not in musts]
            if new and not musts & HIDES and f.rule not in HIDES:
                wrong.append(f"{mend.label}, for {f.title}, makes: {new[0]}")
    return wrong


@pytest.mark.parametrize("seed", range(either(4, 60)))
def test_mends_of_random_railroads(seed: int) -> None:
    assert wrong_with_mends(random_layout(seed)) == []


@pytest.mark.parametrize("seed", range(either(10, 120)))
def test_mends_of_random_railroads_with_mistakes(seed: int) -> None:
    assert wrong_with_mends(with_mistakes(random_layout(seed, tracks=6), seed)) == []


@pytest.mark.parametrize("name", ["tinplate-lane", "millbeck", "harbour-arm"])
@pytest.mark.parametrize("seed", range(either(3, 40)))
def test_mends_of_a_demo_with_mistakes(name: str, seed: int) -> None:
    assert wrong_with_mends(with_mistakes(DEMOS[name](), seed)) == []


@pytest.mark.parametrize("seed", range(either(6, 80)))
def test_mends_of_yards_that_route_their_power(seed: int) -> None:
    assert wrong_with_mends(routing_yard(seed).plain()) == []
