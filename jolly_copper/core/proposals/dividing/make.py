"""A division made: gaps, districts with their breakers, boosters, sections, buses and feeders. One undoable change."""

from __future__ import annotations

import math
from collections import Counter

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.whereabouts import extent_circuits
from jolly_copper.core.drawing.copper import add_circuit, cut_gap
from jolly_copper.core.drawing.moving import Erased, erase
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.layout.document import REVERSERS, Layout
from jolly_copper.core.layout.power_tree import SOURCES, grow_tree
from jolly_copper.core.materials.copper import in_units
from jolly_copper.core.proposals.dividing.choose import Division, Wish
from jolly_copper.core.proposals.laying.corridors import map_ground
from jolly_copper.core.proposals.laying.feeding import RailPoint, every_of, fresh_places, lay_circuit, sweep, usual_wire
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.pieces import Piece, map_rails
from jolly_copper.core.rails.zones import circuit_of_feeder

OWN = REVERSERS | {"detector"}
LONG_RUN_MM = 9144.0
"""30 ft: beyond it a bus is laid in 12 AWG, up to it in 14. Common practice, no source; step Wire sizes it."""
FROM_CUT_MM = 400.0
SOURCES_APART_MM = 1900.0


def make_division(layout: Layout, division: Division, wish: Wish | None = None) -> Patch:
    """The change that makes a division.

    Gaps that are there are used; a district that goes on keeps its circuit, its breaker and, where all its feeders are
    on it already, its wires. Others get a breaker beside their booster and a bus laid along the track; feeders move to
    its terminals, track without a feeder gets some. Reversers hang under the district round them. Wires that
    feed nothing any more are taken away. Trains of scenes that roamed what was divided roam all its parts.
    """
    return _Making(layout, division, wish or Wish()).patch()


class _Making:
    def __init__(self, layout: Layout, division: Division, wish: Wish) -> None:
        self.before, self.division, self.wish = layout, division, wish
        self.sheet = Sheet(layout)
        self.owner = {n: k for k, d in enumerate(division.districts) for n in d.stretches}
        self.old_rails = map_rails(layout)
        self.old_circuits = extent_circuits(layout, self.old_rails)
        self.ground = map_ground(layout)

    def patch(self) -> Patch:
        for edge in self.division.cuts:
            self._cut(edge.track, edge.at)
        boosters = self._boosters()
        circuits = self._circuits(boosters)
        self.rails = map_rails(self.sheet.layout())
        self._sections(circuits)
        self._reversers(circuits)
        self._wires(circuits)
        self._scenes()
        sweep(self.sheet)
        return self.sheet.patch()

    def _cut(self, track: str, at: float) -> None:
        try:
            cut_gap(self.sheet, track, at, "both")
        except DrawingError:
            return  # it is there

    def _boosters(self) -> list[str]:
        """The circuit each booster feeds."""
        sheet, found = self.sheet, []
        known = [d for d in sheet["devices"].values() if d["kind"] in SOURCES]
        at = known[0]["at"] if known else self._middle()
        for number, booster in enumerate(self.division.boosters):
            if booster.device is not None:
                found.append(sheet["devices"][booster.device]["output"])
                continue
            circuit = add_circuit(sheet, booster.name)
            amps = self.wish.booster_amps
            sheet.add(
                "devices",
                "booster",
                {
                    "kind": "booster",
                    "name": booster.name,
                    "at": {"x": round(at["x"] + SOURCES_APART_MM * number, 1), "y": round(at["y"], 1)},
                    "input": None,
                    "output": circuit,
                    "label_amps": amps,
                    "limit_amps": round(1.6 * amps, 1),
                    "trip_amps": amps,
                    "trip_seconds": 0.25,
                    "ohms": 0.025,
                    "reference": self.before.brief.rules.reference_wire,
                },
            )
            found.append(circuit)
        if len(found) > 1 and self.before.brief.rules.reference_wire:
            for device in sheet["devices"].values():
                if device["output"] in found:
                    device["reference"] = True
        return found

    def _middle(self) -> dict[str, float]:
        nodes = [n["at"] for n in self.sheet["nodes"].values()] or [{"x": 0.0, "y": 0.0}]
        return {"x": sum(n["x"] for n in nodes) / len(nodes), "y": sum(n["y"] for n in nodes) / len(nodes)}

    def _circuits(self, boosters: list[str]) -> list[str]:
        """The circuit of each district, with its breaker beside its booster."""
        sheet, found, beside = self.sheet, [], Counter[str]()
        for district in self.division.districts:
            above = boosters[district.booster]
            source = next(d for d in sheet["devices"].values() if d["output"] == above)
            beside[above] += 1
            if district.kept is not None:
                device = next(d for d in sheet["devices"].values() if d["output"] == district.kept)
                most = self.before.brief.rules.breaker_below_booster * (source.get("trip_amps") or math.inf)
                if not district.worst <= (device.get("trip_amps") or 0) <= most + 1e-9:
                    device["trip_amps"] = district.trip
                if device["input"] != above:
                    device["input"] = above
                    for run in [
                        i
                        for i, r in sheet["runs"].items()
                        if r["ends_at_device"] and sheet["devices"][r["ends_at_device"]] is device
                    ]:
                        erase(sheet, [Erased(kind="run", id=run)])
                found.append(district.kept)
                continue
            circuit = add_circuit(sheet, district.name)
            sheet.add(
                "devices",
                "K",
                {
                    "kind": "breaker",
                    "name": f"Breaker {district.name}"[:80],
                    "input": above,
                    "output": circuit,
                    "label_amps": district.trip,
                    "at": {
                        "x": round(source["at"]["x"] + 180 * (beside[above] - 1) - 180, 1),
                        "y": round(source["at"]["y"] + 260, 1),
                    },
                    "trip_amps": district.trip,
                    "trip_seconds": 0.05,
                    "ohms": 0.03,
                },
            )
            found.append(circuit)
        return found

    def _district_at(self, piece: Piece) -> int | None:
        """The district a piece of the cut layout is in."""
        middle = (piece.start + piece.end) / 2
        for stretch in self.division.plan.stretches:
            if any(t == piece.track and start - 1 <= middle <= end + 1 for t, start, end in stretch.pieces):
                return self.owner.get(stretch.number)
        return None

    def _stays(self, circuit: str | None) -> bool:
        """Whether track of this circuit keeps it: behind a reverser or a detector it hangs under the district, as it
        is."""
        device = grow_tree(self.before).fed_by.get(circuit or "")
        return device is not None and self.before.devices[device].kind in OWN

    def _sections(self, circuits: list[str]) -> None:
        """Every stretch between gaps belongs to its district, by the section that is there or a new one."""
        rails, sheet = self.rails, self.sheet
        self.circuit_of: dict[int, str] = {}
        for number, extent in enumerate(rails.extents):
            widest = max(extent, key=lambda p: (p.end - p.start, p.track))
            old = self.old_circuits[
                self.old_rails.extent_of[self.old_rails.piece_at(widest.track, (widest.start + widest.end) / 2)]
            ]
            district = self._district_at(widest)
            if district is None:
                continue
            circuit = old if self._stays(old) and old is not None else circuits[district]
            self.circuit_of[number] = circuit
            anchors = rails.sections_in[number]
            for i in anchors:
                sheet["sections"][i]["circuit"] = circuit
            if not anchors and sum(p.end - p.start for p in extent) >= SHORTEST_STAND_MM:
                name = self.division.districts[district].name
                taken = {s["name"] for s in sheet["sections"].values()}
                if name in taken:
                    name = f"{name}, {self.before.tracks[widest.track].name}"
                sheet.add(
                    "sections",
                    "section-",
                    {
                        "name": name[:80],
                        "track": widest.track,
                        "at": round((widest.start + widest.end) / 2, 1),
                        "circuit": circuit,
                        "longest": None,
                    },
                )

    def _reversers(self, circuits: list[str]) -> None:
        """Each reverser and detector hangs under the district its track lies in."""
        layout = self.before
        feeds = {d.output: i for i, d in layout.devices.items()}
        for number, circuit in self.circuit_of.items():
            if not self._stays(circuit):
                continue
            device = feeds[circuit]
            while (above := layout.devices[device].input) is not None and self._stays(above):
                device = feeds[above]
            middle = max(self.rails.extents[number], key=lambda p: (p.end - p.start, p.track))
            district = self._district_at(middle)
            if district is None or self.sheet["devices"][device]["input"] == circuits[district]:
                continue
            self.sheet["devices"][device]["input"] = circuits[district]
            for run in [r for r, v in self.sheet["runs"].items() if v["ends_at_device"] == device]:
                erase(self.sheet, [Erased(kind="run", id=run)])

    def _wires(self, circuits: list[str]) -> None:
        """Feeders tied to their district, over a bus laid for it where it has none that serves them all."""
        layout = self.sheet.layout()
        now = {i: circuit_of_feeder(layout, i) for i in layout.feeders}
        fed: dict[int, list[str]] = {}
        for i, feeder in layout.feeders.items():
            fed.setdefault(self.rails.extent_of[self.rails.piece_at(feeder.track, feeder.at)], []).append(i)
        lengths = dict(zip(circuits, (d.length for d in self.division.districts), strict=True))
        for circuit in dict.fromkeys([*circuits, *self.circuit_of.values()]):
            mine = [n for n, c in self.circuit_of.items() if c == circuit]
            moving = [f for n in mine for f in fed.get(n, ())]
            bare = [n for n in mine if not fed.get(n)]
            onwards = [
                i
                for i, d in layout.devices.items()
                if d.input == circuit
                and d.kind != "breaker"
                and not any(r.ends_at_device == i for r in layout.runs.values())
            ]
            fresh = fresh_places(layout, self.rails, bare) + self._beside_cuts(layout, mine, bare)
            served = any(r.circuit == circuit for r in layout.runs.values())
            if served and not fresh and not onwards and all(now[f] == circuit for f in moving):
                continue
            gauge = in_units("12 AWG" if lengths.get(circuit, 0.0) > LONG_RUN_MM else "14 AWG", self.before.brief.units)
            lay_circuit(
                self.sheet, layout, self.rails, circuit, moving, fresh, onwards, usual_wire(layout, gauge), self.ground
            )

    def _beside_cuts(self, layout: Layout, mine: list[int], bare: list[int]) -> list[RailPoint]:
        """Feeders for track that a fresh cut left far from one."""
        found = []
        for edge in self.division.cuts:
            if edge.gaps:
                continue
            for piece in self.rails.pieces[edge.track]:
                number = self.rails.extent_of[piece]
                ends_here = abs(piece.start - edge.at) < 1 or abs(piece.end - edge.at) < 1
                if not ends_here or number not in mine or number in bare:
                    continue
                reach = every_of(layout, edge.track) / 2
                if self._to_feeder(layout, piece, edge.at) > reach:
                    inward = 1 if abs(piece.start - edge.at) < 1 else -1
                    found.append(
                        RailPoint(
                            edge.track, round(edge.at + inward * min(FROM_CUT_MM, (piece.end - piece.start) / 2), 1)
                        )
                    )
        return found

    def _to_feeder(self, layout: Layout, piece: Piece, cut: float) -> float:
        """How far along the rails the nearest feeder is from a cut at one end of a piece, over one node at most, mm."""
        far = [
            abs(f.at - cut)
            for f in layout.feeders.values()
            if f.track == piece.track and piece.start <= f.at <= piece.end
        ]
        length, whole = piece.end - piece.start, self.rails.lengths[piece.track]
        inner = "b" if abs(piece.start - cut) < 1 else "a"
        if (inner == "b" and abs(piece.end - whole) < 1) or (inner == "a" and piece.start < 1):
            node = getattr(layout.tracks[piece.track], inner).node
            for f in layout.feeders.values():
                track = layout.tracks[f.track]
                for end in ("a", "b"):
                    if f.track != piece.track and getattr(track, end).node == node:
                        far.append(length + (f.at if end == "a" else self.rails.lengths[f.track] - f.at))
        return min(far, default=math.inf)

    def _scenes(self) -> None:
        """Trains that roamed a circuit whose track was shared out roam every circuit that track has now."""
        tree = grow_tree(self.before)
        rails = self.rails
        for scene in self.sheet["scenes"].values():
            for placed in scene["placements"]:
                named = frozenset(placed["circuits"])
                if not named:
                    continue
                uses = frozenset(placed["uses"])
                now: dict[str, None] = {}
                for number, circuit in self.circuit_of.items():
                    extent = rails.extents[number]
                    middle = max(extent, key=lambda p: (p.end - p.start, p.track))
                    old = self.old_circuits[
                        self.old_rails.extent_of[self.old_rails.piece_at(middle.track, (middle.start + middle.end) / 2)]
                    ]
                    used = not uses or any(self.before.tracks[p.track].use in uses for p in extent)
                    if old is not None and tree.within(old, named) and used and not self._stays(circuit):
                        now[circuit] = None
                if now:
                    placed["circuits"] = list(now)
