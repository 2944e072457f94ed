"""Amps asked of sources and breakers, worked by hand; starting values; the fleet as CSV."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.budget import Asked, budget
from jolly_copper.core.circuits.loads import train_amps
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.layout.stock import Train
from jolly_copper.core.materials.engines import SOUND_AMPS, STARTING, starting_values
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.fleet import fleet_csv, read_fleet
from tests.layouts import booster, plain


def two_districts() -> Layout:
    """One booster of 5 A, two breakers of 3 A; an express of 0.5 A roams both, a goods of 0.9 A the first, a parked one
    the second."""
    d = plain()
    booster(d, label_amps=5)
    for key in ("east", "west"):
        d.data["circuits"][key] = {"name": key.capitalize()}
        d.data["devices"][f"K-{key}"] = {
            "kind": "breaker",
            "name": f"Breaker {key}",
            "at": {"x": 0, "y": 0},
            "input": "main",
            "output": key,
            "trip_amps": 3,
        }
    d.data["sections"]["s"]["circuit"] = "west"
    d.data["locos"] = {
        "e": {"name": "Express", "idle": 0.1, "running": 0.5, "stall": 1.5},
        "g": {"name": "Goods", "idle": 0.1, "running": 0.45, "stall": 2.0},
    }
    d.data["trains"] = {
        "express": {"name": "Express", "engines": ["e"], "length": 1000},
        "goods": {"name": "Goods", "engines": ["g", "g"], "length": 1500},
        "parked": {"name": "Parked", "engines": ["e"], "length": 800, "lit_cars": 2, "amps_per_lit_car": 0.05},
    }
    d.data["scenes"] = {
        "night": {
            "name": "Night",
            "placements": [
                {"train": "express", "circuits": ["east", "west"]},
                {"train": "goods", "circuits": ["east"]},
                {"train": "parked", "doing": "idling", "track": "t", "at": 100},
            ],
        }
    }
    return d.plain()


def by_device(layout: Layout) -> dict[str, Asked]:
    return {a.device: a for a in budget(layout, layout.scenes["night"])}


def test_the_budget_by_hand() -> None:
    """East: 0.5 + 0.9 = 1.4 A. West: 0.5 + parked 0.1 + 2 · 0.05 = 0.7 A. The booster carries all three: 1.6 A.
    A stalled goods engine takes 2.0 − 0.45 = 1.55 A more; an express 1.0 A. Of 3 A, East has 1.6 A left: three of 0.5
    A."""
    asked = by_device(two_districts())
    assert asked["K-east"].worst == pytest.approx(1.4) and asked["K-west"].worst == pytest.approx(0.7)
    assert asked["B1"].worst == pytest.approx(1.6), "no train is in both at once"
    assert asked["K-east"].stalled == pytest.approx(1.4 + 1.55) and asked["K-west"].stalled == pytest.approx(0.7 + 1.0)
    assert asked["K-east"].gives == 3 and asked["B1"].gives == 5
    assert asked["K-east"].head_room == pytest.approx(1.6) and asked["K-east"].more_trains(0.5) == 3
    assert asked["K-west"].trains == ("express", "parked")


def test_a_measured_figure_comes_before_the_label() -> None:
    layout = apply_patch(two_districts(), [{"op": "add", "path": "/devices/B1/measured_amps", "value": 1.2}])
    asked = by_device(layout)["B1"]
    assert asked.gives == 1.2 and asked.head_room == pytest.approx(-0.4) and asked.more_trains(0.5) == 0


def test_a_train_sent_to_the_whole_booster_may_be_in_either_district() -> None:
    layout = apply_patch(
        two_districts(), [{"op": "replace", "path": "/scenes/night/placements/1/circuits", "value": ["main"]}]
    )
    asked = by_device(layout)
    assert "goods" in asked["K-east"].trains and "goods" in asked["K-west"].trains


def test_without_a_scene_nothing_is_asked() -> None:
    layout = two_districts()
    assert all(a.worst == 0 and a.stalled == 0 for a in budget(layout, None))


@given(st.integers(0, 40), st.floats(1000, 100_000))
def test_resistor_axles_draw_by_ohms_law(axles: int, ohms: float) -> None:
    """I = n·V/R at track volts (Ohm's law)."""
    layout = two_districts()
    train = Train(name="T", engines=["e"], length=500, resistor_axles=axles, ohms_per_axle=ohms)
    assert train_amps(layout, train) == pytest.approx(0.5 + axles * 14.4 / ohms)


def test_starting_values_grow_with_scale_and_age_and_sound_adds() -> None:
    """Common practice, no source: 0.2–0.5 A running for a modern small-scale engine, up to 1 A for an old motor,
    several for large scales."""
    assert 0.2 <= starting_values("HO", "modern", True).running <= 0.5
    assert starting_values("HO", "old motor", False).running <= 1.0 < starting_values("G", "modern", False).running
    for scale in STARTING:
        modern, old, sound = (
            starting_values(scale, a, s) for a, s in (("modern", False), ("old motor", False), ("modern", True))
        )  # type: ignore[arg-type]
        assert modern.idle < modern.running < modern.stall and modern.running < old.running
        assert sound.idle == pytest.approx(modern.idle + SOUND_AMPS)
    order = [STARTING[s]["modern"].running for s in ("Z", "N", "TT", "HO", "S", "O", "G")]
    assert order == sorted(order)


def test_the_fleet_goes_out_and_comes_back_the_same(demo: Layout) -> None:
    patch = read_fleet(fleet_csv(demo).encode(), demo)
    again = apply_patch(demo, patch)
    assert again.locos == demo.locos and again.trains == demo.trains
    fresh = apply_patch(
        read_layout({"name": "New"}), read_fleet(fleet_csv(demo).encode(), read_layout({"name": "New"}))
    )
    assert set(fresh.trains) == set(demo.trains) and fresh.trains["ore"].engines == ["goods", "goods"]


HEAD = "what,id,name,idle_amps,running_amps,stall_amps,measured_on,engines,length_mm\n"


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("a,b\n1,2\n", "name the columns"),
        (HEAD, "name the columns"),
        (HEAD + "wagon,,X,,,,,,\n", "Row 2: what is"),
        (HEAD + "kind,,X,a lot,1,2,,,\n", "Row 2: idle_amps must be a number"),
        (HEAD + "kind,,X,0.1,nan,2,,,\n", "running_amps must be a number"),
        (HEAD + "kind,,X,0.1,1,2,last week,,\n", "measured_on is a day"),
        (HEAD + "kind,,,0.1,1,2,,,\n", "the name is missing"),
        (HEAD + "train,,T,,,,,ghost,1000\n", "there is no ghost"),
        (HEAD + "train,,T,,,,,,1000\n", "it is empty"),
        (HEAD + "kind,k,K,0.1,1,2,,,\ntrain,,T,,,,,k,long\n", "length_mm must be a number"),
    ],
)
def test_a_fleet_file_that_cannot_be_taken_says_where(text: str, says: str) -> None:
    with pytest.raises(FileRefused, match=says):
        read_fleet(text.encode(), read_layout({"name": "New"}))


def test_no_cell_of_the_fleet_file_is_a_formula() -> None:
    layout = apply_patch(two_districts(), [{"op": "replace", "path": "/trains/goods/name", "value": "=HYPERLINK(1)"}])
    assert "'=HYPERLINK(1)" in fleet_csv(layout)
    assert apply_patch(layout, read_fleet(fleet_csv(layout).encode(), layout)).trains["goods"].name == "=HYPERLINK(1)"
