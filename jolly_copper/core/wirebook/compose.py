"""Putting the wire book together, chapter by chapter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.protection import in_order
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.quantities import print_current, print_length, print_long_length
from jolly_copper.core.wirebook.board_plan import board_plan
from jolly_copper.core.wirebook.book import Block, Book, Chapter, Column, Paragraphs, Table
from jolly_copper.core.wirebook.building import CAUTIONS, BoardWork, building_order, closing_checks
from jolly_copper.core.wirebook.hubs import hub_picture
from jolly_copper.core.wirebook.joints import Joint, joints, plug_pins
from jolly_copper.core.wirebook.materials import Item, WireNeed, items, wire_needs
from jolly_copper.core.wirebook.one_line import one_lines, ratings
from jolly_copper.core.wirebook.piece import KINDS, Piece, is_before_plug
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.core.wirebook.signal_pages import signal_chapters
from jolly_copper.core.wirebook.sketch import Sketch
from jolly_copper.core.wirebook.tasks import BoardTasks, board_tasks

TICK = Column("Done", 0.6, "tick")


@dataclass(frozen=True)
class Worked:
    """What the chapters draw on, worked out once. Facts of the layout in the scene the amps are asked for."""

    facts: Facts

    @property
    def layout(self) -> Layout:
        return self.facts.layout

    @cached_property
    def pieces(self) -> list[Piece]:
        return pieces(self.layout)

    @cached_property
    def joints(self) -> list[Joint]:
        return joints(self.layout, self.pieces)

    @cached_property
    def order(self) -> list[BoardWork]:
        return building_order(self.layout, self.pieces, self.joints)

    @cached_property
    def tasks(self) -> list[BoardTasks]:
        return board_tasks(self.layout, self.order, self.joints)

    @cached_property
    def needs(self) -> list[WireNeed]:
        return wire_needs(self.layout, self.pieces)

    @cached_property
    def items(self) -> list[Item]:
        return items(self.layout, self.pieces, self.joints)

    def length(self, mm: float) -> str:
        return print_length(mm, self.layout.brief.units)


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
    chapters = [_cautions(), _power(worked), _colours(layout), _order(worked)]
    chapters += [_board(worked, work) for work in worked.order]
    chapters += signal_chapters(worked.facts, worked.pieces)
    chapters += [_schedule(worked), _terminals(worked), _cutting(worked), _materials(worked)]
    return Book(layout.name, layout.club, layout.brief.lead or "", revision, made, tuple(chapters))


def _cautions() -> Chapter:
    return Chapter("cautions", "Before anything", (Paragraphs("Cautions", CAUTIONS, as_list=True),), short=True)


def _power(worked: Worked) -> Chapter:
    facts, layout = worked.facts, worked.layout
    asked = {a.device: a for a in facts.asked}
    rows = []
    for i in in_order(layout):
        device = layout.devices[i]
        circuit, figures = layout.circuits[device.output], asked.get(i)
        fed = [s.name for s in layout.sections.values() if _district(layout, s.circuit) == device.output]
        sections = ", ".join(fed[:8]) + (f" and {len(fed) - 8} more" if len(fed) > 8 else "") or "—"
        rows.append((
            device.name, circuit.name, f"{circuit.colour_a} + {circuit.colour_b}", ratings(device),
            print_current(figures.worst) if figures else "—",
            print_current(figures.head_room) if figures and figures.head_room is not None else "—", sections,
        ))  # fmt: skip
    scene = layout.scenes[facts.scene].name if facts.scene else "no scene"
    table = Table(
        "Power districts and their amps",
        (Column("Device", 1.5), Column("Circuit", 1.3), Column("Wires", 1.3, "colours"), Column("Label", 1.6), Column("Asked at worst", 0.9, "figure"), Column("Left", 0.7, "figure"), Column("Feeds", 2)),
        tuple(rows), f"Asked with “{scene}” running: every train that may be behind a device is there at once.",
    )  # fmt: skip
    return Chapter("power", "Power, on one line", (*one_lines(facts), table))


def _district(layout: Layout, circuit: str) -> str:
    """The circuit above a detector channel; a circuit itself elsewhere."""
    return next(
        (d.input or circuit for d in layout.devices.values() if d.output == circuit and d.board is not None), circuit
    )


def _colours(layout: Layout) -> Chapter:
    used = {r.circuit for r in layout.runs.values()}
    sensed = {d.output for d in layout.devices.values() if d.board is not None}
    rows = tuple(
        (
            c.name,
            "track" if c.purpose == "track" else "accessories",
            c.colour_a,
            c.colour_b,
            "yes" if i in used else "no wire of its own",
        )
        for i, c in layout.circuits.items()
        if i not in sensed
    )
    school = (
        "Every district has its own pair of colours, so the wire says where it belongs." if layout.brief.rules.colours_by_district
        else "All track wears one pair of colours; accessories wear others."
    )  # fmt: skip
    table = Table(
        "Colour code",
        (
            Column("Circuit", 2),
            Column("For", 1),
            Column("Wire A", 1, "colours"),
            Column("Wire B", 1, "colours"),
            Column("Laid", 1),
        ),
        rows,
    )
    rule = Paragraphs(
        "How it is read",
        (
            school,
            "The same wire goes to the same rail everywhere in a section; the page of each feeder says which. Wire A is pin 1 of every plug; which posts of a terminal are its, the picture on the board page shows.",
            *(
                [
                    "Behind a detector the sensed wire is its district's, striped; the other is the district's own. Its label says which section it is."
                ]
                if sensed
                else []
            ),
        ),
    )
    return Chapter("colours", "Colour code", (rule, table), short=True)


def _order(worked: Worked) -> Chapter:
    layout = worked.layout
    rows = tuple(
        (
            str(w.number), board_name(layout, w.board), ", ".join(board_name(layout, b) for b in w.after) or "the source itself",
            str(sum(p.kind == "run" for p in w.pieces)), str(sum(p.kind == "feeder" for p in w.pieces)), str(len(w.terminals)), str(len(w.gaps)), str(len(w.plugs)), "",
        )
        for w in worked.order
    )  # fmt: skip
    figure = [Column(t, 0.7, "figure") for t in ("Bus pieces", "Feeders", "Terminals", "Gaps", "Plugs")]
    table = Table("In this order", (Column("", 0.4, "figure"), Column("Board", 1.5), Column("Power comes from", 2), *figure, TICK), rows, "From the power outwards, so that each board can be metered and powered from those before it.")  # fmt: skip
    steps = Paragraphs("On every board", (
        "Cut its gaps and meter each before anything is tied.", "Mount its terminals, and write their names on the board.",
        "Pull the bus pieces, label both ends, tie them, meter each.", "Drop the feeders one by one: label, solder, tie, meter, and only then the next.",
        "Fit its plugs and label both sides.", "Then the checks at the foot of its page.",
    ), as_list=True)  # fmt: skip
    return Chapter("order", "The order of building", (table, steps))


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
    blocks: list[Block] = [Table(
        "Wires, in the order they are done",
        (Column("Label", 0.8), Column("Wires", 1.2, "colours"), Column("Gauge", 1.1), Column("From", 2.2), Column("To", 2.4), Column("Cut each to", 0.8, "figure"), TICK), rows,
    )]  # fmt: skip
    tied = [j for j in worked.joints if j.board == work.board]
    if tied:
        blocks.append(_posts(tied))
        blocks += _hubs(layout, tied)
    checks = closing_checks(layout, work)
    if checks:
        blocks.append(Paragraphs("Before the next board", tuple(c.words for c in checks), as_list=True))
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


def _posts(tied: Sequence[Joint]) -> Table:
    rows = tuple(
        (j.terminal if n == 0 else "", j.run if n == 0 else "", " · ".join(s.posts) or "—", " + ".join(s.colours), s.label, s.gauge, s.towards)
        for j in tied for n, s in enumerate(j.seats)
    )  # fmt: skip
    return Table("Terminal by terminal", (Column("Terminal", 0.8), Column("On run", 0.7), Column("Posts", 0.7), Column("Wires", 1.3, "colours"), Column("Label", 0.8), Column("Gauge", 0.9), Column("Goes to", 2.6)), rows)  # fmt: skip


def _schedule(worked: Worked) -> Chapter:
    layout = worked.layout
    ordered = sorted(worked.pieces, key=lambda p: (KINDS.index(p.kind), natural(p.label)))
    rows = tuple(
        (p.label, layout.circuits[p.circuit].name if p.circuit else "control", p.worn, f"{p.gauge} {p.strands}", p.make, board_name(layout, p.board), worked.length(p.length), worked.length(p.cut))
        for p in ordered
    )  # fmt: skip
    table = Table("Every wire, by label", (Column("Label", 0.8), Column("Circuit", 1.5), Column("Wires", 1.3, "colours"), Column("Gauge", 1.2), Column("Lies", 1), Column("Worked on at", 1.3), Column("Measured", 0.8, "figure"), Column("Cut each to", 0.8, "figure")), rows)  # fmt: skip
    return Chapter("schedule", "Wire schedule", (table,))


def _terminals(worked: Worked) -> Chapter:
    layout = worked.layout
    pins = tuple(
        (p.plug, p.run, board_name(layout, p.between[0]), board_name(layout, p.between[1]), *(next((f"{n}: {colour}" for n, colour in p.pins if n == k), "—") for k in (1, 2)), p.gauge)
        for p in plug_pins(layout)
    )  # fmt: skip
    blocks = [_posts(worked.joints)]
    if pins:
        blocks.append(Table("Plugs, pin by pin", (Column("Plug"), Column("On run"), Column("From", 1.4), Column("To", 1.4), Column("Pin 1", 1.2), Column("Pin 2", 1.2), Column("Gauge")), pins, "Socket on the side that can be live. Label both halves."))  # fmt: skip
    cables = tuple(
        (p.end_short, p.end.split(", ", 1)[1], " · ".join(f"{n} {c}" for n, c in enumerate(p.colours, start=1)), p.gauge)
        for p in worked.pieces if is_before_plug(p)
    )  # fmt: skip
    if cables:
        columns = (Column("Plug", 1.2), Column("From, to", 1.8), Column("Pins", 3), Column("Gauge", 0.8))
        blocks.append(Table("Plugs of cables, pin by pin", columns, cables, "The same pin on both halves. Label both."))
    return Chapter("terminals", "Terminals and plugs", tuple(blocks))


def _cutting(worked: Worked) -> Chapter:
    blocks: list[Table] = []
    for need in worked.needs:
        rows = []
        for n, cut in enumerate(need.plan.cuts, start=1):
            names = ", ".join(
                f"{worked.pieces[need.pieces[k]].label} {worked.length(worked.pieces[need.pieces[k]].cut)}"
                for k in cut.pieces
            )
            name = f"{n}, on hand" if cut.owned else f"{n}, new"
            rows.append((name, worked.length(cut.spool), names, worked.length(cut.left)))
        too_long = ", ".join(worked.pieces[need.pieces[k]].label for k in need.plan.too_long)
        note = "No fewer new spools will do." if need.plan.exact else "Longest first; one spool less may be possible."
        note += f" Longer than a spool, to be joined at a terminal or bought by length: {too_long}." if too_long else ""
        blocks.append(Table(
            f"{need.gauge} {need.strands}, {need.colour}", (Column("Spool", 0.9), Column("Length", 0.8, "figure"), Column("Cut from it, longest first", 5), Column("Left over", 0.8, "figure")), tuple(rows), note,
        ))  # fmt: skip
    per_board = []
    for work in worked.order:
        for p in work.pieces:
            per_board.append(
                (
                    board_name(worked.layout, work.board),
                    p.label,
                    p.worn,
                    f"{p.gauge} {p.strands}",
                    worked.length(p.cut),
                )
            )
    cut_list = Table("Board by board: one of each colour", (Column("Board", 1.4), Column("Label"), Column("Wires", 2, "colours"), Column("Gauge", 1.3), Column("Cut each to", 1, "figure")), tuple(per_board))  # fmt: skip
    return Chapter("cutting", "Cut list", (cut_list, *blocks))


def _materials(worked: Worked) -> Chapter:
    units = worked.layout.brief.units
    wire = tuple(
        (f"{n.gauge} {n.strands}", n.colour, print_long_length(n.needed, units), f"{n.plan.new_spools} × {print_long_length(n.spool, units)}", _money(n.cost)) for n in worked.needs
    )  # fmt: skip
    counted = tuple((i.name, str(i.count), i.reason, _money(i.price), _money(i.cost)) for i in worked.items)
    costs = [n.cost for n in worked.needs] + [i.cost for i in worked.items]
    known = [c for c in costs if c is not None]
    missing = len(costs) - len(known)
    total = f"{sum(known):.2f} in the club's own money" if known else "no price typed yet"
    more = f"; {missing} lines have no price" if missing and known else ""
    return Chapter("materials", "Materials", (
        Table("Wire", (Column("Wire", 1.4), Column("Colour", 1.2, "colours"), Column("Needed", 1, "figure"), Column("New spools", 1.2, "figure"), Column("Cost", 0.8, "figure")), wire),
        Table("By the piece", (Column("What", 1.6), Column("How many", 0.6, "figure"), Column("For", 3), Column("Each", 0.6, "figure"), Column("Cost", 0.7, "figure")), counted),
        Paragraphs("In all", (f"{total}{more}.",)),
    ))  # fmt: skip


def _money(value: float | None) -> str:
    return "—" if value is None else f"{value:.2f}"
