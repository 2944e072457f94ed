"""Pages of the book about detection and signals: channels and addresses, what is seen, the aspect table, interlocking,
outputs, panel."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.quantities import print_current, print_length, print_ohms
from jolly_copper.core.signals.aspects import SCHOOLS, Signalling, signalling_of
from jolly_copper.core.signals.directions import direction_locks
from jolly_copper.core.signals.heads import KIND_WORDS, MEANS, can_show, shows
from jolly_copper.core.signals.interlocking import Junction, junctions, prove
from jolly_copper.core.signals.outputs import outputs_of, resistor_for
from jolly_copper.core.signals.routes import Route
from jolly_copper.core.signals.sensitivity import sensitivity
from jolly_copper.core.wirebook.book import Block, Chapter, Column, Paragraphs, Table
from jolly_copper.core.wirebook.panel import Panel, draw_panel, panel_sketch
from jolly_copper.core.wirebook.piece import Piece
from jolly_copper.core.wirebook.sketch import Sketch, Stroke, Words

PAGE_WIDE_MM = 180.0


def signal_chapters(facts: Facts, wires: Sequence[Piece]) -> list[Chapter]:
    """The chapters a layout with detectors or signals has; none without."""
    layout, found = facts.layout, []
    if layout.detectors:
        found.append(_detection(facts))
    if layout.signals:
        known = signalling_of(facts)
        found += [_aspects(known), _interlocking(known)]
    if layout.drivers:
        found.append(_outputs(layout))
    if any(p.kind == "control" for p in wires):
        found.append(_cables(layout, wires))
    if layout.detectors or layout.signals:
        found.append(_panel(layout))
    return found


def _detection(facts: Facts) -> Chapter:
    layout, units = facts.layout, facts.layout.brief.units
    sections: dict[str, list[str]] = {}
    for section in layout.sections.values():
        sections.setdefault(section.circuit, []).append(section.name)
    blocks: list[Block] = []
    for i, board in sorted(layout.detectors.items(), key=lambda b: natural(b[1].name)):
        channels = {d.channel: d for d in layout.devices.values() if d.board == i}
        rows = []
        for n in range(1, board.channels + 1):
            if n not in channels:
                rows.append((str(n), str(board.address + n - 1), "spare", "", "", ""))
                continue
            device = channels[n]
            circuit = layout.circuits[device.output]
            above = layout.circuits[device.input].name if device.input else "—"
            home = ", ".join(r.label for r in layout.runs.values() if r.circuit == device.output) or "no wire yet"
            worn = circuit.colour_a if board.sensed == "A" else circuit.colour_b
            rows.append(
                (str(n), str(board.address + n - 1), ", ".join(sections.get(device.output, ["—"])), above, worn, home)
            )
        supply = layout.circuits[board.supply].name if board.supply else "not said"
        note = (
            f"{board.kind.capitalize()}, senses conductor {board.sensed}, answers from "
            f"{print_current(board.threshold)}; addresses {board.address} to {board.address + board.channels - 1}; "
            f"runs from {supply}."
        )
        blocks.append(
            Table(
                board.name,
                (
                    Column("Channel", 0.6, "figure"),
                    Column("Address", 0.7, "figure"),
                    Column("Section", 2),
                    Column("District", 1.6),
                    Column("Wire home", 1, "colours"),
                    Column("Runs", 1.6),
                ),
                tuple(rows),
                note,
            )
        )
    seen = tuple(
        (
            r.name,
            print_length(r.length, units),
            print_current(r.engine[1]) if r.engine else "—",
            print_current(r.axle),
            str(r.axles),
            print_current(r.leaks[2]),
            print_current(r.threshold),
        )
        for r in sorted(sensitivity(facts), key=lambda r: natural(r.name))
    )
    axle = print_ohms(layout.brief.detecting.axle_ohms)
    blocks.append(
        Table(
            "What each section sees",
            (
                Column("Section", 1.4),
                Column("Track", 1, "figure"),
                Column("Lightest engine, still", 1.2, "figure"),
                Column("One axle", 0.9, "figure"),
                Column("Axles to be sure", 0.9, "figure"),
                Column("Wet ballast leaks", 1, "figure"),
                Column("Answers from", 1, "figure"),
            ),
            seen,
            f"Axles of {axle}. Ballast is a guess until measured rail to rail with nothing on the track.",
        )
    )
    return Chapter("detection", "Detection: boards, channels, addresses", tuple(blocks))


def _route_words(known: Signalling, route: Route) -> str:
    layout = known.layout
    settings = ", ".join(f"{layout.nodes[s.node].name or s.node} {s.lies}" for s in route.needs)
    return settings or "no turnout"


def _leads(known: Signalling, route: Route) -> str:
    if route.exit is not None:
        return known.layout.signals[route.exit].name
    return f"{known.layout.tracks[route.legs[-1].track].name}, {route.ends}"


def _aspects(known: Signalling) -> Chapter:
    layout = known.layout
    rows = []
    for i, routes in known.routes.items():
        signal = layout.signals[i]
        for n, r in enumerate(routes):
            rows.append(
                (
                    signal.name if n == 0 else "",
                    _route_words(known, r),
                    ", ".join(known.names(r.sections)) or "nothing",
                    _leads(known, r),
                    aspect_words(known, r),
                )
            )
    table = Table(
        "Signal by signal",
        (
            Column("Signal", 0.6),
            Column("With the turnouts so", 1.6),
            Column("Clear must be", 1.8),
            Column("Leads to", 0.9),
            Column("Then it shows", 2.4),
        ),
        tuple(rows),
        "In all other states: stop.",
    )
    heads = tuple(
        (
            layout.signals[i].name,
            layout.signals[i].kind,
            layout.tracks[layout.signals[i].track].name,
            ", ".join(f"{a}: {' over '.join(shows(layout.signals[i], a))}" for a in can_show(layout.signals[i])),
        )
        for i in known.routes
    )
    lamps = Table(
        "What each head shows",
        (Column("Signal", 0.6), Column("Kind", 0.9), Column("On", 1.4), Column("Lamps, upper over lower", 4)),
        heads,
    )
    school = layout.brief.signalling.school
    kinds = sorted({s.kind for s in layout.signals.values()})
    means = Paragraphs(
        "How they are read",
        (
            f"{school.capitalize()}: {SCHOOLS[school]}",
            *(f"{a.capitalize()}: {w}" for a, w in MEANS.items()),
            *(f"{k.capitalize()}: {KIND_WORDS[k]}" for k in kinds),
        ),
        as_list=True,
    )
    return Chapter("aspects", "Signals and what they show", (means, table, lamps))


def aspect_words(known: Signalling, route: Route) -> str:
    """What a signal shows for one of its routes, in plain words."""
    layout, wishes = known.layout, known.layout.brief.signalling
    able = can_show(layout.signals[route.signal])
    if any(known.sensed[n].device is None for n in route.sections):
        may = wishes.restricting and "restricting" in able
        return f"{'restricting' if may else 'stop'}, as nothing detects a train there"
    if able == ("stop", "restricting"):
        return "restricting"
    if wishes.school == "two aspects" or able == ("stop", "clear"):
        return "clear"
    turns = route.turns and "diverging clear" in able
    near, far = ("diverging approach", "diverging clear") if turns else ("approach", "clear")
    if route.exit is None:
        return near
    return f"{near} while {layout.signals[route.exit].name} is at stop or restricting, else {far}"


def _interlocking(known: Signalling) -> Chapter:
    blocks: list[Block] = []
    for junction in junctions(known):
        blocks.append(junction_table(known, junction))
    locks = direction_table(known)
    if locks is not None:
        blocks.append(locks)
    return Chapter(
        "interlocking",
        "Interlocking",
        tuple(blocks) or (Paragraphs("Interlocking", ("No signalled route passes a turnout or a crossing.",)),),
    )


def junction_table(known: Signalling, junction: Junction) -> Table:
    """One junction's routes as a table, with the proof under it."""
    layout = known.layout
    rows = tuple(
        (
            str(w.number),
            layout.signals[w.signal].name,
            w.to,
            ", ".join(f"{layout.nodes[n].name or n} {lies}" for n, lies in w.settings) or "—",
            ", ".join(known.names(w.clear)) or "—",
            ", ".join(map(str, w.against)) or "—",
        )
        for w in junction.ways
    )
    return Table(
        f"Junction {junction.name}",
        (
            Column("Route", 0.5, "figure"),
            Column("From", 0.6),
            Column("To", 1.2),
            Column("Turnouts", 2),
            Column("Clear must be", 2),
            Column("Never with", 1.2),
        ),
        rows,
        proof_words(known, junction),
    )


def direction_table(known: Signalling) -> Table | None:
    """Lines between junctions that are run over both ways, with the signals that lock each other; None where there are
    none."""
    locks = direction_locks(known)
    if not locks:
        return None
    name = {i: s.name for i, s in known.layout.signals.items()}
    rows = tuple(
        (
            str(n),
            ", ".join(known.names(lock.sections)),
            ", ".join(name[s] for s in lock.one),
            ", ".join(name[s] for s in lock.other),
        )
        for n, lock in enumerate(locks, start=1)
    )
    return Table(
        "Traffic direction between junctions",
        (
            Column("Line", 0.5, "figure"),
            Column("Sections", 3),
            Column("Let in at one end by", 1.6),
            Column("At the other by", 1.6),
        ),
        rows,
        "Once a signal of one end was given, those of the other end stay at stop until every section of the line is "
        "clear again. Who waits longest at either end goes next, so that no stream of trains one way keeps the other "
        "waiting.",
    )


def proof_words(known: Signalling, junction: Junction) -> str:
    """What the search over the junction's states found."""
    proof = prove(known, junction)
    if proof.clash is not None:
        a, b, lies, _ = proof.clash
        named = ", ".join(f"{known.layout.nodes[n].name or n} {v}" for n, v in lies.items())
        return f"Routes {a} and {b} clear together with {named}: do not use this table."
    way = (
        "every setting of its turnouts with every pattern of occupied sections"
        if proof.whole
        else "each pair that conflicts, with every pattern of the sections that matter to it"
    )
    return f"Tried: {proof.states:,} states, {way}. No two conflicting routes clear together."


def _outputs(layout: Layout) -> Chapter:
    used = outputs_of(layout)
    blocks: list[Block] = []
    for i, board in sorted(layout.drivers.items(), key=lambda b: natural(b[1].name)):
        if board.drives == "hand controllers":
            continue
        rows = []
        for o in used:
            if o.driver != i:
                continue
            each = resistor_for(board, layout.signals[o.id]) if o.kind == "signal" else "—"
            rows.append(
                (
                    str(o.number),
                    str(o.address),
                    o.what,
                    o.colour,
                    print_current(o.amps) if o.amps else "—",
                    each if isinstance(each, str) else f"{print_ohms(each.ohms)}, {each.buy_watts:g} W",
                )
            )
        supply = layout.circuits[board.supply].name if board.supply else "not said"
        blocks.append(
            Table(
                board.name,
                (
                    Column("Input" if board.drives == "buttons" else "Output", 0.6, "figure"),
                    Column("Address", 0.7, "figure"),
                    Column("Works", 2.2),
                    Column("Wire", 1, "colours"),
                    Column("Draws", 0.8, "figure"),
                    Column("Resistor", 1.4),
                ),
                tuple(rows),
                f"{board.outputs} inputs for buttons and reports, each to the common when closed; runs from {supply}."
                if board.drives == "buttons"
                else f"{board.outputs} outputs for {board.drives}, common {board.common}, {board.volts:g} V; runs "
                f"from {supply}.",
            )
        )
    return Chapter("outputs", "Drivers: outputs and lamps", tuple(blocks))


def _cables(layout: Layout, wires: Sequence[Piece]) -> Chapter:
    rows = tuple(
        (p.label, p.worn, p.gauge, p.start, p.end, print_length(p.cut, layout.brief.units), "; ".join(p.notes))
        for p in sorted((p for p in wires if p.kind == "control"), key=lambda p: natural(p.label))
    )
    table = Table(
        "Cables to signals, motors and boards",
        (
            Column("Label", 0.9),
            Column("Wires", 1.6, "colours"),
            Column("Gauge", 0.8),
            Column("From", 1.4),
            Column("To", 1.2),
            Column("Cut each to", 0.8, "figure"),
            Column("Notes", 2.4),
        ),
        rows,
        "Lengths along the benchwork, an estimate until a tape was there.",
    )
    return Chapter("cables", "Control cables", (table,))


def _panel(layout: Layout) -> Chapter:
    panel = draw_panel(layout)
    return Chapter("panel", "The panel", (_fitted(panel_sketch(layout, panel), PAGE_WIDE_MM), panel_list(panel)))


def panel_list(panel: Panel) -> Table:
    """Every hole of the panel with what is wired to it."""
    kinds = {
        "section": "lamp, lit while occupied",
        "switch": "switch",
        "button": "push button",
        "signal": "lamp",
        "selector": "selector",
    }
    rows = tuple(
        (str(h.number), h.name, kinds.get(h.kind, "lamp"), f"{h.across:g} mm", f"{h.x:.0f}, {h.y:.0f} mm", h.follows)
        for h in panel.holes
    )
    return Table(
        "Holes and what is wired to them",
        (
            Column("No.", 0.5, "figure"),
            Column("Name", 1),
            Column("What", 1.2),
            Column("Hole", 0.7, "figure"),
            Column("From the left, from the top", 1.2, "figure"),
            Column("Follows", 2.2),
        ),
        rows,
        f"Resistor: {panel.resistor}. The template prints at its true size: step Signal, Panel.",
    )


def _fitted(sketch: Sketch, width: float) -> Sketch:
    """A drawing made smaller to fit a page."""
    k = min(width / sketch.width, 1.0)
    strokes = tuple(
        Stroke(tuple((x * k, y * k) for x, y in s.points), s.ink, max(s.width * k, 0.12), s.dash, s.closed, s.fill)
        for s in sketch.strokes
    )
    words = tuple(Words(w.x * k, w.y * k, w.text, max(w.size * k, 3.2), w.ink, w.anchor, w.bold) for w in sketch.words)
    return Sketch(
        f"{sketch.title}, drawn 1 to {1 / k:.1f}" if k < 1 else sketch.title,
        sketch.width * k,
        sketch.height * k,
        strokes,
        words,
        sketch.note,
    )
