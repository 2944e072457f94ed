"""Rules about the bridges of turntables and traversers, and about slips."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.findings.reversing import node_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.rails.tables import StubPair, aligned_pairs, faces, stub_zone


@rule("bridge joins two stubs", "track", "reverse")
def bridge_joins(facts: Facts) -> Iterator[Finding]:
    """A bridge fed by the stub it meets, where two live stubs opposite each other disagree: it shorts them as it points
    there."""
    layout, topology = facts.layout, facts.topology
    for node_id, node in sorted(layout.nodes.items()):
        if node.kind not in ("turntable", "traverser") or node.bridge != "aligned stub":
            continue
        for pair in aligned_pairs(topology, node_id):
            one, other = (stub_zone(topology, s) for s in pair)
            if not one.votes or not other.votes:
                continue  # a stub nobody feeds takes what the bridge brings
            agree = faces(topology, pair.one) != faces(topology, pair.other)
            if not agree or topology.roots_of(one) != topology.roots_of(other):
                yield _joined(layout, node_id, pair, agree)


def _joined(layout: Layout, node_id: str, pair: StubPair, agree: bool) -> Finding:
    name = node_name(layout, node_id)
    stubs = [layout.tracks[s.track].name for s in pair]
    at = 0.0 if pair.one.end == "a" else None
    follows = "joins their two sources: neither can protect it alone" if agree else "is a dead short"
    return Finding(
        key=f"bridge:{node_id}:{pair.one.track}:{pair.other.track}",
        rule="bridge joins two stubs",
        severity="should" if agree else "must",
        title=f"{name} pointing from {stubs[0]} to {stubs[1]} {follows}",
        why="Its bridge takes its power from the stub it meets. Here it meets two at once, both live, and its rails "
        "join them" + ("." if agree else ": left of the one is right of the other."),
        mend="Feed one of the two with its wires swapped where nothing else settles how it faces; or a split ring, or "
        "a reverser on the bridge.",
        place=Place("track", pair.one.track, pair.one.track, at),
        shows=(node_id, pair.one.track, pair.other.track),
        figures=(("bridge", "fed by the stub it meets"), ("points", f"{stubs[0]} – {stubs[1]}")),
        mends=(
            Mend(
                f"A reverser on the bridge of {name}",
                [{"op": "add", "path": f"/nodes/{node_id}/bridge", "value": "reverser"}],
            ),
            Mend(
                f"A split ring for {name}", [{"op": "add", "path": f"/nodes/{node_id}/bridge", "value": "split ring"}]
            ),
        ),
    )


@rule("slip that routes power", "track")
def routing_slips(facts: Facts) -> Iterator[Finding]:
    """Slips and crossings said to route power by their frogs: that is not worked out, so they are taken as live."""
    layout = facts.layout
    legs = {p.node: i for i, t in sorted(layout.tracks.items()) for p in (t.a, t.b)}
    for node_id, node in layout.nodes.items():
        if node.kind not in ("slip", "crossing") or node.frog != "routing" or node_id not in legs:
            continue
        track = legs[node_id]
        end = 0.0 if layout.tracks[track].a.node == node_id else facts.rails.lengths[track]
        yield Finding(
            key=f"slip-routes:{node_id}",
            rule="slip that routes power",
            severity="should",
            title=f"{node_name(layout, node_id)} is said to route power; it is worked out as if its frogs were live",
            why="Shorts and dead track that its frogs make in some position are not looked for.",
            mend="Gap all its inner rails, feed beyond them, and call its frogs live.",
            place=Place("track", track, track, end),
            shows=(node_id, track),
            figures=(("kind", node.kind),),
            mends=(
                Mend(
                    f"Frogs of {node_name(layout, node_id)} are live",
                    [{"op": "replace", "path": f"/nodes/{node_id}/frog", "value": "live"}],
                ),
            ),
        )
