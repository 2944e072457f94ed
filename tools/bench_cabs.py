"""Times of railroads with cabs and three rails: an edit, every lie of the selectors that matters, and Block it for
cabs. Run by `make bench`."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

from jolly_copper.api.worked import Worked
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proposals.cabs.make import CabWishes, block_for_cabs
from jolly_copper.demo import millbeck, millbeck_unblocked, tinplate_lane, unwired_bay
from jolly_copper.demo.drafting import Draft
from jolly_copper.store import Store
from jolly_copper.telling.answering import answers
from tests.core.cab_layouts import FLAT, run, selector, source, tie

BLOCKS, CABS, FORGOTTEN = 40, 4, 5


def median(work: Callable[[], Any], times: int = 5) -> float:
    """Median milliseconds."""
    took = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        took.append((time.perf_counter() - start) * 1000)
    return statistics.median(took)


def forty_blocks() -> Layout:
    """A line of forty blocks, each behind a rotary that chooses one of four cabs; every other one lies off; every
    fifth gap was forgotten."""
    cabs = [f"cab-{k}" for k in range(CABS)]
    d = Draft("Forty blocks", brief={**FLAT, "control": "dc", "scale": "HO", "track_volts": 12})
    d.node("N1", 0, 0, "bumper")
    d.node("N2", 1000 * BLOCKS, 0, "bumper")
    d.track("t", "Line", "N1.1", "N2.1")
    for k, cab in enumerate(cabs):
        source(d, cab, winding=f"Winding {k}")
    for k in range(BLOCKS):
        block = f"block-{k}"
        selector(d, block, cabs, cabs[k % CABS] if k % 2 else None, made="rotary, two poles")
        tie(d, "t", 1000 * k + 500, run(d, block, 1000 * k + 500), a_rail="left")
        d.section(f"s{k}", f"Block {k}", "t", 1000 * k + 500, block)
        if k % FORGOTTEN:
            d.gap("t", 1000 * k)
    return d.plain()


def as_direct_current() -> Layout:
    """The first demo's track with nothing of its power, for cabs to be blocked on."""
    bay = unwired_bay()
    bare: dict[str, Any] = {k: {} for k in ("devices", "circuits", "loads", "scenes", "sections")}
    return bay.model_copy(update={**bare, "brief": bay.brief.model_copy(update={"control": "dc"})})


def edit(layout: Layout, times: int = 7) -> float:
    """Median milliseconds from a saved edit of one wire's gauge to the JSON of all the plan needs."""
    run = next(iter(layout.runs))
    with tempfile.TemporaryDirectory() as folder:
        store, worked, took = Store(Path(folder) / "b.sqlite3"), Worked(), []
        revision = store.add("b", layout)
        answers(worked.facts(revision, None), 1)
        for n in range(times):
            began = time.perf_counter()
            patch = [{"op": "replace", "path": f"/runs/{run}/gauge", "value": ("16 AWG", "14 AWG")[n % 2]}]
            revision = store.change("b", revision.number, patch, "bench")
            answers(worked.facts(revision, None), revision.number).model_dump_json()
            took.append((time.perf_counter() - began) * 1000)
        store.close()
    return statistics.median(took)


def main() -> None:
    """Print every figure beside what it is of."""
    forty = forty_blocks()
    for name, layout in (
        ("Millbeck Junction", millbeck()),
        ("Tinplate Lane", tinplate_lane()),
        (f"{BLOCKS} blocks, {CABS} cabs", forty),
    ):
        facts = derive(layout)
        print(f"{name}: {len(layout.tracks)} tracks, {len(layout.devices)} devices")
        print(f"  an edit, saved, to the plan's answers     {edit(layout):8.0f} ms")
        print(f"  its findings, every lie that matters      {median(partial(check, facts)):8.0f} ms")
    for name, layout, wishes in (
        ("Millbeck, both rails, two cabs", millbeck_unblocked(), CabWishes("both rails", 2)),
        ("Millbeck, common rail, two cabs", millbeck_unblocked(), CabWishes("common rail", 2)),
        ("the first demo as DC, four cabs", as_direct_current(), CabWishes("both rails", 4)),
    ):
        print(f"Block it for cabs, {name:33} {median(partial(block_for_cabs, layout, wishes), 3):8.0f} ms")


if __name__ == "__main__":
    main()
