"""All that the wire book is made from, worked out once for a layout."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.quantities import print_length
from jolly_copper.core.wirebook.building import BoardWork, building_order
from jolly_copper.core.wirebook.joints import Joint, joints
from jolly_copper.core.wirebook.materials import Item, WireNeed, items, wire_needs
from jolly_copper.core.wirebook.piece import Piece
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.core.wirebook.task import BoardTasks
from jolly_copper.core.wirebook.tasks import board_tasks


@dataclass(frozen=True)
class Worked:
    """What the chapters draw on, worked out once. Facts of the layout in the scene the amps are asked for."""

    facts: Facts

    @property
    def layout(self) -> Layout:
        return self.facts.layout

    @cached_property
    def pieces(self) -> list[Piece]:
        return pieces(self.layout)

    @cached_property
    def joints(self) -> list[Joint]:
        return joints(self.layout, self.pieces)

    @cached_property
    def order(self) -> list[BoardWork]:
        return building_order(self.layout, self.pieces, self.joints)

    @cached_property
    def tasks(self) -> list[BoardTasks]:
        return board_tasks(self.layout, self.order, self.joints)

    @cached_property
    def needs(self) -> list[WireNeed]:
        return wire_needs(self.layout, self.pieces)

    @cached_property
    def items(self) -> list[Item]:
        return items(self.layout, self.pieces, self.joints)

    def length(self, mm: float) -> str:
        return print_length(mm, self.layout.brief.units)
