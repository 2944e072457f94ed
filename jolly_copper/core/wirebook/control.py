"""Cables that report and command, as pieces somebody cuts."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from jolly_copper.core.circuits.lengths import cut_length
from jolly_copper.core.layout.benchwork import board_at, board_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.underways import cable_joints, cable_length
from jolly_copper.core.signals.cables import Cable, cables
from jolly_copper.core.travel.couplings import Coupled, held_by, in_coupling
from jolly_copper.core.wirebook.piece import Piece


def control_pieces(layout: Layout) -> list[Piece]:
    """Every cable to a signal, a turnout motor or a board that has been given an output or a supply."""
    coupled = held_by(layout)
    return [piece for cable in cables(layout) for piece in _pieces(layout, cable, coupled)]


def _pieces(layout: Layout, cable: Cable, coupled: Coupled) -> Iterator[Piece]:
    """A cable, in as many pieces as it passes joints of boards that lift out: each has a plug of as many poles as
    wires."""
    drawn = cable_length(layout, cable.a, cable.b) + layout.brief.rules.drop_below_rail
    length = cable.tape or drawn
    joints = cable_joints(layout, cable.a, cable.b)
    marks = [0.0, *(at / drawn * length for at, _, _ in joints), length]
    label = cable.label
    plugs = [
        (
            f"plug {label}/{n}, {board_name(layout, one)} to {board_name(layout, other)}"
            f"{in_coupling(coupled, f'cable:{cable.key}/{n}')}",
            f"{label}/{n}",
        )
        for n, (_, one, other) in enumerate(joints, start=1)
    ]
    stops = [cable.ends[0], *plugs, cable.ends[1]]
    boards = [board_at(layout, *cable.a), *(other for _, _, other in joints)]
    for n, (start, end) in enumerate(itertools.pairwise(stops)):
        far = max(marks[n + 1] - marks[n], 0.0)
        whole = not joints
        last = n == len(joints)
        yield Piece(
            key=cable.key if whole else f"{cable.key}/{n + 1}",
            kind="control",
            owner=cable.key.split(":", 1)[1],
            label=label if whole else f"{label}.{n + 1}",
            circuit=cable.circuit,
            colours=cable.colours,
            gauge=cable.gauge,
            strands="stranded",
            make="cable",
            start=start[0],
            end=end[0],
            start_short=start[1],
            end_short=end[1],
            length=far,
            cut=cut_length(layout, far),
            board=(board_at(layout, *cable.b) if last else boards[n]) or boards[n],
            middle=0.0,
            notes=cable.notes if last else (),
        )
