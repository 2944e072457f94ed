"""Which rail should carry conductor A on each piece of track, so that neighbours agree across joints and gaps."""

from __future__ import annotations

import itertools
from collections import deque

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.pieces import Piece, RailMap, Side, node_bonds, opposite


def orient(layout: Layout, rails: RailMap, first: Side = "left") -> dict[Piece, Side]:
    """The rail of each piece that conductor A should feed.

    Inside a stretch without gaps the rails themselves decide; stretch after stretch is then turned to agree with
    the neighbour across the first gap met. Where a train can come back on itself the last gap round cannot agree:
    that is a reversing section's business. A stretch whose own rails disagree keeps the first answer.

    Args:
        layout: the document.
        rails: from `map_rails(layout)`.
        first: the rail of the first track that carries A.
    """
    bonded: dict[Piece, list[tuple[Piece, bool]]] = {p: [] for p in rails.extent_of}
    for one, other, _, faces in node_bonds(layout):
        if not faces:
            continue
        a, b = rails.end_piece(one.track, one.end), rails.end_piece(other.track, other.end)
        same = one.side == other.side
        bonded[a].append((b, same))
        bonded[b].append((a, same))
    across: dict[Piece, list[Piece]] = {p: [] for p in rails.extent_of}
    for pieces in rails.pieces.values():
        for a, b in itertools.pairwise(pieces):
            across[a].append(b)
            across[b].append(a)
    found: dict[Piece, Side] = {}
    for start in rails.extent_of:
        if start in found:
            continue
        edge: deque[tuple[Piece, Side]] = deque([(start, first)])
        while edge:
            seed, side = edge.popleft()
            if seed in found:
                continue
            found[seed] = side
            grow = deque([seed])
            while grow:  # the whole stretch before anything beyond its gaps
                piece = grow.popleft()
                for neighbour, same in bonded[piece]:
                    if neighbour not in found:
                        found[neighbour] = found[piece] if same else opposite(found[piece])
                        grow.append(neighbour)
                edge.extend((far, found[piece]) for far in across[piece] if far not in found)
    return found
