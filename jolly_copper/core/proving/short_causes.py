"""Every short a district may have: what makes it, where it lies across the network, and how good a short it is."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from jolly_copper.core.circuits.points import Floats
from jolly_copper.core.layout.frogs import JUNCTIONS
from jolly_copper.core.proving.causes import Cause
from jolly_copper.core.proving.copper import Ground, Place
from jolly_copper.core.proving.proving import Proving
from jolly_copper.core.wirebook.places import node_words, on_track

METAL_A_METRE, FROG, BREAKER, FEEDER, STRANDS, PINCHED = 0.25, 0.5, 0.3, 0.05, 0.03, 0.02
TRAIN = 0.8
"""Weights: metal a metre, a turnout, the breaker, a feeder, a terminal, a piece of run; a train that may stand there.
Common practice, no source."""
OHMS = {"metal": 0.3, "train": 0.3, "frog": 0.2, "feeder": 0.05, "terminal": 0.02, "run": 0.02, "breaker": 0.02}
"""Of a short, about. Common practice, no source."""
STEP_MM = 900.0


@dataclass(frozen=True)
class Short:
    """A short across two nodes of a ground. kind, thing: what makes it. own: elements that are the fault itself, so
    that lifting them clears it."""

    cause: Cause
    kind: str
    thing: str
    a: int
    b: int
    own: tuple[int, ...] = ()


@dataclass(frozen=True)
class District:
    """What hangs behind one breaker: its device, its circuits, and the rows of its places in the ground."""

    device: str
    circuits: frozenset[str]
    ground: Ground
    rows: tuple[int, ...]


def district_of(known: Proving, circuit: str) -> District | None:
    """The district a circuit lies in; None where nothing protects it, or it feeds no track."""
    tree = known.facts.tree
    guard = tree.protection(circuit)
    if guard is None:
        return None
    circuits = frozenset(c for c in known.layout.circuits if guard[0] in tree.upstream(c))
    for ground in known.ac.grounds:
        rows = tuple(n for n, p in enumerate(ground.places) if known.circuit_at(p) in circuits)
        if rows:
            return District(guard[0], circuits, ground, rows)
    return None


def shorts_of(known: Proving, here: District) -> list[Short]:
    """All of them, those on the rails first."""
    return [*_on_rails(known, here), *_at_turnouts(known, here), *_in_wires(known, here), *_in_breaker(known, here)]


def _short(
    kind: str,
    thing: str,
    words: str,
    weight: float,
    mend: str,
    ends: tuple[int, int],
    place: Place | None = None,
    own: tuple[int, ...] = (),
) -> Short:
    track, at = (place.track, place.at) if place else (None, None)
    key = f"{kind}:{thing}" + (f"@{place.at:.0f}" if place and kind in ("metal", "train") else "")
    return Short(Cause(key, words, "short", weight, mend, track, at, OHMS[kind]), kind, thing, *ends, own)


def rails_at(ground: Ground, row: int) -> tuple[int, int]:
    """The two nodes of the rails at a place."""
    nodes = ground.island.local[ground.points.nodes[row]]
    end = ground.points.share[row] > 0.5
    return int(nodes[1 if end else 0]), int(nodes[3 if end else 2])


def _thinned(ground: Ground, rows: Sequence[int]) -> list[int]:
    kept, last = list[int](), dict[str, float]()
    for n in rows:
        place = ground.places[n]
        if place.track not in last or place.at - last[place.track] >= STEP_MM:
            kept.append(n)
            last[place.track] = place.at
    return kept


def _on_rails(known: Proving, here: District) -> Iterator[Short]:
    layout, facts, ground = known.layout, known.facts, here.ground
    rows = _thinned(ground, here.rows)
    on_each: dict[str, int] = {}
    for n in rows:
        on_each[ground.places[n].track] = on_each.get(ground.places[n].track, 0) + 1
    trains = _trains(known, here)
    for n in rows:
        place = ground.places[n]
        metres = facts.rails.lengths[place.track] / 1000 / on_each[place.track]
        where, ends = on_track(layout, place.track, place.at), rails_at(ground, n)
        yield _short(
            "metal",
            place.track,
            f"something metal or a derailed car at {where}",
            METAL_A_METRE * metres,
            "Take it off, and look what lost it.",
            ends,
            place,
        )
        yield _short(
            "train",
            place.track,
            f"the train on {layout.tracks[place.track].name} itself, near {where}",
            TRAIN * trains / len(rows),
            "Off with it to the workbench: a wheel, a coupler or its wiring.",
            ends,
            place,
        )


def _trains(known: Proving, here: District) -> float:
    """How many trains are in the district on the mean, by its share of all track; half a train at least."""
    scene = known.layout.scenes.get(known.facts.scene) if known.facts.scene else None
    everywhere = sum(len(g.places) for g in known.ac.grounds)
    return max((len(scene.placements) if scene else 0) * len(here.rows) / max(everywhere, 1), 0.5)


def _at_turnouts(known: Proving, here: District) -> Iterator[Short]:
    layout, lengths, ground = known.layout, known.facts.rails.lengths, here.ground
    rows = {(ground.places[n].track, round(ground.places[n].at)): n for n in here.rows}
    seen: set[str] = set()
    for i, track in layout.tracks.items():
        for node_id, at in ((track.a.node, 0.0), (track.b.node, lengths[i])):
            found = rows.get((i, round(at)))
            if found is None or node_id in seen or layout.nodes[node_id].kind not in JUNCTIONS:
                continue
            seen.add(node_id)
            yield _short(
                "frog",
                node_id,
                f"the frog or a blade of {node_words(layout, node_id)}",
                FROG,
                "Set its contact, clear its gaps, bend the blade.",
                rails_at(ground, found),
                ground.places[found],
            )


def _in_wires(known: Proving, here: District) -> Iterator[Short]:
    layout, ground = known.layout, here.ground
    ends = ground.island.ends
    feeders: dict[str, list[int]] = {}
    runs: dict[str, dict[str, int]] = {}
    pieces: dict[str, int] = {}
    for n, element in enumerate(ground.elements):
        if element.kind == "feeder":
            run = layout.terminals[layout.feeders[element.owner].terminal].run
            if layout.runs[run].circuit in here.circuits:
                feeders.setdefault(element.owner, []).append(n)
        elif element.kind == "run" and layout.runs[element.owner].circuit in here.circuits:
            runs.setdefault(element.owner, {})[element.conductor] = n
            pieces[element.owner] = pieces.get(element.owner, 0) + 1
    at_terminal: dict[str, list[str]] = {}
    for owner, numbers in feeders.items():
        if len(numbers) != 2:
            continue
        feeder = layout.feeders[owner]
        one, other = numbers
        at_terminal.setdefault(feeder.terminal, []).append(owner)
        place, label = Place(feeder.track, feeder.at), feeder.label or owner
        tied = (int(ends[one, 0]), int(ends[other, 0]))
        yield _short(
            "feeder",
            owner,
            f"feeder {label} chafed, pinched or swapped",
            FEEDER,
            "New wire, or tape where it chafed; the other way round if it is swapped.",
            tied,
            place,
            (one, other),
        )
        if len(at_terminal[feeder.terminal]) == 1:
            words, mend = f"stray strands across {feeder.terminal}", "Cut them back; sleeve the ends."
            yield _short("terminal", feeder.terminal, words, STRANDS, mend, tied, place)
    for owner, by in runs.items():
        if len(by) == 2:
            weight = PINCHED * max(pieces[owner] // 2, 1)
            words = f"run {layout.runs[owner].label or owner} pinched"
            yield _short(
                "run",
                owner,
                words,
                weight,
                "Free it, tape it, or pull it anew.",
                (int(ends[by["A"], 1]), int(ends[by["B"], 1])),
            )


def _in_breaker(known: Proving, here: District) -> Iterator[Short]:
    a, b = output_of(here)
    if a != b:
        name = known.layout.devices[here.device].name
        yield _short("breaker", here.device, f"{name} itself", BREAKER, "Another one in its place.", (a, b))


def output_of(here: District) -> tuple[int, int]:
    """The two nodes the district's device gives its power at."""
    ground = here.ground
    by = {
        e.conductor: int(ground.island.ends[n, 1])
        for n, e in enumerate(ground.elements)
        if e.kind == "device" and e.owner == here.device
    }
    source = next((s for s in ground.island.sources if s.device == here.device), ground.island.sources[0])
    local = ground.island.local
    return by.get("A", int(local[source.a])), by.get("B", int(local[source.b]))


def drawn_between(ground: Ground, shorts: Sequence[Short]) -> Floats:
    """One column for each short: +1 at its one end, −1 at the other. Shape (nodes, shorts)."""
    columns = np.zeros((ground.island.resistance.size + 1, len(shorts)))
    for n, short in enumerate(shorts):
        columns[short.a, n] += 1.0
        columns[short.b, n] -= 1.0
    return columns
