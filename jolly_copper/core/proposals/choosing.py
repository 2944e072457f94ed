"""Which control suits a club that has not chosen: what each wants of this very plan, what it costs, what changing
costs."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Literal

from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import track_length
from jolly_copper.core.layout.underways import cable_lengths
from jolly_copper.core.proposals.cabs.plan import CabPlan, plan_cab_blocks

Kind = Literal["DC", "digital", "DC and digital", "three-rail AC", "battery radio"]
KINDS: tuple[Kind, ...] = ("DC", "digital", "DC and digital", "three-rail AC", "battery radio")
USUAL_PRICES: dict[str, float] = {
    "wire": 0.5,
    "toggle": 4.0,
    "rotary": 9.0,
    "cab": 60.0,
    "station": 200.0,
    "handheld": 90.0,
    "decoder": 30.0,
    "sound decoder": 110.0,
    "transformer": 150.0,
    "radio set": 120.0,
    "receiver": 70.0,
    "sound receiver": 140.0,
    "reverser": 35.0,
}
"""A metre of one wire, and one of each, in the club's own money. Guesses to be put right by the club; certainty C."""
FEEDER_EVERY_MM = 2400.0
FEEDER_MM = 300.0
BUS_SHARE = 1.15
"""Bus laid against track it runs under. Certainty C."""


@dataclass(frozen=True)
class Club:
    """What a club has and wants. plain, fitted: engines owned without and with decoders. budget: in its own money."""

    trains: int = 2
    operators: int = 2
    sound: bool = False
    automation: bool = False
    plain: int = 6
    fitted: int = 0
    budget: float | None = None
    prices: dict[str, float] = field(default_factory=dict)

    def price(self, what: str) -> float:
        return self.prices.get(what, USUAL_PRICES[what])


@dataclass(frozen=True)
class Option:
    """One control for this plan. wire: mm of single wire. cost, later: money now, and to change to another one later.
    good, bad: reasons. fits: whether nothing asked for is out of its reach."""

    kind: Kind
    wire: float
    blocks: int
    switches: int
    cost: float
    later: float
    later_words: str
    good: tuple[str, ...]
    bad: tuple[str, ...]
    fits: bool


def weigh_controls(layout: Layout, club: Club) -> tuple[Option, ...]:
    """Every control with what it takes on this plan, those that fit first, then by cost.

    Wires are reckoned: pairs from a panel in the middle of the front to every block for DC; a bus under the main and a
    feeder every few metres for digital and three-rail. They are for choosing, not for buying.

    Raises:
        DrawingError: there is no track.
    """
    if not layout.tracks:
        raise DrawingError("Draw the track first: wires, blocks and cost are reckoned from this plan.")
    plan = plan_cab_blocks(_bare(layout))
    track = sum(track_length(t) for t in layout.tracks.values())
    found = [
        _direct(layout, plan, club),
        _digital(plan, track, club),
        _both(layout, plan, track, club),
        _three_rail(layout, track, club),
        _radio(club),
    ]
    return tuple(sorted(found, key=lambda o: (not o.fits, o.cost)))


def _bare(layout: Layout) -> Layout:
    """The track alone, as if nothing had been chosen."""
    tracks = {i: t.model_copy(update={"rails": 2}) for i, t in layout.tracks.items()}
    empty: dict[str, object] = {
        kind: {} for kind in ("circuits", "devices", "sections", "runs", "terminals", "feeders", "scenes", "gaps")
    }
    return layout.model_copy(update={**empty, "tracks": tracks})


def _blocks(plan: CabPlan) -> tuple[int, int]:
    parked = sum(b.parent is not None for b in plan.blocks)
    return len(plan.blocks) - parked, parked


def _home(layout: Layout, plan: CabPlan) -> float:
    """Wire from a panel at the middle of the front to the middle of every block, one way, mm."""
    spots = []
    for b in plan.blocks:
        widest = max(plan.rails.extents[b.extent], key=lambda p: (p.end - p.start, p.track))
        line = layout.tracks[widest.track].line
        share = (widest.start + widest.end) / 2 / plan.rails.lengths[widest.track]
        spots.append(line.point(share * line.length))
    if not spots:
        return 0.0
    boxes = [t.line.box for t in layout.tracks.values()]
    panel = (sum(b[0] + b[2] for b in boxes) / (2 * len(boxes)), max(b[3] for b in boxes))
    return float(sum(cable_lengths(layout, panel, spots)))


def _bus(track: float) -> float:
    """A pair under the track with its feeders, single wire, mm."""
    return 2 * (BUS_SHARE * track + math.ceil(track / FEEDER_EVERY_MM) * FEEDER_MM)


def _direct(layout: Layout, plan: CabPlan, club: Club) -> Option:
    blocks, parked = _blocks(plan)
    cabs = max(club.operators, 1)
    wire = 2 * _home(layout, plan)
    switch = club.price("toggle" if cabs <= 2 else "rotary")
    cost = wire / 1000 * club.price("wire") + blocks * switch + parked * club.price("toggle") + cabs * club.price("cab")
    good = [f"{club.plain} engine{'s' if club.plain != 1 else ''} run as they are."] if club.plain else []
    bad = []
    if club.sound:
        bad.append("No sound while a block is off or slow: lamps and sound live on track volts.")
    if club.automation:
        bad.append("Shuttles and stops want diodes and relays block by block.")
    if club.fitted:
        bad.append(f"{club.fitted} decoder engines want their decoders out, or run poorly.")
    if blocks <= club.trains:
        bad.append(f"{blocks} blocks for {club.trains} trains: none can move on.")
    good.append("Nothing to program; every part is understood by sight.")
    bad.append("Operators drive the track, not the train: switches are thrown all evening.")
    later = club.price("station") + (club.plain + club.fitted) * club.price("decoder")
    return Option(
        "DC",
        wire,
        blocks,
        blocks + parked,
        cost,
        later,
        "a station, a decoder in every engine; blocks tied together and switches left on",
        tuple(good),
        tuple(bad),
        not club.sound and not club.automation and blocks > club.trains,
    )


def _digital(plan: CabPlan, track: float, club: Club) -> Option:
    wire = _bus(track)
    handhelds = max(club.operators - 1, 0)
    kind = "sound decoder" if club.sound else "decoder"
    cost = (
        wire / 1000 * club.price("wire")
        + club.price("station")
        + handhelds * club.price("handheld")
        + club.plain * club.price(kind)
    )
    good = ["Every operator drives a train, wherever it is.", "Lamps and sound stay alive while an engine stands."]
    bad = [f"{club.plain} engines want a decoder."] if club.plain else []
    if club.automation:
        good.append("Shuttles, stops and signals work on the same two wires.")
    bad.append("A short stops everything behind its breaker: districts are wanted.")
    return Option(
        "digital",
        wire,
        1,
        0,
        cost,
        _direct_cost(plan, club),
        "blocks, gaps and switches everywhere, and decoders out",
        tuple(good),
        tuple(bad),
        True,
    )


def _direct_cost(plan: CabPlan, club: Club) -> float:
    blocks, parked = _blocks(plan)
    return (blocks + parked) * club.price("toggle") + max(club.operators, 1) * club.price("cab")


def _both(layout: Layout, plan: CabPlan, track: float, club: Club) -> Option:
    blocks, parked = _blocks(plan)
    half = _home(layout, plan) + _bus(track) / 2
    cost = (
        half / 1000 * club.price("wire")
        + math.ceil(blocks / 2) * club.price("rotary")
        + club.price("station")
        + club.price("cab")
        + math.ceil(club.plain / 2) * club.price("decoder")
    )
    bad = (
        "Two lines that trains may not bridge: buffers longer than every pickup between them, with levers that part "
        "both wires.",
        "Everybody must know which is which; a DC engine left on digital track heats.",
    )
    good = ("Old engines keep running, new ones drive digitally.", "It can grow: one block after the other goes over.")
    return Option(
        "DC and digital",
        half,
        math.ceil(blocks / 2),
        math.ceil(blocks / 2) + parked,
        cost,
        math.floor(club.plain / 2) * club.price("decoder"),
        "the rest of the decoders; the blocks go over one by one",
        good,
        bad,
        not (club.sound and club.plain and not club.fitted),
    )


def _three_rail(layout: Layout, track: float, club: Club) -> Option:
    wire = _bus(track)
    outputs = max(club.trains, 1)
    cost = wire / 1000 * club.price("wire") + math.ceil(outputs / 2) * club.price("transformer")
    owned = club.plain + club.fitted
    bad = ["Other track, other wheels, other engines: nothing of two rails runs on it."]
    if owned:
        bad.append(f"None of the {owned} engines owned can be kept.")
    if layout.brief.scale not in ("O", "HO", "S"):
        bad.append(f"Hardly anything is made for it in {layout.brief.scale}.")
    good = [
        "A loop or wye that comes back on itself is nothing.",
        "One throttle to a loop; sturdy, and simple to feed.",
    ]
    return Option(
        "three-rail AC",
        wire,
        outputs,
        0,
        cost,
        cost,
        "all of it: track, engines and transformers",
        tuple(good),
        tuple(bad),
        layout.brief.control == "ac3" and outputs >= club.trains,
    )


def _radio(club: Club) -> Option:
    owned = club.plain + club.fitted
    cost = club.price("radio set") * max(club.operators, 1) + owned * club.price(
        "sound receiver" if club.sound else "receiver"
    )
    return Option(
        "battery radio",
        0.0,
        0,
        0,
        cost,
        club.price("station") + owned * club.price("decoder"),
        "decoders for receivers, and all of the wiring",
        ("No wire, no gap, no dirt on the rail: track carries nothing.",),
        (
            "A battery, its charging and a receiver in every engine; in small scales there is no room for them.",
            "Detection and signals by rail want other ways.",
        ),
        not club.automation,
    )


def advice(options: tuple[Option, ...], club: Club) -> str:
    """Which one, in a sentence, with the reason; by what fits, then by cost, within the budget where there is one."""
    fitting = [o for o in options if o.fits]
    within = [o for o in fitting if club.budget is None or o.cost <= club.budget]
    if not fitting:
        return "None does all that is asked: drop a wish, or read the reasons one by one."
    if not within:
        cheapest = min(fitting, key=lambda o: o.cost)
        return f"Nothing that fits is within the budget; {cheapest.kind} comes nearest."
    best = within[0]
    second = f"; {within[1].kind} comes next" if len(within) > 1 else ""
    return f"{best.kind} does all that is asked for the least{second}. The schools' reasons stand beside each."
