"""Read me first: one page for a stranger who must run, test and mend the railroad; and the pages that keep what its
makers knew: rules they changed, decisions, troubles, history."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.circuits.protection import in_order
from jolly_copper.core.layout.benchwork import board_at, board_name, lifting_boards
from jolly_copper.core.layout.document import REVERSERS, Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.rules import rule_catalogue
from jolly_copper.core.layout.words import CONTROL, many
from jolly_copper.core.quantities import print_current, print_long_length, print_volts
from jolly_copper.core.travel.crossing import joints_of
from jolly_copper.core.wirebook.book import Block, Chapter, Column, Paragraphs, Table

MOST_LISTED, MOST_CHANGES = 12, 60


@dataclass(frozen=True)
class Written:
    """Something written down. about: in words; empty for the whole railroad."""

    kind: str
    about: str
    text: str
    who: str
    on: str


@dataclass(frozen=True)
class Remembered:
    """What stands beside the layout. tests: the last readings in sentences, bad ones first; troubles: open ones; notes:
    the notebook, the newest first; history: changes, the newest first."""

    tests: tuple[str, ...] = ()
    troubles: tuple[str, ...] = ()
    notes: tuple[Written, ...] = ()
    history: tuple[Written, ...] = field(default=())


NOTHING = Remembered()


def read_me(facts: Facts, known: Remembered = NOTHING) -> Chapter:
    """One page for a stranger, made from the layout, its last tests and its open troubles."""
    layout = facts.layout
    blocks: list[Block] = [
        Paragraphs("What it is", tuple(_what_it_is(facts))),
        Paragraphs("Switch it on, in this order", tuple(_switch_on(facts)), True),
        Paragraphs("Before a train runs", tuple(_before(facts)), True),
        Table(
            "If part of it stops",
            (
                Column("What opened", 1.4),
                Column("Then it is dark in", 1.6),
                Column("Stands", 1.4),
                Column("Opens at", 0.7, "figure"),
            ),
            tuple(_if_it_stops(facts)),
            "Lift trains off that part, one after the other, until it stays on. Nothing found: step Bench, Find it, "
            "asks the shortest way. Unplug before working on a supply; mains is for whoever is licensed for it.",
        ),
        Paragraphs("How wires are told apart", tuple(_colours(layout)), True),
        Paragraphs("Last tests", known.tests[:MOST_LISTED] or ("Nothing is proved by meter yet.",), True),
        Paragraphs("Open troubles", known.troubles[:MOST_LISTED] or ("None is written down.",), True),
    ]
    return Chapter("read-me", "Read me first", tuple(blocks))


def _what_it_is(facts: Facts) -> Iterator[str]:
    layout = facts.layout
    metres = sum(facts.rails.lengths.values())
    lead = f" Its wiring is led by {layout.brief.lead}." if layout.brief.lead else ""
    club = f" of {layout.club}" if layout.club else ""
    yield (
        f"{layout.name}{club}: {layout.brief.scale}, {CONTROL[layout.brief.control]}, "
        f"{print_long_length(metres, layout.brief.units)} of track on {many(len(layout.boards), 'board')}.{lead}"
    )
    lifting = len(lifting_boards(layout))
    if lifting:
        lift, joints = "lifts" if lifting == 1 else "lift", many(len(joints_of(facts)), "joint")
        yield (
            f"{many(lifting, 'board')} {lift} out, at {joints}: chapter Setting up and taking down has the order, "
            "and what the meter should show at each joint."
        )
    if layout.notes:
        yield layout.notes


def _place(layout: Layout, device: str) -> str:
    at = layout.devices[device].at
    return board_name(layout, board_at(layout, at.x, at.y))


def _switch_on(facts: Facts) -> Iterator[str]:
    layout = facts.layout
    supplies = [i for i, d in layout.devices.items() if d.kind == "supply"]
    sources = [i for i, d in layout.devices.items() if d.kind in SOURCES]
    for i in sorted(supplies, key=lambda i: natural(layout.devices[i].name)):
        device = layout.devices[i]
        yield f"{device.name} ({_place(layout, i)}): {layout.circuits[device.output].name}."
    for i in sorted(sources, key=lambda i: natural(layout.devices[i].name)):
        device = layout.devices[i]
        volts = print_volts(source_volts(layout, i))
        yield f"{device.name} ({_place(layout, i)}): {volts} for {layout.circuits[device.output].name}."
    if not supplies and not sources:
        yield "No source of power is drawn yet."


def _before(facts: Facts) -> Iterator[str]:
    layout = facts.layout
    yield "Look along the rails for tools, screws and turnouts not thrown home."
    for i, device in layout.devices.items():
        if device.kind in REVERSERS:
            longest = max((t.length for t in layout.trains.values()), default=0.0)
            most = f"; trains up to {print_long_length(longest, layout.brief.units)}" if longest else ""
            yield f"{device.name} ({_place(layout, i)}) turns its section under a train by itself{most}."
    cabs = [d.name for d in layout.devices.values() if d.kind == "selector" and d.gang is None]
    if cabs:
        count = f"{len(cabs)} switches choose" if len(cabs) > 1 else "1 switch chooses"
        yield f"{count} who drives what: {', '.join(cabs[:MOST_LISTED])}."
    if layout.signals:
        yield f"{many(len(layout.signals), 'signal')} stand beside the track; the table of aspects is in the book."


def _if_it_stops(facts: Facts) -> Iterator[tuple[str, ...]]:
    layout, tree = facts.layout, facts.tree
    for i in in_order(layout):
        device = layout.devices[i]
        if device.trip_amps is None:
            continue
        dark = [s.name for s in layout.sections.values() if device.output in tree.lineage(s.circuit)]
        where = ", ".join(dark[:6]) + (f" and {len(dark) - 6} more" if len(dark) > 6 else "")
        yield (
            device.name,
            where or layout.circuits[device.output].name,
            _place(layout, i),
            print_current(device.trip_amps),
        )


def _colours(layout: Layout) -> Iterator[str]:
    sensed = {d.output for d in layout.devices.values() if d.board is not None}
    for i, c in layout.circuits.items():
        if i not in sensed:
            yield f"{c.name}: {c.colour_a} and {c.colour_b}"
    if sensed:
        yield "A stripe beside a district's own colour: home of one detection section."


def keeping_chapters(facts: Facts, known: Remembered) -> list[Chapter]:
    """Rules the club changed, what was decided and written down, and the history; those that have something to say."""
    found = []
    rules = _changed_rules(facts.layout)
    if rules:
        columns = (
            Column("Rule", 2),
            Column("The club's", 0.8, "figure"),
            Column("Usual", 0.8, "figure"),
            Column("Why it is asked", 3),
        )
        found.append(Chapter("rules", "House rules changed", (Table("Against the usual", columns, rules),), short=True))
    decided = [*_accepted(facts.layout), *(n for n in known.notes if n.kind == "decision")]
    if decided:
        found.append(Chapter("decisions", "Decisions", (_written("What was decided, and why", decided),), short=True))
    rest = [n for n in known.notes if n.kind != "decision"]
    if rest:
        found.append(Chapter("notebook", "Notebook", (_written("Notes and troubles", rest),), short=True))
    if known.history:
        rows = tuple((h.on, h.who, h.text) for h in known.history[:MOST_CHANGES])
        said = (Column("On", 0.8), Column("By", 0.8), Column("What", 4))
        note = f"The newest {MOST_CHANGES}; the archive has all." if len(known.history) > MOST_CHANGES else ""
        found.append(Chapter("history", "History", (Table("Changes, the newest first", said, rows, note),), short=True))
    return found


def _written(title: str, lines: Sequence[Written]) -> Table:
    columns = (Column("On", 0.8), Column("By", 0.8), Column("About", 1.2), Column("What", 4))
    return Table(title, columns, tuple((n.on[:10], n.who, n.about or "the railroad", n.text) for n in lines))


def _accepted(layout: Layout) -> Iterator[Written]:
    """Findings somebody decided to live with."""
    for key, accepted in layout.accepted.items():
        yield Written("decision", key.replace(":", " "), f"Accepted: {accepted.reason}", accepted.by, accepted.on)


def _changed_rules(layout: Layout) -> tuple[tuple[str, ...], ...]:
    said = layout.brief.rules.model_dump()
    return tuple(
        (str(r["title"]), f"{said[r['key']]:g} {r['unit']}", f"{r['default']:g}", str(r["reason"]))
        for r in rule_catalogue()
        if isinstance(said[r["key"]], int | float)
        and not isinstance(said[r["key"]], bool)
        and said[r["key"]] != r["default"]
    )
