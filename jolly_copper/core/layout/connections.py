"""How many pairs of wire meet at each terminal, and how many it takes."""

from __future__ import annotations

from collections import Counter

from jolly_copper.core.layout.document import Layout, Terminal
from jolly_copper.core.materials.connectors import CONNECTORS


def pairs_at(layout: Layout, terminal: Terminal) -> int:
    """How many pairs of wires a terminal takes: what it says itself, else what its kind usually does."""
    if terminal.pairs is not None:
        return terminal.pairs
    usual = CONNECTORS[terminal.kind].pairs
    return usual if usual is not None else round(layout.brief.rules.strip_pairs)


def hung_at(layout: Layout) -> Counter[str]:
    """Pairs tied at each terminal besides its own run: feeders, branches that start or end there, loads."""
    found = Counter(f.terminal for f in layout.feeders.values())
    for run in layout.runs.values():
        found.update(t for t in (run.fed.terminal, run.ends_at_terminal) if t is not None)
    found.update(load.terminal for load in layout.loads.values() if load.terminal is not None)
    return found
