"""Work on what reports and commands: boards of channels and outputs, signals, and the cables between."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from jolly_copper.core.layout.benchwork import board_at
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.quantities import print_length
from jolly_copper.core.signals.places import signal_point
from jolly_copper.core.wirebook.control import control_pieces
from jolly_copper.core.wirebook.piece import Piece
from jolly_copper.core.wirebook.places import on_track

JobKind = Literal["add", "cut", "move", "relabel", "set", "take away"]
SAME_LENGTH_MM = 60.0
"""A piece of bus whose way changed by less is left as it hangs: it is within its slack."""
Asked = tuple[JobKind, str, str, str, str, str | None, list[tuple[str, str]] | tuple[()]]
"""A job asked for: its kind, what it is done to, key, label, words, board, and the entries that stand changed after
it."""


def same_piece(a: Piece, b: Piece) -> bool:
    """Whether a piece of bus may stay as it hangs."""
    ends = (a.start_short, a.end_short) == (b.start_short, b.end_short)
    return ends and made_of(a) == made_of(b) and b.length <= a.length + SAME_LENGTH_MM


def made_of(piece: Piece) -> tuple[str, ...]:
    return piece.gauge, piece.strands, piece.make, *piece.colours


def control_boards(before: Layout, after: Layout) -> Iterator[Asked]:
    """Boards of channels and outputs; a channel given or taken is set on its board."""
    for kind, what in (("detectors", "channels"), ("drivers", "outputs")):
        was, now = getattr(before, kind), getattr(after, kind)
        for i in sorted({*was, *now}, key=natural):
            old, new = was.get(i), now.get(i)
            board = board_at(after, (new or old).at.x, (new or old).at.y)
            channels = {
                k for x in (before, after) for k, d in x.devices.items() if kind == "detectors" and d.board == i
            }
            puts = [(kind, i), *(("devices", k) for k in sorted(channels, key=natural))]
            if old is None:
                size = getattr(new, what)
                words = (
                    f"Mount {new.name} ({size} {what}, addresses {new.address} to {new.address + size - 1}) and "
                    f"join its supply. Unplug first."
                )
                yield ("add", "device", i, new.name, words, board, puts)
            elif new is None:
                yield ("take away", "device", i, old.name, f"Take {old.name} off.", board, puts)
            elif old.at != new.at:
                yield ("move", "device", i, new.name, f"Move {new.name}.", board, puts)
            elif old != new or any(before.devices.get(k) != after.devices.get(k) for k in channels):
                told = (
                    f"addresses from {new.address}"
                    if old.address != new.address
                    else f"its {what} as the book has them"
                )
                yield ("set", "device", i, new.name, f"Set {new.name}: {told}.", board, puts)


def signal_jobs(before: Layout, after: Layout) -> Iterator[Asked]:
    """Signals mounted, moved and taken down."""
    for i in sorted({*before.signals, *after.signals}, key=natural):
        old, new = before.signals.get(i), after.signals.get(i)
        layout, signal = (after, new) if new is not None else (before, old)
        if signal is None or signal.track not in layout.tracks:
            continue
        board = board_at(layout, *signal_point(layout, signal))
        where = on_track(layout, signal.track, signal.at)
        if old is None:
            words = f"Mount signal {signal.name}, {signal.kind}, to the {signal.side} of the track: {where}."
            yield ("add", "load", f"signal-{i}", signal.name, words, board, [("signals", i)])
        elif new is None:
            yield (
                "take away",
                "load",
                f"signal-{i}",
                signal.name,
                f"Take signal {signal.name} down.",
                board,
                [("signals", i)],
            )
        elif (old.track, old.towards, old.kind, old.heads) != (new.track, new.towards, new.kind, new.heads) or abs(
            old.at - new.at
        ) > SAME_LENGTH_MM:
            yield (
                "move",
                "load",
                f"signal-{i}",
                signal.name,
                f"Set signal {signal.name} anew, {signal.kind}: {where}.",
                board,
                [("signals", i)],
            )


def cable_jobs(before: Layout, after: Layout) -> Iterator[Asked]:
    """Cables to signals, motors and boards."""
    was, now = ({p.key: p for p in control_pieces(x)} for x in (before, after))
    for key in sorted({*was, *now}, key=natural):
        old, new = was.get(key), now.get(key)
        if old is not None and (new is None or not same_piece(old, new)):
            yield (
                "take away",
                "run",
                key,
                old.label,
                f"Take out cable {old.label}, {old.start} to {old.end}.",
                old.board,
                (),
            )
        if new is not None and (old is None or not same_piece(old, new)):
            words = (
                f"Lay cable {new.label} from {new.start} to {new.end}: {new.gauge} in "
                f"{' and '.join(new.colours)}, cut to {print_length(new.cut, after.brief.units)}."
            )
            yield ("add", "run", key, new.label, words, new.board, ())
