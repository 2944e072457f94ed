"""Reversing sections that are not cut off: told one fault after another, each mended on paper before the next is looked
for."""

from __future__ import annotations

import itertools
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from typing import Any

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import nearest_terminal_to, point_on_track
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.findings.reversing import near_gap
from jolly_copper.core.layout.document import Gap, Layout
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.pieces import Piece, map_rails, opposite
from jolly_copper.core.rails.topology import Topology, map_topology
from jolly_copper.core.rails.zones import Zone, circuit_of_feeder

MOST_FAULTS = 24
MOST_SPOTS = 24
BARE_MM = 120.0
"""A gap is offered on bare track of this length or more."""


@rule("reversing section not cut off", "reverse")
def not_cut_off(facts: Facts) -> Iterator[Finding]:
    """A reverser's section that other feeders reach: a one-rail gap, a forgotten gap pair, or a stray feeder."""
    layout, topology = facts.layout, facts.topology
    for _ in range(MOST_FAULTS):
        zone = next((z for z in topology.zones.zones if topology.is_mixed(z)), None)
        if zone is None:
            return
        found, layout = _one_fault(facts, layout, topology, zone)
        yield from found
        topology = map_topology(layout, map_rails(layout))


def _with(layout: Layout, gaps: Mapping[str, Gap]) -> Layout:
    return layout.model_copy(update={"gaps": {**layout.gaps, **gaps}})


def _topology(layout: Layout) -> Topology:
    return map_topology(layout, map_rails(layout))


def _badness(topology: Topology) -> int:
    """How many sources too many stand on zones with a reverser's feeders, all together."""
    return sum(len(z.roots) - 1 for z in topology.zones.zones if topology.is_mixed(z))


def _one_fault(facts: Facts, layout: Layout, topology: Topology, zone: Zone) -> tuple[list[Finding], Layout]:
    """One fault of a mixed zone, or several that only together mend it; and the layout with them mended."""
    half = _completed(layout, topology, zone)
    if half:
        whole = {g: layout.gaps[g].model_copy(update={"rails": "both"}) for g in half}
        return [_one_rail_only(facts, g) for g in half], _with(layout, whole)
    own = topology.zones.borders_of.get(zone.number, ())
    round_the_back = any(topology.zones.zone_of[b.before] == topology.zones.zone_of[b.after] for b in own)
    turned = sorted(r for r in zone.roots if r in topology.sources.reverses)
    elsewhere = {next(iter(z.roots)) for z in topology.zones.zones if z.number != zone.number and len(z.roots) == 1}
    lost = [r for r in turned if r not in elsewhere]
    if lost and (zone.odd or round_the_back or not own):
        return _missing_pair(facts, layout, topology, zone, lost[0])
    return _strays(facts, layout, topology, zone)


def _completed(layout: Layout, topology: Topology, zone: Zone) -> list[str]:
    """The one-rail gaps of a zone that, cut through, set it right or make it better: the fewest of them."""
    full = {g for b in topology.zones.borders for g in b.gaps}
    half = sorted(
        g
        for g, gap in layout.gaps.items()
        if gap.rails != "both"
        and g not in full
        and topology.zones.zone_of[topology.rails.piece_at(gap.track, gap.at)] == zone.number
    )
    before = _badness(topology)

    def better(chosen: Iterable[str]) -> bool:
        whole = {g: layout.gaps[g].model_copy(update={"rails": "both"}) for g in chosen}
        return _badness(_topology(_with(layout, whole))) < before

    for gap in half:
        if better([gap]):
            return [gap]
    if len(half) < 2 or not better(half):
        return []
    kept = list(half)
    for gap in half:  # leave out those that are not needed
        rest = [g for g in kept if g != gap]
        if rest and better(rest):
            kept = rest
    return kept


def _one_rail_only(facts: Facts, gap_id: str) -> Finding:
    gap = facts.layout.gaps[gap_id]
    other = opposite("left" if gap.rails == "left" else "right")
    return Finding(
        key=f"one-rail:{gap_id}",
        rule="reversing section not cut off",
        severity="must",
        title=f"Gap {gap_id} cuts only the {gap.rails} rail; the {other} one joins the reverser to the plain bus",
        why=f"A reverser must turn both rails. On {near_gap(facts.layout, gap.track, gap.at)} the {other} rail runs "
        f"on, so it cannot.",
        mend="Cut the other rail at the same place.",
        place=Place("gap", gap_id, gap.track, gap.at),
        shows=(gap_id, gap.track),
        figures=(("rails cut", "1 of 2"),),
        mends=(
            Mend(f"Cut both rails at {gap_id}", [{"op": "replace", "path": f"/gaps/{gap_id}/rails", "value": "both"}]),
        ),
    )


def _missing_pair(
    facts: Facts, layout: Layout, topology: Topology, zone: Zone, root: str
) -> tuple[list[Finding], Layout]:
    """A reverser's section that runs on into other track: where a pair of gaps would part it."""

    def comes_from(feeder: str) -> str:
        return topology.sources.root[circuit_of_feeder(layout, feeder)]

    mine = sorted(f for f in zone.votes if comes_from(f) == root)
    other = sorted(f for f in zone.votes if comes_from(f) != root)
    spot, foreign = layout.feeders[mine[0]], layout.feeders[other[0]]
    number = next_id(facts.layout.gaps, "G")
    gap = _place_for_pair(layout, topology, zone, root)
    device = next((d.name for d in layout.devices.values() if d.output == root), "its reverser")
    words = "Gap both rails at the section's other end as well, or move its feeders; step Reverse offers places."
    mend: Mend | None = None
    if gap is not None:
        name, units = layout.tracks[gap.track].name, layout.brief.units
        words = f"Gap both rails on {name}, {print_length(gap.at, units)} from its A end."
        patch: Patch = [{"op": "add", "path": f"/gaps/{number}", "value": gap.model_dump(mode="json")}]
        mend = Mend(f"Gap both rails of {name}", patch)
        after = _with(layout, {next_id(layout.gaps, "G"): gap})
    else:
        after = layout.model_copy(update={"feeders": {f: v for f, v in layout.feeders.items() if f not in mine}})
    finding = Finding(
        key=f"missing-pair:{root}",
        rule="reversing section not cut off",
        severity="must",
        title=f"{layout.tracks[spot.track].name} is fed by {device} and, round the back, by "
        f"{_bus(layout, topology, other[0])}: a pair of gaps is missing",
        why=f"{spot.label} and {foreign.label} stand on the same rails without a full gap between them, so the unit "
        f"cannot turn one without the other.",
        mend=words,
        place=Place("track", spot.track, spot.track, spot.at),
        shows=tuple(dict.fromkeys((spot.track, foreign.track))),
        figures=(("pairs of gaps found", str(len(topology.zones.borders_of.get(zone.number, ())))),),
        mends=(mend,) if mend else (),
    )
    return [finding], after


def _bus(layout: Layout, topology: Topology, feeder: str) -> str:
    circuit = circuit_of_feeder(layout, feeder)
    turned = topology.sources.root[circuit] in topology.sources.reverses
    return layout.circuits[circuit].name if turned else "the plain bus"


def _place_for_pair(layout: Layout, topology: Topology, zone: Zone, root: str) -> Gap | None:
    """A full gap that parts a reverser's feeders from the others, tried on the longest bare stretches first."""
    spots: list[tuple[float, Piece, float]] = []
    for piece in zone.pieces:
        on = sorted(f.at for f in layout.feeders.values() if topology.rails.piece_at(f.track, f.at) == piece)
        marks = [piece.start, *on, piece.end]
        for a, b in itertools.pairwise(marks):
            if b - a > BARE_MM:
                spots.append((b - a, piece, (a + b) / 2))
    number = next_id(layout.gaps, "G")
    before = _badness(topology)
    for _, piece, at in sorted(spots, key=lambda s: (-s[0], s[1]))[:MOST_SPOTS]:
        gap = Gap(track=piece.track, at=round(at, 1))
        after = _topology(_with(layout, {number: gap}))
        parted = all(z.roots == {root} for z in after.zones.zones if root in z.roots)
        if parted and _badness(after) < before:
            return gap
    return None


def _strays(facts: Facts, layout: Layout, topology: Topology, zone: Zone) -> tuple[list[Finding], Layout]:
    root_of = {f: topology.sources.root[circuit_of_feeder(layout, f)] for f in sorted(zone.votes)}
    counts = Counter(root_of.values())
    anchored = [topology.sources.root[c] for c in topology.anchored(zone)]
    home = max(sorted(counts), key=lambda r: (counts[r], r in anchored))
    found: list[Finding] = []
    moved: dict[str, Any] = dict(layout.feeders)
    for feeder_id, root in root_of.items():
        if root == home:
            continue
        feeder = layout.feeders[feeder_id]
        circuit = next(circuit_of_feeder(layout, f) for f, r in root_of.items() if r == home)
        terminal = nearest_terminal_to(layout, circuit, point_on_track(layout, feeder.track, feeder.at))
        if terminal is None:
            moved.pop(feeder_id)
        else:
            moved[feeder_id] = feeder.model_copy(update={"terminal": terminal, "other": None})
        section = facts.rails.section_at(feeder.track, feeder.at)
        if section and layout.sections[section].circuit != circuit_of_feeder(layout, feeder_id):
            continue  # tied to a circuit that is not its section's: said by that rule
        own, here = layout.circuits[circuit_of_feeder(layout, feeder_id)].name, layout.circuits[circuit].name
        turned = home in topology.sources.reverses
        found.append(
            Finding(
                key=f"stray:{feeder_id}",
                rule="reversing section not cut off",
                severity="must",
                title=f"Feeder {feeder.label} on {layout.tracks[feeder.track].name} goes to {own}, everything else "
                f"here to {here}",
                why=(
                    "It holds the section to the plain bus while the reverser turns the rest: the unit trips at once."
                    if turned
                    else "It brings the reverser's output to plain track: when the unit turns over, the two meet head "
                    "on."
                ),
                mend=f"Move it to a terminal of {here}.",
                place=Place("feeder", feeder_id, feeder.track, feeder.at),
                shows=(feeder_id, feeder.track),
                figures=(("feeders here on " + here, str(counts[home])), ("on " + own, str(counts[root]))),
                mends=(
                    Mend(
                        f"Move {feeder.label} to terminal {terminal}",
                        [{"op": "replace", "path": f"/feeders/{feeder_id}/terminal", "value": terminal}],
                    ),
                )
                if terminal
                else (),
            )
        )
    return found, layout.model_copy(update={"feeders": moved})
