"""Names and numbers of a railroad, for a program that controls it: sections, turnouts, signals, routes, block graph."""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.reading import may_lie
from jolly_copper.core.signals.aspects import Signalling
from jolly_copper.core.signals.directions import direction_locks
from jolly_copper.core.signals.heads import can_show, lamps_of

What = Literal["section", "turnout", "signal", "route", "link"]


@dataclass(frozen=True)
class SectionName:
    """A stretch between gaps. number: it reports as; board, contact: of its detector; None where nothing looks. length:
    mm. group: the line of one direction at a time that it is part of."""

    name: str
    number: int | None
    board: str | None
    contact: int | None
    block: str | None
    role: str
    length: float
    district: str | None
    group: str | None


@dataclass(frozen=True)
class TurnoutName:
    """number: the command goes to; inverted: straight and diverging change over. reports: number of its report, by
    which board and input."""

    name: str
    number: int | None
    board: str | None
    output: int | None
    inverted: bool
    reports: int | None
    reports_by: str | None
    lies: tuple[str, ...]


@dataclass(frozen=True)
class LampNumber:
    """A lamp of a signal and the number of its output."""

    lamp: str
    number: int


@dataclass(frozen=True)
class SignalName:
    """number: of its first output; outputs: lamp by lamp. aspects: it can show. section: a train stands in that waits
    at it."""

    name: str
    number: int | None
    board: str | None
    heads: int
    outputs: tuple[LampNumber, ...]
    aspects: tuple[str, ...]
    section: str


@dataclass(frozen=True)
class RouteName:
    """A way from a signal to the next. turnouts: how each must lie, by name. sections: in order."""

    name: str
    start: str
    end: str
    turnouts: dict[str, str]
    sections: tuple[str, ...]


@dataclass(frozen=True)
class LinkName:
    """Two sections that meet at a gap. runs: which way trains go from the one to the other."""

    name: str
    start: str
    end: str
    track: str
    runs: Literal["both", "forward", "backward"]


@dataclass(frozen=True)
class Names:
    """All names of a railroad, each kind in the order of its names."""

    railroad: str
    sections: tuple[SectionName, ...]
    turnouts: tuple[TurnoutName, ...]
    signals: tuple[SignalName, ...]
    routes: tuple[RouteName, ...]
    links: tuple[LinkName, ...]


def names_of(known: Signalling) -> Names:
    """Names and numbers as the layout has them."""
    layout = known.layout
    sections = _sections(known)
    by_number = {s.number: n for s, n in zip(known.sensed, _called(known), strict=True)}
    return Names(
        layout.name,
        tuple(sorted(sections, key=lambda s: natural(s.name))),
        tuple(sorted(_turnouts(layout), key=lambda t: natural(t.name))),
        tuple(sorted(_signals(known, by_number), key=lambda s: natural(s.name))),
        tuple(_routes(known, by_number)),
        tuple(sorted(_links(known, by_number), key=lambda x: natural(x.name))),
    )


def _called(known: Signalling) -> list[str]:
    """A name for every stretch, no two alike: a second of the same name is numbered."""
    found: list[str] = []
    used: dict[str, int] = {}
    for s in known.sensed:
        used[s.name] = used.get(s.name, 0) + 1
        found.append(s.name if used[s.name] == 1 else f"{s.name} ({used[s.name]})")
    return found


def _sections(known: Signalling) -> Iterator[SectionName]:
    layout = known.layout
    groups = {n: f"line {k}" for k, lock in enumerate(direction_locks(known), start=1) for n in lock.sections}
    for sensed, name in zip(known.sensed, _called(known), strict=True):
        section = layout.sections[sensed.section] if sensed.section is not None else None
        circuit = layout.circuits[section.circuit] if section is not None else None
        yield SectionName(
            name,
            sensed.address,
            layout.detectors[sensed.board].name if sensed.board is not None else None,
            sensed.channel,
            layout.blocks[sensed.block].name if sensed.block in layout.blocks else None,
            section.role if section is not None else "",
            round(sum(p.end - p.start for p in known.rails.extents[sensed.number]), 1),
            circuit.name if circuit is not None else None,
            groups.get(sensed.number),
        )


def _turnouts(layout: Layout) -> Iterator[TurnoutName]:
    for i, node in layout.nodes.items():
        if node.kind not in ("turnout", "three-way", "slip"):
            continue
        driver = layout.drivers.get(node.driver or "")
        reports = layout.drivers.get(node.report_board or "")
        yield TurnoutName(
            node.name or i,
            driver.address + node.output - 1 if driver is not None and node.output is not None else None,
            driver.name if driver is not None else None,
            node.output if driver is not None else None,
            node.inverted,
            reports.address + node.report_input - 1 if reports is not None and node.report_input is not None else None,
            f"{reports.name}, input {node.report_input}" if reports is not None else None,
            may_lie(node),
        )


def _signals(known: Signalling, sections: Mapping[int, str]) -> Iterator[SignalName]:
    layout = known.layout
    for i, signal in layout.signals.items():
        driver = layout.drivers.get(signal.driver or "")
        first = driver.address + signal.output - 1 if driver is not None and signal.output is not None else None
        lamps = [
            ("upper " if signal.heads == 2 and x.head == 0 else "lower " if signal.heads == 2 else "") + x.what
            for x in lamps_of(signal)
        ]
        yield SignalName(
            signal.name,
            first,
            driver.name if driver is not None else None,
            signal.heads,
            tuple(LampNumber(lamp, first + k) for k, lamp in enumerate(lamps)) if first is not None else (),
            can_show(signal),
            sections[known.approach[i]],
        )


def _routes(known: Signalling, sections: Mapping[int, str]) -> Iterator[RouteName]:
    layout = known.layout
    for signal, routes in known.routes.items():
        start = layout.signals[signal].name
        ends = [layout.signals[r.exit].name if r.exit else layout.tracks[r.legs[-1].track].name for r in routes]
        for n, (route, end) in enumerate(zip(routes, ends, strict=True)):
            again = ends[:n].count(end)
            yield RouteName(
                f"{start} to {end}" + (f" ({again + 1})" if again else ""),
                start,
                end,
                {layout.nodes[s.node].name or s.node: s.lies for s in route.needs},
                tuple(sections[n] for n in route.sections),
            )


def _links(known: Signalling, sections: Mapping[int, str]) -> Iterator[LinkName]:
    for track_id, pieces in known.rails.pieces.items():
        track = known.layout.tracks[track_id]
        for one, other in itertools.pairwise(pieces):
            a, b = (sections[known.rails.extent_of[p]] for p in (one, other))
            if a != b:
                yield LinkName(f"{a} to {b} by {track.name}", a, b, track.name, track.runs)


COMPARED: dict[What, tuple[str, ...]] = {
    "section": ("number", "board", "contact", "block", "role", "length_mm"),
    "turnout": ("number", "board", "contact", "inverted", "reports"),
    "signal": ("number", "board", "heads", "outputs", "aspects"),
    "route": ("from", "to", "turnouts", "sections"),
    "link": ("from", "to", "track", "runs"),
}
"""Columns of each kind of row, besides what it is and its name."""


def rows_of(names: Names) -> list[dict[str, str]]:
    """Names as plain rows of text, a column each: what, name, and those of `COMPARED`."""

    def row(what: What, name: str, *cells: object) -> dict[str, str]:
        said = {c: cell_text(v) for c, v in zip(COMPARED[what], cells, strict=True)}
        return {"what": what, "name": name, **said}

    found = [row("section", s.name, s.number, s.board, s.contact, s.block, s.role, s.length) for s in names.sections]
    found += [row("turnout", t.name, t.number, t.board, t.output, t.inverted, t.reports) for t in names.turnouts]
    for s in names.signals:
        lamps = "; ".join(f"{o.number} {o.lamp}" for o in s.outputs)
        found.append(row("signal", s.name, s.number, s.board, s.heads, lamps, "; ".join(s.aspects)))
    for r in names.routes:
        lies = "; ".join(f"{t} {lie}" for t, lie in r.turnouts.items())
        found.append(row("route", r.name, r.start, r.end, lies, "; ".join(r.sections)))
    found += [row("link", x.name, x.start, x.end, x.track, x.runs) for x in names.links]
    return found


def cell_text(value: object) -> str:
    """A value as a cell of the table has it.

    >>> cell_text(None), cell_text(True), cell_text(12.0), cell_text("T3")
    ('', 'yes', '12', 'T3')
    """
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value)


def columns_of(what: str) -> tuple[str, ...]:
    """The columns of a kind of row; none of a kind there is not."""
    return next((columns for kind, columns in COMPARED.items() if kind == what), ())


@dataclass(frozen=True)
class ListedWrong:
    """How a list read back differs. how: missing in the list, not of this railroad, twice in it, or other than here."""

    how: Literal["missing", "not ours", "twice", "differs"]
    what: str
    name: str
    words: str


def compare_names(names: Names, listed: Sequence[Mapping[str, str]]) -> tuple[ListedWrong, ...]:
    """Where a list read back from another program differs from the layout.

    Compared are the columns the list has; an empty cell is not compared, save a number. Names are compared without
    regard to capitals.

    Args:
        names: of the layout. listed: rows with `what` and `name`.
    """
    ours = {(r["what"], r["name"].casefold()): r for r in rows_of(names)}
    kinds = {str(r["what"]) for r in listed}
    seen: set[tuple[str, str]] = set()
    numbers: dict[tuple[str, str], str] = {}
    found: list[ListedWrong] = []
    for row in listed:
        what, name = row["what"], row["name"]
        key = (what, name.casefold())
        if key in seen:
            found.append(ListedWrong("twice", what, name, f"The {what} {name} stands twice in the list."))
            continue
        seen.add(key)
        number = row.get("number", "")
        if number and what in ("section", "turnout"):
            other = numbers.setdefault((what, number), name)
            if other != name and _number(ours, what, other) != _number(ours, what, name):
                words = f"Number {number} is given to the {what}s {other} and {name}."
                found.append(ListedWrong("twice", what, name, words))
        mine = ours.get(key)
        if mine is None:
            found.append(ListedWrong("not ours", what, name, f"There is no {what} {name} on this railroad."))
            continue
        for column in columns_of(what):
            if column not in row or (not row[column] and column != "number"):
                continue
            if row[column].casefold() != mine[column].casefold():
                theirs = row[column] or "nothing"
                words = f"{name}: {column} is {theirs} in the list and {mine[column] or 'nothing'} here."
                found.append(ListedWrong("differs", what, name, words))
    for (what, _), row in ours.items():
        if what in kinds and (what, row["name"].casefold()) not in seen:
            found.append(ListedWrong("missing", what, row["name"], f"The {what} {row['name']} is not in the list."))
    order = ("twice", "differs", "missing", "not ours")
    return tuple(sorted(found, key=lambda w: (order.index(w.how), w.what, natural(w.name))))


def _number(ours: Mapping[tuple[str, str], Mapping[str, str]], what: str, name: str) -> str | None:
    """The number a thing has here; two may share one: parts of a section, both ends of a crossover."""
    row = ours.get((what, name.casefold()))
    return row["number"] if row is not None else name
