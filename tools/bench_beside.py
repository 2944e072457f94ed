"""One person's edits while another has wire sized, track blocked and the book printed. Run by `make bench`; a number of
edits may be given."""

from __future__ import annotations

import random
import sys
import tempfile
import threading
import time
from pathlib import Path

import httpx2 as httpx

from tools.served import Served
from tools.times import tell_times

THINK_S = (0.5, 1.5)
"""Between two edits."""
LAYOUT = "/api/layouts/gannet-bay"
HEAVY = (
    f"{LAYOUT}-signalled/sizing",
    "/api/layouts/gannet-bay-undivided/blocking",
    f"{LAYOUT}-signalled/files/book.pdf",
)


def edits(client: httpx.Client, count: int, seed: int) -> list[float]:
    """Seconds from a change to its answer, which the new ink comes with."""
    rng, times = random.Random(seed), []
    state = client.get(LAYOUT).json()
    feeders = list(state["document"]["feeders"])
    for _ in range(count):
        time.sleep(rng.uniform(*THINK_S))
        gauge = rng.choice(["18 AWG", "20 AWG", "22 AWG"])
        patch = [{"op": "replace", "path": f"/feeders/{rng.choice(feeders)}/gauge", "value": gauge}]
        begun = time.perf_counter()
        got = client.patch(
            LAYOUT, json={"summary": "Gauge", "patch": patch}, headers={"If-Match": str(state["revision"])}
        )
        times.append(time.perf_counter() - begun)
        got.raise_for_status()
        state = got.json()["state"]
    return times


def again_and_again(program: Served, path: str, over: threading.Event, done: list[str]) -> None:
    """Ask for something heavy, and as soon as it is there once more, until it is over."""
    with program.client() as client:
        while not over.is_set():
            with client.stream("GET", path, timeout=300) as answer:
                answer.raise_for_status()
                for _ in answer.iter_bytes():
                    if over.is_set():
                        return  # hanging up stops the work
            done.append(path)


def main(count: int) -> None:
    """Print the median and the 95 % figure, alone and beside the heavy work."""
    with (
        tempfile.TemporaryDirectory() as folder,
        Served(Path(folder) / "demo.sqlite3", command="demo") as program,
        program.client() as client,
    ):
        edits(client, 4, 0)
        tell_times("alone", edits(client, count, 1))
        over, done = threading.Event(), list[str]()
        crowd = [threading.Thread(target=again_and_again, args=(program, path, over, done)) for path in HEAVY]
        for one in crowd:
            one.start()
        tell_times("beside sizing, blocking and a book", edits(client, count, 2))
        over.set()
        for one in crowd:
            one.join()
        counts = (f"{done.count(path)} × {path.rsplit('/', 1)[-1]}" for path in HEAVY)
        print(" " * 36, "finished meanwhile:", ", ".join(counts))


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 60)
