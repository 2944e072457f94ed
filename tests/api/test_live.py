"""Two windows at one layout: each hears of the other's change within a second, with the name of who made it."""

from __future__ import annotations

import json
import threading
import time
from typing import Any

import httpx2 as httpx
from fastapi.sse import ServerSentEvent

from jolly_copper.api import create_app
from jolly_copper.api.live import MOST_WINDOWS, Live, Window
from jolly_copper.store import Store
from tests.started import in_a_loop, started


class Listener:
    """A window that listens, in a thread of its own."""

    def __init__(self, url: str, name: str) -> None:
        self.heard: list[tuple[str, Any, float]] = []
        self._response: Any = None
        self._thread = threading.Thread(target=self._listen, args=(url, name), daemon=True)
        self._thread.start()
        self.wait(lambda: self.events("here"))

    def _listen(self, url: str, name: str) -> None:
        with httpx.stream("GET", f"{url}/api/live", params={"layout": "plain", "name": name}, timeout=20) as response:
            self._response = response
            assert response.headers["content-type"].startswith("text/event-stream")
            event = ""
            for line in response.iter_lines():
                if line.startswith("event: "):
                    event = line.removeprefix("event: ")
                elif line.startswith("data: "):
                    self.heard.append((event, json.loads(line.removeprefix("data: ")), time.monotonic()))

    def events(self, kind: str) -> list[Any]:
        return [data for event, data, _ in self.heard if event == kind]

    @staticmethod
    def wait(until: Any, seconds: float = 8) -> None:
        end = time.monotonic() + seconds
        while not until():
            assert time.monotonic() < end, "nothing was heard"
            threading.Event().wait(0.02)


def change(store: Store, gauge: str) -> None:
    now = store.newest("plain")
    store.change("plain", now, [{"op": "replace", "path": "/runs/R1/gauge", "value": gauge}], f"To {gauge}")


def test_a_change_is_heard_of_with_its_author(store: Store) -> None:
    with started(create_app(store)) as port:
        url = f"http://127.0.0.1:{port}"
        one = Listener(url, "Wren")
        body = {"summary": "Thicker", "patch": [{"op": "replace", "path": "/runs/R1/gauge", "value": "12 AWG"}]}
        headers = {"If-Match": '"1"', "X-Who": "Vale"}
        threading.Event().wait(0.6)
        begun = time.monotonic()
        assert httpx.patch(f"{url}/api/layouts/plain", json=body, headers=headers).status_code == 200
        one.wait(lambda: one.events("change"))
        assert one.events("change") == [{"revision": 2, "who": "Vale", "summary": "Thicker"}]
        assert one.heard[-1][2] - begun < 5, "within a second, and a slow machine's leave"


def test_what_another_program_saves_is_heard_of_too(store: Store) -> None:
    with started(create_app(store)) as port:
        one = Listener(f"http://127.0.0.1:{port}", "Wren")
        threading.Event().wait(0.6)
        other = Store(store.path)
        change(other, "10 AWG")
        other.close()
        one.wait(lambda: one.events("change"))
        assert one.events("change")[0]["summary"] == "To 10 AWG"


def test_rows_kept_beside_the_layout_are_heard_of_by_their_kind(store: Store) -> None:
    with started(create_app(store)) as port:
        one = Listener(f"http://127.0.0.1:{port}", "Wren")
        threading.Event().wait(0.6)
        at = f"http://127.0.0.1:{port}/api/layouts/plain"
        assert httpx.post(f"{at}/notes", json={"id": "note-00001", "text": "It hums"}).status_code == 200
        one.wait(lambda: one.events("kept"))
        assert httpx.post(f"{at}/hunts", json={"id": "hunt-00001", "symptom": {"kind": "hot"}}).status_code == 200
        one.wait(lambda: len(one.events("kept")) > 1)
        assert one.events("kept") == [["notes"], ["hunts"]]
        assert not one.events("change"), "nothing of the layout changed"


def test_who_is_here_is_told_to_the_others_and_taken_back(store: Store) -> None:
    with started(create_app(store)) as port:
        url = f"http://127.0.0.1:{port}"
        one = Listener(url, "Wren")
        assert one.events("here") == [[]], "nobody else yet"
        with httpx.stream("GET", f"{url}/api/live", params={"layout": "plain", "name": "Vale"}, timeout=20):
            one.wait(lambda: one.events("here")[-1] == ["Vale"])
        one.wait(lambda: one.events("here")[-1] == [])


def test_a_stop_lets_every_window_go(store: Store) -> None:
    app = create_app(store)
    with started(app) as port:
        one = Listener(f"http://127.0.0.1:{port}", "Wren")
        app.state.live.close()
        one._thread.join(timeout=8)
        assert not one._thread.is_alive()


async def _crowd(store: Store) -> tuple[bool, int]:
    hub = Live()
    came = [hub.come(store, Window("plain", str(n))) for n in range(MOST_WINDOWS + 1)]
    slow = Window("plain", "slow")
    for n in range(100):
        slow.tell(ServerSentEvent(event="change", data=n))
    for window in list(hub._windows):
        hub.go(window)
    return came[-2] and not came[-1], slow.news.qsize()


def test_windows_and_what_waits_for_them_are_bounded(store: Store) -> None:
    fits, waiting = in_a_loop(_crowd, store)
    assert fits and waiting <= 32
