"""Commissioning on the phone while the railroad is listened to: numbers tick themselves as they come."""

from __future__ import annotations

import json
import re
import socket
import threading
from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Page, expect

Say = Callable[[int, str], None]


@pytest.fixture
def box() -> Iterator[tuple[int, Say]]:
    """A club's own box as `docs/line-protocol.md` has it: it says hello, and a number when an engine is put on."""
    server = socket.create_server(("127.0.0.1", 0))
    heard: list[socket.socket] = []
    came = threading.Event()

    def listen() -> None:
        while True:
            try:
                line, _ = server.accept()
            except OSError:
                return
            hello = {"is": "hello", "railroad": "Bay", "plan": "", "times": 1, "t": 0}
            hello |= {"sections": [], "turnouts": [], "trains": [], "signals": [], "devices": []}
            line.sendall(json.dumps(hello).encode() + b"\n")
            heard.append(line)
            came.set()

    def say(number: int, section: str) -> None:
        assert came.wait(10)
        told = {"is": "occupied", "t": 1, "stretch": number, "address": number, "section": section, "on": True}
        heard[-1].sendall(json.dumps(told).encode() + b"\n")

    thread = threading.Thread(target=listen, daemon=True)
    thread.start()
    yield server.getsockname()[1], say
    for line in heard:
        line.close()
    server.close()


def test_numbers_tick_themselves_as_engines_are_put_on(page: Page, base_url: str, box: tuple[int, Say]) -> None:
    port, say = box
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{base_url}/under?layout=gannet-bay-signalled")
    page.get_by_role("button", name="Read and minded").click()
    page.goto(f"{base_url}/under?layout=gannet-bay-signalled&board=board1&task=board:DB1")
    numbers = page.get_by_role("region", name="Numbers that come")
    expect(numbers).to_contain_text("tick themselves")
    asked = numbers.get_by_label("Port")
    asked.fill("80")
    expect(numbers.get_by_role("alert")).to_contain_text("1024 to 65535")
    expect(numbers.get_by_role("button", name="Listen")).to_be_disabled()
    asked.fill(str(port))
    numbers.get_by_role("button", name="Listen").click()
    say(9, "M1")
    expect(numbers).to_contain_text("Number 9 came: it is M1, of another board.")
    for number in range(1, 7):
        say(number, f"S{number}")
    expect(numbers.locator("[data-heard=true]")).to_have_count(6)
    expect(numbers).not_to_contain_text("of another board")
    expect(page.get_by_text(re.compile("^Tried, not finished"))).to_have_count(1)  # the button alone
    say(7, "M21")
    expect(page.get_by_text(re.compile("^Tried, not finished,.*read all 7 numbers came"))).to_be_visible()
    page.reload()
    expect(page.get_by_text(re.compile("^Tried, not finished,.*read all 7 numbers came"))).to_be_visible()
    page.get_by_role("button", name="Take it back").click()
    expect(page.get_by_text(re.compile("all 7 numbers came"))).to_have_count(0)
