"""Change orders by evening: in an order that leaves as much of the railroad running as possible after each.

What takes nothing away comes first: terminals, devices, new bus beside the old. Then zone by zone the changeovers: a
zone's gaps are cut and its feeders go over to their new circuit in one go, the zone that leaves most running first.
What is left hanging without use goes last, with the labels.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from jolly_copper.core.layout.benchwork import boards_in_order
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import grow_tree
from jolly_copper.core.rails.pieces import RailMap, map_rails
from jolly_copper.core.rails.zones import circuit_of_feeder
from jolly_copper.core.wirebook.job import Job
from jolly_copper.core.wirebook.jobs import find_jobs

EVENING_MINUTES = 150.0
Told = Callable[[int, int], None]


@dataclass(frozen=True)
class Evening:
    """number: 1 onwards. running: share of the track that has power from one circuit once its jobs are done; dark:
    names of tracks that have not, longest first."""

    number: int
    jobs: tuple[Job, ...]
    minutes: float
    running: float
    dark: tuple[str, ...]


@dataclass(frozen=True)
class ChangeOrder:
    """running_before: the share before the first evening. nothing: there is nothing to do."""

    running_before: float
    evenings: tuple[Evening, ...]

    @property
    def jobs(self) -> list[Job]:
        return [j for e in self.evenings for j in e.jobs]


def running(layout: Layout) -> tuple[float, tuple[str, ...]]:
    """Share of the track, by length, that has power from just one circuit; and the names of the tracks that have
    not."""
    rails, tree = map_rails(layout), grow_tree(layout)
    alive = _alive(layout)
    fed: dict[int, set[str]] = defaultdict(set)
    for i, feeder in layout.feeders.items():
        if layout.terminals[feeder.terminal].run in alive:
            circuit = circuit_of_feeder(layout, i)
            # A detector added beside the bus is the same power by another wire.
            circuit = tree.unsensed(circuit) or circuit
            if tree.source(circuit) is not None:
                at = min(feeder.at, rails.lengths[feeder.track])
                fed[rails.extent_of[rails.piece_at(feeder.track, at)]].add(circuit)
    total = live = 0.0
    dark: dict[str, float] = defaultdict(float)
    for n, pieces in enumerate(rails.extents):
        for piece in pieces:
            length = piece.end - piece.start
            total += length
            if len(fed[n]) == 1:
                live += length
            else:
                dark[layout.tracks[piece.track].name] += length
    return live / total if total else 1.0, tuple(sorted(dark, key=lambda name: (-dark[name], name)))


def _alive(layout: Layout) -> set[str]:
    """Runs with wire all the way back to a device of their circuit."""
    found = {i for i, r in layout.runs.items() if r.fed.device in layout.devices}
    while True:
        more = {
            i
            for i, r in layout.runs.items()
            if i not in found and r.fed.terminal in layout.terminals and layout.terminals[r.fed.terminal].run in found
        }
        if not more:
            return found
        found |= more


def order_work(
    before: Layout, after: Layout, minutes: float = EVENING_MINUTES, told: Told = lambda _done, _total: None
) -> ChangeOrder:
    """The jobs from one revision to another, evening by evening.

    Args:
        before: how the railroad is wired.
        after: how it is to be.
        minutes: what one evening holds.
        told: progress, jobs placed and in all.
    """
    jobs = find_jobs(before, after)
    start = running(_mixed(before, after, set()))[0]
    ordered = _ordered(before, after, jobs, told)
    return ChangeOrder(start, tuple(_evenings(before, after, jobs, ordered, minutes)))


def _ordered(before: Layout, after: Layout, jobs: list[Job], told: Told) -> list[list[Job]]:
    """Groups of jobs, each done in one go, in order."""
    by_key = {j.key: j for j in jobs}
    rails = map_rails(after)
    groups = _changeovers(after, rails, jobs)
    changing = {j.key for group in groups.values() for j in group}
    last = {j.key for j in jobs if j.kind in ("take away", "relabel") and j.key not in changing}
    waits = {k for k in by_key if k not in changing and k not in last and _leads_to(by_key, k, changing | last)}
    rank = {b: n for n, b in enumerate(boards_in_order(after))}

    def place(job: Job) -> tuple[int, str]:
        return rank.get(job.board or "", len(rank)), job.thing

    found: list[list[Job]] = []
    done: set[str] = set()

    def do(some: Sequence[Job]) -> None:
        found.append(list(some))
        done.update(j.key for j in some)
        told(len(done), len(jobs))

    for job in _in_turn([j for j in jobs if j.key not in changing | last | waits], done, place):
        do([job])
    left = dict(groups)
    while left:
        ready = [
            n
            for n, group in left.items()
            if all(k in done or k in {j.key for j in group} for j in group for k in j.after)
        ]
        best = max(ready or list(left), key=lambda n: (_after(before, after, done, left[n], jobs), -len(left[n]), -n))
        do(sorted(left.pop(best), key=lambda j: (j.kind != "cut", place(j))))
        # What waited for that, and takes nothing away itself, may open the way for the next.
        while some := [by_key[k] for k in sorted(waits - done) if by_key[k].after <= done]:
            for job in _in_turn(some, done, place):
                do([job])
    for job in _in_turn([j for j in jobs if j.key not in done], done, place):
        do([job])
    return found


def _changeovers(after: Layout, rails: RailMap, jobs: list[Job]) -> dict[int, list[Job]]:
    """Jobs of each zone that goes over to another circuit: its feeders, and the gaps at its edges that are cut anew."""
    groups: dict[int, list[Job]] = defaultdict(list)
    for job in jobs:
        if job.zone is not None:
            groups[job.zone].append(job)
    # New feeders alone, on the circuit the zone has already, take nothing away: they need no changeover.
    for n in [
        n for n, group in groups.items() if all(j.kind == "add" for j in group) and not _touched(rails, n, jobs, after)
    ]:
        del groups[n]
    taken: set[str] = set()
    for n in sorted(groups, key=lambda n: len(groups[n])):
        for job in _touched(rails, n, jobs, after):
            if job.key not in taken:
                taken.add(job.key)
                groups[n].append(job)
    return dict(groups)


def _touched(rails: RailMap, zone: int, jobs: Iterable[Job], after: Layout) -> list[Job]:
    """Gap jobs at the edges of a zone."""
    found: list[Job] = []
    if zone < 0:
        return found
    for job in jobs:
        if job.thing != "gap" or job.puts[0][1] not in after.gaps:
            continue
        gap = after.gaps[job.puts[0][1]]
        at = min(gap.at, rails.lengths[gap.track])
        sides = {
            rails.extent_of[rails.piece_at(gap.track, min(max(at + s, 0), rails.lengths[gap.track]))] for s in (-12, 12)
        }
        if zone in sides:
            found.append(job)
    return found


def _leads_to(by_key: dict[str, Job], key: str, wanted: set[str]) -> bool:
    """Whether a job waits, over others, for one of those wanted."""
    ahead, seen = [key], {key}
    while ahead:
        for k in by_key[ahead.pop()].after:
            if k in wanted:
                return True
            if k in by_key and k not in seen:
                seen.add(k)
                ahead.append(k)
    return False


def _in_turn(jobs: list[Job], done: set[str], place: Callable[[Job], tuple[int, str]]) -> list[Job]:
    """Jobs one after another, each after what it needs, else board by board."""
    keys = {j.key for j in jobs}
    have, left, found = set(done), sorted(jobs, key=place), []
    while left:
        job = next((j for j in left if all(k in have or k not in keys for k in j.after)), left[0])
        left.remove(job)
        have.add(job.key)
        found.append(job)
    return found


def _after(before: Layout, after: Layout, done: set[str], group: list[Job], jobs: list[Job]) -> float:
    """What runs once a group is done too."""
    keys = done | {j.key for j in group}
    puts = {p for j in jobs if j.key in keys for p in j.puts}
    return running(_mixed(before, after, puts))[0]


MAPS = ("devices", "runs", "terminals", "plugs", "feeders", "gaps", "loads")


def _mixed(before: Layout, after: Layout, done: set[tuple[str, str]]) -> Layout:
    """The railroad in between: what is done as it will be, the rest as it was; track, zones and names as they will be.

    Entries that stand for something on track that is gone are left out, and so is what hangs on nothing yet.
    """
    parts: dict[str, dict[str, object]] = {}
    for name in MAPS:
        old, new = getattr(before, name), getattr(after, name)
        mixed = {}
        for i in (*old, *(k for k in new if k not in old)):
            thing = new.get(i) if (name, i) in done or old.get(i) == new.get(i) else old.get(i)
            if thing is not None and getattr(thing, "track", None) in (None, *after.tracks):
                mixed[i] = thing
        parts[name] = mixed
    parts["circuits"] = {**before.circuits, **after.circuits}
    terminals, runs = parts["terminals"], parts["runs"]
    parts["terminals"] = {i: t for i, t in terminals.items() if t.run in runs}  # type: ignore[attr-defined]
    standing = (None, *parts["terminals"])
    parts["feeders"] = {
        i: f
        for i, f in parts["feeders"].items()
        if f.terminal in standing and f.other in standing  # type: ignore[attr-defined]
    }
    return after.model_copy(update=parts)


def _evenings(
    before: Layout, after: Layout, jobs: list[Job], ordered: list[list[Job]], minutes: float
) -> list[Evening]:
    """Groups dealt out to evenings; one that would not fit into what is left of an evening starts the next."""
    found: list[Evening] = []
    now: list[Job] = []
    done: set[tuple[str, str]] = set()

    def close() -> None:
        done.update(p for j in now for p in j.puts)
        share, dark = running(_mixed(before, after, done))
        found.append(Evening(len(found) + 1, tuple(now), sum(j.minutes for j in now), share, dark))
        now.clear()

    for group in ordered:
        takes = sum(j.minutes for j in group)
        if now and sum(j.minutes for j in now) + takes > minutes + 1e-9:
            close()
        now += group
    if now:
        close()
    return found
