"""Ways promised to trains that are put on the plan: whose signal cleared first keeps it until its tail has left."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from jolly_copper.core.signals.aspects import Signalling
from jolly_copper.core.signals.kept import Kept
from jolly_copper.core.signals.occupancy import Standing
from jolly_copper.core.signals.routes import Leg


@dataclass(frozen=True)
class Promise:
    """A way given to a train. train: its name. signal, way: whose, and which of its ways by number. entered: the train
    has passed the signal."""

    train: str
    signal: str
    way: int
    entered: bool = False


def _under(known: Signalling, legs: Sequence[Leg]) -> frozenset[int]:
    return frozenset(known.yard.sections_of(legs))


def kept_of(known: Signalling, promises: Sequence[Promise], stands: Mapping[str, Sequence[Leg]]) -> list[Kept]:
    """What trains keep of their ways.

    Args:
        known: the signals. promises: given so far. stands: for each train by name the track it stands on.
    """
    found = []
    for p in promises:
        routes = known.routes.get(p.signal, ())
        if p.train not in stands or p.way >= len(routes):
            continue
        route = routes[p.way]
        if not p.entered:
            found.append(Kept(route, frozenset(route.sections), frozenset(route.nodes), waiting=True))
            continue
        under = _under(known, stands[p.train])
        first = next((n for n, s in enumerate(route.sections) if s in under), None)
        if first is None:
            continue
        left = route.sections[first:]
        over = [leg.track for leg in stands[p.train]]
        # A junction is given back with the track before it.
        nodes = frozenset(n for n in route.nodes if not _behind(known, n, over))
        found.append(Kept(route, frozenset(left), nodes))
    return found


def _behind(known: Signalling, node: str, over: Sequence[str]) -> bool:
    """Whether a train's tail has left a junction: it stands on one track of it alone, or on none."""
    touching = [t for t in over if node in (known.layout.tracks[t].a.node, known.layout.tracks[t].b.node)]
    return len(set(touching)) < 2 and bool(touching)


def renewed(
    known: Signalling,
    trains: Sequence[Standing],
    stands: Mapping[str, Sequence[Leg]],
    lies: Mapping[str, str],
    lit: Collection[int],
    before: Sequence[Promise],
) -> tuple[Promise, ...]:
    """What is promised once trains stand where they stand now.

    A promise ends when the train has left its way, or turned away from it; a train gets one where the signal it comes
    to is clear for it.
    """
    found: list[Promise] = []
    by_name = {t.name: t for t in trains}
    for p in before:
        train = by_name.get(p.train)
        routes = known.routes.get(p.signal, ())
        if train is None or p.way >= len(routes) or not routes[p.way].lies_so(lies):
            continue
        inside = _under(known, stands[p.train]) & frozenset(routes[p.way].sections)
        signal = known.layout.signals[p.signal]
        ahead = train.track == signal.track and train.towards == signal.towards and not _past(train, signal.at)
        if ahead and not p.entered:
            found.append(p)
        elif inside:
            found.append(Promise(p.train, p.signal, p.way, True))
    for train in trains:
        if any(p.train == train.name and not p.entered for p in found):
            continue
        nearest = known.yard.next_signal(
            train.track, train.towards, train.at - 1 if train.towards == "b" else train.at + 1
        )
        if nearest is None:
            continue
        shown = known.show(lies, lit, kept=kept_of(known, found, stands))[nearest[1]]
        if shown.aspect != "stop" and shown.route is not None:
            found.append(Promise(train.name, nearest[1], known.routes[nearest[1]].index(shown.route)))
    return tuple(found)


def _past(train: Standing, at: float) -> bool:
    return train.at > at + 0.5 if train.towards == "b" else train.at < at - 0.5
