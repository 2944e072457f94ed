"""Rules about volts, shorts and protection."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jolly_copper.core.circuits.edits import offer_feeder
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.parts import counts_inductance
from jolly_copper.core.circuits.staircase import PointAnswer, explain
from jolly_copper.core.circuits.wires import gauge_patch
from jolly_copper.core.findings.model import Finding, Mend, Place, Severity, rule
from jolly_copper.core.layout.connections import heavier_held
from jolly_copper.core.layout.control import word_of
from jolly_copper.core.materials.copper import area_mm2
from jolly_copper.core.quantities import print_current, print_ohms, print_volts, print_watts, read_gauge


def _by_district(facts: Facts, rows: np.ndarray) -> dict[str, np.ndarray]:
    districts = {c: facts.tree.district(c) for c in set(facts.circuit) if c is not None}
    named: dict[str, list[int]] = {}
    for row in rows.tolist():
        circuit = facts.circuit[row]
        if circuit is not None:
            named.setdefault(districts[circuit], []).append(row)
    return {c: np.array(r) for c, r in sorted(named.items())}


WORTH_DRAWING = 1.25
"""A bus drawn anew has at least so many times the copper; less is not worth the evening."""


def thicken(facts: Facts, run_id: str, times: float = WORTH_DRAWING) -> Mend | None:
    """The next heavier gauge on a run that has at least so many times its copper and fits its connectors, or None."""
    run = facts.layout.runs[run_id]
    gauge = read_gauge(run.gauge)
    least = times * area_mm2(gauge) - 1e-9
    up = next((g for g in heavier_held(facts.layout, "run", run_id, gauge) if area_mm2(g) >= least), None)
    if up is None:
        return None
    return Mend(f"Bus {run.label} to {up}", gauge_patch(facts.layout, "run", run_id, str(up)))


WORTH_MENDING = 0.2
"""A thing that takes less than this share of the drop is not worth a mend of its own."""


def tie_together(facts: Facts, run_id: str) -> Mend | None:
    """The two wires of a run laid side by side, or twisted where they lie so already; None where that is done."""
    run = facts.layout.runs[run_id]
    if run.make in ("twisted", "paired cable"):
        return None
    verb, make = ("Tie {} together", "side by side") if run.make == "apart" else ("Twist {}", "twisted")
    return Mend(verb.format(run.label), [{"op": "replace", "path": f"/runs/{run_id}/make", "value": make}])


def _mends(facts: Facts, answer: PointAnswer) -> tuple[Mend, ...]:
    """Mends for the steps that take a fair share of the drop, the biggest first."""
    lost = sum(s.volts for s in answer.steps)
    offers: list[tuple[float, Mend | None]] = []
    in_rail = sum(s.volts for s in answer.steps if s.kind in ("rail", "joiner"))
    patch = offer_feeder(facts, answer.circuit, answer.track, answer.at)
    offers.append((in_rail, Mend(f"Feeder on {facts.layout.tracks[answer.track].name}", patch) if patch else None))
    runs = [s for s in answer.steps if s.kind == "run"]
    if runs:
        worst = max(runs, key=lambda s: s.volts)
        offers.append((worst.volts, thicken(facts, worst.owners[0])))
    for step in answer.steps:
        if step.kind == "inductance" and step.owners:
            offers.append((step.volts, tie_together(facts, step.owners[0])))
    worth = sorted((o for o in offers if o[0] >= WORTH_MENDING * lost), key=lambda o: -o[0])
    return tuple(mend for _, mend in worth if mend is not None)[:2]


@rule("drop")
def drop(facts: Facts) -> Iterator[Finding]:
    """The worst volts in each district against the house rule. Base: what its source should give, or gives where that
    is more. By resistance and the low end of the inductive estimate; the high end is told."""
    allowed = facts.layout.brief.rules.largest_drop
    live = np.flatnonzero(np.isfinite(facts.volts) & (facts.open_volts > 0.5 * facts.given_volts))
    for circuit, rows in _by_district(facts, live).items():
        lost = 1 - facts.volts[rows] / facts.source_volts[rows]
        worst = int(rows[int(np.argmax(lost))])
        share = float(lost.max())
        if share <= allowed + 1e-9:
            continue
        track, at = facts.place_of(worst)
        answer = explain(facts, track, at)
        steps = sorted(answer.steps, key=lambda s: -s.volts)
        exact = 1 - answer.exact_volts / answer.source_volts
        severity: Severity = "must" if exact > 3 * allowed else "should"  # an estimate by itself is never a must
        name = facts.layout.circuits[circuit].name
        biggest = steps[0]
        yield Finding(
            key=f"drop:{circuit}",
            rule="drop",
            severity=severity,
            title=f"Lowest wheel voltage on {name} is {print_volts(answer.volts)}, {share * 100:.0f} % down",
            why=f"House rule is {allowed * 100:.0f} % of the {print_volts(answer.source_volts)} its source should "
            f"give. Most of it, {print_volts(biggest.volts)}, is {biggest.title} ({biggest.detail}).",
            mend="Heavier bus, a feeder nearer, or the source nearer; see If you changed one thing.",
            place=Place("track", track, track, at),
            figures=(
                ("at the wheel", print_volts(answer.volts)),
                ("by resistance alone", print_volts(answer.exact_volts)),
                ("with the high end of the inductive estimate", print_volts(answer.least_volts)),
                ("trains", f"{len(answer.trains)}, {print_current(sum(t.amps for t in answer.trains))}"),
            ),
            shows=tuple(o for s in steps if s.kind == "run" for o in s.owners),
            mends=_mends(facts, answer),
        )


@rule("coin test", "zones")
def coin_test(facts: Facts) -> Iterator[Finding]:
    """The weakest short in each district against its protection's trip, by what a breaker would read."""
    margin = facts.layout.brief.rules.coin_margin
    ratio = facts.coin / facts.trip
    judged = np.flatnonzero(np.isfinite(ratio) & (facts.open_volts > 0.5 * facts.given_volts))
    for circuit, rows in _by_district(facts, judged).items():
        worst = int(rows[int(np.argmin(ratio[rows]))])
        if ratio[worst] >= margin - 1e-9:
            continue
        track, at = facts.place_of(worst)
        answer = explain(facts, track, at)
        assert answer.trip is not None and answer.trip_device is not None
        guard = facts.layout.devices[answer.trip_device].name
        name, wants = facts.layout.circuits[circuit].name, margin * answer.trip
        limit = answer.limit
        capped = limit is not None and limit.by is not None and answer.coin >= limit.amps - 1e-9
        if capped and limit is not None and not limit.guess and limit.amps < answer.trip:
            continue  # a rule of its own says that it never trips
        heat = answer.coin**2 * answer.loop_ohms
        if capped and limit is not None and limit.by is not None:
            by = facts.layout.devices[limit.by].name
            why = f"{by} gives no more than {print_current(answer.coin)} into any short, whatever the wire."
            if limit.guess:
                why = (
                    f"{by} is guessed to give no more than {print_current(answer.coin)}, from its label: type its "
                    f"limit to settle it."
                )
        elif answer.coin < 0.9 * answer.coin_exact:
            why = (
                f"Copper alone would let {print_current(answer.coin_exact)} flow; the inductance of wires run apart "
                "holds it back (an estimate; a coin test with an ammeter settles it)."
            )
        else:
            why = (
                f"The loop to that rail is {print_ohms(answer.loop_ohms)}; old joiners and dirty contacts will add to "
                "it."
            )
        never = answer.coin < answer.trip
        if never and not (capped and limit is not None and limit.guess):
            why += f" The wiring would take {print_watts(heat)} for as long as nobody notices."
        verdict = "will not trip" if never else f"trips at {print_current(answer.trip)}"
        guessed = capped and limit is not None and limit.guess
        read = answer.reading
        by_mean = (
            (("to a breaker that reads the mean", print_current(min(read.mean, answer.coin))),)
            if read and read.mean < 0.97 * read.effective
            else ()
        )
        yield Finding(
            key=f"coin:{circuit}",
            rule="coin test",
            severity="must" if never and not guessed else "should",
            title=f"A short on {facts.layout.tracks[track].name} draws {print_current(answer.coin)}; {guard} {verdict}",
            why=why,
            mend=f"Wants {print_current(wants)} ({margin:g} times the trip): lower resistance, or a smaller trip.",
            place=Place("track", track, track, at),
            figures=(
                ("district", name),
                ("short current", print_current(answer.coin)),
                ("by resistance alone", print_current(answer.coin_exact)),
                *by_mean,
                ("trip", print_current(answer.trip)),
                ("loop", print_ohms(answer.loop_ohms)),
            ),
            shows=tuple(o for s in answer.steps if s.kind == "run" for o in s.owners),
            mends=() if capped else _mends(facts, answer),
        )


@rule("feeders in a short")
def feeders_in_a_short(facts: Facts) -> Iterator[Finding]:
    """Track whose rails meet through the wiring itself: no-load volts collapse though nothing is on the track."""
    low = np.flatnonzero(np.isfinite(facts.open_volts) & (facts.open_volts <= 0.5 * facts.given_volts))
    for circuit, rows in _by_district(facts, low).items():
        worst = int(rows[int(np.argmin(facts.open_volts[rows]))])
        track, at = facts.place_of(worst)
        zone = facts.topology.zones.at(facts.rails.piece_at(track, at))
        if zone.odd or zone.minority or len(zone.roots) > 1:
            continue  # the rails say where it is: a rule of its own names the feeder or the gap
        name = facts.layout.circuits[circuit].name
        yield Finding(
            key=f"short:{circuit}",
            rule="feeders in a short",
            severity="must",
            title=f"{name} is shorted by its own wiring near {facts.layout.tracks[track].name}",
            why=f"With no train on it the rails stand at {print_volts(float(facts.open_volts[worst]))} instead of "
            f"{print_volts(float(facts.given_volts[worst]))}: somewhere the two conductors meet on one rail.",
            mend="Look for a feeder with its wires swapped, or a missing gap; lift feeders one by one until it clears.",
            place=Place("track", track, track, at),
            figures=(("no-load volts", print_volts(float(facts.open_volts[worst]))),),
        )


@rule("breaker below booster", "zones")
def breaker_below_booster(facts: Facts) -> Iterator[Finding]:
    """Each breaker must trip below the source above it, or a derailment stops every district."""
    layout, most = facts.layout, facts.layout.brief.rules.breaker_below_booster
    for device_id, device in layout.devices.items():
        if device.kind != "breaker" or device.trip_amps is None or device.input is None:
            continue
        source = facts.tree.source(device.input)
        if source is None or source[1].trip_amps is None or device.trip_amps <= most * source[1].trip_amps + 1e-9:
            continue
        limit = most * source[1].trip_amps
        wanted = float(int(limit)) if limit >= 1 else round(limit, 1)
        yield Finding(
            key=f"breaker:{device_id}",
            rule="breaker below booster",
            severity="must",
            title=f"{device.name} trips at {print_current(device.trip_amps)}, {source[1].name} at "
            f"{print_current(source[1].trip_amps)}",
            why=f"The {word_of(layout, source[1])} is as small and may be as quick: one derailment there stops "
            f"every district it feeds.",
            mend=f"Set the breaker to {print_current(wanted)} or below.",
            place=Place("device", device_id),
            shows=(device_id, source[0]),
            figures=(
                ("breaker", print_current(device.trip_amps)),
                ("source", print_current(source[1].trip_amps)),
                ("at most", print_current(limit)),
            ),
            mends=(
                Mend(
                    f"Trip at {print_current(wanted)}",
                    [{"op": "replace", "path": f"/devices/{device_id}/trip_amps", "value": wanted}],
                ),
            ),
        )


@rule("wires apart")
def wires_apart(facts: Facts) -> Iterator[Finding]:
    """Runs whose two wires are kept apart and lose more than 3 % to it on a square wave. Estimate."""
    layout = facts.layout
    if not layout.brief.rules.count_inductance:
        return
    seen: dict[str, tuple[float, str, float, float]] = {}
    apart = {s[0] for r in layout.runs.values() if r.make == "apart" and (s := facts.tree.source(r.circuit))}
    for part in facts.parts:
        if not counts_inductance(facts.network, part.island):
            continue
        if not len(part.rows) or apart.isdisjoint(s.device for s in part.island.sources):
            continue
        k = int(np.argmax(part.worked.worst.loss))
        track, at = facts.place_of(int(part.rows[k]))
        answer = explain(facts, track, at)
        for step in answer.steps:
            if step.kind != "inductance":
                continue
            for run_id in [r for r in step.owners if layout.runs[r].make == "apart"]:
                if facts.tree.source(layout.runs[run_id].circuit) == facts.tree.source(answer.circuit or ""):
                    seen[run_id] = (step.volts, track, at, answer.source_volts)
    for run_id, (volts, track, at, base) in seen.items():
        run = layout.runs[run_id]
        if volts < 0.03 * base:
            continue
        yield Finding(
            key=f"apart:{run_id}",
            rule="wires apart",
            severity="should",
            title=f"Bus {run.label} keeps its two wires apart; about {print_volts(volts)} goes in inductance",
            why="The current of a digital booster turns round thousands of times a second, and a wide loop resists "
            "that. It also makes a short look smaller to the breaker. An estimate: measure volts under load to "
            "settle it.",
            mend="Tie the two wires together along their whole way, or twist them; nothing else has to change.",
            place=Place("run", run_id, track, at),
            shows=(run_id,),
            figures=(("lost to inductance, estimate", print_volts(volts)),),
            source="calculated, checked against a circuit simulator",
            mends=tuple(m for m in [tie_together(facts, run_id)] if m),
        )
