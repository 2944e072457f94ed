"""The copper as a meter meets it: shares, bands, smallest sets and learning, against full solutions and brute force."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.circuits.solution import solve
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proving.bands import BAND, NOISE, alone, spread_matrix
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.proving.copper import Copper, read_copper
from jolly_copper.core.proving.learn import Learned, Read, learn, priors
from jolly_copper.core.proving.places import ENOUGH, cover, least, power, spots
from jolly_copper.core.proving.worlds import hidden_world, loops
from tests.layouts import feeder, plain, random_layout
from tests.long import either


def fed(feeders: int = 4, length: float = 3000) -> Layout:
    """A straight track with joiners, fed at even places from the two terminals of its bus."""
    d = plain(length, joiner_every=500.0, joiners="usual")
    for n in range(feeders):
        feeder(d, f"F{n + 1}", "t", length * (n + 0.5) / feeders, f"T{1 + n % 2}")
    return d.plain()


@pytest.fixture(scope="module")
def bench(demo_facts: Facts) -> Bench:
    return Bench(demo_facts)


@pytest.fixture(scope="module")
def small() -> Copper:
    return read_copper(fed(), "ac")


def changed(copper: Copper, ground: int, element: int, ohms: float) -> tuple[np.ndarray, ...]:
    """Loops of the same network with one element's ohms changed, solved from nothing."""
    number = int(copper.grounds[ground].island.elements[element])
    elements = list(copper.network.elements)
    elements[number] = elements[number]._replace(ohms=elements[number].ohms + ohms)
    return loops(copper, solve(replace(copper.network, elements=tuple(elements))))


def test_the_gradient_is_the_square_of_the_share(small: Copper) -> None:
    ground = small.grounds[0]
    for n in range(0, len(ground.elements), 3):
        step = ground.ohms[n] * 1e-5
        up, down = changed(small, 0, n, step)[0], changed(small, 0, n, -step)[0]
        assert (up - down) / (2 * step) == pytest.approx(ground.felt[:, n], abs=1e-6)


@pytest.mark.parametrize("ohms", [0.3, 1.0, 5.0, 1e9])
def test_one_part_worse_is_known_in_closed_form(small: Copper, ohms: float) -> None:
    ground = small.grounds[0]
    for n in range(0, len(ground.elements), 2):
        worse = ground.worse(ohms)[n]
        if worse * ground.felt[:, n].max() > 1e4:
            continue  # nothing leads round it: what lies beyond is dead, and no figure
        full = changed(small, 0, n, ohms)[0]
        assert ground.loop + worse * ground.felt[:, n] == pytest.approx(full, abs=3e-5 + 1e-5 * ohms / 1e9)


def test_a_place_feels_all_of_its_loop(small: Copper) -> None:
    """Σ f²·R is the loop itself: no part of the way is forgotten, with the source's own ohms among them."""
    ground = small.grounds[0]
    assert ground.felt @ ground.ohms == pytest.approx(ground.loop, rel=1e-9)


def test_the_method_with_one_ampere_leaves_source_and_breaker_out() -> None:
    layout = fed()
    dc, ac = read_copper(layout, "dc"), read_copper(layout, "ac")
    assert ac.grounds[0].loop - dc.grounds[0].loop == pytest.approx(layout.devices["B1"].ohms, rel=1e-3)


def test_the_smallest_set_is_never_larger_than_brute_force_finds() -> None:
    copper = read_copper(fed(3, 2000), "dc")
    wanted = spots(copper, frozenset({"feeder"}))
    found = cover(copper, "every part", wanted)
    ground = copper.grounds[0]
    sigma = alone(ground, "dc")
    shown = np.stack([power(ground, sigma, s.elements) ** 2 for s in wanted], axis=1)
    want = np.minimum(shown.sum(axis=0), ENOUGH)
    for size in range(1, len(found.places) + 1):
        if any(
            (shown[list(some)].sum(axis=0) >= want - 1e-6).all()
            for some in itertools.combinations(range(len(shown)), size)
        ):
            break
    assert len(found.places) == size == least(found)


def test_the_sets_of_the_demo_are_as_small_as_can_be(bench: Bench) -> None:
    must, every = bench.covers["must"], bench.covers["every part"]
    assert len(must.places) == least(must) <= 35 and not must.unseen
    assert len(every.places) <= 82
    joints = bench.covers["every joint"]
    assert joints.spots > every.spots > must.spots
    feeders = {s.owner for s in every.unseen if s.kind == "feeder"}
    assert feeders == {"F77", "F78"}, "two feeders of a dead end: metered by hand before they are tied"


def test_every_spot_of_a_cover_is_proved_by_its_places(bench: Bench) -> None:
    for named in ("must", "every part"):
        found = bench.covers[named]  # type: ignore[index]
        keys = {p.key for p in found.places}
        for g, ground in enumerate(bench.dc.grounds):
            rows = [n for n, p in enumerate(ground.places) if p.key in keys]
            sigma = alone(ground, "dc")
            for spot in spots(bench.dc, frozenset({"feeder", "run", "device"})):
                if spot.ground != g:
                    continue
                shown = power(ground, sigma, spot.elements) ** 2
                if shown.max() >= 9 - 1e-6 and named == "every part":
                    assert shown[rows].sum() >= ENOUGH - 1e-6, spot


def simulated(copper: Copper, places: list[str], seed: int, worse: dict[tuple[int, int], float]) -> list[Read]:
    """Readings of a railroad that is drawn anew, by a meter as it is."""
    rng = np.random.default_rng(seed)
    found = loops(copper, hidden_world(copper, rng, worse))
    noise = NOISE[copper.method]
    gain = 1 + noise.gain * rng.standard_normal()
    read = []
    for key in places:
        g, row = copper.where[key]
        ohms = float(found[g][row])
        shown = ohms * gain * (1 + noise.share * rng.standard_normal()) + noise.floor * rng.standard_normal()
        read.append(Read(key, np.inf if ohms > 100 else shown))
    return read


def test_bands_hold_as_often_as_they_say(bench: Bench) -> None:
    keys = [p.key for p in bench.covers["every part"].places]
    inside_alone, inside_given = [], []
    for seed in range(either(8, 25)):
        for j in learn(bench.dc, simulated(bench.dc, keys, seed, {})).judged:
            inside_given.append(abs(j.sigmas) < BAND)
            g, row = bench.dc.where[j.place]
            off = j.read - j.foretold
            inside_alone.append(abs(off) < BAND * alone(bench.dc.grounds[g], "dc")[row])
    assert 0.93 <= np.mean(inside_given) <= 0.985
    assert 0.93 <= np.mean(inside_alone) <= 0.99


def test_the_spread_of_readings_is_what_many_drawn_railroads_show(small: Copper) -> None:
    ground = small.grounds[0]
    rows = [0, len(ground.places) // 2, len(ground.places) - 1]
    found = np.array([loops(small, hidden_world(small, np.random.default_rng(seed)))[0][rows] for seed in range(400)])
    noise = NOISE["ac"]
    wanted = spread_matrix(ground, rows, "ac")
    loop = ground.loop[rows]
    wanted = wanted - noise.gain**2 * np.outer(loop, loop) - np.diag(noise.floor**2 + (noise.share * loop) ** 2)
    assert np.sqrt(np.diagonal(np.cov(found.T))) == pytest.approx(np.sqrt(np.diagonal(wanted)), rel=0.25)


def rank(learned: Learned, ground: int, element: int) -> int:
    return next((n for n, s in enumerate(learned.suspects) if s.ground == ground and element in s.elements), 99)


def test_one_bad_part_that_the_readings_could_show_is_among_the_first_three(bench: Bench) -> None:
    copper = bench.dc
    keys = [p.key for p in bench.covers["every part"].places]
    every = [(g, n, p) for g, x in enumerate(copper.grounds) for n, p in enumerate(priors(bench.layout, x))]
    weight = np.array([p for *_, p in every])
    shown, first, three, confident = 0, 0, 0, 0
    for seed in range(30):
        rng = np.random.default_rng(seed)
        g, n, _ = every[int(rng.choice(len(every), p=weight / weight.sum()))]
        ground = copper.grounds[g]
        rows = [ground.number[k] for k in keys if k in ground.number]
        seen = ground.felt[rows, n] * ground.worse(1.0)[n] / alone(ground, "dc")[rows]
        learned = learn(copper, simulated(copper, keys, seed, {(g, n): 1.0}))
        if (seen**2).sum() >= 9:
            shown += 1
            first += rank(learned, g, n) == 0
            three += rank(learned, g, n) < 3
        if learned.suspects and learned.suspects[0].chance > 0.8:
            confident += rank(learned, g, n) == 0
    assert shown >= 15
    assert three >= 0.9 * shown and first >= 0.75 * shown and confident >= 0.75 * shown


def test_sound_railroads_are_hardly_ever_accused(bench: Bench) -> None:
    """A joint drawn from the long tail of its kind may be named: it is the worst there is."""
    keys = [p.key for p in bench.covers["every part"].places]
    accused = [
        learned.suspects[0].chance > 0.8
        for seed in range(24)
        if (learned := learn(bench.dc, simulated(bench.dc, keys, seed, {}))).suspects
    ]
    assert sum(accused) <= 1


def test_ten_chosen_readings_tell_more_than_none(bench: Bench) -> None:
    copper = bench.dc
    keys = [p.key for p in bench.covers["must"].places]
    g, n = next(
        (g, n)
        for g, x in enumerate(copper.grounds)
        for n, e in enumerate(x.elements)
        if e.kind == "feeder" and e.owner == "F33"
    )
    read = simulated(copper, keys, 3, {(g, n): 1.0})
    before = learn(copper, read)
    for _ in range(10):
        done = {r.place for r in read}
        onward = [p.key for p in learn(copper, read).next if p.key not in done]
        if not onward:
            break
        read += simulated(copper, onward[:1], 3, {(g, n): 1.0})
    after = learn(copper, read)
    assert rank(after, g, n) == 0 and after.suspects[0].chance > 0.8
    assert len(after.suspects[0].elements) < len(before.suspects[0].elements), "fewer parts that look alike"


def test_a_dead_reading_leaves_only_what_makes_it_dead() -> None:
    copper = read_copper(fed(2), "dc")  # its last joiner is at 2500 mm, its last feeder before that
    ground = copper.grounds[0]
    keys = [p.key for p in ground.places][::2]
    learned = learn(
        copper,
        [
            Read(k, np.inf if ground.places[ground.number[k]].at > 2500.4 else float(ground.loop[ground.number[k]]))
            for k in keys
        ],
    )
    for suspect in learned.suspects[:2]:
        if suspect.chance > 0.2:
            assert any(ground.elements[e].kind == "rail" for e in suspect.elements), "a joint between, not the feeder"
    assert learned.sound < 0.01 and learned.suspects[0].chance > 0.4


def test_of_several_readings_of_one_place_the_last_counts(small: Copper) -> None:
    key = small.grounds[0].places[3].key
    once = learn(small, [Read(key, 0.5)])
    again = learn(small, [Read(key, 9.0), Read(key, 0.5), Read("nowhere@1", 3.0)])
    assert once == again and len(once.judged) == 1


@pytest.mark.parametrize("seed", range(4))
def test_on_random_railroads_nothing_breaks(seed: int) -> None:
    layout = random_layout(seed)
    bench = Bench(derive(layout))
    for copper in (bench.dc, bench.ac):
        for ground in copper.grounds:
            assert np.isfinite(ground.loop).all() and (ground.loop >= 0).all()
            assert (ground.felt <= 1 + 1e-9).all() and (ground.way_round <= 1).all()
    keys = {t.key for t in bench.tests}
    assert len(keys) == len(bench.tests)


def test_an_empty_layout_has_nothing_to_prove() -> None:
    bench = Bench(derive(Layout(name="Empty")))
    assert bench.tests == () and bench.covers["must"].places == () and learn(bench.dc, []).sound == 1.0
