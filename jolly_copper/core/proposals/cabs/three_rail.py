"""Three-rail track given to transformers: centre gaps and an output for each loop; an isolated rail for an
accessory."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.drawing.copper import cut_gap
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.findings.three_rail import wanted_length
from jolly_copper.core.layout.control import control_given, has_three_rails
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.stretches import IsolatedRail
from jolly_copper.core.quantities import print_length
from jolly_copper.core.rails.dead import SHORTEST_STAND_MM
from jolly_copper.core.rails.pieces import map_rails

CLEAR_MM = 150.0
APART_USES = frozenset({"yard", "staging", "engine terminal", "industry"})
"""Track of these uses is parted from the line it leaves: engines stand there with the throttle down."""


@dataclass(frozen=True)
class Loops:
    """Stretches between centre gaps with the output each is given, in words; gaps: how many are new."""

    given: tuple[tuple[str, float, str], ...]
    gaps: int
    patch: Patch


def throttle_to_loop(layout: Layout) -> Loops:
    """A transformer output for each loop and each yard: centre rails cut between them, outers run through.

    The longest stretches get an output of their own first; what is left shares with the one it leaves.

    Raises:
        DrawingError: no three-rail track, or no transformer output.
    """
    outputs = [d.output for d in layout.devices.values() if d.kind in SOURCES and control_given(layout, d) == "ac3"]
    mine = {i for i, t in layout.tracks.items() if has_three_rails(layout, t)}
    if not mine:
        raise DrawingError("There is no three-rail track; say of a track that it has three rails, or in the brief.")
    if not outputs:
        raise DrawingError("There is no transformer yet: place one for each throttle (step Zones).")
    sheet = Sheet(layout)
    new = 0
    for track, at in _cuts(layout, mine):
        near = [g for g in layout.gaps.values() if g.track == track and abs(g.at - at) < 2 * CLEAR_MM]
        if not any(g.rails in ("centre", "all", "both") for g in near):
            cut_gap(sheet, track, at, "centre")
            new += 1
    now = sheet.layout()
    rails = map_rails(now)
    stretches = [
        (sum(p.end - p.start for p in extent), number, extent)
        for number, extent in enumerate(rails.extents)
        if all(p.track in mine for p in extent)
    ]
    stretches = sorted((s for s in stretches if s[0] >= SHORTEST_STAND_MM), reverse=True)
    given: list[tuple[str, float, str]] = []
    for k, (length, number, extent) in enumerate(stretches):
        circuit = outputs[min(k, len(outputs) - 1)]
        widest = max(extent, key=lambda p: (p.end - p.start, p.track))
        name = now.tracks[widest.track].name
        anchors = rails.sections_in[number]
        if anchors:
            sheet["sections"][anchors[0]]["circuit"] = circuit
            for other in anchors[1:]:
                del sheet["sections"][other]
        else:
            at = round((widest.start + widest.end) / 2, 1)
            sheet.add(
                "sections",
                "section-",
                {"name": name, "track": widest.track, "at": at, "circuit": circuit, "longest": None},
            )
        given.append((name, length, layout.circuits[circuit].name))
    return Loops(tuple(given), new, sheet.patch())


def _cuts(layout: Layout, mine: set[str]) -> list[tuple[str, float]]:
    """Middles of crossovers, and where a yard leaves the line."""
    found = []
    rails = map_rails(layout)
    uses: dict[str, set[str]] = {}
    for i in mine:
        for port in (layout.tracks[i].a, layout.tracks[i].b):
            uses.setdefault(port.node, set()).add(layout.tracks[i].use)
    for i in sorted(mine):
        track, length = layout.tracks[i], rails.lengths[i]
        ends = [(layout.nodes[p.node].kind, p.port, p.node) for p in (track.a, track.b)]
        if all(kind == "turnout" and way == "diverging" for kind, way, _ in ends):
            found.append((i, round(length / 2, 1)))
            continue
        if track.use not in APART_USES:
            continue
        for (kind, way, node), at in zip(ends, (CLEAR_MM, length - CLEAR_MM), strict=True):
            line = uses[node] - APART_USES
            if kind == "turnout" and way == "diverging" and line and length > 2 * CLEAR_MM + 40:
                found.append((i, round(at, 1)))
    return found


@dataclass(frozen=True)
class Isolated:
    """rail: id of the new isolated rail. length: mm, and why it is so long."""

    rail: str
    length: float
    why: str
    patch: Patch


def isolate_rail(facts: Facts, track: str, at: float, works: str, seconds: float | None = None) -> Isolated:
    """Isolate an outer rail round a place, so that wheels there work an accessory.

    Args:
        facts: of the layout.
        track, at: the middle of it, mm from the track's A end; with a warning time, what it works stands at its end.
        works: what it works, in words.
        seconds: how long before the train it should begin.

    Raises:
        DrawingError: two-rail track, no room between gaps and turnouts, or another one lies there.
    """
    layout, units = facts.layout, facts.layout.brief.units
    if track not in layout.tracks:
        raise DrawingError(f"There is no track {track}; somebody may have removed it.")
    name = layout.tracks[track].name
    if not has_three_rails(layout, layout.tracks[track]):
        raise DrawingError(f"{name} has two rails, and both carry power: an isolated rail wants three-rail track.")
    draft = IsolatedRail(name=works, track=track, at=0, length=1, outer="left", works=works, seconds=seconds)
    length, why = wanted_length(facts, draft)
    length = float(round(length * 1.05 + 10.0))
    piece = facts.rails.piece_at(track, at)
    low, high = piece.start + CLEAR_MM / 2, piece.end - CLEAR_MM / 2
    if high - low < length:
        raise DrawingError(
            f"{name} has {print_length(max(high - low, 0.0), units)} clear of turnouts and gaps there; {works} wants "
            f"{print_length(length, units)}: {why}."
        )
    start = min(max(at - length / 2, low), high - length)
    for other in layout.isolated.values():
        if other.track == track and other.start < start + length and start < other.end:
            raise DrawingError(f"{other.name} lies there already, on {name}.")
    sheet = Sheet(layout)
    rail = next_id(layout.isolated, "IR")
    sheet["isolated"][rail] = {
        "name": f"{works}, isolated rail",
        "track": track,
        "at": round(start, 1),
        "length": round(length, 1),
        "outer": "right",
        "works": works,
        "seconds": seconds,
    }
    sheet["tracks"][track]["outers"] = "apart"
    return Isolated(rail, length, why, sheet.patch())
