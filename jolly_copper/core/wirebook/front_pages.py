"""The pages before the boards: cautions, power on one line, colour code, the order of building."""

from __future__ import annotations

from jolly_copper.core.circuits.protection import in_order
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.quantities import print_current
from jolly_copper.core.wirebook.book import Chapter, Column, Paragraphs, Table
from jolly_copper.core.wirebook.building import CAUTIONS
from jolly_copper.core.wirebook.one_line import one_lines, ratings
from jolly_copper.core.wirebook.worked import Worked

TICK = Column("Done", 0.6, "tick")


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
        rows.append(
            (
                device.name,
                circuit.name,
                f"{circuit.colour_a} + {circuit.colour_b}",
                ratings(device),
                print_current(figures.worst) if figures else "—",
                print_current(figures.head_room) if figures and figures.head_room is not None else "—",
                sections,
            )
        )
    scene = layout.scenes[facts.scene].name if facts.scene else "no scene"
    table = Table(
        "Power districts and their amps",
        (
            Column("Device", 1.5),
            Column("Circuit", 1.3),
            Column("Wires", 1.3, "colours"),
            Column("Label", 1.6),
            Column("Asked at worst", 0.9, "figure"),
            Column("Left", 0.7, "figure"),
            Column("Feeds", 2),
        ),
        tuple(rows),
        f"Asked with “{scene}” running: every train that may be behind a device is there at once.",
    )
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
        "Every district has its own pair of colours, so the wire says where it belongs."
        if layout.brief.rules.colours_by_district
        else "All track wears one pair of colours; accessories wear others."
    )
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
            "The same wire goes to the same rail everywhere in a section; the page of each feeder says which. Wire A "
            "is pin 1 of every plug; which posts of a terminal are its, the picture on the board page shows.",
            *(
                [
                    "Behind a detector the sensed wire is its district's, striped; the other is the district's own. "
                    "Its label says which section it is."
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
            str(w.number),
            board_name(layout, w.board),
            ", ".join(board_name(layout, b) for b in w.after) or "the source itself",
            str(sum(p.kind == "run" for p in w.pieces)),
            str(sum(p.kind == "feeder" for p in w.pieces)),
            str(len(w.terminals)),
            str(len(w.gaps)),
            str(len(w.plugs)),
            "",
        )
        for w in worked.order
    )
    figure = [Column(t, 0.7, "figure") for t in ("Bus pieces", "Feeders", "Terminals", "Gaps", "Plugs")]
    table = Table(
        "In this order",
        (Column("", 0.4, "figure"), Column("Board", 1.5), Column("Power comes from", 2), *figure, TICK),
        rows,
        "From the power outwards, so that each board can be metered and powered from those before it.",
    )
    steps = Paragraphs(
        "On every board",
        (
            "Cut its gaps and meter each before anything is tied.",
            "Mount its terminals, and write their names on the board.",
            "Pull the bus pieces, label both ends, tie them, meter each.",
            "Drop the feeders one by one: label, solder, tie, meter, and only then the next.",
            "Fit its plugs and label both sides.",
            "Then the checks at the foot of its page.",
        ),
        as_list=True,
    )
    return Chapter("order", "The order of building", (table, steps))
