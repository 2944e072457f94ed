"""The smallest change that brings dead track to life: gaps beyond frogs and feeders, fewest first, each truly tried."""

from __future__ import annotations

import itertools
from collections import Counter, defaultdict
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass

from jolly_copper.core.circuits.edits import Patch, add_feeder
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.joined_rails import frog_gaps
from jolly_copper.core.findings.reversing import node_name
from jolly_copper.core.layout.document import Gap, Layout
from jolly_copper.core.layout.wiring import Feeder
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM, WORST_FIRST, Judge, Stand
from jolly_copper.core.rails.nets import Nets, Rail
from jolly_copper.core.rails.pieces import SIDES, Piece, frog_rails, map_rails
from jolly_copper.core.rails.topology import Topology, map_topology

MOST_PARTS = 3
"""Remedies of up to so many cuts and feeders are all tried, so the first that serves is a smallest one."""
MOST_FROGS = 2
MOST_IN_ALL = 10
"""Beyond that: up to two frogs gapped and all that starves fed, up to so many cuts and feeders."""
MOST_OFFERS = 8
ONE_FEEDER = "a feeder on "

Remedy = list[tuple[str, Patch]]
"""What to do, in words, each with its change."""


@dataclass(frozen=True)
class DeadStretch:
    """A piece that some setting leaves dead, in words, and what would mend it; None where nothing tried would."""

    stand: Stand
    title: str
    case: str
    remedy: str | None
    patch: Patch | None


Told = Callable[[DeadStretch, int, int], None]


def dead_stretches(facts: Facts, told: Told = lambda _found, _done, _total: None) -> list[DeadStretch]:
    """Every piece that is not always live, the worst first, each with the smallest remedy there is among gaps and
    feeders.

    Args:
        told: each stretch as it is found, how many there are now, and in all.
    """
    stands = [s for s in facts.topology.stands.values() if s.status != "always"]
    remedies = Remedies(facts)
    found: list[DeadStretch] = []
    for stand in sorted(stands, key=lambda s: (WORST_FIRST.index(s.status), s.piece)):
        remedy = remedies.smallest(stand.piece)
        words = None if remedy is None else _in_words(w for w, _ in remedy)
        patch = None if remedy is None else _joined([p for _, p in remedy])
        found.append(DeadStretch(stand, title_of(facts.layout, stand), case_of(facts.layout, stand), words, patch))
        told(found[-1], len(found), len(stands))
    return found


def case_of(layout: Layout, stand: Stand) -> str:
    """The settings that leave a piece dead, in words."""
    return " and ".join(f"{node_name(layout, n)} set {lies}" for n, lies in stand.case)


def title_of(layout: Layout, stand: Stand) -> str:
    """How a piece fares, as a sentence without its stop."""
    length = print_length(stand.piece.end - stand.piece.start, layout.brief.units)
    name = layout.tracks[stand.piece.track].name
    return {
        "always": f"{length} of {name} is always live",
        "dead when lined up": f"{length} of {name} is dead with {case_of(layout, stand)}",
        "never": f"{length} of {name} never has both rails live",
        "lined up": f"{length} of {name} has power only while the turnouts are set for it",
        "not settled": f"Whether {length} of {name} can be dead was not settled: too many turnouts matter",
    }[stand.status]


WORSE = ("always", "lined up", "not settled", "dead when lined up", "never")
"""How track fares, the best first."""


class Remedies:
    """Smallest remedies on one layout. Pieces whose rails are the same metal share theirs."""

    def __init__(self, facts: Facts) -> None:
        self.facts = facts
        topology = facts.topology
        self.shorts = {(s.one, s.other, s.settings) for s in topology.shorts}
        self.standing: dict[str, list[Stand]] = defaultdict(list)
        for stand in topology.stands.values():
            self.standing[stand.piece.track].append(stand)
        self._known: dict[tuple[int, ...], Remedy | None] = {}
        self._yards: dict[tuple[Piece, ...], Remedy | None] = {}

    def smallest(self, piece: Piece) -> Remedy | None:
        """The fewest gaps and feeders after which this piece is always live, no new short is there and no neighbour
        fares worse; None where none of those tried does.

        Up to three parts are tried by size over what could help: both frog-side rails of each power-routing turnout
        whose frog the piece hangs on, and a feeder on the piece or on a neighbour those cuts would starve. Then more
        frogs, with a feeder on all that would starve; last every frog of the yard.
        """
        nets = self.facts.topology.nets
        key = tuple(nets.net_of[Rail(piece, s)] for s in SIDES)
        if key not in self._known:
            self._known[key] = self._search(piece)
        return self._known[key]

    def _search(self, piece: Piece) -> Remedy | None:
        offers = _offers(self.facts, piece)
        for size in range(1, min(MOST_PARTS, len(offers)) + 1):
            for chosen in itertools.combinations(offers, size):
                if self._serves(piece, with_parts(self.facts.layout, _joined([p for _, p in chosen]))):
                    return list(chosen)
        frogs = _frogs_near(self.facts, piece)
        for size in range(1, min(MOST_FROGS, len(frogs)) + 1):
            for chosen_frogs in itertools.combinations(frogs, size):
                remedy = self._all_fed(piece, list(chosen_frogs))
                if remedy is not None:
                    return remedy
        return self._whole_yard(piece)

    def _whole_yard(self, piece: Piece) -> Remedy | None:
        """Every power-routing frog of the yard gapped, and all that leaves without power fed: what makes it a yard of
        live frogs. Worked out once for a yard."""
        topology = self.facts.topology
        yard = tuple(_yard_of(topology, piece))
        if yard not in self._yards:
            frogs = sorted(
                {
                    s.node
                    for p in yard
                    for side in SIDES
                    for _, s in topology.nets.guarded.get(topology.nets.net_of[Rail(p, side)], ())
                }
            )
            cuts = [patch for n in frogs if (patch := frog_gaps(self.facts, n))]
            words = f"gap the frog-side rails of all {len(cuts)} turnouts that route power here"
            first = [(words, _joined(cuts))] if cuts else []
            self._yards[yard] = self._all_fed(piece, first, most=len(yard) + len(cuts) + 1) if first else None
        return self._yards[yard]

    def _all_fed(self, piece: Piece, frogs: Remedy, most: int = MOST_IN_ALL) -> Remedy | None:
        """These frogs gapped, and feeders one by one, the piece first, then what the cuts touch, until nothing starves;
        None where that takes too many, or makes a short."""
        parts = list(frogs)
        cut = {p["value"]["track"] for _, patch in frogs for p in patch}
        while len(parts) <= most:
            changed = with_parts(self.facts.layout, _joined([p for _, p in parts]))
            after = map_topology(changed, map_rails(changed))
            if not self._no_new_short(after):
                return None
            starved = self._starved(piece, after, Judge(after.nets, after.sources, after.ways), cut)
            if starved is None:
                return parts
            feeder = self._feeder_on(starved)
            if feeder is None or feeder in parts:
                return None
            parts.append(feeder)
        return None

    def _feeder_on(self, piece: Piece) -> tuple[str, Patch] | None:
        return _feeder(self.facts, piece.track, (piece.start + piece.end) / 2)

    def _serves(self, piece: Piece, changed: Layout) -> bool:
        after = map_topology(changed, map_rails(changed))
        judge = Judge(after.nets, after.sources, after.ways)
        here = [p for p in _overlapping(after, piece) if p.end - p.start >= SHORTEST_STAND_MM]
        if not here or not all(judge.is_always_live(p) for p in here):
            return False  # most end here, before the rest is looked at
        return self._no_new_short(after) and self._starved(piece, after, judge) is None

    def _no_new_short(self, after: Topology) -> bool:
        return all((s.one, s.other, s.settings) in self.shorts for s in after.shorts)

    def _starved(self, piece: Piece, after: Topology, judge: Judge, cut: Collection[str] = ()) -> Piece | None:
        """A piece that fares worse than before, or what of the piece itself is not always live: the piece first, then
        what the cuts touch. Only track whose metal the piece's turnouts can reach may have changed."""
        offers = [
            (now, 0 if stand.piece == piece else WORSE.index(stand.status))
            for track in {p.track for p in _yard_of(self.facts.topology, piece)}
            for stand in self.standing[track]
            for now in _overlapping(after, stand.piece)
            if now.end - now.start >= SHORTEST_STAND_MM
        ]
        offers.sort(key=lambda o: (o[0].track != piece.track, o[0].track not in cut, o[0].start - o[0].end, o[0]))
        for now, allowed in offers:
            sound = judge.is_always_live(now) if allowed == 0 else WORSE.index(judge.stand(now).status) <= allowed
            if not sound:
                return now
        return None


def _overlapping(topology: Topology, piece: Piece) -> list[Piece]:
    return [p for p in topology.rails.pieces[piece.track] if p.start < piece.end and p.end > piece.start]


def _yard_of(topology: Topology, piece: Piece) -> list[Piece]:
    """Pieces of all the metal that some settings join to a piece's rails."""
    nets = topology.nets
    seen = {nets.net_of[Rail(piece, s)] for s in SIDES}
    edge = list(seen)
    while edge:
        for other, _ in nets.guarded.get(edge.pop(), ()):
            if other not in seen:
                seen.add(other)
                edge.append(other)
    return sorted({r.piece for n in seen for r in nets.rails_of[n]})


def with_parts(layout: Layout, patch: Patch) -> Layout:
    """A layout with gaps and feeders added, for trying: what a patch of additions makes, without reading it all
    again."""
    gaps, feeders = dict(layout.gaps), dict(layout.feeders)
    for operation in patch:
        _, kind, i = operation["path"].split("/")
        if kind == "gaps":
            gaps[i] = Gap.model_validate(operation["value"])
        else:
            feeders[i] = Feeder.model_validate(operation["value"])
    return layout.model_copy(update={"gaps": gaps, "feeders": feeders})


def _frogs_of(nets: Nets, piece: Piece) -> list[str]:
    """Turnouts whose frog a rail of the piece is one metal with: either way they lie, it is joined to something."""
    found = set()
    for side in SIDES:
        settings = {s for _, s in nets.guarded.get(nets.net_of[Rail(piece, side)], ())}
        lies = Counter(s.node for s in settings)
        found |= {node for node, ways in lies.items() if ways > 1}
    return sorted(found)


def _frogs_near(facts: Facts, piece: Piece) -> Remedy:
    """Cuts at the frogs that bear on a piece, and at the frogs that bear on those: nearest first."""
    nets, layout = facts.topology.nets, facts.layout
    found: dict[str, None] = dict.fromkeys(_frogs_of(nets, piece))
    for node in list(found):
        for track, end, _ in frog_rails(layout, node):
            found |= dict.fromkeys(_frogs_of(nets, facts.rails.end_piece(track, end)))
    cuts = [(f"gap the frog-side rails of {node_name(layout, n)}", frog_gaps(facts, n)) for n in found]
    return [(words, patch) for words, patch in cuts if patch]


def _offers(facts: Facts, piece: Piece) -> Remedy:
    """Cuts at the piece's own frogs, and a feeder on it or on a neighbour those cuts would starve."""
    offers: Remedy = []
    tracks = {piece.track}
    for node in _frogs_of(facts.topology.nets, piece):
        patch = frog_gaps(facts, node)
        if patch:
            offers.append((f"gap the frog-side rails of {node_name(facts.layout, node)}", patch))
            tracks |= {p["value"]["track"] for p in patch}
    for track in sorted(tracks, key=lambda t: (t != piece.track, t)):
        at = (piece.start + piece.end) / 2 if track == piece.track else facts.rails.lengths[track] / 2
        feeder = _feeder(facts, track, at)
        if feeder is not None:
            offers.append(feeder)
    return offers[:MOST_OFFERS]


def _feeder(facts: Facts, track: str, at: float) -> tuple[str, Patch] | None:
    """A feeder of the circuit meant for a place, or of the one that feeds most."""
    layout = facts.layout
    section = facts.rails.section_at(track, at)
    near = Counter(layout.runs[layout.terminals[f.terminal].run].circuit for f in layout.feeders.values())
    circuit = layout.sections[section].circuit if section else max(sorted(near), key=near.__getitem__, default=None)
    feeder = add_feeder(facts, circuit, track, at) if circuit is not None else None
    return (ONE_FEEDER + layout.tracks[track].name, feeder) if feeder else None


def _in_words(parts: Iterable[str]) -> str:
    """A remedy in a sentence, its feeders together.

    >>> _in_words(["gap the frog-side rails of T1", "a feeder on Yard 1", "a feeder on Yard 2"])
    'gap the frog-side rails of T1; feeders on Yard 1 and Yard 2'
    """
    others: list[str] = []
    fed: list[str] = []
    for words in parts:
        name = words.removeprefix(ONE_FEEDER)
        (others if name == words else fed).append(name)
    if len(fed) > 1:
        others.append(f"feeders on {', '.join(fed[:-1])} and {fed[-1]}")
    return "; ".join(others + [ONE_FEEDER + f for f in fed if len(fed) == 1])


def _joined(patches: list[Patch]) -> Patch:
    """Several patches as one: ids that two of them give out alike are numbered on."""
    taken: set[str] = set()
    joined: Patch = []
    for patch in patches:
        for operation in patch:
            path = operation["path"]
            head, _, name = path.rpartition("/")
            letters = name.rstrip("0123456789")
            number = int(name[len(letters) :] or 0)
            while path in taken:
                number += 1
                path = f"{head}/{letters}{number}"
            taken.add(path)
            value = operation["value"]
            if head == "/feeders" and value.get("label") == name:
                value = {**value, "label": path.rsplit("/", 1)[1]}
            joined.append({**operation, "path": path, "value": value})
    return joined
