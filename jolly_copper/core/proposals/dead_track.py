"""The smallest change that brings dead track to life: gaps beyond frogs and feeders, fewest first, each truly tried."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from jolly_copper.core.circuits.edits import Patch, add_feeder
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.reversing import node_name
from jolly_copper.core.findings.track import frog_gaps
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.dead import Stand
from jolly_copper.core.rails.nets import Rail
from jolly_copper.core.rails.pieces import SIDES, Piece, map_rails
from jolly_copper.core.rails.topology import Topology, map_topology

MOST_PARTS = 4
MOST_OFFERS = 8


@dataclass(frozen=True)
class DeadStretch:
    """A piece that some setting leaves dead, in words, and what would mend it; None where nothing tried would."""

    stand: Stand
    title: str
    case: str
    remedy: str | None
    patch: Patch | None


def dead_stretches(facts: Facts) -> list[DeadStretch]:
    """Every piece that is not always live, the worst first, each with the smallest remedy there is among gaps and feeders."""
    layout, topology, units = facts.layout, facts.topology, facts.layout.brief.units
    order = ("dead when lined up", "never", "lined up")
    found = []
    for stand in sorted(
        (s for s in topology.stands.values() if s.status != "always"), key=lambda s: (order.index(s.status), s.piece)
    ):
        length, name = print_length(stand.piece.end - stand.piece.start, units), layout.tracks[stand.piece.track].name
        case = " and ".join(f"{node_name(layout, n)} set {lies}" for n, lies in stand.case)
        title = {
            "dead when lined up": f"{length} of {name} is dead with {case}",
            "never": f"{length} of {name} never has both rails live",
            "lined up": f"{length} of {name} has power only while the turnouts are set for it",
        }[stand.status]
        remedy = smallest_remedy(facts, stand.piece)
        words = None if remedy is None else "; ".join(w for w, _ in remedy)
        patch = None if remedy is None else _joined([p for _, p in remedy])
        found.append(DeadStretch(stand, title, case, words, patch))
    return found


def smallest_remedy(facts: Facts, piece: Piece) -> list[tuple[str, Patch]] | None:
    """The fewest gaps and feeders after which this piece is always live and no new short is there.

    Tried by size over what could help: both frog-side rails of each power-routing turnout that borders the piece's
    rails, and a feeder on the piece or on a neighbour those cuts would starve. The first that serves is a smallest one.
    """
    layout = facts.layout
    shorts = {(s.one, s.other, s.settings) for s in facts.topology.shorts}
    offers = _offers(facts, piece)
    for size in range(1, min(MOST_PARTS, len(offers)) + 1):
        for chosen in itertools.combinations(offers, size):
            patch = _joined([p for _, p in chosen])
            after = _after(layout, patch)
            here = [
                s
                for p, s in after.stands.items()
                if p.track == piece.track and p.start < piece.end and p.end > piece.start
            ]
            starved = any(
                s.status == "dead when lined up" and s.piece not in facts.topology.stands for s in after.stands.values()
            )
            fresh = [s for s in after.shorts if (s.one, s.other, s.settings) not in shorts]
            if here and all(s.status == "always" for s in here) and not fresh and not starved:
                return list(chosen)
    return None


def _after(layout: Layout, patch: Patch) -> Topology:
    changed = apply_patch(layout, patch)
    return map_topology(changed, map_rails(changed))


def _offers(facts: Facts, piece: Piece) -> list[tuple[str, Patch]]:
    layout, nets = facts.layout, facts.topology.nets
    border = {s.node for side in SIDES for _, s in nets.guarded.get(nets.net_of[Rail(piece, side)], ())}
    offers: list[tuple[str, Patch]] = []
    tracks = {piece.track}
    for node in sorted(border):
        patch = frog_gaps(facts, node)
        if patch:
            offers.append((f"gap the frog-side rails of {node_name(layout, node)}", patch))
            tracks |= {p["value"]["track"] for p in patch}
    for track in sorted(tracks, key=lambda t: (t != piece.track, t)):
        at = (piece.start + piece.end) / 2 if track == piece.track else facts.rails.lengths[track] / 2
        section = facts.rails.section_at(track, at)
        circuits = [layout.sections[section].circuit] if section else []
        near = [layout.runs[layout.terminals[f.terminal].run].circuit for f in layout.feeders.values()]
        for circuit in [*circuits, *sorted(set(near), key=near.count, reverse=True)][:1]:
            feeder = add_feeder(facts, circuit, track, at)
            if feeder:
                offers.append((f"a feeder on {layout.tracks[track].name}", feeder))
    return offers[:MOST_OFFERS]


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
