"""Many people editing at once, each with a moment of thought between changes."""

from __future__ import annotations

import random
import threading
import time
from pathlib import Path
from typing import Any

from tools.served import Served
from tools.soak.found import Found, slowest

THINK_S = (4.0, 12.0)
"""Between two changes of one person who works quickly."""
SHARE, WITHIN_S = 0.95, 1.0
MOST_MB = 500.0


def clients(folder: Path, count: int, seconds: float, seed: int = 1) -> Found:
    """So many clients for so many seconds: half of them change a layout of their own, half draw on one together."""
    found = Found(
        f"{count} clients for {seconds:.0f} s",
        f"0 errors, 95 % of edits under {WITHIN_S:.0f} s, under {MOST_MB:.0f} MB",
    )
    times: list[float] = []
    reads = again = 0
    with Served(folder / "clients.sqlite3", command="demo") as program:
        until = time.monotonic() + seconds

        def person(number: int) -> None:
            nonlocal reads, again
            rng = random.Random(seed * 1000 + number)
            with program.client() as mine:
                layout = "gannet-bay"
                if number % 2:
                    document = mine.get("/api/layouts/gannet-bay/files/layout.json").json()
                    took = mine.post("/api/layouts", json={**document, "name": f"Of {number}"})
                    if took.status_code != 201:
                        found.wrong.append(f"taking a layout in: {took.status_code} {took.text[:100]}")
                        return
                    layout = took.json()["id"]
                state: Any = mine.get(f"/api/layouts/{layout}").json()
                tracks = list(state["document"]["tracks"])
                feeders = list(state["document"]["feeders"])
                while time.monotonic() < until:
                    time.sleep(rng.uniform(*THINK_S))
                    begun = time.monotonic()
                    if number % 2 or rng.random() < 0.5:
                        path = f"/feeders/{rng.choice(feeders)}/gauge"
                        patch = [{"op": "replace", "path": path, "value": rng.choice(["18 AWG", "20 AWG", "22 AWG"])}]
                        while True:
                            got = mine.patch(
                                f"/api/layouts/{layout}",
                                json={"summary": "Gauge", "patch": patch},
                                headers={"If-Match": str(state["revision"])},
                            )
                            if got.status_code != 409:
                                break
                            again += 1
                            state = got.json()["current"]
                    else:
                        act = {"act": "gap", "track": rng.choice(tracks), "at": 600, "rails": "both"}
                        got = mine.post(f"/api/layouts/{layout}/draw", json={"act": act})
                        if got.status_code == 422:
                            continue  # no room for a gap there
                    times.append(time.monotonic() - begun)
                    if got.status_code != 200:
                        found.wrong.append(f"edit: {got.status_code} {got.text[:100]}")
                        continue
                    state = got.json()["state"]
                    # as the page does: the findings of every change, and what its step shows
                    for path in (
                        "findings",
                        rng.choice(["wires", "zones", f"point?track={tracks[0]}&at=900", "history"]),
                    ):
                        answer = mine.get(f"/api/layouts/{layout}/{path}")
                        reads += 1
                        if answer.status_code != 200:
                            found.wrong.append(f"{path}: {answer.status_code}")

        people = [threading.Thread(target=person, args=(n,)) for n in range(count)]
        for thread in people:
            thread.start()
        peak, parts = 0.0, ""
        while any(t.is_alive() for t in people):
            each = program.memories()
            if sum(each.values()) > peak:
                peak, parts = sum(each.values()), " + ".join(f"{m:.0f}" for m in each.values())
            time.sleep(2)
        for thread in people:
            thread.join()
    within = slowest(times, SHARE)
    if within > WITHIN_S:
        found.wrong.append(f"95 % of edits took up to {within:.2f} s")
    if peak > MOST_MB:
        found.wrong.append(f"{peak:.0f} MB of memory")
    found.measured = (
        f"{len(times)} edits, {reads} reads, half under {slowest(times, 0.5):.2f} s, "
        f"95 % under {within:.2f} s, {peak:.0f} MB ({parts})"
    )
    return found
