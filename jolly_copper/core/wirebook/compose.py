"""Putting the wire book together, chapter by chapter."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.wirebook.back_pages import _cutting, _materials, _posts, _schedule, _terminals
from jolly_copper.core.wirebook.board_plan import board_plan
from jolly_copper.core.wirebook.book import Block, Book, Chapter, Column, Paragraphs, Table
from jolly_copper.core.wirebook.building import BoardWork, closing_checks
from jolly_copper.core.wirebook.cab_pages import cab_chapters
from jolly_copper.core.wirebook.commissioning import settings_chapter
from jolly_copper.core.wirebook.front_pages import TICK, _cautions, _colours, _order, _power
from jolly_copper.core.wirebook.hubs import hub_picture
from jolly_copper.core.wirebook.joints import Joint
from jolly_copper.core.wirebook.preparing import preparing
from jolly_copper.core.wirebook.signal_pages import signal_chapters
from jolly_copper.core.wirebook.sketch import Sketch
from jolly_copper.core.wirebook.travel_pages import travel_chapters
from jolly_copper.core.wirebook.whole_plan import whole_plan
from jolly_copper.core.wirebook.worked import Worked


def compose(facts: Facts, revision: int, made: str) -> Book:
    """The whole book.

    Args:
        facts: of the layout, in the scene whose amps its pages quote.
        revision: its number.
        made: the day it was made, ISO.
    """
    return compose_from(Worked(facts), revision, made)


def compose_from(worked: Worked, revision: int, made: str) -> Book:
    """The whole book, from what is worked out already; see `compose`."""
    layout = worked.layout
    chapters = [_cautions(), _power(worked), _colours(layout)]
    plan, ready = whole_plan(worked.facts), preparing(worked)
    chapters += [Chapter("plan", "The whole plan", (plan,))] if plan is not None else []
    chapters += [ready] if ready is not None else []
    chapters += [_order(worked)]
    chapters += [_board(worked, work) for work in worked.order]
    chapters += cab_chapters(worked.facts)
    chapters += signal_chapters(worked.facts, worked.pieces)
    chapters += travel_chapters(worked.facts)
    settings = settings_chapter(layout)
    chapters += [settings] if settings is not None else []
    chapters += [_schedule(worked), _terminals(worked), _cutting(worked), _materials(worked)]
    return Book(layout.name, layout.club, layout.brief.lead or "", revision, made, tuple(chapters))


def _board(worked: Worked, work: BoardWork) -> Chapter:
    layout = worked.layout
    rows = tuple(
        (
            p.label,
            p.worn,
            f"{p.gauge} {p.strands}",
            p.start,
            "; ".join((p.end, *p.notes)),
            worked.length(p.cut),
            "",
        )
        for p in work.pieces
    )
    blocks: list[Block] = [
        Table(
            "Wires, in the order they are done",
            (
                Column("Label", 0.8),
                Column("Wires", 1.2, "colours"),
                Column("Gauge", 1.1),
                Column("From", 2.2),
                Column("To", 2.4),
                Column("Cut each to", 0.8, "figure"),
                TICK,
            ),
            rows,
        )
    ]
    tied = [j for j in worked.joints if j.board == work.board]
    if tied:
        blocks.append(_posts(tied))
        blocks += _hubs(layout, tied)
    checks = closing_checks(layout, work)
    if checks:
        blocks.append(Paragraphs("Before the next board", tuple(c.words for c in checks), as_list=True))
    if layout.brief.memory_aid:
        blocks.insert(0, Paragraphs("Remember", (layout.brief.memory_aid,)))
    plan = (board_plan(layout, work.board, worked.pieces),) if work.board else ()
    return Chapter(f"board-{work.board or 'none'}", board_name(layout, work.board), (*plan, *blocks))


def _hubs(layout: Layout, tied: Sequence[Joint]) -> list[Sketch]:
    """A picture of every screw strip on a board, as it is built."""
    found = []
    for j in tied:
        if j.kind == "screw strip" and j.seats:
            circuit = layout.circuits[j.circuit]
            found.append(
                hub_picture(j.built, j.terminal, (circuit.colour_a, circuit.colour_b), [s.number for s in j.seats])
            )
    return found
