"""The interlocking of every junction: its routes, which of them conflict, and the proof that no two such clear
together."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.reading import LIES, may_lie
from jolly_copper.core.rails.pieces import Joined
from jolly_copper.core.signals.aspects import Signalling
from jolly_copper.core.signals.routes import Route

MOST_STATES = 1 << 14
"""States tried in one go; beyond it, pair by conflicting pair with the sections of the two only."""
MOST_ENTERED = 8
STRAIGHT = 1.25
NEAR_MM = 900.0
"""Turnouts joined by track so short, with no gap in it, are one junction; so are both ends of a crossover."""


@dataclass(frozen=True)
class Way:
    """A route as a row of the table. clear: sections that must be clear. against: numbers of the rows it conflicts
    with, from 1."""

    number: int
    signal: str
    route: Route
    to: str
    settings: tuple[tuple[str, str], ...]
    clear: tuple[int, ...]
    against: tuple[int, ...]


@dataclass(frozen=True)
class Proof:
    """states: how many states of turnouts and sections were tried. whole: all of the junction at once, else pair by
    pair. clash: two routes found clear together with the turnouts and the occupied sections, None as it should be."""

    states: int
    whole: bool
    clash: tuple[int, int, dict[str, str], tuple[int, ...]] | None


@dataclass(frozen=True)
class Junction:
    """Turnouts and crossings that are worked together, with every signalled route over them."""

    key: str
    name: str
    nodes: tuple[str, ...]
    ways: tuple[Way, ...]


def junctions(signals: Signalling) -> list[Junction]:
    """Every junction that a signalled route passes."""
    layout, rails = signals.layout, signals.rails
    branching = [i for i, n in layout.nodes.items() if n.kind in (*LIES, "slip", "crossing")]
    passed = {n for r in signals.numbered for n in r.nodes}
    joined = Joined()
    for i in branching:
        joined.find(i)
    for i, track in layout.tracks.items():
        if track.a.node in branching and track.b.node in branching:
            undivided = len(rails.pieces[i]) == 1 and rails.lengths[i] <= NEAR_MM
            if undivided or is_crossover(layout, i):
                joined.join(track.a.node, track.b.node)
    groups: dict[object, list[str]] = defaultdict(list)
    for i in branching:
        groups[joined.find(i)].append(i)
    found = []
    for nodes in groups.values():
        over = [r for r in signals.numbered if set(nodes) & set(r.nodes)]
        if not over or not set(nodes) & passed:
            continue
        named = sorted((layout.nodes[n].name or n for n in nodes), key=natural)
        numbers = {id(r): n for n, r in enumerate(over, start=1)}
        ways = tuple(
            Way(
                n,
                r.signal,
                r,
                _leads_to(signals, r),
                tuple((s.node, s.lies) for s in r.needs),
                r.sections,
                tuple(numbers[id(o)] for o in over if o is not r and conflict(r, o)),
            )
            for n, r in enumerate(over, start=1)
        )
        found.append(Junction(min(nodes), " · ".join(named), tuple(sorted(nodes, key=natural)), ways))
    return sorted(found, key=lambda j: natural(j.name))


def _leads_to(signals: Signalling, route: Route) -> str:
    if route.exit is not None:
        return signals.layout.signals[route.exit].name
    track = signals.layout.tracks[route.legs[-1].track].name
    return f"{track}, {route.ends}" if route.ends in ("bumper", "pit") else track


def is_crossover(layout: Layout, track: str) -> bool:
    """Whether a track joins two turnouts leg to leg whose straight ways run alike: both are thrown together."""
    thing = layout.tracks[track]
    if not all(layout.nodes[p.node].kind == "turnout" and p.port == "diverging" for p in (thing.a, thing.b)):
        return False
    a, b = thing.path[0], thing.path[-1]
    if thing.line.length > STRAIGHT * math.hypot(b.x - a.x, b.y - a.y):
        return False  # a siding or a loop between two turnouts
    headings = []
    for node in (thing.a.node, thing.b.node):
        legs = [
            (t.path[1], t.path[0]) if t.a.node == node else (t.path[-2], t.path[-1])
            for t in layout.tracks.values()
            for p in (t.a, t.b)
            if p.node == node and p.port == "through"
        ]
        if not legs:
            return False
        headings.append(math.atan2(legs[0][0].y - legs[0][1].y, legs[0][0].x - legs[0][1].x))
    return abs(math.cos(headings[0] - headings[1])) > 0.8


def conflict(one: Route, other: Route) -> bool:
    """Whether two routes must never be clear together: their trains may meet, and no turnout keeps them apart by
    itself."""
    if one.signal == other.signal:
        return True
    return one.crosses(other)


def locked_by_turnouts(one: Route, other: Route) -> bool:
    """Whether two routes ask for opposite settings of a turnout, so that they can never be set together."""
    mine, theirs = one.settings, other.settings
    return any(theirs.get(node, lies) != lies for node, lies in mine.items())


def prove(signals: Signalling, junction: Junction) -> Proof:
    """Search every state of a junction for two conflicting routes that clear together.

    All settings of its routes' turnouts with every pattern of occupied sections that its routes enter or wait in. The
    conflicts are found from the track itself, and the rules are asked as they stand: nothing is assumed of them.
    """
    routes = [w.route for w in junction.ways]
    pairs = [
        (a, b)
        for a, b in itertools.combinations(range(len(routes)), 2)
        if routes[a].signal != routes[b].signal and conflict(routes[a], routes[b])
    ]
    turnouts = sorted({s.node for r in routes for s in r.needs})
    sections = sorted({n for r in routes for n in r.sections} | {signals.approach[r.signal] for r in routes})
    size = _states(signals, turnouts) * 2 ** len(sections)
    if size <= MOST_STATES:
        clash = _search(signals, routes, pairs, turnouts, sections)
        return Proof(size, True, clash)
    total = 0
    for a, b in pairs:
        if locked_by_turnouts(routes[a], routes[b]):
            total += 1
            continue
        # Sections either enters hold it at stop whatever the other does, so only where trains wait makes a difference.
        two = (routes[a], routes[b])
        waits = sorted({signals.approach[r.signal] for r in two} - {n for r in two for n in r.sections})
        entered = sorted({n for r in two for n in r.sections})[:MOST_ENTERED]
        fixed = {**{t: _ways(signals, t)[0] for t in turnouts}, **routes[a].settings, **routes[b].settings}
        total += 2 ** len(waits + entered)
        clash = _search(signals, routes, [(a, b)], [], waits + entered, fixed)
        if clash:
            return Proof(total, False, clash)
    return Proof(total, False, None)


def _ways(signals: Signalling, node: str) -> tuple[str, ...]:
    return may_lie(signals.layout.nodes[node])


def _states(signals: Signalling, turnouts: Iterable[str]) -> int:
    size = 1
    for node in turnouts:
        size *= len(_ways(signals, node))
    return size


def _search(
    signals: Signalling,
    routes: list[Route],
    pairs: list[tuple[int, int]],
    turnouts: list[str],
    sections: list[int],
    fixed: dict[str, str] | None = None,
) -> tuple[int, int, dict[str, str], tuple[int, ...]] | None:
    asked = {r.signal for r in routes} if turnouts else {routes[n].signal for pair in pairs for n in pair}
    for lies in itertools.product(*(_ways(signals, t) for t in turnouts)):
        setting = {**(fixed or {}), **dict(zip(turnouts, lies, strict=True))}
        ready = {i: r for i, r in enumerate(routes) if r.lies_so(setting)}
        live = [(a, b) for a, b in pairs if a in ready and b in ready]
        if not live:
            continue
        for bits in range(2 ** len(sections)):
            occupied = {n for k, n in enumerate(sections) if bits >> k & 1}
            given, _ = signals.cleared(setting, occupied, asked)
            clear = {id(r) for r in given.values()}
            for a, b in live:
                if id(routes[a]) in clear and id(routes[b]) in clear:
                    return a + 1, b + 1, setting, tuple(sorted(occupied))
    return None
