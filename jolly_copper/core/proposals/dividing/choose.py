"""Choosing a division: which stretches make a district, what guards it, and which booster it hangs on."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Callable
from dataclasses import dataclass

from jolly_copper.core.circuits.budget import inrush_amps, one_stalls
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import gives
from jolly_copper.core.circuits.loads import load_amps, train_amps
from jolly_copper.core.circuits.whereabouts import LEAST_STAND_MM
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.stock import Placement, TrackUse
from jolly_copper.core.layout.words import SOURCE
from jolly_copper.core.proposals.dividing.partition import Link, best_parts, by_part, connected, neighbours
from jolly_copper.core.proposals.dividing.sharing import Asking, asked_of, share_out
from jolly_copper.core.proposals.dividing.stretches import Edge, Plan, Stretch, find_stretches

TRIPS = (1.0, 1.5, 2.0, 2.5, 3.0, 3.5, 4.0, 4.5, 5.0, 6.0, 7.0, 8.0, 10.0)
"""Trip currents breakers can usually be set to, A. Common practice, no source."""
JOINED_TO: dict[TrackUse, TrackUse] = {"siding": "main"}
"""Uses that make one district with another: a passing siding belongs to the main it passes."""
Area = list[int]
"""Numbers of stretches."""


@dataclass(frozen=True)
class Wish:
    """What a person asks of a division.

    booster_amps: rating of boosters to be bought. main_parts: parts of the main; as many as the house rule asks when
    not given. keep: districts there already stay; only what breaks a rule is divided, and as little as may be moved.
    """

    booster_amps: float = 5.0
    main_parts: int | None = None
    keep: bool = False


@dataclass(frozen=True)
class District:
    """A district of the proposal.

    kept: the circuit it keeps, with its breaker; None for a new one. trains: those of the scene that may be in it.
    worst: A if all are there at once. stalled: with one engine stalled besides. trip: A of its breaker. booster: number
    in `Division.boosters`. why: why it is a district of its own.
    """

    name: str
    use: TrackUse
    stretches: tuple[int, ...]
    length: float
    kept: str | None
    trains: tuple[str, ...]
    worst: float
    stalled: float
    trip: float
    booster: int
    why: str


@dataclass(frozen=True)
class Booster:
    """A booster of the proposal. device: one that is there; None for one to be bought. gives: A it may be asked for."""

    device: str | None
    name: str
    gives: float
    asked: float


@dataclass(frozen=True)
class Division:
    """A proposal: districts, boosters, and where to cut."""

    plan: Plan
    districts: tuple[District, ...]
    boosters: tuple[Booster, ...]
    cuts: tuple[Edge, ...]

    @property
    def too_much(self) -> tuple[Booster, ...]:
        """Boosters asked for more than they give, however it is shared."""
        return tuple(b for b in self.boosters if b.asked > b.gives + 1e-6)


Progress = Callable[[str], None]


def divide(facts: Facts, wish: Wish | None = None, progress: Progress = lambda _: None) -> Division:
    """Propose a division.

    Each use of track makes an area, the main is parted by the house rule, and short spurs go with the track they leave.
    Parts of an area are as equal in track as the places for gaps allow. Boosters are as few as the scene allows.

    Args:
        facts: the layout in the scene to plan for.
        wish: what a person asks.
        progress: told what is being worked out.

    Raises:
        DrawingError: there is no track.
    """
    wish = wish or Wish()
    layout = facts.layout
    if not layout.tracks:
        raise DrawingError("There is no track to divide yet: draw it first (step Track).")
    progress("where districts may end")
    plan = find_stretches(facts.topology)
    behind = _trains(facts, plan)
    areas = _areas(facts, plan, wish)
    groups: list[Area] = []
    for area in areas:
        stretches = [plan.stretches[n] for n in area]
        progress(f"the {_class(stretches)}")
        groups += _split(plan, area, _parts(layout, stretches, wish))
    progress("which booster for which")
    return _assemble(facts, plan, groups, behind, wish)


def _class(stretches: list[Stretch]) -> TrackUse:
    lengths: Counter[TrackUse] = Counter()
    for s in stretches:
        lengths[JOINED_TO.get(s.use, s.use)] += s.length  # type: ignore[assignment]
    return max(sorted(lengths), key=lambda u: lengths[u])


def _areas(facts: Facts, plan: Plan, wish: Wish) -> list[Area]:
    """Stretches that belong together: one use, one place, and with `keep` one district of today."""
    layout, tree = facts.layout, facts.tree

    def kind(s: Stretch) -> tuple[str | None, TrackUse]:
        today = tree.district(s.circuit) if wish.keep and s.circuit else None
        return today, JOINED_TO.get(s.use, s.use)

    links = [(e.a, e.b, e.price) for e in plan.edges] + [(a, b, 0.0) for a, b in plan.beside]
    same = [(a, b, p) for a, b, p in links if kind(plan.stretches[a]) == kind(plan.stretches[b])]
    near = neighbours(len(plan.stretches), same)
    areas = [sorted(c) for c in connected(set(range(len(plan.stretches))), near)]
    return _merged(layout, plan, areas, wish, lambda n: kind(plan.stretches[n])[0])


def _merged(
    layout: Layout, plan: Plan, areas: list[Area], wish: Wish, today: Callable[[int], str | None]
) -> list[Area]:
    """Areas too small for a breaker, or nothing but a reversing section, go with the track beside them."""
    least = layout.brief.rules.smallest_district
    while True:
        owner = {n: k for k, area in enumerate(areas) for n in area}
        length = [sum(plan.stretches[n].length for n in area) for area in areas]
        plain = [sum(plan.stretches[n].length for n in area if not plan.stretches[n].turns) for area in areas]
        small = [
            k
            for k, area in enumerate(areas)
            if (plain[k] < 1 or length[k] < least) and _class([plan.stretches[n] for n in area]) != "programming"
        ]
        joins: list[tuple[float, int, int]] = []
        for k in small:
            for e in plan.edges:
                if k in (owner[e.a], owner[e.b]) and owner[e.a] != owner[e.b]:
                    other = owner[e.b] if owner[e.a] == k else owner[e.a]
                    if plain[k] >= 1 and wish.keep and today(areas[k][0]) != today(areas[other][0]):
                        continue  # a small district that is there stays
                    alike = _class([plan.stretches[n] for n in areas[other]]) == "main"
                    joins.append((length[k] + (1e7 if alike else 0) - length[other] * 1e-3, k, other))
        if not joins:
            return areas
        _, k, other = min(joins)
        areas = [sorted(areas[other] + areas[k]) if j == other else a for j, a in enumerate(areas) if j != k]


def _parts(layout: Layout, stretches: list[Stretch], wish: Wish) -> int:
    """How many districts an area makes."""
    plain = sum(s.length for s in stretches if not s.turns)
    if _class(stretches) == "main" and wish.main_parts:
        return wish.main_parts
    return max(1, math.ceil(plain / layout.brief.rules.longest_district - 1e-9))


def _split(plan: Plan, area: Area, parts: int) -> list[Area]:
    number = {n: k for k, n in enumerate(area)}
    links: list[Link] = [(number[e.a], number[e.b], e.price) for e in plan.edges if e.a in number and e.b in number]
    links += [(number[a], number[b], 0.0) for a, b in sorted(plan.beside) if a in number and b in number]
    weights = [plan.stretches[n].length for n in area]
    return [[area[k] for k in part] for part in by_part(best_parts(weights, links, parts))]


def _trains(facts: Facts, plan: Plan) -> list[frozenset[str]]:
    """For each stretch, the trains of the scene that may be on it."""
    layout = facts.layout
    scene = layout.scenes.get(facts.scene) if facts.scene else None

    def may(placed: Placement, s: Stretch) -> bool:
        if placed.track is not None:
            return any(t == placed.track and start <= (placed.at or 0) <= end for t, start, end in s.pieces)
        named = frozenset(placed.circuits)
        fed = not named or (s.circuit is not None and facts.tree.within(s.circuit, named))
        return fed and (
            not placed.uses or s.use in placed.uses or any(s.uses.get(u, 0) >= LEAST_STAND_MM for u in placed.uses)
        )

    placements = scene.placements if scene else []
    return [frozenset(p.train for p in placements if may(p, s)) for s in plan.stretches]


def _assemble(facts: Facts, plan: Plan, groups: list[Area], behind: list[frozenset[str]], wish: Wish) -> Division:
    layout = facts.layout
    scene = layout.scenes.get(facts.scene) if facts.scene else None
    running = {p.train: p.doing == "running" for p in (scene.placements if scene else [])}
    amps = {t: train_amps(layout, layout.trains[t], runs) for t, runs in running.items()}
    kept = _kept(facts, plan, groups)
    share = 1 - layout.brief.rules.amps_kept
    sources = [(i, d) for i, d in layout.devices.items() if d.kind in SOURCES]
    limits = [(gives(layout, i) or wish.booster_amps) * share for i, _ in sources]
    limits += [wish.booster_amps * share] * max(len(groups) - len(sources), 1)
    here = {i: k for k, (i, _) in enumerate(sources)}
    asking = []
    for group, circuit in zip(groups, kept, strict=True):
        source = facts.tree.source(circuit) if circuit else None
        trains = frozenset[str]().union(*(behind[n] for n in group))
        steady = sum(
            load_amps(x)
            for x in layout.loads.values()
            if circuit and facts.tree.within(x.circuit, frozenset({circuit}))
        )
        asking.append(Asking(trains, steady, here[source[0]] if source else None))
    shares = share_out(asking, amps, limits, owned=len(sources), stay=wish.keep)
    used = sorted(set(shares) | set(range(len(sources))))
    names = _names(layout, plan, groups, kept)
    boosters: list[Booster] = []
    for number in used:
        total = asked_of([a for a, s in zip(asking, shares, strict=True) if s == number], amps)
        known = sources[number][0] if number < len(sources) else None
        boosters.append(
            Booster(known, layout.devices[known].name if known else _free_name(layout, boosters), limits[number], total)
        )
    districts = []
    for k, group in enumerate(groups):
        booster = used.index(shares[k])
        names_of = sorted(asking[k].trains)
        worst = asked_of([asking[k]], amps)
        stall = one_stalls(layout, [layout.trains[t] for t in names_of if running[t]])
        filling = asking[k].steady + sum(inrush_amps(layout, layout.trains[t]) for t in names_of)
        device = boosters[booster].device
        above = (layout.devices[device].trip_amps if device else None) or wish.booster_amps
        stretches = [plan.stretches[n] for n in group]
        districts.append(
            District(
                names[k],
                _class(stretches),
                tuple(group),
                sum(s.length for s in stretches),
                kept[k],
                tuple(names_of),
                worst,
                worst + stall,
                trip_for(max(worst + stall, filling), above * layout.brief.rules.breaker_below_booster),
                booster,
                _why(stretches, groups, plan),
            )
        )
    owner = {n: k for k, group in enumerate(groups) for n in group}
    cuts = tuple(e for e in plan.edges if owner[e.a] != owner[e.b])
    return Division(plan, tuple(districts), tuple(boosters), cuts)


def trip_for(wanted: float, most: float) -> float:
    """The smallest usual trip that lets a district start with an engine stalled, and stays below its booster's, A.

    >>> trip_for(2.2, 4.5), trip_for(7, 4.5), trip_for(0.2, 0.8)
    (2.5, 4.5, 0.8)
    """
    fits = [t for t in TRIPS if t <= most + 1e-9]
    return next((t for t in fits if t >= wanted), fits[-1] if fits else most)


def _kept(facts: Facts, plan: Plan, groups: list[Area]) -> list[str | None]:
    """The district of today that each group goes on with: the one behind a breaker that most of it belongs to."""
    overlap: list[tuple[float, int, str]] = []
    for k, group in enumerate(groups):
        shared: dict[str, float] = defaultdict(float)
        for n in group:
            circuit = plan.stretches[n].circuit
            district = facts.tree.district(circuit) if circuit else None
            device = facts.tree.fed_by.get(district) if district else None
            if district and device and facts.layout.devices[device].kind == "breaker":
                shared[district] += plan.stretches[n].length
        overlap += [(mm, k, d) for d, mm in shared.items()]
    kept: list[str | None] = [None] * len(groups)
    for _, k, district in sorted(overlap, key=lambda o: (-o[0], o[1], o[2])):
        if kept[k] is None and district not in kept:
            kept[k] = district
    return kept


def _names(layout: Layout, plan: Plan, groups: list[Area], kept: list[str | None]) -> list[str]:
    """What districts are called: as they were, else by their use, and by where they lie when there are several."""
    classes = [_class([plan.stretches[n] for n in g]) for g in groups]
    names: list[str] = [layout.circuits[c].name if c else "" for c in kept]
    taken = {c.name for i, c in layout.circuits.items()}
    for k, group in enumerate(groups):
        if names[k]:
            continue
        base = classes[k].capitalize()
        if classes.count(classes[k]) > 1:
            alike = [g for g, c in zip(groups, classes, strict=True) if c == classes[k]]
            base += f" {_compass(layout, plan, group, alike)}"
        name, number = base, 2
        while name in taken or name in names:
            name, number = f"{base} {number}", number + 1
        names[k] = name
    return names


def _middle(layout: Layout, plan: Plan, group: Area) -> tuple[float, float]:
    spots = [
        (layout.tracks[t].path[len(layout.tracks[t].path) // 2], e - s)
        for n in group
        for t, s, e in plan.stretches[n].pieces
    ]
    total = sum(w for _, w in spots) or 1.0
    return sum(p.x * w for p, w in spots) / total, sum(p.y * w for p, w in spots) / total


def _compass(layout: Layout, plan: Plan, group: Area, others: list[Area]) -> str:
    x, y = _middle(layout, plan, group)
    middles = [_middle(layout, plan, g) for g in others]
    dx, dy = x - sum(m[0] for m in middles) / len(middles), y - sum(m[1] for m in middles) / len(middles)
    if abs(dx) >= abs(dy):
        return "east" if dx > 0 else "west"
    return "south" if dy > 0 else "north"


def _free_name(layout: Layout, boosters: list[Booster]) -> str:
    taken = {d.name for d in layout.devices.values()} | {b.name for b in boosters}
    return next(n for k in range(1, 1000) if (n := f"{SOURCE[layout.brief.control].capitalize()} {k}") not in taken)


WHY: dict[TrackUse, str] = {
    "main": "the main goes on in one part when the other stands",
    "branch": "a branch that shorts must not stop the main",
    "yard": "switching derails most, and through trains need not wait for it",
    "staging": "many engines stand there, and a short there need not be seen out front",
    "engine terminal": "all its engines start at once after a reset; that stays its own affair",
    "industry": "spurs are switched by hand, with hands and tools on the rails",
    "programming": "programming track is never joined to the rest",
}


def _why(stretches: list[Stretch], groups: list[Area], plan: Plan) -> str:
    use = _class(stretches)
    others = sum(_class([plan.stretches[n] for n in g]) == use for g in groups)
    return WHY.get(use, "a use of its own") if use != "main" or others > 1 else "all of the main; the rest hangs apart"
