"""Ways promised to trains: what a signal once gave stays given until the train's tail has left it, piece by piece."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_copper.core.signals.routes import Route


@dataclass(frozen=True)
class Kept:
    """What a train still keeps of a way it was promised.

    route: the way, None where it goes by no signal. sections, nodes: what of it, and under the train, is not given back
    yet. waiting: the train has not passed the signal of `route` yet, so that signal may show it.
    """

    route: Route | None
    sections: frozenset[int]
    nodes: frozenset[str]
    waiting: bool = False

    def bars(self, other: Route) -> bool:
        """Whether another way may not be given as long as this is kept."""
        if self.waiting and self.route == other:
            return False
        return bool(self.sections.intersection(other.sections) or self.nodes.intersection(other.nodes))
