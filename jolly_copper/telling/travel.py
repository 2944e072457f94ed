"""What is told of boards that travel: joints with their pins, the set-up list, the proof before the doors open."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

from pydantic import BaseModel

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.benchwork import board_name, lifting_boards
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.words import many
from jolly_copper.core.proposals.coupling import CouplingOffer
from jolly_copper.core.quantities import print_current, print_length
from jolly_copper.core.travel.alone import Alone, boards_alone
from jolly_copper.core.travel.couplings import CouplingRead, couplings_of, joined_by, plain_plugs, unplugged
from jolly_copper.core.travel.crossing import BoardJoint, joint_name, joints_of
from jolly_copper.core.travel.placing import where_to_hang
from jolly_copper.core.travel.setting_up import (
    JointTest,
    SetUp,
    boxes,
    joint_key,
    setting_up,
    take_down,
)
from jolly_copper.core.travel.ten_minutes import Proof, ten_minutes
from jolly_copper.core.wirebook.travel_pages import kind_words, loose_things, step_words, way_back
from jolly_copper.telling.shapes import MendShape


class PinShape(BaseModel):
    """A pole of a coupling, the same on both halves."""

    number: int
    colour: str
    wire: str
    power: str


class CouplingShape(BaseModel):
    """A connector at a joint. kind: with how it is keyed; a plug of its own where it is of one run or cable."""

    id: str
    name: str
    kind: str
    sockets_on: str
    pins: list[PinShape]


class JointTrack(BaseModel):
    """A track over a joint. gapped: its rails part there; else they meet as the brief has it."""

    track: str
    name: str
    at: float
    gapped: bool


class JointShape(BaseModel):
    """Two boards of which one lifts out. bare: wires that no coupling holds, in words."""

    key: str
    name: str
    boards: list[str]
    x: float
    y: float
    hang: str
    couplings: list[CouplingShape]
    tracks: list[JointTrack]
    bare: list[str]
    failed: int


class JointTestShape(BaseModel):
    """Something to try, with what is foretold."""

    key: str
    title: str
    words: str
    foretold: str
    minutes: float | None = None
    failed: int = 0


class SetUpShape(BaseModel):
    """A board in its turn."""

    number: int
    board: str
    name: str
    box: str
    words: str
    before: list[JointTestShape]
    after: list[JointTestShape]
    live: list[JointTestShape]


class AloneShape(BaseModel):
    """A board by itself on a bench: what to feed where, and what track to clip."""

    board: str
    name: str
    feeds: list[str]
    clip: list[str]


class BoxShape(BaseModel):
    """What travels together."""

    name: str
    boards: list[str]


class TravelShape(BaseModel):
    """All of step Travel."""

    words: str
    joints: list[JointShape]
    steps: list[SetUpShape]
    standing: list[str]
    apart: list[str]
    take_down: list[str]
    alone: list[AloneShape]
    boxes: list[BoxShape]
    loose: list[str]
    proof: list[JointTestShape]
    later: list[JointTestShape]
    proof_words: str


def travel_shape(facts: Facts, failed: Mapping[str, int]) -> TravelShape:
    """Step Travel as the page shows it. failed: by joint, how often something failed there at shows."""
    layout = facts.layout
    joints, read = joints_of(facts), couplings_of(facts)
    every = (*read, *plain_plugs(joints, read))
    plan = setting_up(layout, joints)
    bare: Counter[frozenset[str | None]] = Counter()
    named: dict[frozenset[str | None], list[str]] = {}
    for boards, crossing, wires in unplugged(joints, read):
        if layout.couplings or crossing.key is None:
            bare[frozenset(boards)] += wires or len(crossing.colours)
            named.setdefault(frozenset(boards), []).append(crossing.label)
    proof = ten_minutes(facts, joints, failed)
    return TravelShape(
        words=_words(layout, joints, sum(bare.values())),
        joints=[_joint(layout, j, every, named.get(frozenset(j.boards), []), failed) for j in joints],
        steps=[_step(layout, s) for s in plan.steps],
        standing=[board_name(layout, b) for b in plan.standing],
        apart=[board_name(layout, b) for b in plan.apart],
        take_down=way_back(layout, take_down(plan)),
        alone=[_alone(layout, a) for a in boards_alone(layout, joints)],
        boxes=[BoxShape(name=k, boards=[board_name(layout, b) for b in v]) for k, v in boxes(layout).items()],
        loose=loose_things(layout),
        proof=[_proof(p) for p in proof.tried],
        later=[_proof(p) for p in proof.later],
        proof_words=f"{many(len(proof.tried), 'thing')} in {proof.seconds / 60:.0f} of "
        f"{layout.brief.travelling.proof_minutes:g} minutes"
        + (f"; {many(len(proof.later), 'more')} if there is time." if proof.later else "."),
    )


def _words(layout: Layout, joints: Sequence[BoardJoint], bare: int) -> str:
    lifting = len(lifting_boards(layout))
    if not lifting:
        return "No board lifts out. Say on a board's card that it does, and its joints are found."
    crossings = sum(len(j.crossings) for j in joints)
    said = f"{many(lifting, 'board')} to lift out, {many(len(joints), 'joint')}, {many(crossings, 'crossing')} of wire"
    return f"{said}; {many(bare, 'wire')} in no coupling." if bare else f"{said}."


def _joint(
    layout: Layout, joint: BoardJoint, read: Sequence[CouplingRead], bare: list[str], failed: Mapping[str, int]
) -> JointShape:
    here = [r for r in read if joined_by(r.coupling) == frozenset(joint.boards)]
    hang = where_to_hang(layout, joint)
    return JointShape(
        key=joint_key(joint.boards),
        name=joint_name(layout, joint.boards),
        boards=[b for b in joint.boards if b is not None],
        x=round(hang.at[0], 1),
        y=round(hang.at[1], 1),
        hang=hang.words,
        couplings=[_coupling(layout, r) for r in here],
        tracks=[
            JointTrack(track=t.track, name=layout.tracks[t.track].name, at=t.at, gapped=t.gap is not None)
            for t in joint.tracks
        ],
        bare=bare,
        failed=failed.get(joint_key(joint.boards), 0),
    )


def _coupling(layout: Layout, read: CouplingRead) -> CouplingShape:
    return CouplingShape(
        id=read.id,
        name=read.coupling.name,
        kind=kind_words(layout, read),
        sockets_on=board_name(layout, read.coupling.socket_on),
        pins=[PinShape(number=p.number, colour=p.colour, wire=p.of.label, power=p.of.power.words) for p in read.pins],
    )


def _step(layout: Layout, step: SetUp) -> SetUpShape:
    return SetUpShape(
        number=step.number,
        board=step.board,
        name=board_name(layout, step.board),
        box=step.box or "",
        words=step_words(layout, step),
        before=[_test(t) for t in step.before],
        after=[_test(t) for t in step.after],
        live=[_test(t) for t in step.live],
    )


def _test(test: JointTest) -> JointTestShape:
    return JointTestShape(key=test.key, title=test.title, words=test.words, foretold=test.foretold)


def _proof(proof: Proof) -> JointTestShape:
    return JointTestShape(
        key=proof.key,
        title=proof.title,
        words=proof.words,
        foretold=proof.foretold,
        minutes=round(proof.seconds / 60, 2),
        failed=proof.failed,
    )


def _alone(layout: Layout, alone: Alone) -> AloneShape:
    units = layout.brief.units
    return AloneShape(
        board=alone.board,
        name=board_name(layout, alone.board),
        feeds=[
            f"{c.label}, {' + '.join(c.colours)}: {c.power.words}"
            + (f", {print_current(c.amps)} at most" if c.amps is not None else "")
            for c in alone.feeds
        ],
        clip=[
            f"{layout.tracks[x.track].name}, {print_length(x.length, units)}: clips on its rails" for x in alone.clip
        ],
    )


class CouplingsOffer(BaseModel):
    """Connectors chosen for every joint, and the change that makes them."""

    words: list[str]
    left: list[str]
    change: MendShape | None


def couplings_offer(layout: Layout, offer: CouplingOffer) -> CouplingsOffer:
    """An offer of connectors as the page shows it."""
    used = Counter(c.kind for c in offer.chosen)
    words = [
        f"{many(len(offer.chosen), 'coupling')}: "
        + ", ".join(f"{n} × {layout.connectors[k].name}" for k, n in sorted(used.items()))
        + "."
        if offer.chosen
        else "No coupling: list the connectors the club owns first."
        if not layout.connectors
        else "No coupling can be made of these connectors."
    ]
    if offer.plugs:
        words.append(f"{many(offer.plugs, 'run')} had no plug where it crosses; it gets one.")
    if offer.bought:
        words.append(
            "To buy: " + ", ".join(f"{n} × {layout.connectors[k].name}" for k, n in offer.bought.items()) + "."
        )
    if offer.chosen:
        words.append("Sockets are on the side that is fed; no two that differ in volts mate.")
    if layout.couplings and offer.chosen:
        words.append(f"It takes the place of the {many(len(layout.couplings), 'coupling')} there are.")
    if not offer.settled:
        words.append("Not settled: a better choice may exist, time ran out.")
    change = MendShape(label="Plug the joints", patch=list(offer.patch)) if offer.patch else None
    return CouplingsOffer(words=words, left=list(offer.left), change=change)
