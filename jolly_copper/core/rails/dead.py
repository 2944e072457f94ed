"""Dead track: stretches that some turnout setting leaves without power though a train may stand there.

Exact without trying every state: from the rails of a piece the net is grown only as far as metal leads, and a decision
is made only at a turnout on its border, so the work follows the few turnouts that matter. Where many do, the question
goes to an integer programme (`switching.py`).
"""

from __future__ import annotations

import itertools
from collections import defaultdict, deque
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from jolly_copper.core.rails.nets import Nets, Potential, Rail, Sources, read_pieces
from jolly_copper.core.rails.pieces import SIDES, Piece
from jolly_copper.core.rails.switching import Answer, can_die, can_live
from jolly_copper.core.rails.ways import Core, TrackEnd, Ways

SHORTEST_STAND_MM = 60.0
"""Nobody's train stands on less: the stub between a frog and its gap."""
ENGINE_MM = 300.0
"""A piece this long beside live track holds an engine of its own. Common practice, no source."""
MOST_DECISIONS = 40
"""Settings tried one after another before the question goes to an integer programme."""
MOST_ROUTES = 24
MOST_STEPS = 4000
"""Tracks followed in looking for ways out of one piece."""

Status = Literal["always", "lined up", "dead when lined up", "never", "not settled"]
WORST_FIRST: tuple[Status, ...] = ("dead when lined up", "never", "not settled", "lined up")
"""What is told of track that is not always live, the worst first."""


@dataclass(frozen=True)
class Stand:
    """How a piece of track fares. `case`: the settings that leave it dead, `route`: the tracks lined up meanwhile.

    `not settled`: the bounds on the work ran out before a setting that leaves it dead was found or ruled out.
    """

    piece: Piece
    status: Status
    case: tuple[tuple[str, str], ...] = ()
    route: tuple[str, ...] = ()


def judge_pieces(nets: Nets, sources: Sources, ways: Ways) -> dict[Piece, Stand]:
    """Every piece of track long enough to stand on, judged over every setting of the turnouts that matter to it."""
    judge = Judge(nets, sources, ways)
    return {
        piece: judge.stand(piece)
        for pieces in nets.rails.pieces.values()
        for piece in pieces
        if piece.end - piece.start >= SHORTEST_STAND_MM
    }


class Judge:
    """Judges pieces one by one. Pieces of the same two nets share what no way out decides."""

    def __init__(self, nets: Nets, sources: Sources, ways: Ways) -> None:
        self.nets, self.sources, self.ways = nets, sources, ways
        self.live = live_pairs(nets, sources)
        self.read = read_pieces(nets.layout, nets.rails)
        self._best: dict[tuple[int, int], Answer] = {}
        self._reached: dict[int, frozenset[int]] = {}

    @cached_property
    def always(self) -> frozenset[Piece]:
        """Pieces that live whatever the turnouts, by their own nets alone."""
        pieces = (p for ps in self.nets.rails.pieces.values() for p in ps)
        return frozenset(p for p in pieces if p in self.read or _lives(self.nets, self.sources, p, {}))

    def stand(self, piece: Piece) -> Stand:
        """How a piece fares."""
        if piece in self.always:
            return Stand(piece, "always")
        left, right = self._nets(piece)
        if not (self.nets.guarded.get(left) or self.nets.guarded.get(right)):
            return Stand(piece, "never")
        if (left, right) not in self._best:
            self._best[left, right] = self._best_case(piece)
        best = self._best[left, right]
        if best == "no":
            return Stand(piece, "never")
        routes, all_of_them = _ways_out(self.nets, self.ways, piece, self.always)
        settled = best != "not settled" and all_of_them
        for settings, route in routes:
            killed = self._killed(piece, settings)
            if isinstance(killed, dict):
                return Stand(piece, "dead when lined up", tuple(sorted(killed.items())), route)
            settled = settled and killed == "no"
        killed = self._killed(piece, {})
        if not settled or killed == "not settled":
            return Stand(piece, "not settled")
        return Stand(piece, "always" if killed == "no" else "lined up")

    def is_always_live(self, piece: Piece) -> bool:
        """Whether a piece lives whatever the turnouts: the same as a status of `always`, and quicker to say no."""
        if piece in self.always:
            return True
        turnouts = {s.node for links in self.nets.guarded.values() for _, s in links}
        for lies in ("through", "diverging"):
            if not _lives(self.nets, self.sources, piece, dict.fromkeys(turnouts, lies)):
                return False
        return self._killed(piece, {}) == "no"

    def _nets(self, piece: Piece) -> tuple[int, int]:
        left, right = (self.nets.net_of[Rail(piece, s)] for s in SIDES)
        return left, right

    def _best_case(self, piece: Piece) -> Answer:
        """Settings that bring the piece to life; `no` where none does."""
        left, right = self._nets(piece)
        if not any(a & self._reach(left) and b & self._reach(right) for a, b in self.live):
            return "no"  # not even with every bond made at once
        for a, b in self.live:
            for first, second in (((left, a), (right, b)), ((right, b), (left, a))):
                lined = _line_to(self.nets, *first, {})
                lined = None if lined is None else _line_to(self.nets, *second, lined)
                if lined is not None:
                    return lined
        return can_live(self.nets, left, right, self.live)

    def _reach(self, net: int) -> frozenset[int]:
        """Every net that some bond or other joins to this one, however the turnouts lie."""
        if net not in self._reached:
            group, edge = {net}, [net]
            while edge:
                for other, _ in self.nets.guarded.get(edge.pop(), ()):
                    if other not in group:
                        group.add(other)
                        edge.append(other)
            frozen = frozenset(group)
            self._reached |= dict.fromkeys(group, frozen)
        return self._reached[net]

    def _killed(self, piece: Piece, settings: dict[str, str]) -> Answer:
        """Settings, these among them, that leave a piece dead; `no` where it lives whatever the others do."""
        budget = [MOST_DECISIONS]
        killed = _kill(self.nets, self.sources, piece, settings, budget)
        if killed is not None:
            return killed
        return "no" if budget[0] >= 0 else can_die(self.nets, *self._nets(piece), self.live, settings)


def live_pairs(nets: Nets, sources: Sources) -> list[tuple[frozenset[int], frozenset[int]]]:
    """Pairs of sets of nets: track is live whose left rail reaches the one and whose right rail the other."""
    carrying: dict[Potential, set[int]] = defaultdict(set)
    for net, feeds in nets.fed.items():
        for _, potential in feeds:
            carrying[potential].add(net)
    # Two work together only where they are of one root, or share a wire B; nothing else need be tried.
    kin: dict[tuple[str, str], list[Potential]] = defaultdict(list)
    for p in carrying:
        kin["root", sources.root[p.circuit]].append(p)
        kin["wire", sources.wire(p.circuit, "B")].append(p)
    rank = {p: n for n, p in enumerate(carrying)}
    sets = {p: frozenset(carried) for p, carried in carrying.items()}
    found: dict[tuple[frozenset[int], frozenset[int]], None] = {}
    for a in carrying:
        near = {*kin["root", sources.root[a.circuit]], *kin["wire", sources.wire(a.circuit, "B")]}
        for b in sorted(near, key=rank.__getitem__):
            if sources.works(a, b):
                found.setdefault((sets[a], sets[b]))
    return list(found)


def _grow(nets: Nets, piece: Piece, settings: Mapping[str, str]) -> tuple[list[set[int]], list[str]]:
    """The nets joined to each rail of a piece, and turnouts on their border that are not yet decided."""
    groups: list[set[int]] = []
    border: dict[str, None] = {}
    for side in SIDES:
        start = nets.net_of[Rail(piece, side)]
        group, edge = {start}, [start]
        while edge:
            for other, setting in nets.guarded.get(edge.pop(), ()):
                lies = settings.get(setting.node)
                if lies is None:
                    border.setdefault(setting.node)
                elif lies == setting.lies and other not in group:
                    group.add(other)
                    edge.append(other)
        groups.append(group)
    return groups, list(border)


def _line_to(nets: Nets, start: int, goals: frozenset[int], settings: dict[str, str]) -> dict[str, str] | None:
    """Settings, these among them, that join a net to one of some others over few bonds; None where this quick look,
    which keeps one way to each net, finds none."""
    reached = {start: settings}
    edge = deque([start])
    while edge:
        net = edge.popleft()
        if net in goals:
            return reached[net]
        for other, setting in nets.guarded.get(net, ()):
            state = reached[net]
            if other not in reached and state.get(setting.node, setting.lies) == setting.lies:
                reached[other] = {**state, setting.node: setting.lies}
                edge.append(other)
    return None


def _feeds(nets: Nets, group: set[int]) -> set[Potential]:
    return {p for net in group for _, p in nets.fed.get(net, ())}


def _lives(nets: Nets, sources: Sources, piece: Piece, settings: Mapping[str, str]) -> bool:
    """Whether the two rails carry the two conductors of one circuit. A short is not dead: it has a rule of its own."""
    (left, right), _ = _grow(nets, piece, settings)
    return any(sources.works(a, b) for a, b in itertools.product(_feeds(nets, left), _feeds(nets, right)))


def _kill(
    nets: Nets, sources: Sources, piece: Piece, settings: dict[str, str], budget: list[int]
) -> dict[str, str] | None:
    """Settings, these among them, that leave a piece dead; None where it lives whatever the others do."""
    budget[0] -= 1
    if budget[0] < 0 or _lives(nets, sources, piece, settings):
        return None
    _, border = _grow(nets, piece, settings)
    if not border:
        return settings
    for lies in ("through", "diverging"):
        killed = _kill(nets, sources, piece, {**settings, border[0]: lies}, budget)
        if killed is not None:
            return killed
    return None


def _ways_out(
    nets: Nets, ways: Ways, piece: Piece, always: frozenset[Piece]
) -> tuple[list[tuple[dict[str, str], tuple[str, ...]]], bool]:
    """Every way a train may leave a piece: the turnouts lined up as far as the first track that is always live. And
    whether those are all: a plan with too many of them is followed only so far."""
    found: list[tuple[dict[str, str], tuple[str, ...]]] = []
    steps = 0
    for end in (TrackEnd(piece.track, "a"), TrackEnd(piece.track, "b")):
        pieces = nets.rails.pieces[piece.track]
        beyond = pieces[: pieces.index(piece)] if end.end == "a" else pieces[pieces.index(piece) + 1 :]
        if any(p in always for p in beyond):
            if piece.end - piece.start >= ENGINE_MM:  # the way out is this track itself: no turnout need lie any way
                found.append(({}, (piece.track,)))
            continue
        stack: list[tuple[TrackEnd, dict[str, str], tuple[str, ...]]] = [(end, {}, (piece.track,))]
        while stack:
            steps += 1
            if len(found) >= MOST_ROUTES or steps >= MOST_STEPS:
                return found, False
            arriving, settings, route = stack.pop()
            core = ways.core_of[arriving]
            for leaving in ways.onward(arriving):
                then = _line_up(nets, core, (arriving, leaving), settings)
                if then is None or leaving.track in route:
                    continue
                ahead = nets.rails.pieces[leaving.track]
                if any(p in always for p in ahead):
                    found.append((then, (*route, leaving.track)))
                else:
                    stack.append((leaving.far, then, (*route, leaving.track)))
    return found, True


def _line_up(
    nets: Nets, core: Core, through: tuple[TrackEnd, TrackEnd], settings: dict[str, str]
) -> dict[str, str] | None:
    """The settings with one more turnout lined up, or None where it is wanted both ways."""
    node = nets.layout.nodes[core.node]
    if node.kind != "turnout":
        return settings
    ports = [(nets.layout.tracks[e.track].a if e.end == "a" else nets.layout.tracks[e.track].b).port for e in through]
    leg = next((p for p in ports if p != "points"), "through")
    if settings.get(core.node, leg) != leg:
        return None
    return {**settings, core.node: leg}
