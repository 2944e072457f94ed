"""What must not matter does not: where the railroad stands on the plan, in which order things stand in the file, in
which units a club talks, what things are called. Every demo, with every rule that looks at it."""

from __future__ import annotations

import random
from collections import Counter
from functools import cache
from typing import Any

import numpy as np
import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.demo import DEMOS
from tests.long import either

SOME = ["gannet-bay", "harbour-arm", "millbeck", "tinplate-lane"]
each_demo = pytest.mark.parametrize("name", either(SOME, list(DEMOS)))

IN_ORDER = {"brief", "scenes"}
"""What is no map of things, and where the first one counts."""


def plain_data(name: str) -> dict[str, Any]:
    return DEMOS[name]().model_dump(mode="json")


def worked(data: dict[str, Any]) -> tuple[Facts, list[Finding]]:
    layout = read_layout(data)
    facts = derive(layout, next(iter(layout.scenes), None))
    return facts, check(facts)


@cache
def known(name: str) -> tuple[Facts, list[Finding]]:
    """A demo as it stands, worked out once."""
    return worked(plain_data(name))


def by_place(facts: Facts, values: np.ndarray) -> dict[tuple[str, float], float]:
    """A figure by track and place, mm."""
    tracks = [facts.network.spans[s].track for s in facts.points.span.tolist()]
    places = zip(tracks, np.round(facts.points.at, 1).tolist(), strict=True)
    return dict(zip(places, values.tolist(), strict=True))


def same_figures(one: Facts, other: Facts, volts: float = 1e-6) -> None:
    for values in ("volts", "coin", "trip", "source_volts"):
        a, b = by_place(one, getattr(one, values)), by_place(other, getattr(other, values))
        assert a.keys() == b.keys()
        within = volts if values == "volts" else 1e-6
        assert list(a.values()) == pytest.approx([b[k] for k in a], rel=1e-6, abs=within, nan_ok=True), values


def moved(data: Any, dx: float, dy: float) -> Any:
    """The same with every place shifted, mm."""
    if isinstance(data, list):
        return [moved(d, dx, dy) for d in data]
    if not isinstance(data, dict):
        return data
    shifted = {k: moved(v, dx, dy) for k, v in data.items()}
    if isinstance(data.get("x"), int | float) and isinstance(data.get("y"), int | float):
        shifted |= {"x": data["x"] + dx, "y": data["y"] + dy}
    return shifted


@each_demo
def test_where_the_railroad_stands_on_the_plan_does_not_matter(name: str) -> None:
    facts, told = known(name)
    again, told_again = worked(moved(plain_data(name), 7300.0, -1250.0))
    same_figures(facts, again)
    assert [(f.rule, f.severity, f.title, f.why) for f in told] == [
        (f.rule, f.severity, f.title, f.why) for f in told_again
    ]


@each_demo
@pytest.mark.parametrize("seed", either([1], [1, 2, 3]))
def test_the_order_of_things_in_the_file_does_not_matter(name: str, seed: int) -> None:
    """Names in a sentence may stand in another order; every figure, and how much each rule tells, may not change.

    Of places alike the first is taken when trains are put where they hurt most, which parts the volts beside a turnout
    by some hundredths (docs/formulas.md).
    """
    rng = random.Random(seed)
    data = plain_data(name)
    for key, things in data.items():
        if isinstance(things, dict) and key not in IN_ORDER:
            order = list(things)
            rng.shuffle(order)
            data[key] = {i: things[i] for i in order}
    facts, told = known(name)
    again, told_again = worked(data)
    same_figures(facts, again, 0.03)
    assert Counter((f.rule, f.severity) for f in told) == Counter((f.rule, f.severity) for f in told_again)


@each_demo
def test_the_units_of_a_club_change_words_alone(name: str) -> None:
    data = plain_data(name)
    data["brief"]["units"] = "imperial" if data["brief"]["units"] == "metric" else "metric"
    facts, told = known(name)
    again, told_again = worked(data)
    same_figures(facts, again)
    assert [(f.key, f.rule, f.severity) for f in told] == [(f.key, f.rule, f.severity) for f in told_again]
    if name == "gannet-bay":
        assert any(f.title != g.title for f, g in zip(told, told_again, strict=True)), "lengths are told in it"


@each_demo
def test_names_change_words_alone(name: str) -> None:
    """Every thing is called otherwise: the figures and what is told of which thing stay."""
    data = plain_data(name)
    for key in ("devices", "tracks", "circuits", "boards", "nodes", "trains", "scenes", "signals", "detectors"):
        for number, thing in enumerate(data[key].values()):
            if thing.get("name"):
                thing["name"] = f"Nr {number} of {key}"
    facts, told = known(name)
    again, told_again = worked(data)
    same_figures(facts, again)
    assert Counter((f.rule, f.severity) for f in told) == Counter((f.rule, f.severity) for f in told_again)


@each_demo
def test_what_is_asked_twice_is_answered_the_same(name: str) -> None:
    facts, told = known(name)
    again, told_again = worked(plain_data(name))
    same_figures(facts, again)
    assert told == told_again


@each_demo
def test_a_finding_names_what_is_there_and_can_be_shown(name: str) -> None:
    facts, told = known(name)
    layout = facts.layout
    there = {i for things in layout.model_dump(mode="json").values() if isinstance(things, dict) for i in things}
    assert len({f.key for f in told}) == len(told), "each has a key of its own, so that it can be accepted"
    for f in told:
        assert f.title and f.why and f.severity in ("must", "should", "look"), f.key
        if f.place.track is not None:
            assert f.place.track in layout.tracks, f.key
            assert 0 <= (f.place.at or 0.0) <= facts.rails.lengths[f.place.track], f.key
        assert all(shown.split(":")[-1] in there for shown in f.shows), (f.key, f.shows)


HANDS = {"left": "right", "right": "left"}


def mirrored(data: Any) -> Any:
    """The same seen from below: up is down, left is right."""
    if isinstance(data, list):
        return [mirrored(d) for d in data]
    if not isinstance(data, dict):
        return HANDS.get(data, data) if isinstance(data, str) else data
    turned = {k: mirrored(v) for k, v in data.items()}
    if isinstance(data.get("x"), int | float) and isinstance(data.get("y"), int | float):
        turned["y"] = -data["y"]
    if isinstance(data.get("angle"), int | float):
        turned["angle"] = -data["angle"]
    return turned


@each_demo
def test_a_railroad_seen_in_a_mirror_is_wired_as_well(name: str) -> None:
    facts, told = known(name)
    again, told_again = worked(mirrored(plain_data(name)))
    same_figures(facts, again)
    # Of two ways of one length a cable takes the one at the front of the plan; its couplings are at the others now.
    one, other = ([(f.rule, f.severity) for f in some if "coupling" not in f.rule] for some in (told, told_again))
    assert Counter(one) == Counter(other)


def beside(data: dict[str, Any]) -> dict[str, Any]:
    """A second railroad far off on the same sheet: its own source, its own bus, its own track."""
    far = {"x": 60_000.0, "y": 60_000.0}
    end = {"x": 63_000.0, "y": 60_000.0}
    more: dict[str, dict[str, Any]] = {
        "nodes": {
            "other-a": {"kind": "bumper", "at": far},
            "other-b": {"kind": "bumper", "at": end},
        },
        "tracks": {
            "other": {
                "name": "Other line",
                "a": {"node": "other-a", "port": "1"},
                "b": {"node": "other-b", "port": "1"},
                "path": [far, end],
                "use": "branch",
            }
        },
        "circuits": {"other": {"name": "Other"}},
        "devices": {
            "other": {"kind": "booster", "name": "Other booster", "at": far, "output": "other", "trip_amps": 3}
        },
        "runs": {
            "other": {
                "circuit": "other",
                "label": "Z1",
                "gauge": "12 AWG",
                "make": "twisted",
                "path": [far, end],
                "fed": {"device": "other"},
            }
        },
        "terminals": {"other": {"run": "other", "along": 1500, "kind": "soldered"}},
        "feeders": {
            "other": {"label": "Z2", "track": "other", "at": 1500, "terminal": "other", "gauge": "18 AWG"},
        },
        "sections": {"other": {"name": "Other", "track": "other", "at": 1500, "circuit": "other"}},
    }
    return {**data, **{key: {**data[key], **things} for key, things in more.items()}}


@each_demo
def test_a_second_railroad_on_the_sheet_changes_nothing_of_the_first(name: str) -> None:
    """Every point is judged by its own circuit's source."""
    facts, told = known(name)
    again, told_again = worked(beside(plain_data(name)))
    for values in ("volts", "coin", "trip", "source_volts"):
        a, b = by_place(facts, getattr(facts, values)), by_place(again, getattr(again, values))
        assert {k: v for k, v in b.items() if k[0] != "other"} == pytest.approx(a, rel=1e-6, abs=1e-6, nan_ok=True)
        assert any(k[0] == "other" for k in b)
    now = {f.key: (f.severity, f.title) for f in told_again}
    for f in told:
        assert now.get(f.key) == (f.severity, f.title), f.key


def turned_about(data: dict[str, Any], lengths: dict[str, float]) -> dict[str, Any]:
    """Every track told from its other end: B is A, left is right, and distances run the other way."""

    def turn(part: Any) -> Any:
        if isinstance(part, list):
            return [turn(p) for p in part]
        if not isinstance(part, dict):
            return part
        found = {k: turn(v) for k, v in part.items()}
        if part.get("track") in lengths and isinstance(part.get("at"), int | float):
            found["at"] = lengths[part["track"]] - part["at"]
            for key in ("rails", "a_rail", "side"):
                if key in found:
                    found[key] = HANDS.get(found[key], found[key])
        return found

    turned: dict[str, Any] = turn(data)
    for track in turned["tracks"].values():
        track["a"], track["b"] = track["b"], track["a"]
        track["path"] = track["path"][::-1]
    return turned


@pytest.mark.parametrize("name", either(["gannet-bay", "harbour-arm"], ["gannet-bay", "harbour-arm", "millbeck"]))
def test_from_which_end_a_track_was_drawn_does_not_matter(name: str) -> None:
    """But for joiners, which are counted from the A end, so that volts part by what a joiner more or less takes."""
    facts, told = known(name)
    again, told_again = worked(turned_about(plain_data(name), facts.rails.lengths))
    for values in ("volts", "coin"):
        a, b = (by_place(f, getattr(f, values)) for f in (facts, again))
        ends = {t: [(b[t, round(x, 1)], a[t, y]) for x, y in ((0.0, max_at(a, t)), (max_at(b, t), 0.0))] for t, _ in a}
        for track, pairs in ends.items():
            for one, other in pairs:
                assert one == pytest.approx(other, rel=0.02, nan_ok=True), (values, track)
    assert Counter((f.rule, f.severity) for f in told) == Counter((f.rule, f.severity) for f in told_again)


def max_at(figures: dict[tuple[str, float], float], track: str) -> float:
    return max(at for t, at in figures if t == track)
