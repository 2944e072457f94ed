"""How selectors may lie: what each circuit may get its power from, and the lies in which two circuits differ."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import NamedTuple

from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.layout.power_tree import SOURCES, PowerTree

MOST_WAYS = 200
"""Ways of power followed for one circuit; no club builds more levels of selectors than a few."""
MOST_STEPS = 5000
"""Circuits looked at while they are followed: selectors over selectors that reach nothing are many, too."""
Lies = Mapping[str, str | None]
"""How some selectors lie: device id → the circuit it gives its output to, None for off."""


class Way(NamedTuple):
    """A source a circuit may get its power from, and how the selectors on the way lie then."""

    source: str
    lies: dict[str, str | None]


def as_ganged(device: Device, lever_at: str | None) -> str | None:
    """The circuit a ganged selector takes while its lever gives another one's power."""
    return device.inputs[0] if device.inputs and lever_at in device.on_with else None


def thrown(layout: Layout, lies: Lies) -> Layout:
    """The layout with some selectors thrown, and with them what is ganged to their levers."""
    moved = {i: c for i, c in lies.items() if i in layout.devices and layout.devices[i].input != c}
    for i, device in layout.devices.items():
        if device.gang is not None and device.gang in lies:
            moved[i] = as_ganged(device, lies[device.gang])
    if not moved:
        return layout
    devices = {i: d.model_copy(update={"input": moved[i]}) if i in moved else d for i, d in layout.devices.items()}
    return layout.model_copy(update={"devices": devices})


def as_in_scene(layout: Layout, scene: str | None) -> Layout:
    """The layout with its selectors and bridges as they stand in a scene; the very same where it says nothing of
    them."""
    if scene is None or scene not in layout.scenes:
        return layout
    said = layout.scenes[scene]
    now = thrown(layout, said.selectors)
    turned = {i: p for i, p in said.bridges.items() if i in layout.nodes and layout.nodes[i].points_at != p}
    if not turned:
        return now
    nodes = {i: n.model_copy(update={"points_at": turned[i]}) if i in turned else n for i, n in now.nodes.items()}
    return now.model_copy(update={"nodes": nodes})


def ways_of(tree: PowerTree, circuit: str) -> list[Way]:
    """Every source a circuit may get its power from, over all lies of the selectors above it; the first of them where
    `all_followed` says that there are more."""
    return _follow(tree, circuit)[0]


def all_followed(tree: PowerTree, circuit: str) -> bool:
    """Whether `ways_of` knows all ways of a circuit. Where not, what they do not show is not settled."""
    return _follow(tree, circuit)[1]


def _follow(tree: PowerTree, circuit: str) -> tuple[list[Way], bool]:
    found: list[Way] = []
    ahead: list[tuple[str, dict[str, str | None]]] = [(circuit, {})]
    for _ in range(MOST_STEPS):
        if not ahead:
            return found, True
        if len(found) == MOST_WAYS:
            break
        here, lies = ahead.pop()
        device_id = tree.fed_by.get(here)
        if device_id is None:
            continue
        if tree.layout.devices[device_id].kind in SOURCES:
            found.append(Way(device_id, lies))
        else:
            ahead += reversed(list(_above(tree.layout.devices[device_id], device_id, lies)))
    return found, False


def _above(device: Device, device_id: str, lies: dict[str, str | None]) -> Iterator[tuple[str, dict[str, str | None]]]:
    """What a device that is no source may give on, with how selectors lie then."""
    if device.kind != "selector":
        if device.input is not None:
            yield device.input, lies
    elif device.gang is not None:
        for at in device.on_with:
            if lies.get(device.gang, at) == at:
                yield device.inputs[0], {**lies, device.gang: at}
    else:
        for way in device.inputs:
            if lies.get(device_id, way) == way:
                yield way, {**lies, device_id: way}


def where_they_differ(tree: PowerTree, one: str, other: str) -> tuple[Way, Way] | None:
    """A lie of the selectors in which two circuits get their power from two sources; None where there is none.

    The lie asked for first is the one in which nothing has to be thrown.
    """
    now = {i: d.input for i, d in tree.layout.devices.items() if d.kind == "selector"}
    found = [
        (a, b)
        for a in ways_of(tree, one)
        for b in ways_of(tree, other)
        if a.source != b.source and all(b.lies.get(i, at) == at for i, at in a.lies.items())
    ]
    return min(
        found,
        key=lambda p: sum(now.get(i) != at for i, at in {**p[0].lies, **p[1].lies}.items()),
        default=None,
    )


def lies_in_words(layout: Layout, *ways: Way) -> str:
    """How selectors lie, in words: `Selector Harrow 1 at Cab A and Selector Link at Cab B`; empty where none has to."""
    lies: dict[str, str | None] = {}
    for way in ways:
        lies |= way.lies
    return " and ".join(
        f"{layout.devices[i].name} {'off' if at is None else 'at ' + layout.circuits[at].name}"
        for i, at in lies.items()
    )
