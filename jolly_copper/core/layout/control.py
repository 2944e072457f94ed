"""Control belongs to the source: what a rail carries is what stands upstream of the circuit that feeds it, as selectors
lie. The brief's control is the wish for new sources, and what is said of track that nothing feeds."""

from __future__ import annotations

from typing import Literal

from jolly_copper.core.layout.document import Control, Device, Gap, Layout, Track
from jolly_copper.core.layout.power_tree import SOURCES, PowerTree
from jolly_copper.core.layout.wiring import Feeder
from jolly_copper.core.layout.words import SOURCE

BY_KIND: dict[str, Control] = {"cab": "dc", "transformer output": "ac3"}
"""What a source gives that can give nothing else."""


def control_given(layout: Layout, device: Device) -> Control:
    """The control a source gives: as said, by its kind, else as the brief has it."""
    return device.gives or BY_KIND.get(device.kind) or layout.brief.control


def control_of(tree: PowerTree, circuit: str | None) -> Control:
    """The control a circuit carries as selectors lie; the brief's where no source feeds it."""
    source = tree.source(circuit) if circuit is not None else None
    return tree.layout.brief.control if source is None else control_given(tree.layout, source[1])


def controls(layout: Layout) -> frozenset[Control]:
    """Every control some source of the layout gives; the brief's where it has no source yet."""
    found = frozenset(control_given(layout, d) for d in layout.devices.values() if d.kind in SOURCES)
    return found or frozenset({layout.brief.control})


def word_of(layout: Layout, device: Device) -> str:
    """What a source is called: cab, transformer, booster, station or controller.

    A booster that gives DC is a controller, as layouts of before cabs have it.
    """
    if device.kind in ("cab", "station"):
        return device.kind
    return SOURCE[control_given(layout, device)]


def has_three_rails(layout: Layout, track: Track) -> bool:
    """Whether a track has a centre rail: as said, else where the brief says three-rail."""
    return track.rails == 3 if track.rails is not None else layout.brief.control == "ac3"


def three_rail_tracks(layout: Layout) -> frozenset[str]:
    """Ids of the tracks with a centre rail.

    Of such a track what the program calls `left` is the centre rail, and `right` both outers: two conductors, whichever
    way it is seen.
    """
    return frozenset(i for i, t in layout.tracks.items() if has_three_rails(layout, t))


def a_side(layout: Layout, feeder: Feeder) -> Literal["left", "right"]:
    """The rail that conductor A of a feeder goes to: `left` or `right`; of three-rail track always the centre, which is
    its `left`."""
    return "left" if has_three_rails(layout, layout.tracks[feeder.track]) else feeder.a_rail


def commons(layout: Layout) -> dict[str, str]:
    """For each circuit whose conductor B is another's very wire, that other.

    As the document says, and among the outputs of one transformer, which have one common.
    """
    found = {i: c.return_of for i, c in layout.circuits.items() if c.return_of is not None}
    first: dict[str, str] = {}
    for device in layout.devices.values():
        if device.kind != "transformer output" or device.winding is None or device.output in found:
            continue
        if (mate := first.setdefault(device.winding, device.output)) != device.output:
            found[device.output] = mate
    return found


def rail_word(layout: Layout, track: str, side: str) -> str:
    """What a rail is called: `left rail`; `centre rail` or `outer rails` of three-rail track."""
    if has_three_rails(layout, layout.tracks[track]):
        return "centre rail" if side == "left" else "outer rails"
    return f"{side} rail"


def rails_cut(gap: Gap) -> str:
    """The rails a gap cuts, in words: `both rails`, `the left rail`, `the centre rail`, `the left outer rail`.

    >>> rails_cut(Gap(track="t", at=1, rails="outer left"))
    'the left outer rail'
    """
    if gap.rails in ("both", "all"):
        return "both rails" if gap.rails == "both" else "all three rails"
    where = gap.rails if not gap.rails.startswith("outer") else f"{gap.rails.removeprefix('outer ')} outer"
    return f"the {where} rail"


def rails_in(gap: Gap) -> int:
    """How many rails a gap cuts."""
    return {"both": 2, "all": 3}.get(gap.rails, 1)


def outers_in_parallel(layout: Layout, track: str) -> bool:
    """Whether both outer rails of a three-rail track carry the return: joined by its ties."""
    return has_three_rails(layout, layout.tracks[track]) and layout.tracks[track].outers == "joined"
