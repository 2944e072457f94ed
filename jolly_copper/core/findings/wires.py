"""Rules about what wires carry and how they are connected."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Iterator

from jolly_copper.core.circuits.edits import nearest_terminal
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import feeder_length, is_fine, longest_feeder
from jolly_copper.core.circuits.wires import feeder_ohms_per_metre, gauge_patch, run_ohms_per_metre
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.connections import (
    CONDUCTORS,
    circuit_under,
    heavier_held,
    thinner_gauge,
)
from jolly_copper.core.layout.document import REVERSERS, Layout
from jolly_copper.core.layout.levers import all_followed, ways_of
from jolly_copper.core.layout.power_tree import reads_a_rail
from jolly_copper.core.layout.wiring import Feeder, Run
from jolly_copper.core.materials.ampacity import may_carry, may_carry_amps
from jolly_copper.core.materials.copper import area_mm2, seconds_to_heat
from jolly_copper.core.quantities import Gauge, print_current, print_length, read_gauge


@rule("wire too thin for its protection")
def ampacity(facts: Facts) -> Iterator[Finding]:
    """Each wire against what it may carry, in a short that stays just under the trip, and at full load."""
    layout, heat_rule = facts.layout, facts.layout.brief.rules.sustained_heat_per_metre
    for (kind, owner), (scene, held) in facts.carried.items():
        thing = layout.runs[owner] if kind == "run" else layout.feeders[owner]
        gauge = read_gauge(thing.gauge) if isinstance(thing, Run) else thinner_gauge(thing)
        school, amps = may_carry(gauge), max(held, scene)
        carries = school.amps
        warm = amps**2 * (run_ohms_per_metre(layout, thing) if isinstance(thing, Run) else _warmest(layout, thing))
        place = Place(kind, owner, *((thing.track, thing.at) if kind == "feeder" else ()))  # type: ignore[union-attr]
        what = f"{'Bus' if kind == 'run' else 'Feeder'} {thing.label}"
        if amps > carries * (1 + 1e-9):
            fit = _heavy_enough(facts, kind, owner, gauge, amps)
            when = _when(facts, kind, owner) if held >= scene else "at full load"
            yield Finding(
                key=f"ampacity:{kind}:{owner}",
                rule="wire too thin for its protection",
                severity="must" if amps > 1.5 * carries else "should",
                title=f"{what}, {gauge}, can be left carrying {print_current(amps)}; it is good for "
                f"{print_current(carries)}",
                why=f"That is its share {when}: {warm:.1f} W in every metre. With no heat escaping it would reach 105 "
                f"°C in {_seconds(seconds_to_heat(gauge, amps))}. Low track volts still start fires.",
                mend=f"{fit} carries it; or a smaller trip upstream. Local codes and licensed practice come first."
                if fit
                else "A smaller trip upstream, or a second wire.",
                place=place,
                shows=(owner,),
                figures=(
                    ("carries", print_current(amps)),
                    ("good for", f"{print_current(carries)}, {school.name}"),
                    ("heat", f"{warm:.2f} W/m"),
                ),
                mends=(Mend(f"{what} to {fit}", gauge_patch(layout, kind, owner, str(fit))),) if fit else (),
                source=f"{school.name}: {school.source}",
            )
        elif warm > heat_rule and kind == "run":
            yield Finding(
                key=f"heat:{kind}:{owner}",
                rule="wire too thin for its protection",
                severity="look",
                title=f"{what} would give off {warm:.1f} W in every metre {_when(facts, kind, owner)}",
                why=f"It is within what {gauge} may carry ({print_current(carries)}), but warm to the hand in a "
                "bundle.",
                mend="Keep it out of bundles and insulation, or go one gauge up.",
                place=place,
                shows=(owner,),
                figures=(
                    ("carries", print_current(amps)),
                    ("heat", f"{warm:.2f} W/m"),
                    ("house rule", f"{heat_rule:g} W/m"),
                ),
            )


def _heavy_enough(facts: Facts, kind: str, owner: str, gauge: Gauge, amps: float) -> Gauge | None:
    """The first heavier gauge that carries what it then takes, and that its connectors hold; None where there is none.

    A heavier wire takes more of a short: of two ways beside each other s' = 1/(1 + (1/s − 1)·A/A'), s its share and
    A its copper now. That is the most it may take, since what both ways have before them stays as it is.
    """
    layout, held = facts.layout, facts.held_in.get((kind, owner))
    share = min(amps / held.amps, 1.0) if held is not None and held.amps > 0 else 1.0
    whole = amps / share
    for g in heavier_held(layout, kind, owner, gauge):
        then = whole / (1 + (1 / share - 1) * area_mm2(gauge) / area_mm2(g))
        if may_carry_amps(g) >= then:
            return g
    return None


def _warmest(layout: Layout, feeder: Feeder) -> float:
    return max(feeder_ohms_per_metre(layout, feeder, c) for c in CONDUCTORS)


def _when(facts: Facts, kind: str, owner: str) -> str:
    """The short that a wire is left carrying, by whose figure."""
    held = facts.held_in.get((kind, owner))
    if held is None or held.basis == "trip":
        return "in a short that just does not trip"
    name = facts.layout.devices[held.device].name
    gives = "gives at most" if held.basis == "limit" else "is marked"
    return f"in a short: nothing is known to trip, and {name} {gives} {print_current(held.amps)}"


def _seconds(seconds: float) -> str:
    return f"{seconds:.0f} s" if seconds < 120 else f"{seconds / 60:.0f} min"


@rule("feeder length")
def too_long(facts: Facts) -> Iterator[Finding]:
    """Feeders longer than the house allows for their gauge."""
    layout, rules = facts.layout, facts.layout.brief.rules
    units = layout.brief.units
    for feeder_id, feeder in layout.feeders.items():
        gauge, length = read_gauge(feeder.gauge), feeder_length(layout, feeder)
        fine, limit = is_fine(gauge), longest_feeder(rules, gauge)
        if length <= limit + 0.5:
            continue
        mends: tuple[Mend, ...] = ()
        if fine and length <= rules.longest_heavy_feeder:
            heavier = (g for g in heavier_held(layout, "feeder", feeder_id, gauge) if not is_fine(g))
            mends = tuple(
                Mend(f"Feeder {feeder.label} to {g}", gauge_patch(layout, "feeder", feeder_id, str(g)))
                for g in itertools.islice(heavier, 1)
            )
        yield Finding(
            key=f"feeder-length:{feeder_id}",
            rule="feeder length",
            severity="should",
            title=f"Feeder {feeder.label} is {print_length(length, units)} of {gauge}; the house rule is "
            f"{print_length(limit, units)}",
            why="Thin feeders are meant to be short: they warm first and lose volts fastest.",
            mend="A heavier feeder, or a terminal nearer to the rail.",
            place=Place("feeder", feeder_id, feeder.track, feeder.at),
            shows=(feeder_id,),
            figures=(("length", print_length(length, units)), ("at most", print_length(limit, units))),
            mends=mends,
        )


@rule("feeder on another circuit", "zones")
def wrong_circuit(facts: Facts) -> Iterator[Finding]:
    """A feeder tied to a circuit that is not its section's: two districts become one."""
    yield from (f for f in _wrong_circuits(facts) if f.rule == "feeder on another circuit")


@rule("feeder fights a reverser", "reverse")
def fights_a_reverser(facts: Facts) -> Iterator[Finding]:
    """A feeder inside a reverser's section tied to the plain bus: the classic mistake."""
    yield from (f for f in _wrong_circuits(facts) if f.rule == "feeder fights a reverser")


def _wrong_circuits(facts: Facts) -> Iterator[Finding]:
    layout = facts.layout
    for feeder_id, feeder in layout.feeders.items():
        section_id = facts.rails.section_at(feeder.track, feeder.at)
        if section_id is None:
            continue
        section = layout.sections[section_id]
        tied = layout.runs[layout.terminals[feeder.terminal].run].circuit
        if tied == section.circuit:
            continue
        behind = facts.tree.fed_by.get(section.circuit)
        if (
            behind is not None
            and layout.devices[behind].kind == "detector"
            and tied in facts.tree.lineage(section.circuit)
        ):
            continue  # a rule of its own says that it goes round the detector
        device = facts.tree.fed_by.get(section.circuit)
        reverser = device is not None and layout.devices[device].kind in REVERSERS
        right = nearest_terminal(facts, section.circuit, feeder.track, feeder.at)
        mends: tuple[Mend, ...] = ()
        if right is not None:
            label = "Move to the reverser's output" if reverser else f"Move to {layout.circuits[section.circuit].name}"
            mends = (Mend(label, [{"op": "replace", "path": f"/feeders/{feeder_id}/terminal", "value": right}]),)
        yield Finding(
            key=f"circuit:{feeder_id}",
            rule="feeder fights a reverser" if reverser else "feeder on another circuit",
            severity="must",
            title=f"Feeder {feeder.label} fights the reverser in {section.name}"
            if reverser
            else f"Feeder {feeder.label} in {section.name} is tied to {layout.circuits[tied].name}",
            why=f"It is tied to the {layout.circuits[tied].name} bus. "
            + (
                "When the section flips, this feeder holds the old phase: a dead short, every time."
                if reverser
                else f"{section.name} belongs to {layout.circuits[section.circuit].name}: the two circuits are joined "
                "through it, so one breaker no longer opens its own district."
            ),
            mend="Take it to a terminal of its own section's circuit.",
            place=Place("feeder", feeder_id, feeder.track, feeder.at),
            shows=(feeder_id, feeder.terminal),
            mends=mends,
            figures=(
                ("tied to", layout.circuits[tied].name),
                ("section's circuit", layout.circuits[section.circuit].name),
            ),
        )


@rule("wire with no source")
def no_source(facts: Facts) -> Iterator[Finding]:
    """Runs and feeders with no way to a station or booster."""
    layout = facts.layout
    live = {(w.element.kind, w.element.owner) for w in facts.wires}
    readers = {d.output for d in layout.devices.values() if reads_a_rail(layout, d)}
    live |= {
        ("run", i) for i, r in layout.runs.items() if r.circuit in readers
    }  # its other wire is the wheel of a train
    # Behind a selector that is off nothing is wrong: what counts is whether any way leads to a source.
    reached = {
        c
        for c in layout.circuits
        if facts.tree.source(c) is None
        and _chosen(layout)
        and (ways_of(facts.tree, c) or not all_followed(facts.tree, c))
    }
    live |= {("run", i) for i, r in layout.runs.items() if r.circuit in reached and ("run", i) not in live}
    live |= {("feeder", i) for i, f in layout.feeders.items() if circuit_under(layout, f, "A") in reached}
    live |= {("run", i) for i in _tied_at_their_start(layout, live)}
    dead_runs = [i for i, r in layout.runs.items() if ("run", i) not in live and not _is_bare(facts, i)]
    for run_id in dead_runs:
        run = layout.runs[run_id]
        yield Finding(
            key=f"no-source:run:{run_id}",
            rule="wire with no source",
            severity="must",
            title=f"Bus {run.label} has no way back to a source of power",
            why=f"Nothing that gives power reaches {layout.circuits[run.circuit].name} here: a device is missing, or "
            f"is not joined to it.",
            mend="Join it to a powered terminal, or give its circuit a device that feeds it.",
            place=Place("run", run_id),
            shows=(run_id,),
        )
    for feeder_id, feeder in layout.feeders.items():
        run_id = layout.terminals[feeder.terminal].run
        if ("feeder", feeder_id) in live or run_id in dead_runs or layout.runs[run_id].circuit in readers:
            continue
        yield Finding(
            key=f"no-source:feeder:{feeder_id}",
            rule="wire with no source",
            severity="must",
            title=f"Feeder {feeder.label} has no way back to a source of power",
            why="Its terminal is not on a run that reaches a source.",
            mend="Move it to a powered terminal.",
            place=Place("feeder", feeder_id, feeder.track, feeder.at),
            shows=(feeder_id,),
        )


def _tied_at_their_start(layout: Layout, live: Collection[tuple[str, str]]) -> set[str]:
    """Runs with something live at one of their terminals: where all hangs at the place it is fed, no wire of the run
    itself carries anything."""
    return {
        layout.terminals[t].run
        for i, f in layout.feeders.items()
        if ("feeder", i) in live
        for t in (f.terminal, f.other)
        if t is not None
    }


def _chosen(layout: Layout) -> bool:
    """Whether the layout has selectors at all."""
    return any(d.kind == "selector" for d in layout.devices.values())


def _is_bare(facts: Facts, run_id: str) -> bool:
    """A run with nothing on it yet carries nothing and is no fault."""
    run = facts.layout.runs[run_id]
    return not (
        run.ends_at_device or run.ends_at_terminal or any(t.run == run_id for t in facts.layout.terminals.values())
    )
