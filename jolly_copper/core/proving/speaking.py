"""Parts of the network as a helper knows them, and where they are on the plan."""

from __future__ import annotations

from jolly_copper.core.circuits.assembly import Part
from jolly_copper.core.circuits.network import Element
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proving.copper import Copper
from jolly_copper.core.wirebook.places import node_words, on_track

Where = tuple[str | None, float | None]


def element_words(layout: Layout, copper: Copper, element: Element) -> str:
    """`feeder F31`, `run W2 near T17`, `the joint on Up main, 6 ft from joint JD1`."""
    owner = element.owner
    if element.kind == "feeder":
        return f"feeder {layout.feeders[owner].label or owner} or its post on {layout.feeders[owner].terminal}"
    if element.kind == "run":
        return f"run {layout.runs[owner].label or owner}{_near(element)}"
    if element.kind in ("device", "source"):
        return layout.devices[owner].name
    track, at = element_place(layout, copper, element)
    if track is not None and at is not None:
        return f"the rail joint on {on_track(layout, track, at)}"
    return f"the joint at the end of {layout.tracks[owner].name}"


def _near(element: Element) -> str:
    for part in element.parts:
        if part.kind == "plug":
            return f", plug {part.owner}"
        if part.kind == "contact":
            return f", at {part.owner}"
    return ""


def part_words(layout: Layout, copper: Copper, element: Element, part: Part, conductor: str) -> str:
    """One part of an element: `F31's wire B`, `the post of T12`, `plug P1, wire A`."""
    if part.kind == "feeder wire":
        return f"feeder {layout.feeders[part.owner].label or part.owner}, wire {conductor}"
    if part.kind == "contact":
        which = f" for {layout.feeders[element.owner].label}" if element.kind == "feeder" else ""
        return f"{part.owner}, wire {conductor}{which}"
    if part.kind == "solder":
        return f"the rail joint of feeder {layout.feeders[part.owner].label or part.owner}, wire {conductor}"
    if part.kind == "plug":
        return f"plug {part.owner}, wire {conductor}"
    if part.kind == "blade":
        return f"the blade of {node_words(layout, part.owner)}"
    if part.kind == "wire":
        return f"run {layout.runs[part.owner].label or part.owner}, wire {conductor}"
    if part.kind in ("device", "source"):
        return layout.devices[part.owner].name
    words = element_words(layout, copper, element)
    return f"{words}, {conductor} rail" if conductor in ("left", "right") else words


def element_place(layout: Layout, copper: Copper, element: Element) -> Where:
    """Where on the track an element is met; nowhere for what is not at the rails."""
    if element.kind == "feeder":
        return layout.feeders[element.owner].track, layout.feeders[element.owner].at
    if element.kind in ("rail", "bond") and element.owner in layout.tracks:
        ours = {element.a, element.b}
        for number in copper.network.spans_on.get(element.owner, ()):
            span = copper.network.spans[number]
            for start, end in (span.left, span.right):
                if ours == {start, end}:
                    return span.track, (span.start + span.end) / 2
                if start in ours:
                    return span.track, span.start
                if end in ours:
                    return span.track, span.end
    return None, None
