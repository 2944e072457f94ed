"""The pages behind the boards: wire schedule, terminals and plugs, cut list, materials."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.quantities import print_long_length
from jolly_copper.core.travel.couplings import held_by
from jolly_copper.core.wirebook.book import Chapter, Column, Paragraphs, Table
from jolly_copper.core.wirebook.joints import Joint, plug_pins
from jolly_copper.core.wirebook.piece import KINDS, is_before_plug
from jolly_copper.core.wirebook.worked import Worked


def _posts(tied: Sequence[Joint]) -> Table:
    rows = tuple(
        (
            j.terminal if n == 0 else "",
            j.run if n == 0 else "",
            " · ".join(s.posts) or "—",
            " + ".join(s.colours),
            s.label,
            s.gauge,
            s.towards,
        )
        for j in tied
        for n, s in enumerate(j.seats)
    )
    return Table(
        "Terminal by terminal",
        (
            Column("Terminal", 0.8),
            Column("On run", 0.7),
            Column("Posts", 0.7),
            Column("Wires", 1.3, "colours"),
            Column("Label", 0.8),
            Column("Gauge", 0.9),
            Column("Goes to", 2.6),
        ),
        rows,
    )


def _schedule(worked: Worked) -> Chapter:
    layout = worked.layout
    ordered = sorted(worked.pieces, key=lambda p: (KINDS.index(p.kind), natural(p.label)))
    rows = tuple(
        (
            p.label,
            layout.circuits[p.circuit].name if p.circuit else "control",
            p.worn,
            f"{p.gauge} {p.strands}",
            p.make,
            board_name(layout, p.board),
            worked.length(p.length),
            worked.length(p.cut),
        )
        for p in ordered
    )
    table = Table(
        "Every wire, by label",
        (
            Column("Label", 0.8),
            Column("Circuit", 1.5),
            Column("Wires", 1.3, "colours"),
            Column("Gauge", 1.2),
            Column("Lies", 1),
            Column("Worked on at", 1.3),
            Column("Measured", 0.8, "figure"),
            Column("Cut each to", 0.8, "figure"),
        ),
        rows,
    )
    return Chapter("schedule", "Wire schedule", (table,))


def _terminals(worked: Worked) -> Chapter:
    layout, coupled = worked.layout, held_by(worked.layout)
    pins = tuple(
        (
            p.plug,
            p.run,
            board_name(layout, p.between[0]),
            board_name(layout, p.between[1]),
            *(next((f"{n}: {colour}" for n, colour in p.pins if n == k), "—") for k in (1, 2)),
            p.gauge,
        )
        for p in plug_pins(layout)
        if f"plug:{p.plug}" not in coupled
    )
    blocks = [_posts(worked.joints)]
    if pins:
        blocks.append(
            Table(
                "Plugs, pin by pin",
                (
                    Column("Plug"),
                    Column("On run"),
                    Column("From", 1.4),
                    Column("To", 1.4),
                    Column("Pin 1", 1.2),
                    Column("Pin 2", 1.2),
                    Column("Gauge"),
                ),
                pins,
                "Socket on the side that can be live. Label both halves.",
            )
        )
    cables = tuple(
        (
            p.end_short,
            p.end.split(", ", 1)[1],
            " · ".join(f"{n} {c}" for n, c in enumerate(p.colours, start=1)),
            p.gauge,
        )
        for p in worked.pieces
        if is_before_plug(p) and f"cable:{p.key}" not in coupled
    )
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
        blocks.append(
            Table(
                f"{need.gauge} {need.strands}, {need.colour}",
                (
                    Column("Spool", 0.9),
                    Column("Length", 0.8, "figure"),
                    Column("Cut from it, longest first", 5),
                    Column("Left over", 0.8, "figure"),
                ),
                tuple(rows),
                note,
            )
        )
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
    cut_list = Table(
        "Board by board: one of each colour",
        (
            Column("Board", 1.4),
            Column("Label"),
            Column("Wires", 2, "colours"),
            Column("Gauge", 1.3),
            Column("Cut each to", 1, "figure"),
        ),
        tuple(per_board),
    )
    return Chapter("cutting", "Cut list", (cut_list, *blocks))


def _materials(worked: Worked) -> Chapter:
    units = worked.layout.brief.units
    wire = tuple(
        (
            f"{n.gauge} {n.strands}",
            n.colour,
            print_long_length(n.needed, units),
            f"{n.plan.new_spools} × {print_long_length(n.spool, units)}",
            _money(n.cost),
        )
        for n in worked.needs
    )
    counted = tuple((i.name, str(i.count), i.reason, _money(i.price), _money(i.cost)) for i in worked.items)
    costs = [n.cost for n in worked.needs] + [i.cost for i in worked.items]
    known = [c for c in costs if c is not None]
    missing = len(costs) - len(known)
    total = f"{sum(known):.2f} in the club's own money" if known else "no price typed yet"
    more = f"; {missing} lines have no price" if missing and known else ""
    return Chapter(
        "materials",
        "Materials",
        (
            Table(
                "Wire",
                (
                    Column("Wire", 1.4),
                    Column("Colour", 1.2, "colours"),
                    Column("Needed", 1, "figure"),
                    Column("New spools", 1.2, "figure"),
                    Column("Cost", 0.8, "figure"),
                ),
                wire,
            ),
            Table(
                "By the piece",
                (
                    Column("What", 1.6),
                    Column("How many", 0.6, "figure"),
                    Column("For", 3),
                    Column("Each", 0.6, "figure"),
                    Column("Cost", 0.7, "figure"),
                ),
                counted,
            ),
            Paragraphs("In all", (f"{total}{more}.",)),
        ),
    )


def _money(value: float | None) -> str:
    return "—" if value is None else f"{value:.2f}"
