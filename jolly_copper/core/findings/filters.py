"""Rules about the filter at the end of a bus."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.waveform import behind_detector, filter_heat, safe_rating
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.control import control_of

HALF_WATT_SCHOOL = 0.6
"""A resistor rated under this share of its worst heat is less than any school has; half a watt at 14.4 V is 0.7."""


@rule("filter behind a detector")
def filter_detected(facts: Facts) -> Iterator[Finding]:
    """A filter that a block detector takes for a train."""
    layout = facts.layout
    for i, run in layout.runs.items():
        detector = behind_detector(layout, i) if run.filter else None
        if detector is None:
            continue
        name = layout.devices[detector].name
        yield Finding(
            key=f"filter-detected:{i}",
            rule="filter behind a detector",
            severity="must",
            title=f"The filter at the end of bus {run.label} is behind {name}",
            why="Every edge of the signal drives current through the filter: the detector shows a train that is not "
            "there, for ever.",
            mend="Take the filter off, or hang it on the bus before the detector.",
            place=Place("run", i),
            shows=(i, detector),
            figures=(("detector", name),),
            mends=(Mend(f"Take the filter off {run.label}", [{"op": "remove", "path": f"/runs/{i}/filter"}]),),
        )


@rule("filter resistor too small")
def filter_heats(facts: Facts) -> Iterator[Finding]:
    """A resistor rated for less than twice the heat it gives off."""
    layout = facts.layout
    for i, run in layout.runs.items():
        if run.filter is None or control_of(facts.tree, run.circuit) != "dcc":
            continue
        heat = filter_heat(layout, i, run.filter)
        if run.filter.watts >= 2 * heat - 1e-9:
            continue
        wants = safe_rating(heat)
        yield Finding(
            key=f"filter-heat:{i}",
            rule="filter resistor too small",
            severity="must" if run.filter.watts < HALF_WATT_SCHOOL * heat else "should",
            title=f"The filter resistor of bus {run.label} gives off {heat:.2f} W and is rated {run.filter.watts:g} W",
            why="It sits in still air under a board, beside wood. At its full rating a resistor is hot enough to burn "
            "skin and char paint.",
            mend=f"One of {wants:g} W, flameproof, in free air. Half a watt is one school at the volts of small "
            f"scales; it runs over its rating.",
            place=Place("run", i),
            shows=(i,),
            figures=(("heat", f"{heat:.2f} W"), ("rated", f"{run.filter.watts:g} W")),
            mends=(Mend(f"Rated {wants:g} W", [{"op": "replace", "path": f"/runs/{i}/filter/watts", "value": wants}]),)
            if wants >= 2 * heat
            else (),
            source="calculated, checked against a circuit simulator",
        )
