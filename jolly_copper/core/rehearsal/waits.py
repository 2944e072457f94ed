"""Trains that wait: for whom, and whether for ever."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.trace import Kind

FELT_SECONDS = 600.0
"""A delay is felt so long, and told as the reason of waits."""


def stuck(options: Mapping[str, Sequence[Sequence[str]]], still: frozenset[str] = frozenset()) -> frozenset[str]:
    """Who waits for ever: the greatest set in which every way on of everybody is held by somebody of the set.

    Args:
        options: for each waiting train, its ways on, each as the trains that hold some of it; a way that nobody
        holds comes free some day.
        still: trains that never move again.

    >>> sorted(stuck({"a": [["b"]], "b": [["a"]], "c": [["a"], ["d"]]}))
    ['a', 'b']
    """
    found = set(options) | still
    while True:
        free = {
            train
            for train in found
            if train not in still and not all(any(who in found for who in way) for way in options[train])
        }
        if not free:
            return frozenset(found - still)
        found -= free


def ring(waits: Mapping[str, Sequence[str]], among: frozenset[str]) -> list[str]:
    """A ring of trains each of which waits for the next; of those that there are, the first found."""
    for start in sorted(among):
        seen: list[str] = []
        at = start
        while at not in seen:
            seen.append(at)
            onward = [w for w in waits.get(at, ()) if w in among]
            if not onward:
                break
            at = onward[0]
        else:
            return seen[seen.index(at) :]
    return sorted(among)


def look_for_knots(evening: Evening) -> None:
    """Tell trains that begin to wait, and sets of them that wait for ever."""
    evening.waits_changed = False
    options = {k: x.options for k, x in evening.trains.items() if x.state == "waiting" and x.options}
    still = frozenset(k for k, x in evening.trains.items() if x.state in ("parked", "done"))
    for key in options:
        _tell_wait(evening, evening.trains[key])
    found = stuck(options, still)
    for key in sorted(found):  # politeness that closes a ring lets one go
        train = evening.trains[key]
        if train.polite and not train.let_go:
            train.let_go = True
            evening.at(evening.t, "start", key)
            return
    found = frozenset(k for k in found if not _waits_for_a_person(evening, evening.trains[k]))
    known = {k for seen in evening.seen_knots for k in seen}
    new = found - known
    if not new:
        return
    waits = {k: [w for way in options[k] for w in way] for k in found}
    group = ring(waits, new)
    if known & found and (len(group) < 2 or group == sorted(new)):
        for key in sorted(new):  # they only stand behind those that are in a knot already
            train = evening.trains[key]
            words = f"{train.stock.name} waits for ever behind them: {_wait_words(evening, train)}."
            behind = next(iter(evening.seen_knots.values()))
            evening.log("blocked for good", words, train=key, place=evening.front_of(train)[:2], cause=behind)
        evening.seen_knots[found] = next(iter(evening.seen_knots.values()))
        return
    names = [evening.trains[k].stock.name for k in group]
    first = evening.trains[group[0]]
    cause = max((evening.trains[k].waits_entry or 0 for k in group), default=None)
    if len(group) > 1:
        told = "; ".join(_wait_words(evening, evening.trains[k]) for k in group)
        words = f"{' and '.join((', '.join(names[:-1]), names[-1]))} wait for each other for ever: {told}."
        kind: Kind = "knot"
    else:
        words = f"{names[0]} waits for ever: {_wait_words(evening, first)}."
        kind = "blocked for good"
    place = evening.front_of(first)[:2]
    n = evening.log(kind, words, train=group[0], place=place, cause=cause, others=tuple(group[1:]))
    evening.seen_knots[found] = n


def _waits_for_a_person(evening: Evening, train: Rolling) -> bool:
    """Whether a train in its way is one that a person comes to: dark, or stopped."""
    held = {w for way in train.options for w in way}
    return any(evening.trains[w].state in ("dark", "stopped") for w in held)


def _wait_words(evening: Evening, train: Rolling) -> str:
    return f"{train.stock.name} stands on {evening.layout.tracks[evening.front_of(train).track].name}, {train.why}"


def _tell_wait(evening: Evening, train: Rolling) -> None:
    """Write down why a train waits, once a wait."""
    if train.waits_entry is not None:
        return
    head = evening.head_before(train)
    at = f" at {evening.layout.signals[head].name}" if head is not None else ""
    causes = [evening.trains[k].waits_entry or evening.trains[k].dark_entry for k in train.blockers]
    delays = [evening.trains[k].delayed_by for k in (train.key, *train.blockers)]
    causes += [d[1] for d in delays if d is not None and evening.t - d[0] < FELT_SECONDS]
    train.waits_entry = evening.log(
        "waits",
        f"{train.stock.name} waits{at}: {train.why}.",
        train=train.key,
        head=head,
        place=evening.front_of(train)[:2],
        cause=next((c for c in causes if c is not None), None),
        others=train.blockers,
    )
