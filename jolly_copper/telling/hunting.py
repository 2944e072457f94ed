"""A hunt told to people: what to do next and why, what it may be, what was answered."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import BaseModel

from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proving.causes import DEAD_READS, SYMPTOMS, Act, Case
from jolly_copper.core.proving.hunt import Answer, Next, Standing, best_next, likeliest, stand
from jolly_copper.core.quantities import print_ohms


class AnswerShape(BaseModel):
    """An answer as it is said to the program, and as it is told."""

    said: str
    words: str


class ActShape(BaseModel):
    """Something to do. answers: what may be said of it, as said and as told; empty for a reading, which has a unit."""

    key: str
    words: str
    how: str
    minutes: float
    unit: str
    answers: list[AnswerShape]
    caution: str
    worth: float
    track: str | None
    at: float | None
    x: float | None
    y: float | None


class LikelyShape(BaseModel):
    words: str
    chance: float
    mend: str
    key: str
    track: str | None
    at: float | None
    x: float | None
    y: float | None


class SaidShape(BaseModel):
    act: str
    words: str
    said: str


class HuntStanding(BaseModel):
    """Where a hunt stands. strange: nothing in the catalogue foretells these answers."""

    words: str
    missing: list[str]
    minutes: float
    next: ActShape | None
    why: str
    leaves: list[str]
    others: list[ActShape]
    likely: list[LikelyShape]
    answers: list[SaidShape]
    found: LikelyShape | None
    strange: bool
    causes: int
    meanwhile: str


class SymptomShape(BaseModel):
    kind: str
    words: str
    wants: str


def symptoms(layout: Layout) -> list[SymptomShape]:
    """The list of what people see, with what has to be said besides."""
    wants = {"trips": "circuit", "dead": "circuit", "stalls": "place"}
    kinds = [k for k in SYMPTOMS if layout.detectors or k not in ("occupied", "unseen")]
    return [SymptomShape(kind=k, words=SYMPTOMS[k], wants=wants.get(k, "")) for k in kinds]


def _here(layout: Layout, track: str | None, at: float | None) -> tuple[float | None, float | None]:
    if track is None or at is None or track not in layout.tracks:
        return None, None
    return point_on_track(layout, track, at)


def act_shape(layout: Layout, act: Act, worth: float = 0.0) -> ActShape:
    x, y = _here(layout, act.track, act.at)
    if act.look:
        answers = [("found", "That was it"), ("not found", "Nothing there")]
    elif act.reads:
        answers = []
    else:
        answers = [("yes", act.yes_words), ("no", act.no_words)]
    return ActShape(
        key=act.key,
        words=act.words,
        how=act.how,
        minutes=act.minutes,
        unit=act.unit,
        answers=[AnswerShape(said=said, words=words) for said, words in answers],
        caution=act.caution,
        worth=worth,
        track=act.track,
        at=act.at,
        x=x,
        y=y,
    )


def likely_shape(layout: Layout, case: Case, number: int, chance: float) -> LikelyShape:
    cause = case.causes[number]
    x, y = _here(layout, cause.track, cause.at)
    return LikelyShape(
        words=cause.words,
        chance=chance,
        mend=cause.mend,
        key=cause.key,
        track=cause.track,
        at=cause.at,
        x=x,
        y=y,
    )


SAID = {"found": "that was it", "not found": "nothing there", "yes": "yes", "no": "no", "unsure": "not sure"}


def said_words(act: Act | None, said: str) -> str:
    """An answer as people say it."""
    if act is not None and not act.look and said == "yes":
        return act.yes_words.lower()
    if act is not None and not act.look and said == "no":
        return act.no_words.lower()
    if act is not None and act.reads and said not in SAID:
        value = float(said)
        if act.unit == "Ω":
            return "no volts at all" if value >= DEAD_READS else print_ohms(value)
        return f"{value * 1000:.0f} mV" if value < 1 else f"{value:.3f} V"
    return SAID.get(said, said)


def standing_shape(layout: Layout, case: Case, answers: Sequence[Answer]) -> HuntStanding:
    at = stand(case, answers)
    nearest = None if case.missing or at.found is not None else best_next(case, at, answers)
    acts = {a.key: a for a in case.acts}
    return HuntStanding(
        words=case.words,
        missing=list(case.missing),
        minutes=at.minutes,
        next=act_shape(layout, nearest.act, nearest.worth) if nearest else None,
        why=nearest.why if nearest else "",
        leaves=_leaves(case, at, answers, nearest) if nearest else [],
        others=[act_shape(layout, a, w) for a, w in nearest.other if a.key != nearest.act.key][:6] if nearest else [],
        likely=[likely_shape(layout, case, x.number, x.chance) for x in likeliest(at)],
        answers=[
            SaidShape(
                act=a.act,
                words=acts[a.act].words if a.act in acts else a.act,
                said=said_words(acts.get(a.act), a.said),
            )
            for a in answers
        ],
        found=likely_shape(layout, case, at.found, float(at.chance[at.found])) if at.found is not None else None,
        strange=at.strange,
        causes=len(case.causes),
        meanwhile=case.meanwhile,
    )


def _leaves(case: Case, at: Standing, answers: Sequence[Answer], nearest: Next) -> list[str]:
    """What each answer would leave as the likeliest."""
    act = nearest.act
    if act.reads:
        return []
    said = (
        [("found", "That was it"), ("not found", "Nothing there")]
        if act.look
        else [
            ("yes", act.yes_words),
            ("no", act.no_words),
        ]
    )
    found = []
    for key, words in said:
        if key == "found":
            continue
        after = stand(case, [*answers, Answer(act.key, key)])
        best = likeliest(after, 1)
        if best:
            found.append(f"{words}: then most likely {case.causes[best[0].number].words}.")
    return found
