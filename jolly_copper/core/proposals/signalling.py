"""Signals where the blocks want them: before every junction and between blocks, their lamps and the turnouts' motors on
driver boards."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.drawing.signalling import put_signal
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.signalling import Signal, SignalKind
from jolly_copper.core.proposals.blocking.make import MOST_PLACES, thinned, wire_between
from jolly_copper.core.proposals.blocking.pack import Packing, pack
from jolly_copper.core.rails.pieces import Piece
from jolly_copper.core.signals.aspects import Signalling, signalling
from jolly_copper.core.signals.heads import lamps_of
from jolly_copper.core.signals.interlocking import is_crossover
from jolly_copper.core.signals.places import signal_point

BEFORE_MM = 60.0
"""A signal stands so far before the gap of what it protects, so that a train waiting at it is not in it."""
SIGNALLED = frozenset({"main", "branch", "siding"})
"""Signals protect track of these uses; in yards and staging people look where they go."""


@dataclass(frozen=True)
class Head:
    """A signal proposed. heads: two where a train may leave the straight way and the school tells it so. why: in
    words."""

    track: str
    at: float
    towards: Literal["a", "b"]
    kind: SignalKind
    heads: int
    why: str


def propose_signals(layout: Layout) -> list[Head]:
    """Where signals belong, by the club's wishes: in the direction trains run, before every junction of signalled track
    and at every border between two blocks. What leaves a junction needs none: the signal before it speaks for the block
    behind too.

    Raises:
        DrawingError: there are no blocks yet.
    """
    if not layout.blocks:
        raise DrawingError(
            "Signals stand between blocks: press “Block it” in step Detect first, or name blocks yourself."
        )
    known = signalling(layout)
    found = []
    for track_id, pieces in known.rails.pieces.items():
        runs = layout.tracks[track_id].runs
        for one, other in itertools.pairwise(pieces):
            for towards, leaves, enters in (("b", one, other), ("a", other, one)):
                if (runs == "forward" and towards == "a") or (runs == "backward" and towards == "b"):
                    continue
                head = _wanted(layout, known, track_id, towards, leaves, enters, one.end)  # type: ignore[arg-type]
                if head is not None:
                    found.append(head)
    found = _with_heads(layout, known, found)
    there = {(s.track, s.towards, round(s.at / 400)) for s in layout.signals.values()}
    return [h for h in found if not any((h.track, h.towards, round(h.at / 400) + d) in there for d in (-1, 0, 1))]


def _wanted(
    layout: Layout, known: Signalling, track: str, towards: Literal["a", "b"], leaves: Piece, enters: Piece, gap: float
) -> Head | None:
    left, entered = (known.rails.extent_of[p] for p in (leaves, enters))
    if left == entered or known.sensed[entered].device is None:
        return None
    uses = {layout.tracks[p.track].use for p in known.rails.extents[entered]}
    if not uses & SIGNALLED:
        return None
    mine = known.sensed[left]
    if mine.block is not None and mine.block == known.sensed[entered].block:
        return None
    junction = _role(layout, known, entered) == "junction"
    from_uses = {layout.tracks[p.track].use for p in known.rails.extents[left]}
    from_junction = _role(layout, known, left) == "junction" and bool(from_uses & SIGNALLED)
    if from_junction:
        return None
    at = gap - BEFORE_MM if towards == "b" else gap + BEFORE_MM
    at = min(max(at, leaves.start + 5.0), leaves.end - 5.0)
    low = not from_uses & SIGNALLED
    kind: SignalKind = "dwarf" if low else layout.brief.signalling.kind
    name = known.sensed[entered].name
    why = f"before {name}, a junction" if junction else f"where {name} begins"
    if low:
        why = f"the way out of {' and '.join(sorted(from_uses))}, {why}"
    return Head(track, round(at, 1), towards, kind, 1, why)


def _role(layout: Layout, known: Signalling, number: int) -> str | None:
    section = known.sensed[number].section
    return layout.sections[section].role if section is not None else None


def _with_heads(layout: Layout, known: Signalling, heads: list[Head]) -> list[Head]:
    """Signals that lead somewhere; with a second head where one may lead off the straight way at a turnout it faces,
    and the school says so."""
    telling = layout.brief.signalling.school == "three aspects and diverging"
    trial = {
        f"trial-{n}": Signal(name=f"trial {n}", track=h.track, at=h.at, towards=h.towards) for n, h in enumerate(heads)
    }
    with_all = layout.model_copy(update={"signals": {**layout.signals, **trial}})
    yard = Signalling(with_all, known.rails, known.ways).yard
    found = []
    for n, head in enumerate(heads):
        routes = yard.routes(f"trial-{n}")
        if not routes:
            continue
        two = telling and head.kind != "dwarf" and any(r.turns for r in routes) and len({r.turns for r in routes}) > 1
        found.append(replace(head, heads=2 if two else 1))
    return found


@dataclass(frozen=True)
class SignalPlan:
    """Signals proposed with the boards that drive them. lamps, motors: how they are shared out to driver boards."""

    heads: tuple[Head, ...]
    lamps: Packing
    motors: Packing
    turnouts: tuple[tuple[str, ...], ...]
    """Turnouts by the output they share: both ends of a crossover are one."""
    reports: Packing
    """Contacts of motors on boards of inputs."""
    buttons: int
    """Buttons of the panel given an input."""


def make_signals(layout: Layout, heads: Sequence[Head], with_turnouts: bool = True) -> tuple[Patch, SignalPlan]:
    """The change that sets these signals, and gives all signals and signalled turnouts their outputs.

    with_turnouts: also motors that report on the turnouts of signalled routes, both ends of a crossover on one output.

    Raises:
        DrawingError: nothing is left to do.
    """
    sheet = Sheet(layout)
    for head in heads:
        put_signal(sheet, head.track, head.at, head.towards, head.kind, head.heads)
    now = sheet.layout()
    lamps = _give_outputs(sheet, now)
    motors: Packing = Packing((), (), 0.0, 0.0, True)
    turnouts: tuple[tuple[str, ...], ...] = ()
    reports, buttons = motors, 0
    if with_turnouts:
        motors, turnouts = _motors(sheet, sheet.layout())
        reports, buttons = _inputs(sheet, sheet.layout())
    patch = sheet.patch()
    if not patch:
        raise DrawingError("Every signal that the blocks want is there, with its outputs.")
    return patch, SignalPlan(tuple(heads), lamps, motors, turnouts, reports, buttons)


def _give_outputs(sheet: Sheet, layout: Layout) -> Packing:
    """Outputs for every signal that has none, on boards near them."""
    wanting = sorted(
        (i for i, s in layout.signals.items() if s.driver is None), key=lambda i: natural(layout.signals[i].name)
    )
    if not wanting:
        return Packing((), (), 0.0, 0.0, True)
    spots = [signal_point(layout, layout.signals[i]) for i in wanting]
    weights = [len(lamps_of(layout.signals[i])) for i in wanting]
    places = _thin(spots)
    outputs = max(layout.brief.signalling.outputs, *weights)
    packing = pack(wire_between(layout, spots, places), weights, outputs, 0.0)
    for members, site in zip(packing.members, packing.sites, strict=True):
        board = _driver(sheet, "lamps", places[site], outputs)
        output = 1
        for k in members:
            sheet["signals"][wanting[k]].update(driver=board, output=output)
            output += weights[k]
    return packing


def _motors(sheet: Sheet, layout: Layout) -> tuple[Packing, tuple[tuple[str, ...], ...]]:
    """Motors that report on signalled turnouts that have none, sharing an output across a crossover."""
    known = signalling(layout)
    led = {s.node for r in known.numbered for s in r.needs}
    nodes = [i for i in sorted(led, key=natural) if layout.nodes[i].kind in ("turnout", "three-way", "slip")]
    for i in nodes:
        value = sheet["nodes"][i]
        value.update(motor=value["motor"] or "stall motor", reports=True)
    wanting = [i for i in nodes if layout.nodes[i].driver is None]
    if not wanting:
        return Packing((), (), 0.0, 0.0, True), ()
    pairs = crossovers(layout)
    groups: list[tuple[str, ...]] = []
    for i in wanting:
        if any(i in g for g in groups):
            continue
        mate = next((b if a == i else a for a, b in pairs if i in (a, b)), None)
        groups.append((i, mate) if mate is not None and mate in wanting else (i,))
    spots = [(layout.nodes[g[0]].at.x, layout.nodes[g[0]].at.y) for g in groups]
    places = _thin(spots)
    packing = pack(wire_between(layout, spots, places), [1] * len(groups), MOTOR_OUTPUTS, 0.0)
    for members, site in zip(packing.members, packing.sites, strict=True):
        board = _driver(sheet, "turnouts", places[site], MOTOR_OUTPUTS)
        for output, k in enumerate(members, start=1):
            for node in groups[k]:
                sheet["nodes"][node].update(driver=board, output=output)
    return packing, tuple(groups)


def _inputs(sheet: Sheet, layout: Layout) -> tuple[Packing, int]:
    """Inputs for the contact of every turnout that reports, on boards near them, and for a button to every driver
    output, on boards that stand where the panel most likely hangs: by the first source of track power."""
    wanting = [
        i for i in sorted(layout.nodes, key=natural) if layout.nodes[i].reports and not layout.nodes[i].report_board
    ]
    reports = Packing((), (), 0.0, 0.0, True)
    if wanting:
        spots = [(layout.nodes[i].at.x, layout.nodes[i].at.y) for i in wanting]
        places = _thin(spots)
        reports = pack(wire_between(layout, spots, places), [1] * len(wanting), INPUTS, 0.0)
        for members, site in zip(reports.members, reports.sites, strict=True):
            board = _driver(sheet, "buttons", places[site], INPUTS)
            for number, k in enumerate(members, start=1):
                sheet["nodes"][wanting[k]].update(report_board=board, report_input=number)
    thrown: dict[tuple[str, int], list[str]] = defaultdict(list)
    for i, node in layout.nodes.items():
        if node.driver is not None and node.output is not None and node.button_board is None:
            thrown[node.driver, node.output].append(i)
    source = next((d for d in layout.devices.values() if d.kind in ("station", "booster")), None)
    at = (source.at.x + 150.0, source.at.y + 150.0) if source is not None else (0.0, 0.0)
    buttons = sorted(thrown.values(), key=lambda nodes: natural(min(layout.nodes[i].name or i for i in nodes)))
    for n in range(0, len(buttons), INPUTS):
        board = _driver(sheet, "buttons", (at[0] + 30.0 * n / INPUTS, at[1]), INPUTS)
        for number, nodes in enumerate(buttons[n : n + INPUTS], start=1):
            for i in nodes:
                sheet["nodes"][i].update(button_board=board, button_input=number)
    return reports, len(buttons)


INPUTS = 16
"""Inputs of a board for contacts and buttons. Common practice, no source."""
MOTOR_OUTPUTS = 8
"""Outputs of a board for turnout motors. Common practice, no source."""


def crossovers(layout: Layout) -> list[tuple[str, str]]:
    """Pairs of turnouts that make a crossover."""
    return [(t.a.node, t.b.node) for i, t in layout.tracks.items() if is_crossover(layout, i)]


def _thin(spots: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    return [(round(x + 40.0), round(y + 40.0)) for x, y in thinned(spots, max(MOST_PLACES, len(spots) // 2))]


def _driver(sheet: Sheet, drives: str, place: tuple[float, float], outputs: int) -> str:
    """A new driver board, its addresses following on the last. Answers its id."""
    address = max((d["address"] + d["outputs"] for d in sheet["drivers"].values()), default=1)
    supply = next((i for i, c in sheet["circuits"].items() if c["purpose"] == "accessory"), None)
    number = 1 + len(sheet["drivers"])
    value: dict[str, Any] = {
        "name": f"{'Inputs' if drives == 'buttons' else 'Driver'} {number}",
        "drives": drives,
        "at": {"x": float(place[0]), "y": float(place[1])},
        "outputs": outputs,
        "address": address,
        "supply": supply,
    }
    return sheet.add("drivers", "DR", value)
