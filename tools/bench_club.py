"""Times of a long history, of long and crowded track, and of joining drawn lines. Run by `make bench`; a number of
changes may be given."""

from __future__ import annotations

import os
import random
import resource
import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from multiprocessing import Process
from pathlib import Path

from jolly_copper.calm import calm_collector
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.drawing.taking_in import Line, take_in
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.demo import gannet_bay, signalled_bay
from jolly_copper.store import Store
from tests.large import row_of_tracks


def history(make: Callable[[], Layout], count: int) -> None:
    """Save so many changes, then open the file."""
    rng = random.Random(1)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "club.sqlite3"
        store = Store(path)
        feeders, number = list(store.add("bay", make()).layout.feeders), 1
        times = []
        for _ in range(count):
            begun = time.perf_counter()
            value = rng.choice(["18 AWG", "20 AWG", "22 AWG"])
            patch = [{"op": "replace", "path": f"/feeders/{rng.choice(feeders)}/gauge", "value": value}]
            number = store.change("bay", number, patch, "Gauge").number
            times.append(time.perf_counter() - begun)
        store.close()
        size = os.path.getsize(path) / 1e6
        begun = time.perf_counter()
        store = Store(path)
        store.layouts()
        store.get("bay")
        store.history("bay")
        opened = time.perf_counter() - begun
        last = times[-200:]
        print(
            f"{make.__name__}, {count} changes: file {size:.1f} MB, open {1e3 * opened:.0f} ms, save (the last 200) "
            f"median {1e3 * statistics.median(last):.0f} ms, 95 % under {1e3 * sorted(last)[189]:.0f} ms"
        )
        store.close()


def long_track(name: str, tracks: int, length: float, feeder_every: int) -> None:
    """Derive a row of tracks in a process of its own, so that its memory is told."""

    def work() -> None:
        layout = read_layout(row_of_tracks(tracks, length, feeder_every))
        begun = time.perf_counter()
        facts = derive(layout)
        took, most = time.perf_counter() - begun, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e3
        print(f"{name}: {took:.2f} s, {len(facts.points)} points, {most:.0f} MB in all", flush=True)

    process = Process(target=work)
    process.start()
    process.join()


def joining() -> None:
    """Join drawn lines, end to end and onto one another."""
    rows = [
        Line((Bend(x=k % 50 * 300, y=k // 50 * 200), Bend(x=k % 50 * 300 + 300, y=k // 50 * 200))) for k in range(4000)
    ]
    comb = [Line((Bend(x=0, y=0), Bend(x=40_000, y=0)))]
    comb += [Line((Bend(x=k * 20 + 10, y=0), Bend(x=k * 20 + 200, y=150))) for k in range(2000)]
    for name, lines in (("4,000 lines end to end", rows), ("2,000 ends on one line", comb)):
        sheet, begun = Sheet(Layout(name="x")), time.perf_counter()
        report = take_in(sheet, lines, 5.0, {"use": "main", "code": 83})
        sheet.patch()
        print(f"{name}: {time.perf_counter() - begun:.2f} s, {report.joints} joints, {report.turnouts} turnouts")


if __name__ == "__main__":
    changes = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    calm_collector()
    long_track("a kilometre in one district", 100, 9_990, 1)
    long_track("a thousand tracks of 0.3 m", 1000, 300, 10)
    joining()
    history(gannet_bay, changes)
    history(signalled_bay, changes)
