"""What is connected where: terminal by terminal, and which pin of a plug carries what."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from jolly_copper.core.circuits.lengths import point_on_run, run_length, terminal_point
from jolly_copper.core.layout.benchwork import board_at, in_board_order
from jolly_copper.core.layout.connections import CONDUCTORS, held, pairs_at
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.signalling import Conductor
from jolly_copper.core.layout.wiring import Run
from jolly_copper.core.wirebook.hubs import Built, built
from jolly_copper.core.wirebook.piece import Piece
from jolly_copper.core.wirebook.pieces import colours_of


@dataclass(frozen=True)
class Seat:
    """One pair of wires at a terminal, or one wire of it. number: 1 onwards. colours: of the wires that are there;
    posts: where each of them goes, as written beside the strip."""

    number: int
    label: str
    key: str
    colours: tuple[str, ...]
    gauge: str
    towards: str
    posts: tuple[str, ...]


@dataclass(frozen=True)
class Joint:
    """A terminal with everything that is tied to it. takes: pairs it has room for. built: how it is made."""

    terminal: str
    kind: str
    run: str
    circuit: str
    board: str | None
    seats: tuple[Seat, ...]
    takes: int
    built: Built


def joints(layout: Layout, wires: Sequence[Piece]) -> list[Joint]:
    """Every terminal, board by board: runs first in order of label, then feeders, then accessories."""
    ends: dict[str, list[tuple[tuple[int, object], Piece, str]]] = defaultdict(list)
    for piece in wires:
        order = (0 if piece.kind == "run" else 1, natural(piece.label))
        if piece.kind == "control":
            continue
        if piece.kind == "run":
            if piece.start_short in layout.terminals:
                ends[piece.start_short].append((order, piece, piece.end))
            if piece.end_short in layout.terminals:
                ends[piece.end_short].append((order, piece, piece.start))
        else:
            ends[piece.end_short].append((order, piece, piece.start))
    found = []
    for i, terminal in layout.terminals.items():
        run = layout.runs[terminal.run]
        tied = sorted(ends[i], key=lambda e: e[0])
        loads = [(k, x) for k, x in layout.loads.items() if x.terminal == i]
        takes = pairs_at(layout, terminal)
        made = built(terminal.kind, terminal.hub, len(tied) + len(loads), takes)
        seats = []
        for n, (_, piece, to) in enumerate(tied, start=1):
            posts = tuple(made.post(n, c) for c in _conductors(layout, piece))
            seats.append(Seat(n, piece.label, piece.key, piece.colours, piece.gauge, to, posts))
        circuit = layout.circuits[run.circuit]
        for n, (load_id, load) in enumerate(loads, start=len(seats) + 1):
            to = f"{load.count} × {load.name}" if load.count > 1 else load.name
            posts = (made.post(n, "A"), made.post(n, "B"))
            colours = (circuit.colour_a, circuit.colour_b)
            seats.append(Seat(n, load_id, f"load:{load_id}", colours, "as supplied", to, posts))
        board = board_at(layout, *terminal_point(layout, terminal))
        found.append(Joint(i, terminal.kind, run.label, run.circuit, board, tuple(seats), takes, made))
    rank = {board: n for n, board in enumerate(in_board_order(layout, [j.board for j in found]))}
    return sorted(found, key=lambda j: (rank[j.board], natural(j.terminal)))


def _conductors(layout: Layout, piece: Piece) -> tuple[Conductor, ...]:
    """The conductors a piece holds: both, or the one its key or its run names."""
    if len(piece.colours) > 1:
        return CONDUCTORS
    of_run = piece.kind == "run" and piece.owner in layout.runs and layout.runs[piece.owner].wires == "B"
    return ("B",) if piece.key.endswith("/B") or of_run else ("A",)


@dataclass(frozen=True)
class PlugPins:
    """A plug where a run crosses from board to board. pins: number and colour; one pin where the run is one wire."""

    plug: str
    run: str
    circuit: str
    between: tuple[str | None, str | None]
    pins: tuple[tuple[int, str], ...]
    gauge: str


BESIDE_A_PLUG_MM = (60.0, 150.0, 300.0, 450.0)
"""How far to each side of a plug its two boards are looked for: it hangs near the joint, not always on it."""


def _sides(layout: Layout, run: Run, along: float) -> tuple[str | None, str | None]:
    """The boards a plug stands between; the same one twice where no joint is near."""
    a = b = None
    for step in BESIDE_A_PLUG_MM:
        a, b = (board_at(layout, *point_on_run(run, min(max(along + s, 0.0), run_length(run)))) for s in (-step, step))
        if a != b:
            break
    return a, b


def plug_pins(layout: Layout) -> list[PlugPins]:
    """Every plug with the boards on its two sides and its pin-out, the same at all plugs: 1 wire A, 2 wire B."""
    found = []
    for i, plug in layout.plugs.items():
        run = layout.runs[plug.run]
        circuit = layout.circuits[run.circuit]
        found.append(
            PlugPins(
                i,
                run.label,
                run.circuit,
                _sides(layout, run, plug.along),
                tuple((1 if c == "A" else 2, colours_of(circuit, (c,))[0]) for c in held(run)),
                run.gauge,
            )
        )
    return sorted(found, key=lambda p: natural(p.plug))
