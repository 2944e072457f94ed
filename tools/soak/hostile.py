"""Hostile files one after the other, while somebody else goes on editing and the memory is watched."""

from __future__ import annotations

import threading
import time
from pathlib import Path

import httpx2 as httpx

from tools.served import Served
from tools.soak.files import hostile_files
from tools.soak.found import Found

SLOW_S = 10.0
MOST_MB = 600.0
EDIT_S = 1.0


def hostile(folder: Path, count: int, seed: int = 1, at_once: int = 2) -> Found:
    """Send so many hostile files, some at once."""
    found = Found(
        f"{count} hostile files",
        f"0 × 5xx, 0 over {SLOW_S:.0f} s, under {MOST_MB:.0f} MB, another's edit under {EDIT_S:.0f} s",
    )
    slowest, edits, peak = 0.0, [0.0], 0.0
    done = threading.Event()
    files = list(hostile_files(count, seed))
    guard = threading.Lock()
    with Served(folder / "hostile.sqlite3", command="demo") as program:
        with program.client() as client:
            victim = client.post("/api/layouts/new", json={"name": "Victim"}).json()["id"]

        def edit() -> None:
            with program.client() as mine:
                at = mine.get("/api/layouts/gannet-bay").json()["revision"]
                while not done.is_set():
                    begun = time.monotonic()
                    patch = [{"op": "replace", "path": "/notes", "value": f"n{at}"}]
                    try:
                        got = mine.patch(
                            "/api/layouts/gannet-bay",
                            json={"summary": "n", "patch": patch},
                            headers={"If-Match": str(at)},
                        )
                    except httpx.HTTPError as error:
                        found.wrong.append(f"another's edit: {type(error).__name__}")
                        return
                    edits.append(time.monotonic() - begun)
                    if got.status_code != 200:
                        found.wrong.append(f"another's edit: {got.status_code} {got.text[:80]}")
                        return
                    at = got.json()["state"]["revision"]
                    done.wait(0.3)

        def watch() -> None:
            nonlocal peak
            while not done.wait(0.25):
                peak = max(peak, program.memory())

        def send() -> None:
            nonlocal slowest
            with program.client() as mine:
                while True:
                    with guard:
                        if not files:
                            return
                        what, to, media, data = files.pop()
                    begun = time.monotonic()
                    try:
                        got = mine.post(to.replace("{id}", victim), content=data, headers={"content-type": media})
                        took = time.monotonic() - begun
                        if got.status_code >= 500:
                            found.wrong.append(f"{what} to {to}: {got.status_code} {got.text[:80]}")
                        elif got.status_code >= 400 and not got.json().get("message"):
                            found.wrong.append(f"{what} to {to}: {got.status_code} without a sentence")
                    except (httpx.HTTPError, ValueError) as error:
                        took = time.monotonic() - begun
                        found.wrong.append(f"{what} to {to}: {type(error).__name__}")
                    if took > SLOW_S:
                        found.wrong.append(f"{what} to {to}: {took:.1f} s")
                    slowest = max(slowest, took)

        helpers = [threading.Thread(target=w) for w in (edit, watch)]
        senders = [threading.Thread(target=send) for _ in range(at_once)]
        for thread in (*helpers, *senders):
            thread.start()
        for thread in senders:
            thread.join()
        done.set()
        for thread in helpers:
            thread.join()
    if peak > MOST_MB:
        found.wrong.append(f"{peak:.0f} MB of memory")
    if max(edits) > EDIT_S:
        found.wrong.append(f"another's edit took {max(edits):.2f} s")
    found.measured = (
        f"slowest {slowest:.1f} s, {peak:.0f} MB, another's {len(edits) - 1} edits {max(edits):.2f} s at most"
    )
    return found
