"""A railroad that stands in for the real one: the rehearsed evening in real time, over a line on this machine.

One JSON object a line, both ways, over a socket; `docs/line-protocol.md` tells every one of them. A club can put its
own box in its place.
"""

from __future__ import annotations

import asyncio
import json
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import Any

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import REVERSERS
from jolly_copper.core.layout.plans import RunningPlan
from jolly_copper.core.layout.reading import may_lie
from jolly_copper.core.rehearsal.hands import Act
from jolly_copper.core.rehearsal.run import PlanRefused, Rehearsal, by_hand, rehearse
from jolly_copper.core.rehearsal.trace import Entry, Head, Line, Lit, Opening, Sample, Switched, Thrown
from jolly_copper.core.signals.heads import shows
from jolly_copper.store import NotFound, Store

HOST = "127.0.0.1"
"""It listens on this machine alone."""
TICK_SECONDS = 0.05
LONGEST_LINE = 4096
MOST_CLIENTS = 16
MOST_UNREAD = 4_000_000
"""Bytes that may wait for a listener who does not read them; then it is hung up on."""
TIMES = (0.1, 300.0)
Message = dict[str, Any]


class StandIn:
    """A rehearsed evening that runs in real time and tells whoever listens.

    Args:
        facts: of the railroad, in the plan's scene. plan: of the evening. times: how many times as fast as it would.
    """

    def __init__(self, facts: Facts, plan: RunningPlan, times: float = 1.0) -> None:
        self._facts, self._plan = facts, plan
        self.times = times
        self._clients: set[asyncio.StreamWriter] = set()
        self._state: dict[str, Message] = {}
        self._run: Rehearsal = rehearse(facts.layout, facts, plan, at_once=0)
        opening = next(self._run.lines)
        assert isinstance(opening, Opening)
        self._opening = opening
        self._ahead: Line | None = None
        self._t = 0.0
        self.over = False
        sensed = self._run.evening.ground.known.sensed
        self._sections = {
            s.number: {"stretch": s.number, "address": s.address, "section": s.name}
            for s in sensed
            if s.device is not None
        }
        for n in opening.lit:
            self._remember(self._lit(0.0, n, True))
        for signal, aspect in opening.heads.items():
            self._remember(self._aspect(0.0, signal, aspect))
        for node, lies in opening.lies.items():
            self._remember(self._turnout(0.0, node, lies))

    def hello(self) -> Message:
        """The first line to everybody: what this railroad has."""
        layout = self._facts.layout
        return {
            "is": "hello",
            "railroad": layout.name,
            "plan": self._plan.name,
            "times": self.times,
            "t": round(self._t, 2),
            "sections": list(self._sections.values()),
            "turnouts": [
                {"id": i, "turnout": n.name or i, "lies": list(may_lie(n))} for i, n in layout.nodes.items() if n.hand
            ],
            "trains": [
                {"id": k, "train": x.stock.name, "driven": x.plan.by == "hand"}
                for k, x in self._run.evening.trains.items()
            ],
            "signals": [{"id": i, "signal": s.name} for i, s in layout.signals.items()],
            "devices": [
                {"id": i, "device": layout.devices[i].name, "switches": layout.devices[i].kind not in REVERSERS}
                for i in self._opening.devices
            ],
        }

    def _lit(self, t: float, extent: int, on: bool) -> Message | None:
        known = self._sections.get(extent)
        return {"is": "occupied", "t": round(t, 3), **known, "on": on} if known is not None else None

    def _aspect(self, t: float, signal: str, aspect: str) -> Message:
        it = self._facts.layout.signals[signal]
        lights = list(shows(it, aspect))  # type: ignore[arg-type]
        return {"is": "aspect", "t": round(t, 3), "id": signal, "signal": it.name, "shows": aspect, "lights": lights}

    def _turnout(self, t: float, node: str, lies: str) -> Message:
        name = self._facts.layout.nodes[node].name or node
        return {"is": "turnout", "t": round(t, 3), "id": node, "turnout": name, "lies": lies}

    def message(self, line: Line) -> Message | None:
        """A line of the rehearsal as it goes out; None for what a railroad does not report."""
        match line:
            case Lit():
                return self._lit(line.t, line.extent, line.on)
            case Head():
                return self._aspect(line.t, line.signal, line.aspect)
            case Thrown():
                return self._turnout(line.t, line.node, line.lies)
            case Switched():
                name = self._facts.layout.devices[line.device].name
                return {"is": "power", "t": round(line.t, 3), "id": line.device, "device": name, "state": line.state}
            case Sample():
                amps = dict(zip(self._opening.devices, line.amps, strict=True))
                return {"is": "amps", "t": round(line.t, 3), "amps": amps}
            case Entry() if line.kind not in ("arrives", "waits"):
                return {"is": "news", "t": round(line.t, 3), "kind": line.kind, "words": line.words}
            case _:
                return None

    def _remember(self, message: Message | None) -> None:
        """Keep how things stand, for who comes later."""
        if message is not None and message["is"] in ("occupied", "aspect", "turnout", "power"):
            key = message.get("stretch", message.get("id"))
            self._state[f"{message['is']} {key}"] = message

    def until(self, t: float) -> list[Message]:
        """Everything up to a moment that was not told yet."""
        found: list[Message] = []
        while not self.over:
            line = self._ahead if self._ahead is not None else next(self._run.lines, None)
            self._ahead = None
            if line is None:
                self.over = True
                found.append({"is": "over", "t": round(self._run.evening.ends, 3)})
            elif not isinstance(line, Opening) and line.t > t:
                self._ahead = line
                break
            elif (message := self.message(line)) is not None:
                self._remember(message)
                found.append(message)
        self._t = t
        return found

    def take(self, text: str, answer: Callable[[Message], None]) -> None:
        """Do what a line from a client asks for; `answer` is called with what is said to it."""

        def told(why: str | None) -> None:
            answer({"is": "done"} if why is None else {"is": "refused", "words": why})

        try:
            asked = json.loads(text)
        except ValueError:
            return told("That is no JSON object.")
        match asked:
            case {"do": "throw", "turnout": str(node), "lies": str(lies)}:
                by_hand(self._run.evening, Act("throw", node, lies), told)
            case {"do": "power", "device": str(device), "on": bool(on)}:
                by_hand(self._run.evening, Act("power", device, on=on), told)
            case {"do": "drive", "train": str(train), "does": "go" | "stop" | "turn" as does}:
                by_hand(self._run.evening, Act("drive", train, does=does), told)
            case {"do": "times", "times": int() | float() as times} if TIMES[0] <= times <= TIMES[1]:
                self.times = float(times)
                told(None)
            case _:
                told("Nothing here is asked for so: throw a turnout, switch power, drive a train, or set times.")
        return None

    async def _serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        if len(self._clients) >= MOST_CLIENTS:
            writer.close()
            return
        self._say(writer, self.hello())
        for message in self._state.values():
            self._say(writer, message)
        self._clients.add(writer)
        try:
            while line := await reader.readline():
                self.take(line.decode("utf-8", "replace"), lambda m: self._say(writer, m))
        except (ValueError, ConnectionError):
            pass  # a line without end, or a listener that is gone
        finally:
            self._clients.discard(writer)
            writer.close()

    @staticmethod
    def _say(writer: asyncio.StreamWriter, message: Message) -> None:
        if writer.transport.get_write_buffer_size() > MOST_UNREAD:
            writer.transport.abort()  # it does not listen any more
        elif not writer.is_closing():
            writer.write(json.dumps(message).encode() + b"\n")

    async def run(self, port: int, ready: Callable[[int], None] | None = None) -> None:
        """Listen on a port of this machine and let the evening go on until it is over."""
        server = await asyncio.start_server(self._serve, HOST, port, limit=LONGEST_LINE)
        if ready is not None:
            ready(server.sockets[0].getsockname()[1])
        clock = asyncio.get_running_loop().time
        last = clock()
        async with server:
            while not self.over:
                await asyncio.sleep(TICK_SECONDS)
                now = clock()
                for message in self.until(self._t + (now - last) * self.times):
                    for writer in list(self._clients):
                        self._say(writer, message)
                last = now
            for writer in list(self._clients):
                writer.close()


def stands_in(store: Store, layout_id: str, plan_id: str, times: float) -> StandIn:
    """The stand-in for a layout of the club file.

    Raises:
        ValueError: there is no such layout or plan, or the plan cannot be run; in words.
    """
    try:
        layout = store.get(layout_id).layout
    except NotFound as error:
        raise ValueError(str(error)) from None
    plan = layout.plans.get(plan_id)
    if plan is None:
        raise ValueError(f"There is no plan {plan_id}; there are {', '.join(layout.plans) or 'none'}.")
    facts = derive(layout, plan.scene if plan.scene in layout.scenes else next(iter(layout.scenes), None))
    try:
        return StandIn(facts, plan, times)
    except PlanRefused as refused:
        raise ValueError(refused.wrong[0][1]) from None


def play(club_file: Path, layout: str, plan: str, times: float, port: int, say: Callable[[str], None]) -> None:
    """Stand in for a layout of a club file until the evening is over or somebody stops it.

    Raises:
        ValueError: there is no such layout or plan, it cannot be run, or the port is taken; in words.
    """
    store = Store(club_file)
    try:
        railroad = stands_in(store, layout, plan, times)
    finally:
        store.close()
    name = railroad.hello()["railroad"]
    try:
        with suppress(KeyboardInterrupt):
            asyncio.run(railroad.run(port, lambda p: say(f"{name} stands in on port {p} of this machine.")))
    except OSError as error:
        raise ValueError(f"Port {port} cannot be listened on: {error.strerror}.") from None
