"""Dead track: stretches that some turnout setting leaves without power though a train may stand there.

Exact without trying every state: from the rails of a piece the net is grown only as far as metal leads, and a decision
is made only at a turnout on its border, so the work follows the few turnouts that matter.
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.rails.nets import Nets, Potential, Rail, Sources
from jolly_copper.core.rails.pieces import SIDES, Piece
from jolly_copper.core.rails.ways import Core, TrackEnd, Ways

SHORTEST_STAND_MM = 60.0
"""Nobody's train stands on less: the stub between a frog and its gap."""
MOST_DECISIONS = 4000
MOST_ROUTES = 24

Status = Literal["always", "lined up", "dead when lined up", "never"]


@dataclass(frozen=True)
class Stand:
    """How a piece of track fares. `case`: the settings that leave it dead, `route`: the tracks lined up meanwhile."""

    piece: Piece
    status: Status
    case: tuple[tuple[str, str], ...] = ()
    route: tuple[str, ...] = ()


def judge_pieces(nets: Nets, sources: Sources, ways: Ways) -> dict[Piece, Stand]:
    """Every piece of track long enough to stand on, judged over every setting of the turnouts that matter to it."""
    always = {p for pieces in nets.rails.pieces.values() for p in pieces if _lives(nets, sources, p, {})}
    found: dict[Piece, Stand] = {}
    for pieces in nets.rails.pieces.values():
        for piece in pieces:
            if piece.end - piece.start < SHORTEST_STAND_MM:
                continue
            found[piece] = Stand(piece, "always") if piece in always else _judge(nets, sources, ways, piece, always)
    return found


def _judge(nets: Nets, sources: Sources, ways: Ways, piece: Piece, always: set[Piece]) -> Stand:
    if not any(nets.guarded.get(nets.net_of[Rail(piece, s)]) for s in SIDES):
        return Stand(piece, "never")
    if not _best_case(nets, sources, piece):
        return Stand(piece, "never")
    for settings, route in _ways_out(nets, ways, piece, always):
        killed = _kill(nets, sources, piece, settings, [MOST_DECISIONS])
        if killed is not None:
            return Stand(piece, "dead when lined up", tuple(sorted(killed.items())), route)
    if _kill(nets, sources, piece, {}, [MOST_DECISIONS]) is None:
        return Stand(piece, "always")
    return Stand(piece, "lined up")


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


def _feeds(nets: Nets, group: set[int]) -> set[Potential]:
    return {p for net in group for _, p in nets.fed.get(net, ())}


def _lives(nets: Nets, sources: Sources, piece: Piece, settings: Mapping[str, str]) -> bool:
    """Whether the two rails carry the two conductors of one circuit. A short is not dead: it has a rule of its own."""
    (left, right), _ = _grow(nets, piece, settings)
    return any(
        a.conductor != b.conductor and sources.root[a.circuit] == sources.root[b.circuit]
        for a, b in itertools.product(_feeds(nets, left), _feeds(nets, right))
    )


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


def _best_case(nets: Nets, sources: Sources, piece: Piece) -> bool:
    """Whether any setting at all brings the piece to life."""
    stack: list[dict[str, str]] = [{}]
    steps = 0
    while stack and steps < MOST_DECISIONS:
        steps += 1
        settings = stack.pop()
        if _lives(nets, sources, piece, settings):
            return True
        _, border = _grow(nets, piece, settings)
        if border:
            stack += [{**settings, border[0]: lies} for lies in ("diverging", "through")]
    return False


def _ways_out(nets: Nets, ways: Ways, piece: Piece, always: set[Piece]) -> list[tuple[dict[str, str], tuple[str, ...]]]:
    """Every way a train may leave a piece: the turnouts lined up as far as the first track that is always live."""
    found: list[tuple[dict[str, str], tuple[str, ...]]] = []
    for end in (TrackEnd(piece.track, "a"), TrackEnd(piece.track, "b")):
        pieces = nets.rails.pieces[piece.track]
        beyond = pieces[: pieces.index(piece)] if end.end == "a" else pieces[pieces.index(piece) + 1 :]
        if any(p in always for p in beyond):
            continue
        stack: list[tuple[TrackEnd, dict[str, str], tuple[str, ...]]] = [(end, {}, (piece.track,))]
        while stack and len(found) < MOST_ROUTES:
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
    return found


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
