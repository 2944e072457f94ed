"""All that the rails alone tell, worked out once for a layout."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable, Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property

from jolly_copper.core.layout.control import three_rail_tracks
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.conflicts import Conflict, find_conflicts
from jolly_copper.core.rails.dead import Stand, judge_pieces
from jolly_copper.core.rails.nets import Nets, Potential, Rail, Sources, find_sources, lies_now, map_nets
from jolly_copper.core.rails.phase import orient
from jolly_copper.core.rails.pieces import Joined, Piece, RailMap, Side
from jolly_copper.core.rails.shorts import Short, Shorts, find_shorts
from jolly_copper.core.rails.ways import Ways, map_ways
from jolly_copper.core.rails.zones import Border, Run, Zone, Zones, drive_from, map_zones

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
    def all_shorts(self) -> Shorts:
        return find_shorts(self.nets, self.sources)

    @property
    def shorts(self) -> list[Short]:
        """Every minimal short; of yards with too many, one for each pair of wires."""
        return list(self.all_shorts.found)

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
            tuple(
                (c.tracks, c.start, c.finish, c.sign, c.length, ways.core_of[c.start], ways.core_of[c.finish])
                for c in ways.chains
            ),
            tuple(sorted((i, n.kind) for i, n in self.layout.nodes.items())),
        )
        if key not in _CONFLICTS:
            _CONFLICTS[key] = find_conflicts(self.layout, ways)
            while len(_CONFLICTS) > _KEPT:
                _CONFLICTS.popitem(last=False)
        return _CONFLICTS[key]

    def is_reversing(self, zone: Zone) -> bool:
        """Whether a reverser feeds this zone: by its feeders, or before it has any by the section anchored in it."""
        return any(r in self.sources.reverses for r in self.roots_of(zone))

    def anchored(self, zone: Zone) -> list[str]:
        """The circuits of the sections anchored in a zone."""
        numbers = {self.rails.extent_of[p] for p in zone.pieces}
        return [self.layout.sections[s].circuit for n in sorted(numbers) for s in self.rails.sections_in[n]]

    def roots_of(self, zone: Zone) -> frozenset[str]:
        """Where a zone's power stands still: by its feeders, or before it has any by the sections anchored in it."""
        return zone.roots or frozenset(self.sources.root[c] for c in self.anchored(zone))

    def is_mixed(self, zone: Zone) -> bool:
        """Whether a zone has a reverser's feeders and any other."""
        return len(zone.roots) > 1 and self.is_reversing(zone)

    def automatic(self, zones: Iterable[int]) -> bool:
        """Whether all these reversing zones are turned by units that answer by themselves, not by a hand on a
        switch."""
        kinds = {d.output: d.kind for d in self.layout.devices.values()}
        roots = {r for n in zones for r in self.roots_of(self.zones.zones[n]) if r in self.sources.reverses}
        return bool(roots) and all(kinds.get(r) == "reverser" for r in roots)

    @cached_property
    def regions(self) -> tuple[frozenset[int], ...]:
        """Reversing zones in groups: those of one reverser that adjoin over full gaps are one section to a train."""
        mine = {
            z.number: next(iter(self.roots_of(z)))
            for z in self.zones.zones
            if len(self.roots_of(z)) == 1 and self.is_reversing(z)
        }
        joined = Joined()
        for number in mine:
            joined.find(number)
        for border in self.zones.borders:
            a, b = self.zones.zone_of[border.before], self.zones.zone_of[border.after]
            if a in mine and b in mine and mine[a] == mine[b]:
                joined.join(a, b)
        groups: dict[Hashable, set[int]] = {}
        for number in mine:
            groups.setdefault(joined.find(number), set()).add(number)
        return tuple(frozenset(g) for g in groups.values())

    def borders_out(self, region: frozenset[int]) -> list[Border]:
        """The full gaps that lead out of a region."""
        return [
            b
            for b in self.zones.borders
            if (self.zones.zone_of[b.before] in region) != (self.zones.zone_of[b.after] in region)
        ]

    def is_outer(self, region: frozenset[int]) -> bool:
        """Whether a region turned by hand is what lies outside another: on direct current the track outside is turned
        while the train stands in the section, so it is the section alone that must hold the train."""
        if self.automatic(region):
            return False
        length = sum(self.zones.zones[n].length for n in region)
        beyond: set[int] = set()
        for border in self.borders_out(region):
            beyond |= {self.zones.zone_of[border.before], self.zones.zone_of[border.after]} - region
        inner = [r for r in self.regions if r & beyond]
        return any(sum(self.zones.zones[n].length for n in r) < length for r in inner)

    def wants(self, place: tuple[str, float]) -> bool | None:
        """Whether the two sides of a full gap agree as their feeders stand; None where one side has none, or it is no
        full gap. A reverser whose gaps differ in this has work to do."""
        for border in self.zones.borders:
            if border.track == place[0] and abs(border.at - place[1]) < 1e-6:
                one, other = self.zones.at(border.before), self.zones.at(border.after)
                if not one.votes or not other.votes:
                    return None
                return one.a_rail(border.before) == other.a_rail(border.after)
        return None

    @cached_property
    def cut_chains(self) -> frozenset[int]:
        """Chains parted by the gap of a reversing section: a way round over one of these is looked after. Both sides of
        the gap must hang on different roots: a gap with one reverser on both sides parts nothing that turns."""
        found = set()
        for border in self.zones.borders:
            one, other = self.zones.at(border.before), self.zones.at(border.after)
            if self.roots_of(one) == self.roots_of(other):
                continue
            if one.number != other.number and (self.is_reversing(one) or self.is_reversing(other)):
                found.add(self.ways.chain_of[border.track])
        for node_id, node in self.layout.nodes.items():
            # A bridge with a reverser of its own is a section, parted by its pit.
            if node.kind in ("turntable", "traverser") and node.bridge == "reverser":
                found |= {
                    self.ways.chain_of[t] for t, v in self.layout.tracks.items() if node_id in (v.a.node, v.b.node)
                }
        return frozenset(found)

    @cached_property
    def open_conflicts(self) -> list[Conflict]:
        """Conflicts that no reversing section parts."""
        three = three_rail_tracks(self.layout)
        chains = self.ways.chains
        return [
            c
            for c in self.conflicts
            if not self.cut_chains & set(c.chains)
            # Both outside rails of three-rail track are alike.
            and not all(t in three for k in c.chains for t, _ in chains[k].tracks)
        ]

    def longest_train(self, zone: Zone | None = None) -> float:
        """The longest train let into a zone, mm, metal-wheeled from end to end; the house rule's where none is
        entered."""
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


def plain_drives(topology: Topology, limit: float) -> Iterator[tuple[str, Run, frozenset[int], frozenset[int]]]:
    """Drives over plain track from a gap of one reversing region to a gap of another, or of the same: the track they
    begin on, the drive if shorter than a limit in mm, and the two regions."""
    zones = topology.zones
    region_of = {n: r for r in topology.regions for n in r}
    plain = frozenset(z.number for z in zones.zones if not topology.is_reversing(z))
    for border in zones.borders:
        a, b = zones.zone_of[border.before], zones.zone_of[border.after]
        for inside, outside, start in ((a, b, (border.after, True)), (b, a, (border.before, False))):
            if inside not in region_of or outside not in plain:
                continue
            run = drive_from(zones, topology.rails, topology.ways, start, plain, limit)
            into = None if run is None else region_of.get(run.into)
            if run is not None and into is not None:
                yield start[0].track, run, region_of[inside], into


def map_topology(layout: Layout, rails: RailMap) -> Topology:
    """The topology of a layout, lazily."""
    return Topology(layout, rails)
