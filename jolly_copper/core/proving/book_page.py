"""The chapter of the wire book that proves it: what to meter, what was read, and how it went over the years."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.proving.judging import band_words
from jolly_copper.core.wirebook.book import Block, Chapter, Column, Paragraphs, Table
from jolly_copper.core.wirebook.sketch import FAINT, MUTED, Sketch, Stroke, Words

MOST_CHARTS = 8
WIDTH, HEIGHT, LEFT, FOOT = 170.0, 38.0, 20.0, 8.0
ROOM = 1.25
"""Of the height for what is written over the last reading."""
COPPER, GREEN = "#9a5120", "#3f7d4f"


@dataclass(frozen=True)
class LogLine:
    """A reading that counts. value, low, high: in the unit of its test. sound: None where it settles nothing."""

    test: str
    shown: str
    value: float | None
    low: float | None
    high: float | None
    sound: bool | None
    verdict: str
    who: str
    done: str


def proving_chapter(bench: Bench, log: Sequence[LogLine]) -> Chapter:
    """What to meter, and what was read.

    Args:
        bench: of the layout.
        log: readings that count, oldest first.
    """
    last = {line.test: line for line in log}
    blocks: list[Block] = [_to_meter(bench, last)]
    if log:
        blocks.append(_read(bench, last))
        blocks += _charts(bench, log)
    else:
        blocks.append(Paragraphs("Readings", ("None is kept yet: write them in above, and type them in step Bench.",)))
    return Chapter("proving", "Proved by meter", tuple(blocks))


def _to_meter(bench: Bench, last: dict[str, LogLine]) -> Table:
    rows = tuple(
        (t.title, t.where, band_words(t.low, t.high, t.unit), last[t.key].shown if t.key in last else "")
        for t in bench.tests
        if t.tier == "must"
    )
    columns = (Column("Test", 1.6), Column("Where", 2.4), Column("Sound", 1.0, "figure"), Column("Read", 0.9, "figure"))
    note = "One ampere of DC behind the breakers, everything else off the track; read at the rails, not at the clips."
    return Table("The fewest places that prove every part that matters", columns, rows, note)


def _read(bench: Bench, last: dict[str, LogLine]) -> Table:
    rows = tuple(
        (
            bench.by_key[x.test].title if x.test in bench.by_key else f"{x.test} (not on the layout now)",
            x.done[:10],
            x.who,
            x.shown,
            x.verdict,
        )
        for x in last.values()
    )
    columns = (
        Column("Test", 1.6),
        Column("On", 0.7),
        Column("By", 0.7),
        Column("Read", 0.8, "figure"),
        Column("Verdict", 2.4),
    )
    return Table("Every test as it was last read", columns, rows)


def _charts(bench: Bench, log: Sequence[LogLine]) -> list[Block]:
    """A drawing for each test that was read more than once, those that grew most first."""
    by: dict[str, list[LogLine]] = {}
    for line in log:
        if line.value is not None and line.test in bench.by_key:
            by.setdefault(line.test, []).append(line)
    several = [(t, lines) for t, lines in by.items() if len({x.done[:10] for x in lines}) > 1]
    several.sort(key=lambda x: (-_grown(x[1]), x[0]))
    tests = bench.by_key
    return [
        over_the_years(f"{tests[t].title} · {tests[t].where}", lines, tests[t].unit)
        for t, lines in several[:MOST_CHARTS]
    ]


def _grown(lines: Sequence[LogLine]) -> float:
    first, last = lines[0].value or 0.0, lines[-1].value or 0.0
    return last / first if first > 0 else 0.0


def over_the_years(title: str, lines: Sequence[LogLine], unit: str) -> Sketch:
    """Readings of one test against time, with the band that was foretold each time."""
    days = [datetime.fromisoformat(x.done).timestamp() for x in lines]
    values = [x.value or 0.0 for x in lines]
    most = max(*values, *(x.high or 0.0 for x in lines)) or 1.0
    top = most * ROOM
    span = max(days[-1] - days[0], 1.0)

    def place(day: float, value: float) -> tuple[float, float]:
        return LEFT + (WIDTH - LEFT - 4) * (day - days[0]) / span, (HEIGHT - FOOT) * (1 - value / top)

    strokes = [
        Stroke(((LEFT, 0), (LEFT, HEIGHT - FOOT), (WIDTH, HEIGHT - FOOT)), FAINT, 0.3),
        Stroke(tuple(place(d, v) for d, v in zip(days, values, strict=True)), COPPER, 0.6),
    ]
    for bound in ("low", "high"):
        known = [(d, b) for d, x in zip(days, lines, strict=True) if (b := getattr(x, bound)) is not None]
        if len(known) > 1:
            strokes.append(Stroke(tuple(place(d, b) for d, b in known), GREEN, 0.3, dash=1.2))
    words = [
        Words(LEFT - 1.5, place(days[0], most)[1] + 1, f"{most:.3g} {unit}", 6, MUTED, "end"),
        Words(LEFT - 1.5, HEIGHT - FOOT, "0", 6, MUTED, "end"),
        Words(LEFT, HEIGHT - 2, lines[0].done[:10], 6, MUTED),
        Words(WIDTH, HEIGHT - 2, lines[-1].done[:10], 6, MUTED, "end"),
    ]
    for d, v, x in zip(days, values, lines, strict=True):
        a, b = place(d, v)
        mark = ((a - 0.8, b - 0.8), (a + 0.8, b - 0.8), (a + 0.8, b + 0.8), (a - 0.8, b + 0.8))
        strokes.append(Stroke(mark, COPPER, 0.3, closed=True, fill=COPPER))
        if x is lines[-1] or x is lines[0]:
            words.append(Words(a, b - 2, x.shown, 6.5, anchor="start" if x is lines[0] else "end"))
    note = f"{len(lines)} readings; broken lines: what was foretold each time."
    return Sketch(title, WIDTH, HEIGHT, tuple(strokes), tuple(words), note)
