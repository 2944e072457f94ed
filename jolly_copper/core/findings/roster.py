"""Rules about the engines of the roster: numbers given twice, and volts they do not stand."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.findings.engines import may_run_under
from jolly_copper.core.findings.model import Finding, Place, rule
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.quantities import print_volts


@rule("engines of one number", "trains")
def one_number(facts: Facts) -> Iterator[Finding]:
    """Two engines that answer to one number run together whenever either is called."""
    by: dict[int, list[str]] = defaultdict(list)
    for i, engine in facts.layout.engines.items():
        if engine.number is not None:
            by[engine.number].append(i)
    for number, engines in sorted(by.items()):
        if len(engines) > 1:
            names = " and ".join(facts.layout.engines[i].name for i in engines[:3])
            yield Finding(
                key=f"number:{number}",
                rule="engines of one number",
                severity="should",
                title=f"{names} answer to the same number, {number}",
                why="Whoever calls one moves the other too, wherever it stands.",
                mend="Give one of them another number; engines that are run as one may be accepted with that reason.",
                place=Place("engine", engines[0]),
                shows=tuple(engines),
                figures=(("number", str(number)),),
            )


@rule("engine that does not stand the volts", "trains")
def too_many_volts(facts: Facts) -> Iterator[Finding]:
    """Engines of the roster that stand less than a source of their own control gives."""
    layout = facts.layout
    for i, engine in layout.engines.items():
        if engine.most_volts is None:
            continue
        kind = layout.locos[engine.kind]
        given = [
            (source_volts(layout, d), device.name)
            for d, device in layout.devices.items()
            if device.kind in SOURCES and may_run_under(kind, control_given(layout, device))
        ]
        volts, name = max(given, default=(0.0, ""))
        if volts > engine.most_volts + 1e-9:
            yield Finding(
                key=f"engine-volts:{i}",
                rule="engine that does not stand the volts",
                severity="should",
                title=f"{engine.name} stands {print_volts(engine.most_volts)}; {name} gives {print_volts(volts)}",
                why="A decoder or motor beyond its volts warms, and fails on the first long evening.",
                mend="Fewer volts at the source, or keep the engine off its track.",
                place=Place("engine", i),
                shows=(i,),
                figures=(("stands", print_volts(engine.most_volts)), ("gets", print_volts(volts))),
            )
