"""How many pairs of wire meet at each terminal, and how many it takes."""

from __future__ import annotations

from collections import Counter

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.signalling import Conductor
from jolly_copper.core.layout.wiring import Feeder, Plug, Run, Terminal
from jolly_copper.core.materials.connectors import CONNECTORS, PLUG, fits
from jolly_copper.core.materials.copper import area_mm2, gauges_above
from jolly_copper.core.quantities import Gauge, read_gauge

CONDUCTORS: tuple[Conductor, Conductor] = ("A", "B")


def held(run: Run) -> tuple[Conductor, ...]:
    """The conductors a run holds: both, or the one a detector senses."""
    return CONDUCTORS if run.wires == "both" else (run.wires,)


def tied_at(layout: Layout, feeder: Feeder, conductor: Conductor) -> str:
    """The terminal one wire of a feeder goes to: its own, unless that holds only the other conductor."""
    if feeder.other is None or conductor in held(layout.runs[layout.terminals[feeder.terminal].run]):
        return feeder.terminal
    return feeder.other


def circuit_under(layout: Layout, feeder: Feeder, conductor: Conductor) -> str:
    """The circuit that one wire of a feeder is tied to."""
    return layout.runs[layout.terminals[tied_at(layout, feeder, conductor)].run].circuit


def is_split(layout: Layout, feeder: Feeder) -> bool:
    """Whether the two wires of a feeder go to two terminals."""
    return tied_at(layout, feeder, "A") != tied_at(layout, feeder, "B")


def wires_differ(feeder: Feeder) -> bool:
    """Whether the two wires of a feeder are of unlike gauge or length."""
    return feeder.gauge_b is not None or feeder.tape_b is not None


def gauge_of(feeder: Feeder, conductor: Conductor) -> str:
    """The gauge of one wire of a feeder."""
    return feeder.gauge_b if conductor == "B" and feeder.gauge_b is not None else feeder.gauge


def thinner_gauge(feeder: Feeder) -> Gauge:
    """The gauge of a feeder's thinner wire."""
    return min((read_gauge(gauge_of(feeder, c)) for c in CONDUCTORS), key=area_mm2)


def pairs_at(layout: Layout, terminal: Terminal) -> int:
    """How many pairs of wires a terminal takes: what it says itself, else what its kind usually does."""
    if terminal.pairs is not None:
        return terminal.pairs
    usual = CONNECTORS[terminal.kind].pairs
    return usual if usual is not None else round(layout.brief.rules.strip_pairs)


def misfits(layout: Layout, run: str, gauge: Gauge) -> list[str]:
    """Kinds of connector on a run, plugs too, that do not hold wire of this gauge; in words, such as `screw strips`."""
    kinds = dict.fromkeys(t.kind for t in layout.terminals.values() if t.run == run)
    found = [f"{kind}s" for kind in kinds if kind != "soldered" and not fits(CONNECTORS[kind], gauge)]
    if any(not plug_holds(p, gauge) for p in layout.plugs.values() if p.run == run):
        found.append("plugs")
    return found


def feeder_held(layout: Layout, feeder: Feeder, gauge: Gauge) -> bool:
    """Whether the terminals a feeder is tied to hold wire of a gauge."""
    tied = [t for t in (feeder.terminal, feeder.other) if t is not None]
    return all(fits(CONNECTORS[layout.terminals[t].kind], gauge) for t in tied)


def heavier_held(layout: Layout, kind: str, owner: str, gauge: Gauge) -> list[Gauge]:
    """Every gauge above this one that the connectors of a `run` or `feeder` hold, thinnest first.

    A connector that does not hold the gauge of now either is no bar.
    """

    def loose(g: Gauge) -> set[str]:
        if kind == "run":
            return set(misfits(layout, owner, g))
        return set() if feeder_held(layout, layout.feeders[owner], g) else {"terminals"}

    now = loose(gauge)
    return [g for g in gauges_above(gauge, layout.brief.units) if loose(g) <= now]


def plug_holds(plug: Plug, gauge: Gauge) -> bool:
    """Whether a plug holds wire of a gauge: by what is printed on it, else by what its kind usually takes."""
    if plug.takes is None:
        return fits(PLUG, gauge)
    return area_mm2(gauge) <= area_mm2(read_gauge(plug.takes)) + 1e-6


def hung_at(layout: Layout) -> Counter[str]:
    """Pairs tied at each terminal besides its own run: feeders, branches that start or end there, loads."""
    found = Counter(f.terminal for f in layout.feeders.values())
    found.update(f.other for f in layout.feeders.values() if f.other is not None and is_split(layout, f))
    for run in layout.runs.values():
        found.update(t for t in (run.fed.terminal, run.ends_at_terminal) if t is not None)
    found.update(load.terminal for load in layout.loads.values() if load.terminal is not None)
    return found
