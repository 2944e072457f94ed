"""Accessory buses: what turnout motors, lamps and signals draw, the volts that reach them, and what their supplies
give.

The same network as the track's is solved: supplies and step-downs are its sources here, loads draw constant current,
and a step-down asks its bus for I_in = V_out·I_out / (η·V_in), found by iteration from the volts without load.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from jolly_copper.core.circuits.giving import gives, source_volts, wanted_volts
from jolly_copper.core.circuits.lengths import run_length
from jolly_copper.core.circuits.loads import amps_at, load_amps
from jolly_copper.core.circuits.network import Network
from jolly_copper.core.circuits.solution import Island
from jolly_copper.core.circuits.ties import Drawn, Keys, farthest_terminals, output_keys, terminal_keys, tie
from jolly_copper.core.layout.document import Layout, Load
from jolly_copper.core.layout.power_tree import DC_SOURCES

TIMES = 60
SETTLED_VOLTS = 1e-6
GIVEN_UP_VOLTS = 0.5
"""A step-down fed less than this gives nothing, whatever it is made for. Certainty C."""


@dataclass(frozen=True)
class LoadVolts:
    """Volts where a load is tied: with everything at rest, and with all at work that may be. NaN where no supply
    reaches it. terminal: where; None when it is taken to hang right at its supply."""

    load: str
    terminal: str | None
    rest: float
    work: float


@dataclass(frozen=True)
class SupplyAsked:
    """What a supply or step-down is asked for at rest and at work, A, what it gives, and the volts at its input (of a
    step-down) at work."""

    device: str
    volts: float
    rest: float
    work: float
    gives: float | None
    input_volts: float | None


@dataclass(frozen=True)
class Accessory:
    """All accessory buses, solved. runs: the most amps in each of their runs."""

    loads: dict[str, LoadVolts]
    supplies: tuple[SupplyAsked, ...]
    runs: dict[str, float]


def wrong_with(load: Load, volts: LoadVolts) -> Literal["nothing there", "too low", "too high"] | None:
    """What is wrong with the volts at a load: none, too few for it with all at work, or more than it stands at rest."""
    if math.isnan(volts.work):
        return "nothing there"
    if load.least_volts is not None and volts.work < load.least_volts - 1e-9:
        return "too low"
    if load.most_volts is not None and volts.rest > load.most_volts + 1e-9:
        return "too high"
    return None


def solve_accessories(network: Network, islands: Sequence[Island]) -> Accessory:
    """Volts and amps of every accessory bus, at rest and at work.

    Args:
        network: of the layout.
        islands: all that are solved; those without a supply or step-down play no part.
    """
    layout = network.layout
    islands = [x for x in islands if any(layout.devices[s.device].kind in DC_SOURCES for s in x.sources)]
    feeds = {d.output: i for i, d in layout.devices.items() if d.kind in DC_SOURCES}
    farthest = farthest_terminals(network, islands, feeds)
    ties: dict[str, Drawn | None] = {}
    terminals: dict[str, str | None] = {}
    for i, load in layout.loads.items():
        if layout.circuits[load.circuit].purpose != "accessory":
            continue
        terminals[i] = load.terminal or farthest.get(load.circuit)
        ties[i] = tie(network, islands, _keys(terminals[i], feeds.get(load.circuit)))
    inputs = {
        i: tie(network, islands, _input_keys(network, i)) for i, d in layout.devices.items() if d.kind == "step-down"
    }
    rest = _settle(network, islands, ties, inputs, working=False)
    work = _settle(network, islands, ties, inputs, working=True)
    return Accessory(
        {i: LoadVolts(i, terminals[i], _across(rest.volts, t), _across(work.volts, t)) for i, t in ties.items()},
        tuple(
            SupplyAsked(
                d,
                source_volts(layout, d),
                rest.asked.get(d, 0.0),
                work.asked.get(d, 0.0),
                gives(layout, d),
                _across(work.volts, inputs[d]) if d in inputs else None,
            )
            for d in feeds.values()
        ),
        work.runs,
    )


@dataclass(frozen=True)
class _State:
    volts: list[np.ndarray]
    asked: dict[str, float]
    runs: dict[str, float]


def _settle(
    network: Network,
    islands: Sequence[Island],
    ties: dict[str, Drawn | None],
    inputs: dict[str, Drawn | None],
    working: bool,
) -> _State:
    """Node volts of every island, amps asked of every source, and amps in every run."""
    layout = network.layout
    told = {i: load_amps(layout.loads[i]) if working else layout.loads[i].count * layout.loads[i].amps for i in ties}
    nominal = {i: _nominal(network, layout.loads[i].circuit) for i in ties}
    amps = dict(told)
    volts = [island.open_volts_by_node for island in islands]
    asked: dict[str, float] = {}
    for _ in range(TIMES):
        for i, tied in ties.items():
            if tied is not None and layout.loads[i].draws != "current":
                amps[i] = amps_at(layout.loads[i], told[i], _across(volts, tied), nominal[i])
        asked = _asked(layout, amps, inputs, volts)
        injected = [np.zeros(len(v)) for v in volts]
        for drawn, current in [
            *((t, amps[i]) for i, t in ties.items()),
            *((t, _taken(layout, i, asked.get(i, 0.0), _across(volts, t))) for i, t in inputs.items()),
        ]:
            if drawn is not None:
                injected[drawn.island][drawn.a] += current
                injected[drawn.island][drawn.b] -= current
        then = [
            island.open_volts_by_node - island.resistance.columns(i)
            for island, i in zip(islands, injected, strict=True)
        ]
        moved = max((float(np.abs(n - o).max()) for n, o in zip(then, volts, strict=True) if len(n)), default=0.0)
        volts = then
        if moved < SETTLED_VOLTS:
            break
    runs: dict[str, float] = {}
    for island, here in zip(islands, volts, strict=True):
        through = np.abs(here[island.ends[:, 0]] - here[island.ends[:, 1]]) / island.ohms
        for number, current in zip(island.elements, through, strict=True):
            element = network.elements[number]
            if element.kind == "run":
                runs[element.owner] = max(runs.get(element.owner, 0.0), float(current))
    return _State(volts, asked, runs)


def _nominal(network: Network, circuit: str) -> float:
    """Volts that amps of a load on a circuit are told at: those of the supply or step-down that feeds it."""
    feeds = network.tree.fed_by.get(circuit)
    return wanted_volts(network.layout, feeds) if feeds is not None else 0.0


def _asked(
    layout: Layout, amps: dict[str, float], inputs: dict[str, Drawn | None], volts: list[np.ndarray]
) -> dict[str, float]:
    """Amps asked of each supply and step-down: its circuit's loads, and the step-downs below it, deepest first."""
    by_circuit: dict[str, float] = defaultdict(float)
    for i, current in amps.items():
        by_circuit[layout.loads[i].circuit] += current
    asked: dict[str, float] = {}

    def ask(device_id: str) -> float:
        if device_id not in asked:
            below = [i for i in inputs if layout.devices[i].input == layout.devices[device_id].output]
            asked[device_id] = by_circuit[layout.devices[device_id].output] + sum(
                _taken(layout, i, ask(i), _across(volts, inputs[i])) for i in below
            )
        return asked[device_id]

    for i, device in layout.devices.items():
        if device.kind in DC_SOURCES:
            ask(i)
    return asked


def _taken(layout: Layout, device_id: str, given: float, volts: float) -> float:
    """Amps a step-down takes from its bus; none where it has given up."""
    if not math.isfinite(volts) or volts < GIVEN_UP_VOLTS:
        return 0.0
    return source_volts(layout, device_id) * given / (layout.devices[device_id].efficiency * volts)


def _across(volts: Sequence[np.ndarray], drawn: Drawn | None) -> float:
    return math.nan if drawn is None else float(volts[drawn.island][drawn.a] - volts[drawn.island][drawn.b])


def _keys(terminal: str | None, source: str | None) -> Keys | None:
    if terminal is not None:
        return terminal_keys(terminal)
    return output_keys(source) if source is not None else None


def _input_keys(network: Network, device_id: str) -> Keys | None:
    """Where a step-down is tied: the end of the run that comes to it, else right at what feeds its circuit."""
    for i, run in network.layout.runs.items():
        if run.ends_at_device == device_id:
            return ("run", i, "A", run_length(run)), ("run", i, "B", run_length(run))
    device = network.layout.devices[device_id]
    return _keys(None, network.tree.fed_by.get(device.input or ""))
