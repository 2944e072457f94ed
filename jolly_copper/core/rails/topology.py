"""All that the rails alone tell, worked out once for a layout."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import dataclass
from functools import cached_property

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.conflicts import Conflict, find_conflicts
from jolly_copper.core.rails.dead import Stand, judge_pieces
from jolly_copper.core.rails.nets import Nets, Potential, Rail, Sources, find_sources, lies_now, map_nets
from jolly_copper.core.rails.phase import orient
from jolly_copper.core.rails.pieces import Piece, RailMap, Side
from jolly_copper.core.rails.shorts import Short, find_shorts
from jolly_copper.core.rails.ways import Ways, map_ways
from jolly_copper.core.rails.zones import Zone, Zones, map_zones

_CONFLICTS: OrderedDict[Hashable, list[Conflict]] = OrderedDict()
_KEPT = 16


@dataclass(frozen=True)
class Topology:
    """What rail touches what, and what follows. Every part is worked out when first asked for."""

    layout: Layout
    rails: RailMap

    @cached_property
    def ways(self) -> Ways:
        return map_ways(self.layout)

    @cached_property
    def phase(self) -> dict[Piece, Side]:
        """The rail of each piece that conductor A should feed."""
        return orient(self.layout, self.rails)

    @cached_property
    def nets(self) -> Nets:
        return map_nets(self.layout, self.rails)

    @cached_property
    def sources(self) -> Sources:
        return find_sources(self.layout)

    @cached_property
    def zones(self) -> Zones:
        return map_zones(self.layout, self.nets, self.sources)

    @cached_property
    def shorts(self) -> list[Short]:
        return find_shorts(self.nets, self.sources)

    @cached_property
    def stands(self) -> dict[Piece, Stand]:
        return judge_pieces(self.nets, self.sources, self.ways)

    @cached_property
    def live_now(self) -> dict[Rail, frozenset[Potential]]:
        """What every rail carries as the turnouts lie."""
        return self.nets.live(lies_now(self.layout))

    @cached_property
    def conflicts(self) -> list[Conflict]:
        """Every place where a train comes back on itself, gapped or not. Kept while the track stays as it is."""
        ways = self.ways
        key = (
            tuple((c.tracks, c.start, c.finish, c.sign, c.length, ways.core_of[c.start], ways.core_of[c.finish]) for c in ways.chains),
            tuple(sorted((i, n.kind) for i, n in self.layout.nodes.items())),
        )  # fmt: skip
        if key not in _CONFLICTS:
            _CONFLICTS[key] = find_conflicts(self.layout, ways)
            while len(_CONFLICTS) > _KEPT:
                _CONFLICTS.popitem(last=False)
        return _CONFLICTS[key]

    def is_reversing(self, zone: Zone) -> bool:
        """Whether a reverser feeds this zone: by its feeders, or before it has any by the section anchored in it."""
        roots = zone.roots or {self.sources.root[c] for c in self.anchored(zone)}
        return any(r in self.sources.reverses for r in roots)

    def anchored(self, zone: Zone) -> list[str]:
        """The circuits of the sections anchored in a zone."""
        numbers = {self.rails.extent_of[p] for p in zone.pieces}
        return [self.layout.sections[s].circuit for n in sorted(numbers) for s in self.rails.sections_in[n]]

    @cached_property
    def cut_chains(self) -> frozenset[int]:
        """Chains parted by the gap of a reversing section: a way round over one of these is looked after."""
        found = set()
        for border in self.zones.borders:
            one, other = self.zones.at(border.before), self.zones.at(border.after)
            if one.number != other.number and (self.is_reversing(one) or self.is_reversing(other)):
                found.add(self.ways.chain_of[border.track])
        return frozenset(found)

    @cached_property
    def open_conflicts(self) -> list[Conflict]:
        """Conflicts that no reversing section parts."""
        if self.layout.brief.control == "ac3":
            return []  # both outside rails of three-rail track are alike
        return [c for c in self.conflicts if not self.cut_chains & set(c.chains)]

    def longest_train(self, zone: Zone | None = None) -> float:
        """The longest train let into a zone, mm, metal-wheeled from end to end; the house rule's where none is entered."""
        layout = self.layout
        if zone is not None:
            numbers = {self.rails.extent_of[p] for p in zone.pieces}
            limits = [
                limit
                for n in numbers
                for s in self.rails.sections_in[n]
                if (limit := layout.sections[s].longest) is not None
            ]
            if limits:
                return max(limits)
        lengths = [t.length for t in layout.trains.values() if t.metal_wheels]
        return max(lengths, default=layout.brief.rules.longest_train)


def map_topology(layout: Layout, rails: RailMap) -> Topology:
    """The topology of a layout, lazily."""
    return Topology(layout, rails)
