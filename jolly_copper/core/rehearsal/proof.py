"""Whether a plan can knot, whatever the delays: searched for the trains that run by calls, under any of the rules."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.layout.plans import SingleLines
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.itinerary import MOST_STANDINGS, Itinerary, itineraries
from jolly_copper.core.rehearsal.knots import MOST_STATES, Answer, Yard, apart, search
from jolly_copper.core.rehearsal.safe import safe_states, standing_for_good
from jolly_copper.core.signals.single_lines import find_lines

Tell = Callable[[int], None]


@dataclass(frozen=True)
class Proof:
    """What is known of a plan under a rule.

    verdict: `free` of knots whatever the delays; nobody knots, but somebody `starves`; a `knot` can be come to; or `not
    settled`. words: a sentence. states: standings tried.

    story: the moves into the knot, each a sentence. trains: those in the knot.
    """

    rule: SingleLines
    verdict: Literal["free", "starves", "knot", "not settled"]
    words: str
    states: int
    story: tuple[str, ...] = ()
    trains: tuple[str, ...] = ()


def prove(evening: Evening, rule: SingleLines, most: int = MOST_STATES, tell: Tell | None = None) -> Proof:
    """Search a plan for knots under a rule for single lines.

    Args:
        evening: with its trains on the track. rule: for single lines. most: standings tried for trains that share
        track. tell: called with how many were tried.

    Returns:
        `not settled` where trains run free over the track of the others, or where there are more standings than tried.
    """
    trains = tuple(itineraries(evening))
    roving = [x for x in evening.trains.values() if x.plan.by in ("free", "hand")]
    if not trains:
        words = (
            "No train runs by calls: where free and driven trains go is not fixed, so nothing can be proved of them."
        )
        return Proof(rule, "not settled", words, 0)
    endless = [t.name for t in trains if not t.whole]
    if endless:
        words = (
            f"{endless[0]} has more than {MOST_STANDINGS} places on its way where it may wait: that is not searched."
        )
        return Proof(rule, "not settled", words, 0)
    always = standing_for_good(evening)
    lines = (
        find_lines({t.key: [[x for s in t.standings for x in s.over]] for t in trains}) if rule == "direction" else ()
    )
    tried = 0
    for members in apart(trains):
        group = tuple(trains[n] for n in members)
        yard = Yard(group, always, lines)
        answer = _safe(yard, most) if rule == "safe moves" else search(yard, most, tell)
        tried += answer.states
        if answer.verdict == "knot":
            return _knot(evening, rule, yard, answer, tried)
        if answer.verdict == "starves":
            names = " and ".join(group[n].name for n in answer.knot)
            words = f"No knot, but {names} can be kept waiting for ever while the others run."
            return Proof(rule, "starves", words, tried, (), tuple(group[n].key for n in answer.knot))
        if answer.verdict == "not settled":
            words = f"More than {most:,} standings: it is not settled whether trains can wait for each other for ever."
            return Proof(rule, "not settled", words, tried)
    if roving:
        names = ", ".join(x.stock.name for x in roving[:3]) + (" and others" if len(roving) > 3 else "")
        words = f"The trains that run by calls never wait for each other for ever; where {names} may go is not fixed."
        return Proof(rule, "not settled", words, tried)
    how = {
        "signals alone": "by signals alone",
        "direction": "with trains one way at a time on single lines",
        "safe moves": "when only moves are made that leave everybody a way on",
    }[rule]
    words = f"No trains ever wait for each other for ever {how}, whatever the delays: {tried:,} standings tried."
    return Proof(rule, "free", words, tried)


def _safe(yard: Yard, most: int) -> Answer:
    """Whether the start is a state from which everybody can go on for ever."""
    safe, tried = safe_states(yard, most)
    if safe is None:
        return Answer("not settled", tried)
    return Answer("free" if yard.start() in safe else "knot", tried)


def _knot(evening: Evening, rule: SingleLines, yard: Yard, answer: Answer, tried: int) -> Proof:
    if not answer.knot:
        words = "No order of moves lets these trains go on for ever: from where they begin, every way ends in a knot."
        return Proof(rule, "knot", words, tried, (), tuple(t.key for t in yard.trains))
    state = list(yard.start())
    story = []
    for n in answer.moves:
        train = yard.trains[n]
        onward = train.after(state[n])
        assert onward is not None
        state[n] = onward
        story.append(f"{train.name} goes to {where(evening, train, onward)}.")
    names = [yard.trains[n].name for n in answer.knot]
    at = ", ".join(f"{yard.trains[n].name} at {where(evening, yard.trains[n], answer.end[n])}" for n in answer.knot)
    who = names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
    words = f"{who} can come to wait for ever after {len(answer.moves)} moves: {at}."
    return Proof(rule, "knot", words, tried, tuple(story), tuple(yard.trains[n].key for n in answer.knot))


def where(evening: Evening, train: Itinerary, n: int) -> str:
    """What a standing is called: the signal it is before, or the track."""
    standing = train.standings[n]
    track = evening.layout.tracks[standing.place.track].name
    if standing.head is not None and standing.head in evening.layout.signals:
        return f"{evening.layout.signals[standing.head].name} on {track}"
    return track
