"""Rules about where feeders are and where they are missing."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterator

import numpy as np
from scipy import sparse
from scipy.sparse import csgraph

from jolly_copper.core.circuits.edits import offer_feeder
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import Track
from jolly_copper.core.layout.rules import LIGHT_RAIL_CODE
from jolly_copper.core.layout.words import PARKED
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.nets import read_pieces
from jolly_copper.core.rails.pieces import Piece, rail_bonds

STUB_MM = 300.0
"""A piece of track this short, between a frog and a gap or in a ladder, is judged by its neighbours."""


ROUNDED_MM = 1e-3
"""Two distances this near to each other are one."""
SECTIONAL_MM = 400.0
"""Joiners nearer to each other than this are those of sectional track. Common practice, no source."""


@rule("piece without feeder")
def no_feeder(facts: Facts) -> Iterator[Finding]:
    """Stretches between gaps that no feeder reaches: dead, joiners or not."""
    layout, units = facts.layout, facts.layout.brief.units
    read = read_pieces(layout, facts.rails)  # an isolated rail wants none
    for number, extent in enumerate(facts.rails.extents):
        length = sum(p.end - p.start for p in extent)
        if facts.network.fed_extents.get(number) or length < SHORTEST_STAND_MM or extent[0] in read:
            continue
        longest = max(extent, key=lambda p: (p.end - p.start, p.track))
        at, track = (longest.start + longest.end) / 2, layout.tracks[longest.track]
        circuit = facts.meant[number]
        patch = offer_feeder(facts, circuit, longest.track, at)
        yield Finding(
            key=f"no-feeder:{longest.track}:{longest.start:.0f}",
            rule="piece without feeder",
            severity="must",
            title=f"{track.name} has no feeder: {print_length(length, units)} of track is dead",
            why="Every end of it is a gap, a table or a bumper, so no joiner can bring power either."
            + (f" {PARKED[control_of(facts.tree, facts.meant[number])]}" if track.use == "engine terminal" else ""),
            mend="One feeder pair; heavier if engines stand there.",
            place=Place("track", longest.track, longest.track, at),
            shows=(longest.track,),
            figures=(("dead track", print_length(length, units)),),
            mends=(Mend(f"Feeder for {track.name}", patch),) if patch else (),
        )


def _far_from_feeders(facts: Facts) -> tuple[list[float], list[float]]:
    """For every sample point: mm along the track, and joiners in a row, to the nearest feeder without crossing a
    gap."""
    points, spans = facts.points, facts.network.spans
    count = len(points)
    links: list[tuple[int, int, float, float]] = []  # from, to, mm, joiners
    ends: dict[tuple[Piece, str], int] = {}
    fed: list[int] = []
    feeders_at: dict[Piece, list[float]] = defaultdict(list)
    for feeder in facts.layout.feeders.values():
        feeders_at[facts.rails.piece_at(feeder.track, feeder.at)].append(feeder.at)
    first = np.flatnonzero(np.r_[True, points.span[1:] != points.span[:-1]])
    last = np.r_[first[1:] - 1, count - 1]
    by_span = {int(points.span[f]): (int(f), int(x)) for f, x in zip(first, last, strict=True)}
    inner = np.flatnonzero(points.span[1:] == points.span[:-1])
    steps = points.at[inner + 1] - points.at[inner]
    previous: dict[Piece, int] = {}
    for number, span in enumerate(spans):
        start, end = by_span[number]
        ends.setdefault((span.piece, "a"), start)
        ends[(span.piece, "b")] = end
        if span.piece in previous:
            links.append((previous[span.piece], start, 1e-6, 1e-9))
        previous[span.piece] = end
        for at in feeders_at.get(span.piece, ()):
            if abs(at - span.start) < 1e-3:
                fed.append(start)
            elif abs(at - span.end) < 1e-3:
                fed.append(end)
    bonded = {(one[:2], other[:2]) for one, other in rail_bonds(facts.layout)}
    for (one, one_end), (other, other_end) in sorted(bonded):
        p, q = (
            facts.rails.pieces[one][0 if one_end == "a" else -1],
            facts.rails.pieces[other][0 if other_end == "a" else -1],
        )
        if (p, one_end) in ends and (q, other_end) in ends:
            links.append((ends[(p, one_end)], ends[(q, other_end)], 1e-6, 1.0))
    if not fed:
        return [math.inf] * count, [math.inf] * count
    far = []
    a, b, mm, joiners = (np.array(column) for column in zip(*links, strict=True)) if links else (np.array([]),) * 4
    a, b = np.r_[inner, a].astype(int), np.r_[inner + 1, b].astype(int)
    mm, joiners = np.r_[np.maximum(steps, 1e-6), mm], np.r_[np.where(steps == 0, 1.0, 1e-9), joiners]
    for weight in (mm, joiners):
        graph = sparse.coo_matrix((weight, (a, b)), shape=(count, count)).tocsr()
        far.append(csgraph.dijkstra(graph, directed=False, indices=sorted(set(fed)), min_only=True))
    return far[0].tolist(), np.floor(far[1] + 1e-3).tolist()


@rule("feeder spacing")
def spacing(facts: Facts) -> Iterator[Finding]:
    """Track farther from its feeders than the house rule for its rail, and rail that hangs on joiners in a row."""
    layout, rules, units = facts.layout, facts.layout.brief.rules, facts.layout.brief.units
    if not layout.feeders:
        return
    mm, joiners = _far_from_feeders(facts)
    places, span_of = facts.points.at.tolist(), facts.points.span.tolist()
    by_track: dict[str, list[int]] = defaultdict(list)
    for row, number in enumerate(span_of):
        span = facts.network.spans[number]
        if span.piece.end - span.piece.start >= STUB_MM:
            by_track[span.track].append(row)
    for track_id, rows in by_track.items():
        track = layout.tracks[track_id]
        light, limit = track.code <= LIGHT_RAIL_CODE, rules.feeder_spacing(track.code)
        far, at = _farthest(facts, mm, rows, places, span_of)
        if not math.isfinite(far):
            continue
        ends = [row for row in _lone_ends(facts, track_id, rows) if math.isfinite(joiners[row])]
        lone = bool(ends)
        worst_joiners = max((int(joiners[row]) for row in ends), default=0)
        number = facts.rails.extent_of[facts.rails.piece_at(track_id, at)]
        circuit = facts.meant[number]
        # Between two feeders the farthest place is half their distance from either; at a lone end there is only one.
        at_end = any(mm[row] >= far - 1e-6 for row in (*ends, *_at_gaps(facts, track_id, rows, places)))
        apart = far if at_end else 2 * far
        hangs, sparse_feeders = lone and worst_joiners > rules.joiners_in_a_row, apart > limit * 1.02
        if not hangs and not sparse_feeders:
            continue
        through_frog = facts.rails.piece_at(track_id, at) in facts.routed
        patch = offer_feeder(facts, circuit, track_id, at)
        mends = (Mend(f"Feeder on {track.name}", patch),) if patch else ()
        if hangs:
            yield Finding(
                key=f"joiners:{track_id}",
                rule="feeder spacing",
                severity="should",
                title=f"The end of {track.name} hangs on {worst_joiners} joiners in a row",
                why=f"Its nearest feeder is {print_length(max((mm[row] for row in ends), default=0.0), units)} "
                f"away and no other way leads there. Joiners "
                f"loosen and oxidise; these are put at “{track.joiners}”.",
                mend="Solder the joiners; a feeder there wants gaps beyond the frog that routes its power."
                if through_frog
                else "A feeder near its end, or solder the joiners.",
                place=Place("track", track_id, track_id, at),
                shows=(track_id,),
                figures=(("joiners in a row", str(worst_joiners)), ("house rule", f"{rules.joiners_in_a_row:g}")),
                mends=mends,
            )
        else:
            yield Finding(
                key=f"spacing:{track_id}",
                rule="feeder spacing",
                severity="should" if apart > 1.5 * limit else "look",
                title=f"Feeders on {track.name} are {print_length(apart, units)} apart{_in_pieces(track, apart)}; code "
                f"{track.code} wants {print_length(limit, units)}",
                why="Code 55 has more than twice the resistance of code 83; between feeders the rail and its joiners "
                "carry everything."
                if light
                else "Between feeders the rail and its joiners carry everything.",
                mend="Heavier rail, or gaps beyond the frog that routes its power and a feeder behind them."
                if through_frog
                else "One more feeder in the middle.",
                place=Place("track", track_id, track_id, at),
                shows=(track_id,),
                figures=(("apart", print_length(apart, units)), ("house rule", print_length(limit, units))),
                mends=mends,
            )


def _in_pieces(track: Track, apart: float) -> str:
    """The same in pieces of sectional track, where that is what the track is laid of: people count them."""
    if track.joiner_every is None or track.joiner_every > SECTIONAL_MM or apart < 2 * track.joiner_every:
        return ""
    return f", {apart / track.joiner_every:.0f} pieces of track"


def _farthest(
    facts: Facts, mm: list[float], rows: list[int], places: list[float], span_of: list[int]
) -> tuple[float, float]:
    """The place of a track farthest from any feeder: how far, mm, and where, mm from A; not finite where none is.

    Between two neighbouring sample points the distance rises from both sides, so it peaks at (a + b + step)/2.
    """
    best = (-math.inf, 0.0)
    for row in rows:
        if math.isfinite(mm[row]) and mm[row] > best[0]:
            best = (mm[row], facts.place_of(row)[1])
    for a, b in itertools.pairwise(rows):
        step = places[b] - places[a]
        beside = span_of[a] == span_of[b] and math.isfinite(mm[a]) and math.isfinite(mm[b])
        if beside and abs(mm[a] - mm[b]) < step - ROUNDED_MM:  # else it rises to one of the two, which is known already
            peak = (mm[a] + mm[b] + step) / 2
            if peak > best[0]:
                best = (peak, places[a] + peak - mm[a])
    return best


def _at_gaps(facts: Facts, track_id: str, rows: list[int], places: list[float]) -> list[int]:
    """The sample points of a track that stand at one of its gaps: feeders beyond are no help."""
    edges = {x for p in facts.rails.pieces[track_id] for x in (p.start, p.end)} - {0.0, facts.rails.lengths[track_id]}
    return [row for row in rows if places[row] in edges]


def _lone_ends(facts: Facts, track_id: str, rows: list[int]) -> list[int]:
    """The sample points where a track ends in nothing: a bumper or a turntable's pit."""
    track = facts.layout.tracks[track_id]
    dead = [facts.layout.nodes[p.node].kind in ("bumper", "turntable") for p in (track.a, track.b)]
    return [row for row, end in ((rows[0], dead[0]), (rows[-1], dead[1])) if end]
