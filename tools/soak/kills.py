"""The program is killed again and again while changes come in; every change that was answered must be there then."""

from __future__ import annotations

import random
import signal
import threading
import time
from pathlib import Path

import httpx2 as httpx

from tools.served import Served
from tools.soak.found import Found


def kills(folder: Path, count: int, seed: int = 1) -> Found:
    """Kill the program so many times.

    Args:
        folder: for the club file.
        count: kills.
        seed: of when.
    """
    found = Found(f"{count} kills of the program", "0 answered changes lost")
    rng = random.Random(seed)
    db = folder / "killed.sqlite3"
    known, answered, longest = 0, 0, 0.0
    layout = ""
    for number in range(count):
        begun = time.monotonic()
        program = Served(db)
        longest = max(longest, time.monotonic() - begun)
        try:
            with program.client() as client:
                if not layout:
                    layout = client.post("/api/layouts/new", json={"name": "Killed"}).json()["id"]
                    known = 1
                state = client.get(f"/api/layouts/{layout}").json()
                if state["revision"] < known:
                    found.wrong.append(f"kill {number}: change {known} was answered, {state['revision']} is there")
                if known > 1 and state["revision"] == known and state["document"]["notes"] != f"n{known}":
                    found.wrong.append(f"kill {number}: change {known} says {state['document']['notes']!r}")
                at = state["revision"]
                timer = threading.Timer(rng.uniform(0.02, 0.5), program.process.send_signal, (signal.SIGKILL,))
                timer.start()
                try:
                    while True:
                        patch = [{"op": "replace", "path": "/notes", "value": f"n{at + 1}"}]
                        got = client.patch(
                            f"/api/layouts/{layout}",
                            json={"summary": f"n{at + 1}", "patch": patch},
                            headers={"If-Match": str(at)},
                        )
                        got.raise_for_status()
                        at = known = got.json()["state"]["revision"]
                        answered += 1
                except httpx.HTTPError:
                    pass
                timer.cancel()
        finally:
            program.stop(signal.SIGKILL)
    found.measured = f"{len(found.wrong)} of {answered} lost; start in {longest:.1f} s at most"
    return found
