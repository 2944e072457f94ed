"""The smallest test track: the junctions and sections whose proof covers all others of their kind."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.document import REVERSERS, Layout, Node
from jolly_copper.core.layout.frogs import JUNCTIONS, centred_nodes
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.quantities import print_length
from jolly_copper.core.signals.aspects import signalling_of

Point = tuple[float, float]


@dataclass(frozen=True)
class Trial:
    """One thing to build on a bench, that stands for all of its kind.

    what: in words. stands_for: how many there are. why: why this one of them. build: what it takes. tracks, at: where
    it is on the plan. prove: what to try on it.
    """

    what: str
    stands_for: int
    why: str
    build: tuple[str, ...]
    tracks: tuple[str, ...]
    at: Point
    prove: tuple[str, ...]


def smallest_test_track(facts: Facts) -> list[Trial]:
    """What to build and try first: of each kind of junction, detector, signal and reversing section the hardest one."""
    layout = facts.layout
    found = [*_junctions(facts), *_reversing(facts), *_detection(facts), *_signals(facts)]
    return sorted(found, key=lambda t: (-t.stands_for, t.what)) if layout.tracks else []


def _frog_kind(node: Node, centred: bool) -> str:
    if centred:  # its frog is of the outer rails, like all else there
        return node.kind
    return f"{node.kind}, {node.frog} frog" + (f" turned by {_turner(node)}" if node.frog == "live" else "")


def _turner(node: Node) -> str:
    return {"none": "nothing", "contact": "a contact", "automatic": "a frog unit"}[node.contact]


def _junctions(facts: Facts) -> Iterator[Trial]:
    layout = facts.layout
    kinds: dict[tuple[str, str | None], list[str]] = {}
    centred = centred_nodes(layout)
    for i, node in layout.nodes.items():
        if node.kind in JUNCTIONS:
            kinds.setdefault((_frog_kind(node, i in centred), node.motor), []).append(i)
    for (kind, motor), nodes in sorted(kinds.items(), key=lambda x: str(x[0])):
        # The one with the most ways over it has the most that can go wrong.
        hardest = max(nodes, key=lambda i: (_ways_over(facts, i), [-ord(c) for c in i]))
        node = layout.nodes[hardest]
        tracks = tuple(t for t, x in layout.tracks.items() if hardest in (x.a.node, x.b.node))
        build = [f"one {kind}"]
        if motor and motor != "hand":
            build.append(f"its {motor}")
            build.append("a driver output and a button")
        if node.reports:
            build.append("its report to an input")
        yield Trial(
            f"{node.name or hardest}: {kind}",
            len(nodes),
            f"Of {len(nodes)} alike the one with the most ways over it.",
            tuple(build),
            tracks,
            (node.at.x, node.at.y),
            (
                "An engine creeps over it both ways and both legs, without a stop.",
                "A wheel over its frog while it lies wrong: what opens, and whether the turnout can still be thrown.",
            ),
        )


def _ways_over(facts: Facts, node: str) -> int:
    return sum(node in r.nodes for r in signalling_of(facts).numbered)


def _reversing(facts: Facts) -> Iterator[Trial]:
    layout = facts.layout
    units = [i for i, d in layout.devices.items() if d.kind in REVERSERS]
    if not units:
        return
    shortest: tuple[float, str, int] | None = None
    for n, extent in enumerate(facts.rails.extents):
        circuit = facts.meant[n]
        over = facts.tree.upstream(circuit) if circuit is not None else ()
        unit = next((d for d in over if d in units), None)
        if unit is not None:
            length = sum(p.end - p.start for p in extent)
            if shortest is None or length < shortest[0]:
                shortest = (length, unit, n)
    if shortest is None:
        return
    length, unit, n = shortest
    piece = max(facts.rails.extents[n], key=lambda p: p.end - p.start)
    yield Trial(
        f"{layout.devices[unit].name} with its section",
        len(units),
        "The shortest section is the first that a train bridges at both ends at once.",
        (
            "the reverser",
            "the breaker that stands above it",
            f"{print_length(length, layout.brief.units)} of track with gaps at both ends",
        ),
        tuple(dict.fromkeys(p.track for p in facts.rails.extents[n])),
        _middle(layout, piece.track, (piece.start + piece.end) / 2),
        (
            "The longest train in at walking pace and at line speed: one turn-over, nothing opens.",
            "A coin across the rails inside: the breaker opens, the reverser does not chatter.",
        ),
    )


def _detection(facts: Facts) -> Iterator[Trial]:
    layout = facts.layout
    kinds: dict[str, list[int]] = {}
    for s in signalling_of(facts).sensed:
        if s.board is not None:
            kinds.setdefault(layout.detectors[s.board].kind, []).append(s.number)
    for kind, extents in sorted(kinds.items()):
        longest = max(extents, key=lambda n: sum(p.end - p.start for p in facts.rails.extents[n]))
        piece = max(facts.rails.extents[longest], key=lambda p: p.end - p.start)
        yield Trial(
            f"{signalling_of(facts).sensed[longest].name}: detection by {kind}",
            len(extents),
            "The longest one leaks most over wet ballast and sees a lone axle least.",
            ("one detector channel", "its section with a gap at each end", "ballast as on the railroad"),
            tuple(dict.fromkeys(p.track for p in facts.rails.extents[longest])),
            _middle(layout, piece.track, (piece.start + piece.end) / 2),
            ("One resistor axle alone lights it.", "Wet ballast alone does not.", "Its number comes up in the list."),
        )


def _signals(facts: Facts) -> Iterator[Trial]:
    layout = facts.layout
    kinds: dict[tuple[str, int, int], list[str]] = {}
    for i, s in layout.signals.items():
        kinds.setdefault((s.kind, s.aspects, s.heads), []).append(i)
    known = signalling_of(facts)
    for (kind, aspects, heads), signals in sorted(kinds.items()):
        hardest = max(sorted(signals, key=natural), key=lambda i: len(known.routes[i]))
        signal = layout.signals[hardest]
        yield Trial(
            f"{signal.name}: {kind}, {aspects} aspects" + (", two heads" if heads == 2 else ""),
            len(signals),
            f"It leads {len(known.routes[hardest])} ways, more than any other of its kind.",
            ("the head with its lamps and resistors", "one driver board", "its cable at the length it will have"),
            (signal.track,),
            _middle(layout, signal.track, signal.at),
            ("Every aspect, one after another.", "Stop while the section beyond is lit."),
        )


def _middle(layout: Layout, track: str, at: float) -> Point:
    x, y = layout.tracks[track].line.point(at)
    return round(x, 1), round(y, 1)
