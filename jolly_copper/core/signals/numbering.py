"""Numbers of boards: counted on by their channels, or by modules of so many, of which a large board takes two.

How a maker counts is read off the leaflet of the boards in hand. Here each board holds the number of its first
channel, and channel k answers to that plus k − 1; a board numbered by module begins where a module begins.
Common practice, no source.
"""

from __future__ import annotations

import math

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.signalling import Detecting, DetectorBoard


def numbers_taken(channels: int, wishes: Detecting) -> int:
    """How many numbers a board of so many channels takes: those, or as many whole modules as hold them.

    >>> numbers_taken(12, Detecting()), numbers_taken(12, Detecting(module=8))
    (12, 16)
    """
    if wishes.module is None:
        return channels
    return math.ceil(channels / wishes.module) * wishes.module


def module_words(board: DetectorBoard, wishes: Detecting) -> str:
    """Which modules a board is, as it is set: `module 3`, `modules 3 to 4`; empty where boards are counted by channel.

    A board that begins inside a module has no module number to set: `no module begins at 12`.
    """
    if wishes.module is None:
        return ""
    first, inside = divmod(board.address - 1, wishes.module)
    if inside:
        return f"no module begins at {board.address}"
    count = numbers_taken(board.channels, wishes) // wishes.module
    return f"module {first + 1}" if count == 1 else f"modules {first + 1} to {first + count}"


def begins(number: int, wishes: Detecting) -> int:
    """The first number from `number` on at which a board may begin."""
    if wishes.module is None:
        return number
    return math.ceil((number - 1) / wishes.module) * wishes.module + 1


def numbered(layout: Layout, first: int) -> dict[str, int]:
    """Numbers for all detector boards in the order of their names from a first one on, without a hole."""
    wishes, found = layout.brief.detecting, dict[str, int]()
    number = begins(first, wishes)
    for i in sorted(layout.detectors, key=lambda i: (natural(layout.detectors[i].name), i)):
        found[i] = number
        number += numbers_taken(layout.detectors[i].channels, wishes)
    return found
