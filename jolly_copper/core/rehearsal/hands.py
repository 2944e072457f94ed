"""What a person does while an evening runs: a turnout thrown, track power switched, a train driven."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.plans import Move, RunningPlan
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.reading import may_lie
from jolly_copper.core.rehearsal.asking import set_motion, throw
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.legs import BEFORE_HEAD_MM
from jolly_copper.core.rehearsal.motion import STILL_MM_S
from jolly_copper.core.rehearsal.moving import go_on, schedule, turn
from jolly_copper.core.rehearsal.power import close, open_device
from jolly_copper.core.rehearsal.telling_heads import tell_heads


@dataclass(frozen=True)
class Act:
    """Something done by hand. what: `throw` a turnout so that it lies `lies`, switch the power of a device `on`, or let
    a train `go`, `stop` or `turn`."""

    what: Literal["throw", "power", "drive"]
    id: str
    lies: str = ""
    on: bool = True
    does: Literal["go", "stop", "turn"] = "go"


def do(evening: Evening, act: Act) -> str | None:
    """Do it at this moment of the evening. Why not, in words; None where it was done."""
    layout = evening.layout
    if act.what == "throw":
        if (wrong := _no_throw(layout, act.id, act.lies)) is not None:
            return wrong[1]
        bit = evening.ground.node_bit[act.id]
        under = [x.stock.name for x in evening.trains.values() if bit & (x.body | x.kept)]
        if under:
            return (
                f"{evening.name_of(act.id)} is locked: {' and '.join(under)} {'has' if len(under) == 1 else 'have'} it."
            )
        if act.id in evening.dumb:
            return f"{evening.name_of(act.id)} does not answer."
        throw(evening, act.id, act.lies)
        tell_heads(evening)
        return None
    if act.what == "drive":
        return _drive(evening, act)
    if (wrong := _no_switch(layout, act.id)) is not None:
        return wrong[1]
    device = layout.devices[act.id]
    if act.on == (act.id not in evening.opened):
        return f"{device.name} is {'on' if act.on else 'off'} already."
    if act.on:
        evening.off_by_hand.discard(act.id)
        close(evening, act.id)
    else:
        evening.off_by_hand.add(act.id)
        open_device(evening, act.id, f"{device.name} is switched off.", None)
    return None


def _drive(evening: Evening, act: Act) -> str | None:
    train = evening.trains.get(act.id)
    if train is None or train.plan.by != "hand":
        return f"There is no train {act.id} that a person drives."
    name = train.stock.name
    if train.state in ("dark", "stopped"):
        return f"{name} {'has no power' if train.state == 'dark' else 'waits for help'}."
    s, v = train.where(evening.t)
    if act.does == "turn":
        if v > STILL_MM_S:
            return f"{name} is under way: stop it first."
        train.going = train.arriving = False
        turn(evening, train)
        train.state = "standing"
        return None
    if act.does == "stop":
        train.going = train.arriving = False
        train.stop = min(train.stop, s + v * v / (2 * train.stock.pace.brakes))
        set_motion(evening, train)
        schedule(evening, train)
        return None
    train.going = True
    if train.segments and train.end - s > BEFORE_HEAD_MM + 1:  # it has way left from before
        train.stop, train.state = train.end - BEFORE_HEAD_MM, "running"
        set_motion(evening, train)
        schedule(evening, train)
        return None
    go_on(evening, train)
    if train.state == "standing":
        return f"{name} has no way on as the turnouts lie."
    return f"{name} waits: {train.why}." if train.state == "waiting" else None


def move_problems(layout: Layout, plan: RunningPlan, move: Move) -> Iterator[tuple[str, str]]:
    """What is wrong with something a person is to do: the field and a sentence."""
    if move.seconds > plan.minutes * 60:
        yield "seconds", "It would be done after the end of the evening."
    if move.does in ("go", "stop", "turn"):
        train = plan.trains.get(move.train or "")
        if train is None:
            yield "train", f"No train {move.train or 'named here'} runs in this plan."
        elif train.by != "hand":
            yield "train", f"Nobody drives {move.train}: it runs by its plan. Have it run by hand to drive it."
    elif move.does == "throw":
        yield from filter(None, [_no_throw(layout, move.node, move.lies)])
    else:
        yield from filter(None, [_no_switch(layout, move.device)])


def _no_throw(layout: Layout, node_id: str | None, lies: str | None) -> tuple[str, str] | None:
    """Why a turnout cannot be thrown so: the field, and a sentence."""
    node = layout.nodes.get(node_id or "")
    if node is None or not node.hand:
        return "node", f"There is no turnout {node_id or 'named here'}."
    if lies not in may_lie(node):
        return "lies", f"{node.name or node_id} cannot lie {lies or 'nowhere'}."
    return None


def _no_switch(layout: Layout, device_id: str | None) -> tuple[str, str] | None:
    """Why a device cannot be switched: the field, and a sentence."""
    device = layout.devices.get(device_id or "")
    if device is None or device.kind not in ("breaker", *SOURCES):
        return "device", f"There is no breaker or booster {device_id or 'named here'}."
    return None


def words_of(evening: Evening, move: Move) -> str:
    """What a person does, as a sentence's beginning."""
    match move.does:
        case "throw":
            return f"{evening.name_of(move.node or '')} is thrown to {move.lies} by hand"
        case "power off" | "power on":
            return f"{evening.layout.devices[move.device or ''].name} is switched {move.does[6:]} by hand"
        case "go":
            return f"{evening.trains[move.train or ''].stock.name} is driven on"
        case "stop":
            return f"{evening.trains[move.train or ''].stock.name} is stopped by its driver"
        case _:
            return f"{evening.trains[move.train or ''].stock.name} is turned by its driver"


def move(evening: Evening, number: int) -> None:
    """Something of the plan is done by hand; where it cannot be, the log says why."""
    one = evening.plan.moves[number]
    place = None
    if one.train is not None:
        place = evening.front_of(evening.trains[one.train])[:2]
    refused = do(evening, _act(one))
    words = f"{words_of(evening, one)}." if refused is None else f"Not done: {refused}"
    kind: Literal["by hand", "not done"] = "by hand" if refused is None else "not done"
    evening.log(kind, words, train=one.train, node=one.node, device=one.device, place=place)


def _act(one: Move) -> Act:
    if one.does == "throw":
        return Act("throw", one.node or "", lies=one.lies or "")
    if one.does == "go" or one.does == "stop" or one.does == "turn":
        return Act("drive", one.train or "", does=one.does)
    return Act("power", one.device or "", on=one.does == "power on")
