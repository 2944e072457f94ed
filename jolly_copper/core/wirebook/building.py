"""In what order boards are wired, and what to meter before going on."""

from __future__ import annotations

from collections import defaultdict, deque
from collections.abc import Sequence
from dataclasses import dataclass

from jolly_copper.core.circuits.lengths import point_on_run, point_on_track
from jolly_copper.core.layout.benchwork import board_at, board_name, boards_in_order, in_board_order
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.materials.copper import ohms_per_metre
from jolly_copper.core.materials.joints import CLOSED_OHMS, OPEN_OHMS
from jolly_copper.core.quantities import print_ohms, read_gauge
from jolly_copper.core.wirebook.joints import Joint, plug_pins
from jolly_copper.core.wirebook.piece import Piece

CAUTIONS = (
    "Low track voltage does not mean low energy: a source of track power can put tens of watts into one bad joint. A "
    "breaker or fuse stands near "
    "every supply, and the wire is sized for it. Unplug before working on a supply.",
    "No mains wiring by the club: mains outlets, earth rods and fixed supplies belong to a licensed electrician and "
    "the local code.",
    "Eye protection with cutting discs; air with solder; the iron in its stand, and nobody under a hot iron.",
    "Look before drilling: a wire, a motor or a brace may be below. A coin test is a touch: never hold it.",
)
"""The usual cautions, once in the book. Local codes and licensed practice come first."""


@dataclass(frozen=True)
class BoardWork:
    """One board's work in its turn. after: boards whose wiring brings power here. pieces: in the order they are
    done."""

    number: int
    board: str | None
    after: tuple[str | None, ...]
    pieces: tuple[Piece, ...]
    gaps: tuple[str, ...]
    terminals: tuple[str, ...]
    plugs: tuple[str, ...]


def building_order(layout: Layout, wires: Sequence[Piece], tied: Sequence[Joint]) -> list[BoardWork]:
    """Boards from the power outwards, so that each can be metered and powered from those before it.

    Boards where sources stand come first; then, ring by ring, those the next piece of a run leads to; boards that no
    run reaches come last. Among equals by name.
    """
    by_board: dict[str | None, list[Piece]] = defaultdict(list)
    for piece in wires:
        by_board[piece.board].append(piece)
    gaps: dict[str | None, list[str]] = defaultdict(list)
    for i, gap in layout.gaps.items():
        gaps[board_at(layout, *point_on_track(layout, gap.track, gap.at))].append(i)
    for stretch in (*layout.braking.values(), *layout.isolated.values()):
        gaps[board_at(layout, *point_on_track(layout, stretch.track, stretch.at))]  # worked on, if only for its cuts
    terminals: dict[str | None, list[str]] = defaultdict(list)
    for joint in tied:
        terminals[joint.board].append(joint.terminal)
    plugs: dict[str | None, list[str]] = defaultdict(list)
    for pins in plug_pins(layout):
        for board in dict.fromkeys(pins.between):
            plugs[board].append(pins.plug)
    worked = [
        b for b in in_board_order(layout, [*boards_in_order(layout), *by_board, *gaps]) if b in by_board or b in gaps
    ]
    beside = _beside(layout, wires)
    first = _where_power_starts(layout, wires)
    order: list[str | None] = []
    ahead: deque[str | None] = deque(in_board_order(layout, [b for b in first if b in worked]))
    while ahead or len(order) < len(worked):
        here = ahead.popleft() if ahead else next(b for b in worked if b not in order)
        if here in order:
            continue
        order.append(here)
        ahead.extend(b for b in in_board_order(layout, beside[here]) if b in worked and b not in order)
    rank = {b: n for n, b in enumerate(order)}
    return [
        BoardWork(
            n + 1,
            board,
            tuple(b for b in in_board_order(layout, beside[board]) if b in rank and rank[b] < n),
            tuple(by_board[board]),
            tuple(sorted(gaps[board], key=natural)),
            tuple(terminals[board]),
            tuple(plugs[board]),
        )
        for n, board in enumerate(order)
    ]


def _beside(layout: Layout, wires: Sequence[Piece]) -> dict[str | None, set[str | None]]:
    """Boards joined by a run: those of neighbouring pieces, and of a run and the one it is fed from."""
    found: dict[str | None, set[str | None]] = defaultdict(set)
    last: dict[str, str | None] = {}

    def join(a: str | None, b: str | None) -> None:
        if a != b:
            found[a].add(b)
            found[b].add(a)

    for piece in sorted((p for p in wires if p.kind == "run"), key=lambda p: (p.owner, p.middle)):
        if piece.owner in last:
            join(last[piece.owner], piece.board)
        last[piece.owner] = piece.board
        start = layout.runs[piece.owner].fed.terminal
        if start is not None:
            join(
                board_at(
                    layout, *point_on_run(layout.runs[layout.terminals[start].run], layout.terminals[start].along)
                ),
                piece.board,
            )
    return found


def _where_power_starts(layout: Layout, wires: Sequence[Piece]) -> list[str | None]:
    """Boards where sources stand, or the nearest their wiring reaches."""
    sources = [d for d in layout.devices.values() if d.kind in SOURCES or d.kind == "supply"]
    standing = [board_at(layout, d.at.x, d.at.y) for d in sources]
    fed = {i for i, r in layout.runs.items() if r.fed.device is not None}
    return [*standing, *(p.board for p in wires if p.owner in fed and p.start_short in layout.devices)]


BEFORE_TIED = "Before its neighbours are tied: they would carry round. Power off, engines and lit cars off."


def to_meter(layout: Layout, piece: Piece) -> str:
    """What to meter once a piece is in and before the next, with what it should read."""
    own = print_ohms(
        piece.length / 1000 * ohms_per_metre(read_gauge(piece.gauge), piece.strands, layout.brief.rules.wire_celsius)
    )
    closed, opened = print_ohms(CLOSED_OHMS), print_ohms(OPEN_OHMS)
    if piece.kind == "control" or (len(piece.colours) == 1 and piece.kind == "run"):
        each = "each against the others" if len(piece.colours) > 1 else "and against the bus beside it"
        return (
            f"Power off. Every wire end to end: under {closed} ({own} of wire, and the leads); {each}: open, over "
            f"{opened}."
        )
    if piece.kind == "feeder":
        rail = piece.notes[0].split(" to the ", 1)[1]
        if len(piece.colours) == 1:
            return (
                f"{BEFORE_TIED} The {rail}, to the {piece.colours[0]} post of "
                f"{piece.end_short}: under {closed} "
                f"({own} of wire, and the leads). The other rail to that post: open, over {opened}."
            )
        a, b = piece.colours
        return (
            f"{BEFORE_TIED} The {rail}, to the {a} post of {piece.end_short}: under {closed} "
            f"({own} of wire, and the leads). "
            f"The same rail to the {b} post: open, over {opened}."
        )
    a, b = piece.colours
    return (
        f"Power off. Each wire end to end: under {closed} ({own} of wire, and the leads). {a.capitalize()} to {b}, "
        f"with nothing tied beyond: "
        f"open, over {opened}."
    )


@dataclass(frozen=True)
class Check:
    """Something to meter when a board is done. key: stable, of its kind. title: in a word or two."""

    key: str
    title: str
    words: str


def closing_checks(layout: Layout, work: BoardWork) -> list[Check]:
    """What to meter when a board is done, before its power goes on and after."""
    found = []
    if work.gaps:
        words = (
            f"Every gap ({', '.join(work.gaps)}), rail by rail, before its feeders are tied: open, over "
            f"{print_ohms(OPEN_OHMS)}."
        )
        found.append(Check("gaps", "Gaps", words))
    feeders = [p for p in work.pieces if p.kind == "feeder"]
    if feeders:
        words = "Along every track, same rail to same colour: no place where it changes over."
        found.append(Check("rails", "Rails", words))
    if work.plugs:
        words = f"Plugs {', '.join(work.plugs)}: pin 1 to pin 1, pin 2 to pin 2, and nothing between 1 and 2."
        found.append(Check("plugs", "Plugs", words))
    if feeders:
        before = ", ".join(board_name(layout, b) for b in work.after)
        where = f" from {before}" if before else ""
        words = f"Power on{where}: volts at the rail farthest from a feeder, without load, then with a known load."
        found.append(Check("volts", "Volts", words))
        words = (
            "A coin touched across the rails there: the protection opens at once, every time. A touch only: never "
            "hold it."
        )
        found.append(Check("coin", "Coin test", words))
    return found
