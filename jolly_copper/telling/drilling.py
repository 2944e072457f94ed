"""A drill told: the symptom, what may be tried, what came of it; and afterwards where the time went."""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from pydantic import BaseModel

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proving.drill import Drill, answer_of, in_order, par, play
from jolly_copper.core.proving.hunt import MEND_MINUTES, Answer, doubt, stand
from jolly_copper.telling.hunting import ActShape, act_shape, said_words

TOLD_NOTHING = 0.05
"""Bits."""


class TriedShape(BaseModel):
    """Something that was tried: what came of it, minutes by the clock then, and bits of doubt left."""

    act: str
    words: str
    said: str
    minutes: float
    left: float


class ScoreShape(BaseModel):
    """How it ended. par: minutes of the best way, the mean of a few hunts; in_order: of searching everything in
    order."""

    cause: str
    mend: str
    minutes: float
    par: float
    in_order: float
    best: list[TriedShape]
    lesson: str


class DrillShape(BaseModel):
    seed: int
    hardness: str
    words: str
    acts: list[ActShape]
    steps: list[TriedShape]
    minutes: float
    score: ScoreShape | None


def _steps(drill: Drill, answers: Sequence[Answer]) -> list[TriedShape]:
    acts = {a.key: a for a in drill.case.acts}
    found = []
    for n, answer in enumerate(answers, start=1):
        at = stand(drill.case, answers[:n])
        act = acts[answer.act]
        found.append(
            TriedShape(
                act=act.key,
                words=act.words,
                said=said_words(act, answer.said),
                minutes=at.minutes,
                left=doubt(at.chance),
            )
        )
    return found


def drill_shape(layout: Layout, drill: Drill, seed: int, hardness: str, tried: Sequence[str]) -> DrillShape:
    """A drill after so many acts. Acts that are none of its own are passed over; nothing comes after the end."""
    acts = {a.key: a for a in drill.case.acts}
    answers: list[Answer] = []
    for key in tried:
        if key in acts and not (answers and answers[-1].said == "found"):
            answers.append(answer_of(drill.case, acts[key], drill.hidden, len(answers), slips=False))
    steps = _steps(drill, answers)
    ended = bool(answers) and answers[-1].said == "found"
    return DrillShape(
        seed=seed,
        hardness=hardness,
        words=drill.case.words,
        acts=[] if ended else [act_shape(layout, a) for a in drill.case.acts],
        steps=steps,
        minutes=steps[-1].minutes if steps else 0.0,
        score=_score(drill, steps) if ended else None,
    )


def _score(drill: Drill, steps: Sequence[TriedShape]) -> ScoreShape:
    cause = drill.case.causes[drill.hidden.cause]
    best = play(drill.case, drill.hidden, slips=False)
    pairs = list(itertools.pairwise(steps))
    told = max(((a.left - b.left, b) for a, b in pairs), key=lambda x: x[0], default=(0.0, steps[0]))
    idle = [b for a, b in pairs if a.left - b.left < TOLD_NOTHING and b is not steps[-1]]
    lesson = f"“{told[1].words}” told the most." if told[0] > 0.3 else ""
    if idle:
        minutes = sum(_took(steps, s) for s in idle)
        lesson += f" {len(idle)} of {len(steps)} acts told next to nothing: about {minutes:.0f} minutes."
    return ScoreShape(
        cause=cause.words,
        mend=cause.mend,
        minutes=steps[-1].minutes + MEND_MINUTES,
        par=par(drill.case, drill.hidden),
        in_order=play(drill.case, drill.hidden, in_order, slips=False).minutes,
        best=_steps(drill, best.answers),
        lesson=lesson.strip(),
    )


def _took(steps: Sequence[TriedShape], step: TriedShape) -> float:
    place = list(steps).index(step)
    return step.minutes - (steps[place - 1].minutes if place else 0.0)
