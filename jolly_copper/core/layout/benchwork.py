"""Which board a place of the plan lies on, and the order boards are named and built in."""

from __future__ import annotations

from collections.abc import Iterable

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.geometry import inside
from jolly_copper.core.layout.ids import natural


def board_at(layout: Layout, x: float, y: float) -> str | None:
    """The board under a place of the plan, the first in order where boards overlap; None beside all of them.

    Args:
        layout: the layout.
        x: mm right of the plan's origin.
        y: mm below it.
    """
    return next((i for i in boards_in_order(layout) if inside(layout.boards[i].corners, x, y)), None)


def boards_in_order(layout: Layout) -> list[str]:
    """Board ids in the order of their names, numbers as numbers: 2 before 10."""
    return sorted(layout.boards, key=lambda i: (natural(layout.boards[i].name), i))


def board_name(layout: Layout, board: str | None) -> str:
    """How a board is spoken of: `Board 6 bridge`; wire beside all boards hangs off the boards."""
    return f"Board {layout.boards[board].name}" if board is not None else "Off the boards"


def in_board_order(layout: Layout, boards: Iterable[str | None]) -> list[str | None]:
    """These boards in order of name, each once, what hangs off the boards last."""
    rank: dict[str | None, int] = {i: n for n, i in enumerate(boards_in_order(layout))}
    return sorted(set(boards), key=lambda b: rank.get(b, len(rank)))
