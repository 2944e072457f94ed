"""Where something that is not a train is tied into the network: a pair of nodes of one solved island."""

from __future__ import annotations

from collections.abc import Collection, Hashable, Sequence
from dataclasses import dataclass

from jolly_copper.core.circuits.network import Network
from jolly_copper.core.circuits.solution import Island

Keys = tuple[Hashable, Hashable]


@dataclass(frozen=True)
class Drawn:
    """Something that draws from a pair of nodes of an island: the island's number, and rows of its `resistance`."""

    island: int
    a: int
    b: int


def terminal_keys(terminal: str) -> Keys:
    """The two conductors at a terminal."""
    return ("terminal", terminal, "A"), ("terminal", terminal, "B")


def output_keys(device: str) -> Keys:
    """The two conductors right at a device's output."""
    return ("out", device, "A"), ("out", device, "B")


def tie(network: Network, islands: Sequence[Island], keys: Keys | None) -> Drawn | None:
    """The island and rows where these two places are; None where they are not both in one island."""
    if keys is None or keys[0] not in network.nodes or keys[1] not in network.nodes:
        return None
    a, b = (network.nodes[k] for k in keys)
    for number, island in enumerate(islands):
        if island.local[a] >= 0 and island.local[b] >= 0:
            return Drawn(number, int(island.local[a]), int(island.local[b]))
    return None


def farthest_terminals(network: Network, islands: Sequence[Island], circuits: Collection[str]) -> dict[str, str]:
    """For each of some circuits, the terminal with the most resistance to its source."""
    worst: dict[str, tuple[float, str]] = {}
    for i, terminal in network.layout.terminals.items():
        circuit = network.layout.runs[terminal.run].circuit
        found = tie(network, islands, terminal_keys(i)) if circuit in circuits else None
        if found is None:
            continue
        volts = islands[found.island].between_nodes(found.a, found.b)
        ohms = float(volts[found.a] - volts[found.b])
        if circuit not in worst or ohms > worst[circuit][0] + 1e-12:
            worst[circuit] = (ohms, i)
    return {c: t for c, (_, t) in worst.items()}
