"""How places are spoken of under the boards: by what a helper can see, not by ends A and B."""

from __future__ import annotations

from jolly_copper.core.layout.control import a_side, has_three_rails, rail_word
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import track_length
from jolly_copper.core.layout.signalling import Conductor
from jolly_copper.core.layout.wiring import Feeder
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.pieces import opposite


def node_words(layout: Layout, node: str) -> str:
    """A node by its kind and name: `turnout T4`, `joint JD1`."""
    thing = layout.nodes[node]
    name = thing.name or node
    return name if name.lower().startswith(thing.kind) else f"{thing.kind} {name}"


def on_track(layout: Layout, track_id: str, at: float, without: str | None = None) -> str:
    """A place on a track from the nearest thing one can find there: an end of the track, or a gap.

    `Yard 2, 14 in from turnout T10` or `Main, 6 in past gap G9 towards turnout T4`. without: a gap not to go by, where
    it is the one that is placed.
    """
    track, units = layout.tracks[track_id], layout.brief.units
    length = track_length(track)
    a, b = node_words(layout, track.a.node), node_words(layout, track.b.node)
    choices = [(at, f"from {a}"), (length - at, f"from {b}")]
    for i, gap in layout.gaps.items():
        if i != without and gap.track == track_id and 20 < gap.at < length - 20:
            choices.append((abs(at - gap.at), f"past gap {i} towards {b if at >= gap.at else a}"))
    away, words = min(choices)
    return f"{track.name}, {print_length(max(away, 0.0), units)} {words}"


def rail_of(layout: Layout, feeder: Feeder, conductor: Conductor = "A") -> str:
    """Which rail a conductor goes to, as one stands there: `left rail, looking towards bumper B1`."""
    a = a_side(layout, feeder)
    side = a if conductor == "A" else opposite(a)
    if has_three_rails(layout, layout.tracks[feeder.track]):
        return rail_word(layout, feeder.track, side)
    return f"{side} rail, looking towards {node_words(layout, layout.tracks[feeder.track].b.node)}"
