"""Times of laying, sizing, the wire book and change orders, on the demo and on ten of it. Run by `make bench`."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.proposals.dividing.choose import divide
from jolly_copper.core.proposals.dividing.make import make_division
from jolly_copper.core.proposals.laying.best_place import best_place
from jolly_copper.core.proposals.laying.corridors import WAYS
from jolly_copper.core.proposals.laying.whole import School, lay_railroad
from jolly_copper.core.proposals.sizing import Limits, size_runs
from jolly_copper.core.proposals.sizing_feeders import size_feeders
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.core.wirebook.evenings import order_work
from jolly_copper.core.wirebook.worked import Worked
from jolly_copper.demo import gannet_bay, undivided_bay, unwired_bay
from jolly_copper.exchange.book_html import book_html
from jolly_copper.exchange.book_pdf import book_pdf
from jolly_copper.exchange.book_xlsx import book_xlsx
from tools.bench import copies


def timed(what: str, work: Callable[[], Any]) -> Any:
    """Runs some work once and prints how long it took."""
    began = time.perf_counter()
    found = work()
    print(f"  {what:44}{time.perf_counter() - began:8.2f} s")
    return found


def row(name: str, bare: Layout, wired: Layout) -> None:
    print(f"\n{name}: {len(bare.tracks)} tracks")
    for way in WAYS:
        laid = timed(f"laid {way}", lambda way=way: lay_railroad(bare, School(way=way)))
        if way == "under the track":
            first = apply_patch(bare, laid)
    facts = derive(first, next(iter(first.scenes), None))
    timed("runs sized", lambda: size_runs(facts))
    timed("feeders sized", lambda: size_feeders(facts, Limits(0.05, 1.5)))
    timed("findings", lambda: check(facts))
    wired_facts = derive(wired, next(iter(wired.scenes), None))
    book = timed("the book put together", lambda: compose(wired_facts, 1, "2026-01-01"))
    timed("as PDF", lambda: book_pdf(book))
    timed("as a workbook", lambda: book_xlsx(book))
    timed("as a page", lambda: book_html(book))
    timed("tasks of every board", lambda: Worked(wired_facts).tasks)
    timed("where a booster stands best", lambda: best_place(bare, next(iter(bare.devices))))


def main() -> None:
    demo, bare = gannet_bay(), unwired_bay()
    row("The demo", bare, demo)
    data = copies(demo, 10).model_dump(mode="json")
    ten = copies(demo, 10)
    for kind in ("runs", "terminals", "plugs", "feeders"):
        data[kind] = {}
    for load in data["loads"].values():
        load["terminal"] = None
    row("Ten of it", read_layout(data), ten)
    before = undivided_bay()
    after = apply_patch(before, make_division(before, divide(derive(before, "open-day"))))
    print("\nUndivided to divided")
    order = timed("the change order", lambda: order_work(before, after))
    print(
        f"  {len(order.jobs)} jobs, {len(order.evenings)} evenings, least running "
        f"{min(e.running for e in order.evenings) * 100:.1f} %"
    )


if __name__ == "__main__":
    main()
