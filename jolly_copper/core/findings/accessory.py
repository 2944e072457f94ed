"""Rules about accessory power: volts that reach motors and lamps, what supplies give, and who shares with the track."""

from __future__ import annotations

import math
from collections.abc import Iterator

from jolly_copper.core.circuits.accessory import wrong_with
from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.findings.model import Finding, Mend, Place, Severity, rule
from jolly_copper.core.findings.power import thicken
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.words import SOURCE
from jolly_copper.core.quantities import print_current, print_volts

SPARE = 1.25
"""Copper offered over what the sum asks, for contacts and the supply itself. Certainty C."""


@rule("load volts", "zones")
def load_volts(facts: Facts) -> Iterator[Finding]:
    """A load that gets fewer volts than it needs, more than it stands, or none."""
    layout = facts.layout
    for i, found in facts.accessory.loads.items():
        load = layout.loads[i]
        name, circuit = load.name, layout.circuits[load.circuit].name
        wrong = wrong_with(load, found)
        if wrong is None:
            continue
        if wrong == "nothing there":
            yield Finding(
                key=f"volts:{i}",
                rule="load volts",
                severity="must",
                title=f"No supply reaches {name}",
                why=f"{circuit} has no supply, or no wire goes there.",
                mend="Give its circuit a supply, and tie it to a terminal of it.",
                place=Place("load", i),
                shows=(i,),
            )
            continue
        high = wrong == "too high"
        source = facts.tree.fed_by.get(load.circuit)
        at_source = source_volts(layout, source) if source else math.nan
        severity: Severity = "must" if high or found.rest < (load.least_volts or 0) else "should"
        wants = f"stands {print_volts(load.most_volts or 0)}" if high else f"wants {print_volts(load.least_volts or 0)}"
        got = found.rest if high else found.work
        run = layout.terminals[found.terminal].run if found.terminal else None
        mends: tuple[Mend, ...] = ()
        left = at_source - (load.least_volts or 0)
        if not high and run is not None and left > 0:
            # As if all of the loss were in this run, with something to spare for contacts and the supply itself.
            mends = tuple(m for m in [thicken(facts, run, SPARE * (at_source - found.work) / left)] if m)
        yield Finding(
            key=f"volts:{i}",
            rule="load volts",
            severity=severity,
            title=f"{name}: {print_volts(got)} {'arrives' if high else 'at work'}, {wants}",
            why="More than it stands wears it out or burns it."
            if high
            else f"Of {print_volts(at_source)} at the supply {print_volts(at_source - found.work)} is lost on the way "
            f"with all at work.",
            mend="A step-down, or another bus."
            if high
            else "A heavier bus, a supply nearer, fewer at once, or a supply that gives what its label says.",
            place=Place("load", i),
            shows=(i, *((run,) if run else ())),
            mends=mends,
            figures=(
                ("at rest", print_volts(found.rest)),
                ("at work", print_volts(found.work)),
                ("at the supply", print_volts(at_source)),
                ("tied at", found.terminal or "the supply itself"),
            ),
        )


@rule("supply asked", "zones")
def supply_asked(facts: Facts) -> Iterator[Finding]:
    """A supply or step-down asked for more than it gives, or a step-down fed too few volts."""
    for asked in facts.accessory.supplies:
        device = facts.layout.devices[asked.device]
        if asked.gives is not None and asked.work > asked.gives + 1e-9:
            yield Finding(
                key=f"supply:{asked.device}",
                rule="supply asked",
                severity="should",
                title=f"{device.name} is asked for {print_current(asked.work)} and gives {print_current(asked.gives)}",
                why=f"{print_current(asked.rest)} with all at rest; the rest when all work that may work at once.",
                mend="A larger supply, a second bus, or fewer at once.",
                place=Place("device", asked.device),
                shows=(asked.device,),
                figures=(
                    ("at work", print_current(asked.work)),
                    ("at rest", print_current(asked.rest)),
                    ("gives", print_current(asked.gives)),
                ),
            )
        if asked.input_volts is not None and not asked.input_volts >= (device.least_volts or 0):
            volts = "nothing" if math.isnan(asked.input_volts) else print_volts(asked.input_volts)
            yield Finding(
                key=f"input:{asked.device}",
                rule="supply asked",
                severity="must",
                title=f"{device.name} is fed {volts} and needs {print_volts(device.least_volts or 0)}",
                why="Below that a step-down gives up, and all behind it goes out.",
                mend="A heavier bus to it, or place it nearer to the supply.",
                place=Place("device", asked.device),
                shows=(asked.device,),
                figures=(("at its input", volts),),
            )


@rule("turnouts on the track", "zones")
def turnouts_on_the_track(facts: Facts) -> Iterator[Finding]:
    """What throws turnouts hangs on a circuit that feeds rails: a short there takes away the means to clear it."""
    layout = facts.layout
    railed = {c for c in facts.circuit if c is not None}
    fed = {facts.tree.district(c) for c in railed}
    elsewhere = next(
        (c for c, v in layout.circuits.items() if v.purpose == "accessory" and c in facts.tree.fed_by), None
    )
    for i, load in layout.loads.items():
        if (
            not load.throws
            or layout.circuits[load.circuit].purpose == "accessory"
            or facts.tree.district(load.circuit) not in fed
        ):
            continue
        name = layout.circuits[load.circuit].name
        mends: tuple[Mend, ...] = ()
        if elsewhere is not None and load.kind != "stationary decoder":
            patch: Patch = [
                {"op": "replace", "path": f"/loads/{i}/circuit", "value": elsewhere},
                {"op": "replace", "path": f"/loads/{i}/terminal", "value": None},
            ]
            mends = (Mend(f"{load.name} to {layout.circuits[elsewhere].name}", patch),)
        yield Finding(
            key=f"throws:{i}",
            rule="turnouts on the track",
            severity="should",
            title=f"{load.name} hangs on {name}: a short there takes away the means to clear it",
            why="A train that runs through a turnout set against it shorts the district, and the turnout can then "
            "not be thrown.",
            mend=f"Give it a branch of its own from the {SOURCE[control_of(facts.tree, load.circuit)]}, or "
            "accessory power, so that "
            f"turnouts still throw.",
            place=Place("load", i),
            shows=(i,),
            figures=(("district", name),),
            mends=mends,
        )
