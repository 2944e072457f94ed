"""Everything to buy or take from the shelf: wire by spool, connectors and the rest by count, with prices the club typed
in."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from jolly_copper.core.layout.control import rails_in
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials.copper import area_mm2
from jolly_copper.core.quantities import read_gauge
from jolly_copper.core.travel.couplings import held_by
from jolly_copper.core.wirebook.consumables import consumables
from jolly_copper.core.wirebook.control_parts import control_parts
from jolly_copper.core.wirebook.cutting import CuttingPlan, cut_spools
from jolly_copper.core.wirebook.joints import Joint, plug_pins
from jolly_copper.core.wirebook.piece import Piece, is_before_plug

WireKind = tuple[str, str, str]
"""Gauge, make and colour: what one spool holds."""


@dataclass(frozen=True)
class WireNeed:
    """Wire of one gauge, make and colour. needed, spool: mm. cost: of the new spools, None where no price is typed.
    pieces: positions in the list of pieces they were counted from."""

    gauge: str
    strands: str
    colour: str
    needed: float
    spool: float
    plan: CuttingPlan
    pieces: tuple[int, ...]
    cost: float | None


@dataclass(frozen=True)
class Item:
    """Something bought by the piece. key: what its price is kept under in the layout."""

    key: str
    name: str
    count: int
    reason: str
    price: float | None

    @property
    def cost(self) -> float | None:
        return None if self.price is None else self.price * self.count


def wire_needs(layout: Layout, wires: Sequence[Piece]) -> list[WireNeed]:
    """What wire to buy, and how it is cut: for every gauge, make and colour."""
    rules = layout.brief.rules
    spool = rules.spool_imperial if layout.brief.units == "imperial" else rules.spool_metric
    by_kind: dict[WireKind, list[int]] = defaultdict(list)
    for n, piece in enumerate(wires):
        for colour in piece.colours:
            by_kind[piece.gauge, piece.strands, colour].append(n)
    owned = _on_hand(layout, list(by_kind))
    found = []
    for kind in sorted(by_kind, key=lambda k: (read_gauge(k[0]).system, -area_mm2(read_gauge(k[0])), k[1], k[2])):
        gauge, strands, colour = kind
        mine = by_kind[kind]
        plan = cut_spools([wires[n].cut for n in mine], spool, owned[kind])
        price = next(
            (
                s.price
                for s in layout.spools.values()
                if s.gauge == gauge and s.strands == strands and s.price is not None
            ),
            None,
        )
        bought = plan.new_spools * spool + sum(wires[mine[k]].cut for k in plan.too_long)
        cost = None if price is None else bought / 1000 * price
        found.append(WireNeed(gauge, strands, colour, sum(wires[n].cut for n in mine), spool, plan, tuple(mine), cost))
    return found


def _on_hand(layout: Layout, kinds: list[WireKind]) -> dict[WireKind, list[float]]:
    """Spools on hand by what they may serve; one without a colour goes to the first colour of its gauge in order of
    name."""
    found: dict[WireKind, list[float]] = {k: [] for k in kinds}
    for spool in layout.spools.values():
        if spool.on_hand <= 0:
            continue
        serves = sorted(k for k in kinds if k[:2] == (spool.gauge, spool.strands) and spool.colour in (None, k[2]))
        if serves:
            found[min(serves, key=lambda k: len(found[k]))].append(spool.on_hand)
    return found


def items(layout: Layout, wires: Sequence[Piece], tied: Sequence[Joint]) -> list[Item]:
    """Connectors, devices and small things, counted from the plan."""
    counts: Counter[str] = Counter()
    ferrules: Counter[str] = Counter()
    strips: Counter[int] = Counter()
    combs: Counter[int] = Counter()
    for joint in tied:
        seats = len(joint.seats)
        if joint.kind == "screw strip":
            made = joint.built
            if made.hub == "distribution board":
                counts["distribution-board"] += 1
            else:
                strips[made.positions] += made.strips
                combs[made.places] += made.combs
            for seat in joint.seats:
                piece = next((p for p in wires if p.key == seat.key), None)
                if piece is not None and piece.strands == "stranded":
                    ferrules[piece.gauge] += len(seat.colours)
        elif joint.kind == "lever":
            counts["lever"] += max(len(s.colours) for s in joint.seats) * max(1, math.ceil(seats / 5))
        elif joint.kind == "tap":
            counts["tap"] += sum(len(s.colours) for s in joint.seats if s.key.startswith("feeder"))
    coupled = held_by(layout)
    counts["plug"] = sum(f"plug:{p.plug}" not in coupled for p in plug_pins(layout))
    counts["filter"] = sum(r.filter is not None for r in layout.runs.values())
    counts["insulated-joiner"] = sum(rails_in(g) for g in layout.gaps.values() if g.made == "insulated joiner") + 2 * (
        len(layout.braking) + len(layout.isolated)
    )
    rows = [
        Item(key, words, counts[key], why, layout.prices.get(key))
        for key, (words, why) in COUNTED.items()
        if counts[key]
    ]
    bare = [p for p in wires if is_before_plug(p) and f"cable:{p.key}" not in coupled]
    for poles, count in sorted(Counter(len(p.colours) for p in bare).items()):
        key = f"cable-plug-{poles}"
        rows.append(
            Item(
                key, f"Plug and socket, {poles} poles", count, "cables across boards that part", layout.prices.get(key)
            )
        )
    for kind_id, count in sorted(Counter(c.kind for c in layout.couplings.values()).items()):
        kind = layout.connectors[kind_id]
        key = f"connector-{kind_id}"
        why = f"at the joints of boards that lift out; {kind.on_hand} in the drawer"
        rows.append(Item(key, f"{kind.name}, both halves", count, why, kind.price or layout.prices.get(key)))
    for positions, count in sorted(strips.items()):
        key = "screw-strip" if positions == 2 * layout.brief.rules.strip_pairs else f"screw-strip-{positions}"
        why = "each post joins only the one opposite"
        rows.append(Item(key, f"Screw terminal strip, {positions} positions", count, why, layout.prices.get(key)))
    for poles, count in sorted(combs.items()):
        key = f"comb-{poles}"
        rows.append(
            Item(key, f"Comb jumper, {poles} poles", count, "makes one conductor of a row", layout.prices.get(key))
        )
    for gauge, count in sorted(ferrules.items()):
        key = "ferrule-" + gauge.replace(" ", "-").replace("²", "2").replace("/", "-")
        rows.append(Item(key, f"Ferrule, {gauge}", count, "stranded wire under a screw", layout.prices.get(key)))
    # A channel is not bought by itself: its board is.
    devices = [d for d in layout.devices.values() if d.board is None]
    for what, count in sorted(Counter(d.kind for d in devices).items()):
        key = "device-" + what.replace(" ", "-")
        names = ", ".join(d.name for d in devices if d.kind == what)
        rows.append(Item(key, what.capitalize(), count, names, layout.prices.get(key)))
    rows += [
        Item(key, words, count, reason, layout.prices.get(key)) for key, words, count, reason in control_parts(layout)
    ]
    rows += [
        Item(key, words, count, reason, layout.prices.get(key))
        for key, words, count, reason in consumables(layout, wires, tied)
    ]
    return rows


COUNTED = {
    "distribution-board": ("Distribution board", "its rows are joined already"),
    "lever": ("Lever connector, five places", "one for each wire"),
    "tap": ("Tap on insulated wire", "one for each wire of a feeder"),
    "plug": ("Two-pole plug and socket", "where runs cross onto boards that part"),
    "filter": ("Filter: resistor and capacitor", "across the far end of a bus"),
    "insulated-joiner": ("Insulated rail joiner", "one for each rail cut"),
}
