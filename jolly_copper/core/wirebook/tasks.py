"""The work under the boards, one thing at a time: gaps, terminals, bus pieces, feeders, plugs, and the checks at the
end."""

from __future__ import annotations

from collections.abc import Sequence

from jolly_copper.core.circuits.lengths import terminal_point
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.control import rails_cut, rails_in
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials.joints import OPEN_OHMS
from jolly_copper.core.quantities import print_length, print_ohms
from jolly_copper.core.travel.couplings import Coupled, held_by, in_coupling
from jolly_copper.core.travel.crossing import joint_name
from jolly_copper.core.wirebook.building import BoardWork, closing_checks, to_meter
from jolly_copper.core.wirebook.commissioning import commissioning
from jolly_copper.core.wirebook.hubs import WORDS
from jolly_copper.core.wirebook.joints import Joint, PlugPins, Seat, plug_pins
from jolly_copper.core.wirebook.piece import Piece
from jolly_copper.core.wirebook.places import on_track
from jolly_copper.core.wirebook.switch_tasks import panel_tasks, stretch_tasks
from jolly_copper.core.wirebook.task import BoardTasks, Task, TaskKind


def board_tasks(layout: Layout, order: Sequence[BoardWork], tied: Sequence[Joint]) -> list[BoardTasks]:
    """Every board's tasks in the order of building, then every control panel's at the bench. A plug is fitted where
    its run comes from; the other side meters
    it."""
    seats = {(j.terminal, s.key): s for j in tied for s in j.seats}
    by_terminal = {j.terminal: j for j in tied}
    pins = {p.plug: p for p in plug_pins(layout)}
    fitted: set[str] = set()
    coupled = held_by(layout)
    devices = commissioning(layout)
    found = []
    for work in order:
        tasks = [_gap(layout, i) for i in work.gaps]
        tasks += stretch_tasks(layout, work.board)
        tasks += [_terminal(layout, by_terminal[i], work.board) for i in work.terminals]
        tasks += [_wire(layout, p, seats) for p in work.pieces]
        for i in work.plugs:
            if i not in fitted:
                fitted.add(i)
                tasks.append(_plug(layout, pins[i], coupled))
        tasks += devices.pop(work.board, [])
        tasks += [
            Task(f"check:{work.board or 'off'}/{c.key}", "check", c.title, None, (("Check", c.words),), "")
            for c in closing_checks(layout, work)
        ]
        after = tuple(board_name(layout, b) for b in work.after)
        found.append(BoardTasks(work.board, board_name(layout, work.board), after, tuple(tasks)))
    for board, tasks in devices.items():  # devices where no wire is worked on
        found.append(BoardTasks(board, board_name(layout, board), (), tuple(tasks)))
    return found + panel_tasks(layout)


def _gap(layout: Layout, gap_id: str) -> Task:
    gap = layout.gaps[gap_id]
    rails = f"{rails_cut(gap)}, straight across from each other" if rails_in(gap) > 1 else f"{rails_cut(gap)} only"
    rows = (("Where", on_track(layout, gap.track, gap.at, gap_id)), ("Cut", rails), ("How", gap.made))
    meter = f"Across the gap, before any feeder is tied: open, over {print_ohms(OPEN_OHMS)} on every rail that is cut."
    return Task(f"gap:{gap_id}", "gap", gap_id, None, rows, meter)


def _terminal(layout: Layout, joint: Joint, board: str | None) -> Task:
    pairs = f"{len(joint.seats)} pair{'' if len(joint.seats) == 1 else 's'}"
    rows = [("What", f"{joint.kind} for {pairs}, on run {joint.run}")]
    if joint.kind == "screw strip":
        size = f"{joint.built.strips} of {joint.built.positions} positions" if joint.built.combs else "one board"
        rows.append(("How", f"{WORDS[joint.built.hub]} {size[:1].upper()}{size[1:]}."))
    if board is not None:
        rows.append(("Where", place_on_board(layout, board, *terminal_point(layout, layout.terminals[joint.terminal]))))
    return Task(
        f"terminal:{joint.terminal}",
        "terminal",
        joint.terminal,
        None,
        tuple(rows),
        f"Write {joint.terminal} on the board beside it, and number its posts from the left as one reads it.",
    )


def place_on_board(layout: Layout, board: str, x: float, y: float) -> str:
    """Where to drill, from two edges of the board as it lies on the plan.

    Args:
        layout: the layout.
        board: the board's id.
        x: mm, on the plan.
        y: mm, on the plan.
    """
    corners, units = layout.boards[board].corners, layout.brief.units
    left, right = min(c[0] for c in corners), max(c[0] for c in corners)
    top, bottom = min(c[1] for c in corners), max(c[1] for c in corners)
    across = ("left", x - left) if x - left <= right - x else ("right", right - x)
    down = ("upper", y - top) if y - top <= bottom - y else ("lower", bottom - y)
    return (
        f"{print_length(max(across[1], 0.0), units)} from the {across[0]} edge, "
        f"{print_length(max(down[1], 0.0), units)} from the {down[0]} edge, "
        "as the plan shows it from above"
    )


def _wire(layout: Layout, piece: Piece, seats: dict[tuple[str, str], Seat]) -> Task:
    rows = [
        ("From", _end(piece, piece.start, piece.start_short, seats)),
        ("To", _end(piece, piece.end, piece.end_short, seats)),
        ("Wire", f"{piece.gauge} {piece.strands}{'' if piece.kind == 'feeder' else ', ' + piece.make}"),
        ("Cut each to", print_length(piece.cut, layout.brief.units)),
    ]
    if piece.notes:
        note = "; ".join(piece.notes)
        rows.append(("Note", note[:1].upper() + note[1:]))
    kind: TaskKind = "run" if piece.kind == "run" else "control" if piece.kind == "control" else "feeder"
    return Task(piece.key, kind, piece.label, piece.colours, tuple(rows), to_meter(layout, piece))


def _end(piece: Piece, words: str, short: str, seats: dict[tuple[str, str], Seat]) -> str:
    seat = seats.get((short, piece.key))
    if seat is None:
        return words[:1].upper() + words[1:]
    if not any(seat.posts):
        return f"Terminal {short}, {' · '.join(piece.colours)}"
    posts = " · ".join(f"{n} {colour}" for n, colour in zip(seat.posts, piece.colours, strict=True))
    return f"Terminal {short}, post{'s' if len(seat.posts) > 1 else ''} {posts}"


def _plug(layout: Layout, pins: PlugPins, coupled: Coupled) -> Task:
    sides = joint_name(layout, pins.between)
    held = in_coupling(coupled, f"plug:{pins.plug}")
    numbers = {w: coupled[f"plug:{pins.plug}"][1].get(w, w) if held else n for w, (n, _) in enumerate(pins.pins, 1)}
    carried = ", ".join(f"pin {numbers[w]} {colour}" for w, (_, colour) in enumerate(pins.pins, 1))
    rows = [
        ("Where", f"On run {pins.run}, between {sides}"),
        ("Pins", f"{carried}, on both halves"),
        ("Which half", "The socket on the side that can be live."),
    ]
    if held:
        rows.insert(1, ("Goes through", held.removeprefix(" in ").capitalize()))
    first, *others = numbers.values()
    meter = f"Pin {first} to pin {first}: closed."
    if others:
        meter = (
            f"Pin {first} to pin {first} and pin {others[0]} to pin {others[0]}: closed. Pin {first} to pin "
            f"{others[0]}: open, over {print_ohms(OPEN_OHMS)}."
        )
    return Task(f"plug:{pins.plug}", "plug", pins.plug, tuple(colour for _, colour in pins.pins), tuple(rows), meter)
