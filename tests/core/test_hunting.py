"""Finding faults: belief by hand, shorts against a circuit simulator, and hunts of seeded faults."""

from __future__ import annotations

import shutil
import subprocess
from dataclasses import replace

import numpy as np
import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.proving.cases import case_of
from jolly_copper.core.proving.cause_tables import TABLES, table_case
from jolly_copper.core.proving.causes import SYMPTOMS, Act, Case, Cause
from jolly_copper.core.proving.drill import Hidden, answer_of, hide, in_order, play, set_drill
from jolly_copper.core.proving.hunt import WRONG, Answer, best_next, doubt, likeliest, reweighed, stand, told
from jolly_copper.core.proving.lifting import Lifted
from jolly_copper.core.proving.short_causes import District, district_of, output_of, shorts_of
from jolly_copper.core.proving.shorts import short_case
from tests.layouts import feeder, plain


@pytest.fixture(scope="module")
def bench(demo_facts: Facts) -> Bench:
    return Bench(demo_facts)


def three_causes() -> Case:
    causes = tuple(Cause(k, k, "other", w, "mend") for k, w in (("a", 2.0), ("b", 1.0), ("c", 1.0)))
    looks = tuple(Act(f"look:{c.key}", c.key, "", 4.0, True, 0.8, np.eye(3)[n]) for n, c in enumerate(causes))
    ask = Act("ask", "Does it hold?", "", 1.0, yes=np.array([0.9, 0.1, 0.1]))
    return Case("gap", "three", causes, (*looks, ask))


def test_belief_is_what_one_works_out_by_hand() -> None:
    case = three_causes()
    assert stand(case, []).chance == pytest.approx([0.5, 0.25, 0.25])
    yes = WRONG + (1 - 2 * WRONG) * np.array([0.9, 0.1, 0.1])
    by_hand = np.array([0.5, 0.25, 0.25]) * yes
    assert stand(case, [Answer("ask", "yes")]).chance == pytest.approx(by_hand / by_hand.sum())
    missed = np.array([0.5 * 0.2, 0.25, 0.25])
    at = stand(case, [Answer("look:a", "not found"), Answer("ask", "unsure")])
    assert at.chance == pytest.approx(missed / missed.sum())
    assert at.minutes == pytest.approx(5.0)


def test_bits_told_are_the_mutual_information_by_enumeration() -> None:
    case = three_causes()
    at = stand(case, [])
    ask = case.acts[-1]
    yes = WRONG + (1 - 2 * WRONG) * ask.yes
    after = 0.0
    for odds in (yes, 1 - yes):
        whole = float(odds @ at.chance)
        after += whole * doubt(odds * at.chance / whole)
    assert told(ask, at) == pytest.approx(doubt(at.chance) - after)


def test_half_of_the_belief_in_one_search_is_searched() -> None:
    case = three_causes()
    at = stand(case, [Answer("ask", "yes")])
    found = best_next(case, at, [Answer("ask", "yes")])
    assert found is not None and found.act.key == "look:a" and "%" in found.why


def test_the_best_question_of_a_small_case_is_the_one_brute_force_finds() -> None:
    """Minutes in the end of every first act, each followed by searching in the best order, by enumeration."""
    rng = np.random.default_rng(5)
    causes = tuple(Cause(str(k), str(k), "other", float(w), "") for k, w in enumerate(rng.uniform(0.2, 1, 6)))
    looks = tuple(Act(f"look:{k}", "", "", 5.0, True, 0.999, np.eye(6)[k]) for k in range(6))
    good = Act("good", "", "", 1.0, yes=np.array([1.0, 1, 1, 0, 0, 0]))
    idle = Act("idle", "", "", 1.0, yes=np.full(6, 0.5))
    case = Case("gap", "", causes, (*looks, good, idle))

    def searching(chance: np.ndarray) -> float:
        left, total = 1.0, 0.0
        for p in sorted(chance, reverse=True):
            total += 5.0 * left
            left -= p
        return total

    first = stand(case, [])
    cost = {}
    for act in (good, idle):
        yes = WRONG + (1 - 2 * WRONG) * act.yes
        cost[act.key] = 1.0
        for odds in (yes, 1 - yes):
            whole = float(odds @ first.chance)
            cost[act.key] += whole * searching(odds * first.chance / whole)
    best = min(cost, key=cost.__getitem__)
    chosen = best_next(case, first, [])
    assert chosen is not None and chosen.act.key == best == "good" and cost["good"] < searching(first.chance)


def shorted(spot: tuple[int, int], here: District, ohms: float, lifted: set[int], lines: list[str]) -> str:
    """A netlist of the ground with one ampere into the breaker's output, sources and breaker out, the short in."""
    out = output_of(here)
    for n, e in enumerate(here.ground.elements):
        if n in lifted:
            continue
        a, b = here.ground.island.ends[n]
        lines.append(f"R{n} n{a} n{b} {e.ohms:.9g}")
    lines.append(f"RS n{spot[0]} n{spot[1]} {ohms}")
    lines.append(f"I1 n{out[1]} n{out[0]} DC 1")
    return "\n".join(lines)


@pytest.mark.skipif(shutil.which("ngspice") is None, reason="needs ngspice")
def test_millivolts_with_a_short_in_are_what_a_circuit_simulator_has(bench: Bench) -> None:
    here = district_of(bench, "quarry")
    assert here is not None
    case, shorts = short_case(bench, "quarry"), shorts_of(bench, here)
    ground = here.ground
    out = {
        n
        for n, e in enumerate(ground.elements)
        if e.kind == "source" or (e.kind == "device" and e.owner == here.device)
    }
    rails = [a for a in case.acts if a.reads][::5]
    for n in range(0, len(shorts), 11):
        short = shorts[n]
        ends = [ground.points.nodes[ground.number[a.key[3:]]] for a in rails]
        share = [ground.points.share[ground.number[a.key[3:]]] > 0.5 for a in rails]
        local = ground.island.local
        probes = [(local[e[1 if s else 0]], local[e[3 if s else 2]]) for e, s in zip(ends, share, strict=True)]
        deck = shorted((short.a, short.b), here, 0.25, out, ["a short in a district"])
        # A very large resistor to ground from everywhere keeps what is lifted from floating.
        ties = "\n".join(f"RT{k} n{k} 0 1e9" for k in range(ground.island.resistance.size + 1))
        prints = "\n".join(f"print v(n{a},n{b})" for a, b in probes)
        text = f"{deck}\n{ties}\n.control\nop\n{prints}\n.endc\n.end\n"
        said = subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, timeout=60, check=False)
        shown = [abs(float(x.split("=")[1])) for x in said.stdout.splitlines() if x.startswith("v(")]
        assert len(shown) == len(rails), said.stdout[-400:] + said.stderr[-400:]
        assert shown == pytest.approx([a.part[n] + 0.25 for a in rails], abs=2e-3)


def test_lifting_is_what_solving_without_it_says(bench: Bench) -> None:
    ground = bench.ac.grounds[0]
    island = ground.island
    lifted = [n for n, e in enumerate(ground.elements) if e.kind == "feeder"][3:7]
    g = 1 / ground.ohms
    g[lifted] *= 1e-6
    size = island.resistance.size
    laplacian = np.zeros((size + 1, size + 1))
    for (a, b), w in zip(island.ends, g, strict=True):
        laplacian[a, a] += w
        laplacian[b, b] += w
        laplacian[a, b] -= w
        laplacian[b, a] -= w
    inverse = np.linalg.inv(laplacian[:size, :size])
    columns = np.eye(size + 1)[:, [5, 50, 120]]
    found = Lifted(island, lifted).columns(island.resistance.columns(columns))
    assert found[:size] == pytest.approx(inverse[:, [5, 50, 120]], abs=1e-6)


def test_hunts_of_seeded_shorts_end_soon(bench: Bench) -> None:
    """Minutes by the table, answers wrong one time in twenty. Usual practice, all in order: several times that."""
    took, plain_way, found = [], [], 0
    for circuit in ("west", "yard", "quarry", "staging", "shed"):
        case = short_case(bench, circuit)
        for seed in range(10):
            hunted = play(case, hide(case, seed))
            took.append(hunted.minutes)
            found += hunted.found
        plain_way += [play(case, hide(case, seed), in_order).minutes for seed in range(5)]
    assert found == len(took)
    assert np.mean(took) < 12 and np.quantile(took, 0.9) < 16.5
    assert np.mean(plain_way) > 2 * np.mean(took)


def test_hunts_of_other_symptoms_end_soon(bench: Bench) -> None:
    took = []
    places = [g.places[len(g.places) // 3 * k] for g in bench.ac.grounds for k in (0, 1, 2)]
    for place in places:
        case = case_of(bench, {"kind": "stalls", "track": place.track, "at": place.at})
        took += [play(case, hide(case, seed)).minutes for seed in range(4)]
    assert np.mean(took) < 10
    for kind in TABLES:
        case = table_case(kind, SYMPTOMS[kind])
        assert np.mean([play(case, hide(case, seed)).minutes for seed in range(12)]) < 14, kind


def test_one_slip_of_the_meter_is_survived(bench: Bench) -> None:
    case = short_case(bench, "yard")
    hidden = hide(case, 4)
    reads = [a for a in case.acts if a.reads][:6]
    true = [answer_of(case, a, hidden, 0, slips=False) for a in reads]
    slipped = [replace(true[0], said=str(float(true[0].said) * 1.5)), *true[1:]]
    before, after = stand(case, true).chance, stand(case, slipped).chance
    assert after[hidden.cause] > 1e-3 and before[hidden.cause] > 1e-3
    assert likeliest(stand(case, true))[0].chance > 0.05


def test_the_same_seed_is_the_same_hunt(bench: Bench) -> None:
    case = short_case(bench, "quarry")
    assert play(case, hide(case, 7)) == play(case, hide(case, 7))
    one, two = set_drill(bench, 42, "fair"), set_drill(bench, 42, "fair")
    assert one is not None and two is not None and one.hidden == two.hidden and one.symptom == two.symptom


def test_answers_nothing_foretells_are_told_as_strange() -> None:
    case = three_causes()
    same = [Answer(f"look:{k}", "not found") for k in "abc" for _ in range(9)]
    assert not stand(case, same).strange, "searched in vain many times is no contradiction"
    sure = replace(case, acts=(*case.acts[:3], replace(case.acts[3], yes=np.array([1.0, 1.0, 1.0]))))
    contrary = [Answer("ask", "no")] * 6
    assert stand(sure, contrary).strange and not stand(sure, contrary[:1]).strange, "one may be a slip"


def test_the_clubs_own_log_weighs_the_causes(bench: Bench) -> None:
    case = short_case(bench, "yard")
    more = reweighed(case, {"frog": 6})
    frogs = [n for n, c in enumerate(case.causes) if c.key.startswith("frog")]
    assert stand(more, []).chance[frogs].sum() > stand(case, []).chance[frogs].sum()


def test_what_is_missing_is_named() -> None:
    d = plain()
    feeder(d, "F1", "t", 100, "T1")
    d.data["devices"]["B1"]["trip_amps"] = None
    bench = Bench(derive(d.plain()))
    case = case_of(bench, {"kind": "trips", "circuit": "main"})
    assert case.missing and "trips at" in case.missing[0] and best_next(case, stand(case, []), []) is None


@pytest.mark.parametrize(
    ("symptom", "why"),
    [
        ({"kind": "noise"}, "one of the symptoms"),
        ({"kind": "trips", "circuit": "gone"}, "which district"),
        ({"kind": "stalls"}, "click the place"),
        ({"kind": "gap", "track": "gone", "at": 1.0}, "not on the layout"),
    ],
)
def test_a_symptom_that_says_too_little_is_asked_about(bench: Bench, symptom: dict[str, object], why: str) -> None:
    with pytest.raises(ValueError, match=why):
        case_of(bench, symptom)


def test_a_stall_on_a_railroad_without_feeders_is_no_crash() -> None:
    bench = Bench(derive(Layout(name="Bare")))
    assert set_drill(bench, 1, "easy") is None


def test_a_hidden_fault_answers_as_it_should(bench: Bench) -> None:
    case = short_case(bench, "quarry")
    hidden = Hidden(0, 1.0, 0.3, 11)
    look = next(a for a in case.acts if a.look and a.covers[0] > 0)
    other = next(a for a in case.acts if a.look and a.covers[0] == 0)
    assert any(answer_of(case, look, hidden, t, slips=False).said == "found" for t in range(5))
    assert all(answer_of(case, other, hidden, t, slips=False).said == "not found" for t in range(5))


def test_where_somebody_worked_lately_is_looked_first(bench: Bench) -> None:
    case = short_case(bench, "yard")
    feeder_of = next(n for n, c in enumerate(case.causes) if c.key.startswith("feeder:"))
    after = reweighed(case, {}, {case.causes[feeder_of].key})
    before, now = stand(case, []).chance[feeder_of], stand(after, []).chance[feeder_of]
    assert now == pytest.approx(10 * before / (1 + 9 * before))


def test_the_rest_runs_on_where_a_breaker_allows(bench: Bench) -> None:
    assert "all other districts run on" in short_case(bench, "yard").meanwhile
    assert short_case(bench, "b1").meanwhile == ""
