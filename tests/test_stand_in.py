"""The stand-in railroad over its socket: hello, what stands, what comes, what is asked and what is refused."""

from __future__ import annotations

import asyncio
import json
import re
import socket
from collections.abc import Awaitable, Callable
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.demo import signalled_bay
from jolly_copper.stand_in import HOST, LONGEST_LINE, MOST_UNREAD, StandIn, play, stands_in
from jolly_copper.store import Store
from tests.started import in_a_loop


@pytest.fixture(scope="module")
def bay() -> Layout:
    return signalled_bay()


def standing(bay: Layout, times: float = 60.0, minutes: float = 20.0) -> StandIn:
    plan = bay.plans["round"].model_copy(update={"minutes": minutes})
    return StandIn(derive(bay, "open-day"), plan, times)


Talk = Callable[[asyncio.StreamReader, asyncio.StreamWriter], Awaitable[Any]]


def with_line(railroad: StandIn, talk: Talk) -> Any:
    """Listen to a stand-in, and answer what the talk answers."""

    async def both() -> Any:
        port: asyncio.Future[int] = asyncio.get_running_loop().create_future()
        task = asyncio.create_task(railroad.run(0, port.set_result))
        reader, writer = await asyncio.open_connection("127.0.0.1", await port)
        try:
            async with asyncio.timeout(30):
                return await talk(reader, writer)
        finally:
            writer.close()
            task.cancel()

    return in_a_loop(both)


async def said(reader: asyncio.StreamReader) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(await reader.readline())
    return found


async def until(reader: asyncio.StreamReader, what: str) -> dict[str, Any]:
    while (found := await said(reader))["is"] != what:
        pass
    return found


def test_it_says_hello_then_how_everything_stands_then_what_comes(bay: Layout) -> None:
    async def talk(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> tuple[Any, ...]:
        hello = await said(reader)
        states = []
        while (one := await said(reader))["is"] != "amps":
            states.append(one)
        again = await until(reader, "occupied")
        return hello, states, one, again

    hello, states, amps, again = with_line(standing(bay), talk)
    assert hello["is"] == "hello" and hello["railroad"] == "Gannet Bay, signalled" and hello["times"] == 60
    assert {"stretch", "address", "section"} == set(hello["sections"][0])
    heads = [s for s in states if s["is"] == "aspect"]
    assert {s["id"] for s in heads} == set(bay.signals) and all(s["lights"] for s in heads)
    assert {s["id"] for s in states if s["is"] == "turnout"} >= {"T1", "T53"}
    assert amps["amps"]["booster1"] > 0
    assert again["address"] in {s["address"] for s in hello["sections"]} and isinstance(again["on"], bool)


def test_turnouts_and_power_obey_and_a_turnout_under_a_train_is_locked(bay: Layout) -> None:
    async def talk(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> list[dict[str, Any]]:
        found = []
        for asked in (
            {"do": "throw", "turnout": "T40", "lies": "diverging"},
            {"do": "throw", "turnout": "T40", "lies": "left"},
            {"do": "throw", "turnout": "nothing", "lies": "through"},
            {"do": "power", "device": "K6", "on": False},
            {"do": "power", "device": "K6", "on": False},
            {"do": "power", "device": "K6", "on": True},
            {"do": "power", "device": "V1", "on": False},
            {"do": "drive", "train": "local", "does": "go"},
            {"do": "times", "times": 5},
            {"do": "times", "times": 5000},
            {"do": "dance"},
        ):
            writer.write(json.dumps(asked).encode() + b"\n")
            while (one := await said(reader))["is"] not in ("done", "refused"):
                found.append(one)
            found.append(one)
        writer.write(b"nonsense\n")
        found.append(await until(reader, "refused"))
        return found

    railroad = standing(bay)
    told = with_line(railroad, talk)
    answers = [m.get("words", "done") for m in told if m["is"] in ("done", "refused")]
    assert answers == [
        "done",
        "T40 cannot lie left.",
        "There is no turnout nothing.",
        "done",
        "Breaker Quarry branch is off already.",
        "done",
        "There is no breaker or booster V1.",
        "There is no train local that a person drives.",
        "done",
        "Nothing here is asked for so: throw a turnout, switch power, drive a train, or set times.",
        "Nothing here is asked for so: throw a turnout, switch power, drive a train, or set times.",
        "That is no JSON object.",
    ]
    assert railroad.times == 5
    power = [m["state"] for m in told if m["is"] == "power" and m["id"] == "K6"]
    assert power == ["open", "closed"]
    # A way that a train was given is locked, and the railroad says for whom.
    locked = standing(bay)
    locked.until(30)
    heard: list[dict[str, Any]] = []
    for node in ("T1", "T2", "T3", "T6", "T7", "T8", "T9"):
        locked.take(json.dumps({"do": "throw", "turnout": node, "lies": "diverging"}), heard.append)
    locked.until(31)
    assert any(re.search("is locked: .* has it", m.get("words", "")) for m in heard)


def test_a_listener_who_does_not_read_is_hung_up_on() -> None:
    class Asleep:
        def __init__(self, waiting: int) -> None:
            self.waiting, self.hung_up, self.got = waiting, False, b""
            self.transport = self

        def get_write_buffer_size(self) -> int:
            return self.waiting

        def abort(self) -> None:
            self.hung_up = True

        def is_closing(self) -> bool:
            return False

        def write(self, data: bytes) -> None:
            self.got += data

    for waiting, heard in ((0, True), (MOST_UNREAD + 1, False)):
        listener = Asleep(waiting)
        StandIn._say(listener, {"is": "over"})  # type: ignore[arg-type]
        assert bool(listener.got) is heard and listener.hung_up is not heard


def test_an_evening_ends_and_the_line_with_it(bay: Layout) -> None:
    async def talk(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> tuple[Any, bytes]:
        over = await until(reader, "over")
        return over, await reader.read()

    over, rest = with_line(standing(bay, times=300, minutes=2), talk)
    assert over == {"is": "over", "t": 120.0} and rest == b""


def test_a_line_without_end_is_hung_up_on(bay: Layout) -> None:
    async def talk(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> bool:
        writer.write(b"x" * (LONGEST_LINE * 3))
        await writer.drain()
        while await reader.readline():
            pass
        return True

    assert with_line(standing(bay), talk)


def test_it_stands_in_for_a_layout_of_the_club_file_and_says_what_is_wrong(bay: Layout, tmp_path: Path) -> None:
    path = tmp_path / "club.sqlite3"
    store = Store(path)
    store.add("bay", bay)
    assert stands_in(store, "bay", "round", 2.0).hello()["plan"] == "Exhibition round"
    with pytest.raises(ValueError, match="There is no plan x; there are open-day, round"):
        stands_in(store, "bay", "x", 1.0)
    with pytest.raises(ValueError, match="no layout none"):
        stands_in(store, "none", "x", 1.0)
    store.close()
    with socket.create_server((HOST, 0)) as taken, pytest.raises(ValueError, match="cannot be listened on"):

        async def by_itself() -> None:
            await asyncio.to_thread(play, path, "bay", "round", 1.0, taken.getsockname()[1], print)

        in_a_loop(by_itself)


def test_the_page_hears_the_line_and_has_things_done(bay: Layout, tmp_path: Path) -> None:
    store = Store(tmp_path / "club.sqlite3")
    with TestClient(create_app(store), base_url="http://localhost") as client:
        nobody = client.get("/api/line/hello", params={"port": 4999})
        assert nobody.status_code == 422 and "Nothing of ours answers on port 4999" in nobody.json()["message"]
        heard = client.get("/api/line/heard", params={"port": 4999}).text
        assert "event: gone" in heard and "4999" in heard
        assert client.get("/api/line/hello", params={"port": 80}).status_code == 422

        async def talk(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> list[Any]:
            port = writer.get_extra_info("peername")[1]
            ask = lambda f, *a, **k: asyncio.to_thread(f, *a, **k)  # noqa: E731
            hello = await ask(client.get, "/api/line/hello", params={"port": port})
            done = await ask(
                client.post, "/api/line/do", json={"port": port, "do": "throw", "turnout": "T40", "lies": "diverging"}
            )
            no = await ask(
                client.post, "/api/line/do", json={"port": port, "do": "throw", "turnout": "T99", "lies": "left"}
            )
            return [hello.json(), done.json(), no]

        hello, done, refused = with_line(standing(bay), talk)
        assert hello["is"] == "hello" and done == {"done": True}
        assert refused.status_code == 422 and "T99" in refused.json()["message"]
    store.close()


def test_a_program_that_does_not_say_hello_is_told_nothing(tmp_path: Path) -> None:
    store = Store(tmp_path / "club.sqlite3")

    async def both() -> tuple[int, bytes]:
        got = bytearray()

        async def other(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            writer.write(b'{"is": "something else"}\n')
            got.extend(await reader.read(100))
            writer.close()

        server = await asyncio.start_server(other, "127.0.0.1", 0)
        port = server.sockets[0].getsockname()[1]
        with TestClient(create_app(store), base_url="http://localhost") as client:
            body = {"port": port, "do": "power", "device": "K6", "on": False}
            answer = await asyncio.to_thread(client.post, "/api/line/do", json=body)
        server.close()
        await server.wait_closed()
        return answer.status_code, bytes(got)

    assert in_a_loop(both) == (422, b"")
    store.close()


def test_a_train_is_driven_over_the_line(bay: Layout) -> None:
    plan = bay.plans["round"]
    local = plan.trains["local"].model_copy(update={"by": "hand", "calls": []})
    driven = plan.model_copy(update={"trains": {"local": local}, "minutes": 10.0})
    railroad = StandIn(derive(bay, "open-day"), driven, 1.0)
    assert railroad.hello()["trains"] == [{"id": "local", "train": "Gannet local", "driven": True}]
    heard: list[dict[str, Any]] = []
    railroad.until(2)
    railroad.take(json.dumps({"do": "drive", "train": "local", "does": "go"}), heard.append)
    lit = {m["section"] for m in railroad.until(60) if m["is"] == "occupied" and m["on"]}
    railroad.take(json.dumps({"do": "drive", "train": "local", "does": "stop"}), heard.append)
    railroad.until(80)
    assert heard == [{"is": "done"}, {"is": "done"}] and lit
    assert not [m for m in railroad.until(120) if m["is"] == "occupied"], "it stands"
