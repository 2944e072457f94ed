"""Which tests a layout wants: one list for building, proving and keeping it, each with what a sound railroad reads."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.control import a_side, rail_word
from jolly_copper.core.layout.frogs import centred_nodes
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.materials.joints import OPEN_OHMS
from jolly_copper.core.proving.bands import BAND
from jolly_copper.core.proving.copper import Ground
from jolly_copper.core.proving.lifting import without_sources
from jolly_copper.core.proving.listed_cabs import listed_cabs
from jolly_copper.core.proving.listed_power import with_power
from jolly_copper.core.proving.meter_test import MINUTES, MeterTest, board_of
from jolly_copper.core.proving.proving import Proving
from jolly_copper.core.quantities import print_ohms
from jolly_copper.core.rails.nets import gap_sides
from jolly_copper.core.rails.pieces import opposite
from jolly_copper.core.wirebook.places import node_words, on_track

OHMMETER = 0.02
"""Of an ohmmeter with its leads zeroed, Ω, one standard deviation. Common practice, no source."""
OFF = "Power off, boosters unplugged, engines and lit cars off."
TELLS = 0.15
"""Ω a sound gap must read at least, as wired, for a closed one to be told from it: leads and clips."""


def _rails(known: Proving) -> Iterator[MeterTest]:
    """Along each board, the A post to every A rail, and to no other."""
    layout = known.layout
    feeders = {p.owner: p for p in known.book.pieces if p.kind == "feeder"}
    for work in known.book.order:
        mine = [p for p in work.pieces if p.kind == "feeder" and p.owner in layout.feeders]
        if not mine:
            continue
        first = layout.feeders[mine[0].owner]
        name = board_name(layout, work.board)
        yield MeterTest(
            f"rails:{work.board or 'off'}",
            "rails",
            f"{name}: same rail, same wire",
            f"Along {name}, from {feeders[mine[0].owner].end_short} on",
            f"{OFF} One lead on the post of wire A, the other along the rail it feeds, then along the other rail.",
            ("ohms",),
            "yes",
            "closed to every rail of wire A, open to every rail of wire B",
            wanted=True,
            outside="a feeder whose two wires are changed over, or a gap that is bridged.",
            minutes=MINUTES["rails"],
            track=first.track,
            at=first.at,
            rests_on=" ".join(f"{p.owner}{layout.feeders[p.owner].a_rail}" for p in mine),
        )


def listed(known: Proving) -> tuple[MeterTest, ...]:
    """Every test of a layout: power off first, board by board, then with power on."""
    off = [*_gaps(known), *_feeders(known), *_frogs(known), *_rails(known)]
    rank = {b.name: n for n, b in enumerate(known.book.tasks)}
    order = {"gap": 0, "feeder": 1, "frog": 2, "rails": 3}
    off.sort(key=lambda t: (rank.get(board_of(known.layout, t), len(rank)), order[t.kind], natural(t.key)))
    return (*off, *with_power(known), *listed_cabs(known))


def _gaps(known: Proving) -> Iterator[MeterTest]:
    layout = known.layout
    for gap_id, gap in layout.gaps.items():
        sides = gap_sides(layout, gap)
        for side in sides:
            sound = _over_gap(known, gap.track, gap.at, side)
            as_wired = ""
            if np.isfinite(sound) and sound < OPEN_OHMS:
                as_wired = (
                    f" With all tied it reads {print_ohms(sound)} round by other wires though it is sound"
                    + (", so ohms tell nothing then" if sound < TELLS else f"; a closed one reads under {TELLS} Ω")
                    + "."
                )
            yield MeterTest(
                f"gap:{gap_id}/{side}",
                "gap",
                f"Gap {gap_id}, {rail_word(layout, gap.track, side)}",
                on_track(layout, gap.track, gap.at, gap_id),
                f"{OFF} Before its feeders are tied.{as_wired}",
                ("ohms",),
                "Ω",
                "open",
                value=None,
                low=OPEN_OHMS,
                open_sound=True,
                outside="the gap is bridged: filings, a joiner that crept, or glue that carries.",
                minutes=MINUTES["gap"],
                track=gap.track,
                at=gap.at,
                rests_on=f"{gap.track} {gap.at:.0f} {gap.rails} {gap.made}",
            )


def _over_gap(known: Proving, track: str, at: float, side: str) -> float:
    """Ω over a sound gap as everything is tied, sources unplugged; infinite where nothing leads round."""
    spans = [known.ac.network.spans[n] for n in known.ac.network.spans_on.get(track, ())]
    before = next((s for s in spans if abs(s.end - at) < 1.0), None)
    after = next((s for s in spans if abs(s.start - at) < 1.0 and s is not before), None)
    if before is None or after is None:
        return np.inf
    a, b = (before.left[1], after.left[0]) if side == "left" else (before.right[1], after.right[0])
    for ground in known.ac.grounds:
        i, j = ground.island.local[a], ground.island.local[b]
        if i >= 0 and j >= 0:
            return without_sources(ground, int(i), int(j))
    return np.inf


def _feeders(known: Proving) -> Iterator[MeterTest]:
    layout = known.layout
    pieces = {p.key: p for p in known.book.pieces if p.kind == "feeder"}
    seats = {s.key: (j.terminal, s) for j in known.book.joints for s in j.seats}
    for ground in known.dc.grounds:
        for n, element in enumerate(ground.elements):
            if element.kind != "feeder":
                continue
            feeder, c = layout.feeders[element.owner], element.conductor
            piece = pieces.get(f"feeder:{element.owner}/{c}") or pieces.get(f"feeder:{element.owner}")
            if piece is None:
                continue
            place = 0 if len(piece.colours) == 1 or c == "A" else 1
            terminal, seat = seats.get(piece.key, (feeder.terminal, None))
            post = seat.posts[place] if seat is not None and any(seat.posts) and place < len(seat.posts) else ""
            a = a_side(layout, feeder)
            side = a if c == "A" else opposite(a)
            spread = np.sqrt(ground.variance[n] + (ground.shared[n] ** 2).sum() + OHMMETER**2)
            high = element.ohms + BAND * float(spread)
            yield MeterTest(
                f"feeder:{element.owner}/{c}",
                "feeder",
                f"{feeder.label or element.owner}, {piece.colours[place]} wire",
                f"One lead on {f'post {post} of ' if post else ''}{terminal}, one on the "
                f"{rail_word(layout, feeder.track, side)}, looking towards "
                f"{node_words(layout, layout.tracks[feeder.track].b.node)}: "
                f"{on_track(layout, feeder.track, feeder.at)}",
                f"{OFF} Before its neighbours are tied, leads zeroed.{_round(ground, n)}",
                ("ohms",),
                "Ω",
                f"{print_ohms(element.ohms)}",
                value=element.ohms,
                low=0.0,
                high=high,
                outside=f"most likely the joint of {feeder.label or element.owner}'s {piece.colours[place]} wire, at "
                f"the rail or on {terminal}; press it and measure again.",
                minutes=MINUTES["feeder"],
                track=feeder.track,
                at=feeder.at,
                rests_on=f"{feeder.track} {feeder.at:.0f} {feeder.gauge} {terminal} {feeder.a_rail}",
            )


def _round(ground: Ground, element: int) -> str:
    """What an open feeder wire would read once its neighbours are tied: mostly under an ohm."""
    way = float(ground.way_round[element])
    if way < 1e-6:
        return ""
    around = float(ground.across[element]) / way
    if around > 10.0:
        return ""
    return f" With them tied an open wire still reads about {print_ohms(around)}, by way of the others."


def _frogs(known: Proving) -> Iterator[MeterTest]:
    layout, centred = known.layout, centred_nodes(known.layout)
    for node_id, node in layout.nodes.items():
        if node.kind not in ("turnout", "three-way") or node.frog == "dead" or node_id in centred:
            continue
        here = next(
            ((i, t.a.node == node_id) for i, t in layout.tracks.items() if node_id in (t.a.node, t.b.node)), None
        )
        if here is None:
            continue
        track, at = here[0], 0.0 if here[1] else known.facts.rails.lengths[here[0]]
        yield MeterTest(
            f"frog:{node_id}",
            "frog",
            f"Frog of {node_words(layout, node_id)}, both lies",
            on_track(layout, track, at),
            f"{OFF} Throw it each way: the frog to the rail it should join, then to the other.",
            ("ohms",),
            "yes",
            "under 1 Ω to the one, open to the other, both ways",
            wanted=True,
            outside="the frog's contact, its wire, or a blade that does not close.",
            minutes=MINUTES["frog"],
            track=track,
            at=at,
            rests_on=f"{node.frog} {node.contact} {node.at.x:.0f} {node.at.y:.0f}",
        )
