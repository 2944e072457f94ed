"""Pages of the book for cabs, panels and special stretches: who drives what, pin by pin, which wire is which rail."""

from __future__ import annotations

from dataclasses import replace

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.control import control_given, controls, word_of
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.levers import ways_of
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.words import CONTROL
from jolly_copper.core.quantities import print_current, print_length, print_volts
from jolly_copper.core.wirebook.book import Block, Chapter, Column, Paragraphs, Table
from jolly_copper.core.wirebook.panel import LAMP_AMPS, Panel, draw_panel, panel_sketch
from jolly_copper.core.wirebook.panel_cables import cable_table
from jolly_copper.core.wirebook.switch_backs import PINS_SEEN, PanelBack, panel_back
from jolly_copper.core.wirebook.switch_pictures import back_sketch


def cab_chapters(facts: Facts) -> list[Chapter]:
    """Chapters a layout with selectors, three rails or stretches of one rail has besides; none for digital alone."""
    layout = facts.layout
    found = []
    if any(d.kind == "selector" for d in layout.devices.values()):
        found.append(Chapter("cabs", "Cabs and blocks", (_sources(layout), _selectors(facts))))
        found += [_panel(layout, i) for i in layout.panels if panel_back(layout, i).switches]
    if "ac3" in controls(layout):
        found.append(Chapter("three-rail", "Three rails", tuple(_three_rail(facts))))
    if layout.braking or layout.isolated:
        found.append(Chapter("stretches", "Stops and isolated rails", tuple(_stretches(layout))))
    return found


def _sources(layout: Layout) -> Table:
    rows = tuple(
        (
            d.name,
            word_of(layout, d),
            CONTROL[control_given(layout, d)],
            print_volts(d.volts or layout.brief.track_volts),
            d.winding or "not said",
            f"{layout.circuits[d.output].colour_a} + {layout.circuits[d.output].colour_b}",
        )
        for d in sorted(layout.devices.values(), key=lambda d: natural(d.name))
        if d.kind in SOURCES
    )
    return Table(
        "What drives",
        (
            Column("Name", 1.4),
            Column("What", 0.9),
            Column("Control", 0.9),
            Column("Volts", 0.6, "figure"),
            Column("Winding", 1.1),
            Column("Wires", 1.2, "colours"),
        ),
        rows,
        "With a cab's direction knob to the right the right-hand rail is positive and the train goes forward "
        '(NMRA S-9, "Electrical", from memory).',
    )


def _selectors(facts: Facts) -> Table:
    layout = facts.layout
    rows = []
    for _, d in sorted(layout.devices.items(), key=lambda e: natural(e[1].name)):
        if d.kind != "selector":
            continue
        names = [layout.circuits[c].name for c in d.inputs]
        sources = sorted({layout.devices[w.source].name for w in ways_of(facts.tree, d.output)})
        lever = f"with {layout.devices[d.gang].name}" if d.gang is not None else d.made
        held = layout.circuits[d.output]
        rows.append(
            (held.name, d.name, lever, " / ".join(names), ", ".join(sources), f"{held.colour_a} + {held.colour_b}")
        )
    return Table(
        "Blocks and their switches",
        (
            Column("Block", 1.2),
            Column("Switch", 1.4),
            Column("Made", 1.2),
            Column("Chooses from", 1.5),
            Column("Driven by", 1.2),
            Column("Wires home", 1.2, "colours"),
        ),
        tuple(rows),
        "Every switch also lies off. Set both blocks to one cab before a train runs from one into the next.",
    )


def _panel(layout: Layout, panel: str) -> Chapter:
    shown = layout.panels[panel]
    drawn = draw_panel(layout, shown.width, panel)
    back, front = with_lamps(panel_back(layout, panel), drawn), panel_sketch(layout, drawn)
    blocks: tuple[Block, ...] = (
        Paragraphs("At the bench", bench_jobs(back), as_list=True),
        front,
        back_sketch(back, shown.name),
        pin_table(back),
        strip_table(back),
        *([cables] if (cables := cable_table(drawn, layout.brief.units)) is not None else []),
        Table(
            "Parts of this panel",
            (Column("How many", 0.6, "figure"), Column("What", 3)),
            tuple((str(n), what) for n, what in back.parts),
            f"{back.jumpers} single wires join strips and pins. {lamp_words(back, drawn)}".strip(),
        ),
    )
    return Chapter(f"panel-{panel}", shown.name, blocks)


def with_lamps(back: PanelBack, front: Panel) -> PanelBack:
    """The back of a panel with the lamps of its front counted, and what they draw together."""
    lamps = sum("lamp" in h.kind or h.kind in ("section", "signal") for h in front.holes)
    parts = (*back.parts, *(((lamps, "lamps, each with its resistor"),) if lamps else ()))
    return replace(back, parts=parts, lamps=lamps, lamp_amps=lamps * LAMP_AMPS)


def lamp_words(back: PanelBack, front: Panel) -> str:
    """Lamps, their amps together and their resistor, in a sentence; empty where there are none."""
    if not back.lamps:
        return ""
    return f"{back.lamps} lamps draw {print_current(back.lamp_amps)} together: {front.resistor}."


def bench_jobs(back: PanelBack) -> tuple[str, ...]:
    """What is done with the panel on a bench, before it goes under the boards; the rest is on the boards' pages."""
    switches = sum(not s.ganged for s in back.switches)
    return (
        f"Drill by the template, mount {switches} switches, number them on the back.",
        "Screw the strips on and set their combs, row by row; write each row's name beside it.",
        "Wire every pin from its strip by the pin table, label at both ends, tick it off.",
        "Prove it before it leaves the bench: each switch in each position by meter, block posts against cab posts; "
        "off joins nothing.",
        "Under the boards only the wires home are tied to the strips, so no joint hides there.",
    )


def pin_table(back: PanelBack) -> Table:
    """Every pin of every switch with its wire."""
    rows = tuple(
        (str(s.number), s.name if n == 0 else "", p.number, p.label, p.colour, p.joins)
        for s in back.switches
        for n, p in enumerate(s.pins)
    )
    return Table(
        "Pin by pin",
        (
            Column("Switch", 0.5, "figure"),
            Column("Name", 1.6),
            Column("Pin", 0.4),
            Column("Label", 1.5),
            Column("Wire", 0.9, "colours"),
            Column("Joins", 1.6),
        ),
        rows,
        PINS_SEEN,
    )


def strip_table(back: PanelBack) -> Table:
    """Every row of the strips behind a panel, post by post."""
    words = {"cab": "combed: one wire for all", "common": "combed: the common", "block": "to the boards"}
    rows = tuple((r.name, r.colour, words[r.purpose], str(len(r.tied)), " · ".join(r.tied)) for r in back.rows)
    return Table(
        "Strips behind it",
        (
            Column("Row", 1.4),
            Column("Wire", 0.8, "colours"),
            Column("For", 1.2),
            Column("Posts", 0.5, "figure"),
            Column("Tied there", 3.4),
        ),
        rows,
    )


def _three_rail(facts: Facts) -> list[Block]:
    layout = facts.layout
    rows = tuple(
        (
            c.name,
            c.colour_a,
            c.colour_b,
            ", ".join(sorted({layout.devices[w.source].name for w in ways_of(facts.tree, i)})),
        )
        for i, c in layout.circuits.items()
        if any(control_given(layout, layout.devices[w.source]) == "ac3" for w in ways_of(facts.tree, i))
    )
    table = Table(
        "Which wire is which rail",
        (
            Column("Circuit", 1.4),
            Column("Centre", 0.9, "colours"),
            Column("Outers", 0.9, "colours"),
            Column("Fed by", 2),
        ),
        rows,
    )
    units = sorted({d.winding for d in layout.devices.values() if d.kind == "transformer output" and d.winding})
    if len(units) < 2:
        return [table]
    first, second = units[:2]
    volts = print_volts(2 * layout.brief.track_volts)
    steps = (
        f"Join the commons of {first} and {second} first, and nothing else between them.",
        "Set one throttle of each to the same volts, about half.",
        "Read AC volts from the one hot post to the other. Near nothing: they are in phase.",
        f"Up to {volts} at full: they are out of phase. Switch off, turn one plug round where its maker allows it, "
        "read again. Cords and plugs are for whoever is licensed for them.",
        "Type what you read on the card of the second transformer's output.",
    )
    return [table, Paragraphs("Before two transformers meet: phase", steps, as_list=True)]


def _stretches(layout: Layout) -> list[Block]:
    units = layout.brief.units
    blocks: list[Block] = []
    if layout.braking:
        rows = tuple(
            (
                b.name,
                layout.tracks[b.track].name,
                f"{b.rail}, {print_length(b.start, units)} to {print_length(b.end, units)}",
                b.module,
                f"in: {b.terminal_in or 'as on the module'}; out: {b.terminal_out or 'as on the module'}",
                layout.signals[b.held_by].name if b.held_by else f"{b.seconds:g} s" if b.seconds is not None else "—",
            )
            for b in layout.braking.values()
        )
        blocks.append(
            Table(
                "Braking sections",
                (
                    Column("Name", 1.3),
                    Column("Track", 1.2),
                    Column("Rail cut, from end A", 1.6),
                    Column("Module", 1),
                    Column("Its terminals", 1.8),
                    Column("Until", 0.7),
                ),
                rows,
                "Cut that one rail at both places. The module's input goes to the bus wire of that rail, its output to "
                "the rail between the cuts; nothing else feeds it.",
            )
        )
    if layout.isolated:
        cut = tuple(
            (
                r.name,
                layout.tracks[r.track].name,
                f"{r.outer} outer, {print_length(r.start, units)} to {print_length(r.end, units)}",
                r.works,
            )
            for r in layout.isolated.values()
        )
        blocks.append(
            Table(
                "Isolated rails",
                (Column("Name", 1.3), Column("Track", 1.2), Column("Rail cut, from end A", 2), Column("Works", 1.4)),
                cut,
                "Cut that outer at both places and leave it without a feeder: one wire from it to what it works, whose "
                "other wire goes to the hot post. Wheels close it.",
            )
        )
    return blocks
