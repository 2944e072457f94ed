"""A change order on paper: one chapter for each evening, ready to tick."""

from __future__ import annotations

from collections import Counter

from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.wirebook.book import Book, Chapter, Column, Paragraphs, Table
from jolly_copper.core.wirebook.building import CAUTIONS
from jolly_copper.core.wirebook.evenings import ChangeOrder, Evening


def change_book(order: ChangeOrder, after: Layout, before_number: int, after_number: int, made: str) -> Book:
    """The change order as a book, for the same writers as the wire book.

    Args:
        order: the work.
        after: the layout as it will be.
        before_number: the change the railroad is wired by now.
        after_number: the change it is to be wired by; it stands in the foot of each page.
        made: the day that change was made, ISO.
    """
    chapters = [_summary(order, before_number, after_number), *(_evening(e, after) for e in order.evenings)]
    return Book(after.name, after.club, after.brief.lead or "", after_number, made, tuple(chapters), "change order")


def _summary(order: ChangeOrder, before: int, after: int) -> Chapter:
    rows = tuple(
        (str(e.number), str(len(e.jobs)), f"{e.minutes / 60:.1f} h", share_words(e.running), dark_words(e), "")
        for e in order.evenings
    )
    kinds = Counter(f"{j.thing} to {'add' if j.kind == 'cut' and j.thing != 'gap' else j.kind}" for j in order.jobs)
    told = (
        f"From change {before} to change {after}: "
        + (", ".join(f"{n} × {k}" for k, n in sorted(kinds.items())) or "nothing to do")
        + ".",
        f"Before the first evening {share_words(order.running_before)} of the track has power.",
        "New wire is laid beside the old first; then zone by zone gaps are cut and feeders go over; what hangs "
        "without use goes last.",
    )
    table = Table(
        "Evening by evening",
        (
            Column("Evening", 0.7, "figure"),
            Column("Jobs", 0.6, "figure"),
            Column("Takes", 0.7, "figure"),
            Column("Runs after it", 1, "figure"),
            Column("Stays dark", 3),
            Column("Done", 0.6, "tick"),
        ),
        rows,
        "Runs: track with power from just one circuit, by length. Hours are a guess to plan by.",
    )
    return Chapter(
        "summary",
        "What there is to do",
        (Paragraphs("In short", told), table, Paragraphs("Cautions", CAUTIONS, as_list=True)),
    )


def _evening(evening: Evening, after: Layout) -> Chapter:
    rows = tuple(
        (board_name(after, j.board) if j.board else "—", j.kind.capitalize(), j.label, j.words, "")
        for j in evening.jobs
    )
    title = f"Evening {evening.number}"
    note = f"After it {share_words(evening.running)} of the track runs. {dark_words(evening)}".strip()
    table = Table(
        f"{len(evening.jobs)} jobs, about {evening.minutes / 60:.1f} hours",
        (Column("Board", 1.1), Column("Do", 0.8), Column("What", 0.9), Column("How", 5), Column("Done", 0.6, "tick")),
        rows,
        note,
    )
    return Chapter(f"evening-{evening.number}", title, (table,), short=len(rows) < 12)


def share_words(share: float) -> str:
    """A share of the track: `all`, `none`, else per cent; never 100 % while some is dark.

    >>> share_words(0.9999), share_words(1.0), share_words(0.0)
    ('99 %', 'all', 'none')
    """
    if share >= 1 - 1e-9:
        return "all"
    return "none" if share <= 1e-9 else f"{min(max(int(share * 100), 1), 99)} %"


def dark_words(evening: Evening) -> str:
    """Which tracks have no power after an evening; empty where all have."""
    if not evening.dark:
        return ""
    more = len(evening.dark) - 3
    return ", ".join(evening.dark[:3]) + (f" and {more} more" if more > 0 else "")
