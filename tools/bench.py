"""Times of the solver, its growth with the size of a layout, and the ratio to a circuit simulator. Run by `make
bench`."""

from __future__ import annotations

import json
import re
import shutil
import statistics
import subprocess
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from jolly_copper.api.worked import Worked
from jolly_copper.calm import calm_collector
from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.circuits.memo import MEMO
from jolly_copper.core.circuits.network import assemble
from jolly_copper.core.circuits.staircase import explain
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.core.proposals.whatif import what_if
from jolly_copper.demo import gannet_bay
from jolly_copper.exchange.spice import netlist
from jolly_copper.store import Store
from jolly_copper.telling.answering import answers

GOODS = ("spools", "prices", "locos", "trains", "scenes", "accepted")
KINDS = [k for k, v in Layout.model_fields.items() if v.default == {} and k not in GOODS]
"""What stands somewhere and is there again in each copy; trains and goods are one fleet and one shop."""
TIMES = 7


def copies(layout: Layout, count: int) -> Layout:
    """The same railroad many times over, side by side: as many boosters and districts as it takes."""
    data = layout.model_dump(mode="json")
    ids = sorted({i for k in KINDS for i in data[k]}, key=len, reverse=True)
    known = set(ids)

    def renamed(value: Any, number: int, key: str = "") -> Any:
        if isinstance(value, dict):
            return {k: renamed(v, number, k) for k, v in value.items()}
        if isinstance(value, list):
            return [renamed(v, number, key) for v in value]
        if (
            isinstance(value, str)
            and value in known
            and key
            in (
                "node",
                "track",
                "circuit",
                "input",
                "output",
                "run",
                "terminal",
                "device",
                "ends_at_device",
                "ends_at_terminal",
                "circuits",
                "board",
                "block",
                "supply",
                "driver",
                "report_board",
                "button_board",
                "terminal",
                "of",
                "other",
                "return_of",
                "inputs",
                "on_with",
                "gang",
                "panel",
                "held_by",
            )
        ):
            return f"{value}_{number}"
        return value

    out = {**data, "name": f"{count} times {layout.name}", "scenes": {}, "accepted": {}}
    for kind in KINDS:
        out[kind] = {f"{i}_{n}": renamed(v, n) for n in range(count) for i, v in data[kind].items()}
    for n in range(count):
        for node in data["nodes"]:
            out["nodes"][f"{node}_{n}"]["at"]["x"] += 13_000 * n
    name, scene = next(iter(data["scenes"].items()))
    out["scenes"] = {name: {"name": "All at once", "placements": renamed(scene["placements"], 0)}}
    return read_layout(out)


def timed(work: Callable[[], Any], times: int = TIMES) -> float:
    """Median milliseconds."""
    took = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        took.append((time.perf_counter() - began) * 1000)
    return statistics.median(took)


def gauge_of(n: int) -> str:
    return ["14 AWG", "12 AWG", "10 AWG", "8 AWG", "6 AWG", "18 AWG", "20 AWG", "22 AWG"][n % 8]


def edit_times(layout: Layout, run: str) -> dict[str, float]:
    """One edit after another as the server does it: save, derive, findings, shapes, JSON."""
    with tempfile.TemporaryDirectory() as folder:
        store, worked, took = Store(Path(folder) / "b.sqlite3"), Worked(), []
        revision = store.add("b", layout)
        answers(worked.facts(revision, "open-day"), 1)
        for n in range(TIMES):
            began = time.perf_counter()
            patch = [{"op": "replace", "path": f"/runs/{run}/gauge", "value": gauge_of(n)}]
            revision = store.change("b", revision.number, patch, "bench")
            answers(worked.facts(revision, "open-day"), revision.number).model_dump_json()
            took.append((time.perf_counter() - began) * 1000)
        store.close()
    return {"edit to answers": statistics.median(took)}


def row(name: str, layout: Layout, run: str) -> dict[str, float]:
    def cold() -> None:
        MEMO.forget()
        derive(layout, "open-day")

    facts = derive(layout, "open-day")
    worst = facts.worst_point()
    assert worst is not None
    place = facts.place_of(worst)
    found = {
        "metres": sum(facts.rails.lengths.values()) / 1000,
        "nodes": facts.network.node_count,
        "points": len(facts.points),
        "assemble": timed(lambda: assemble(layout)),
        "derive, nothing remembered": timed(cold, 5),
        "findings": timed(lambda: check(facts), 5),
        "one point explained": timed(lambda: explain(facts, *place)),
        **edit_times(layout, run),
    }
    print(f"{name:22}" + "".join(f"{v:>14.1f}" for v in found.values()))
    return found


def against_ngspice(layout: Layout) -> None:
    if shutil.which("ngspice") is None:
        print("ngspice is not installed; its ratio is left out.")
        return
    facts = derive(layout, "open-day")
    part = max(facts.parts, key=lambda p: len(p.rows))
    rows = np.linspace(0, len(part.rows) - 1, 24).astype(int)
    places = [facts.place_of(int(part.rows[r])) for r in rows]
    text = netlist(layout, [(*p, 1e-9) for p in places], control=True)
    prints = re.findall(r"^print .*$", text, re.M)
    loop = []
    for k, line in enumerate(prints):
        loop += [f"alter I{k} = 1", "op", line, f"alter I{k} = 1e-9"]
    deck = re.sub(
        r"\.control.*?\.endc",
        lambda _: ".control\nset numdgt=12\n" + "\n".join(loop) + "\nquit\n.endc",
        text,
        flags=re.S,
    )
    one = timed(lambda: subprocess.run(["ngspice", "-b"], input=text, capture_output=True, text=True, check=False), 3)
    whole = timed(lambda: subprocess.run(["ngspice", "-b"], input=deck, capture_output=True, text=True, check=False), 3)
    each = (whole - one) / len(prints)
    count = len(facts.points)

    def ours() -> None:
        MEMO.forget()
        derive(layout, "open-day")

    mine = timed(ours, 5)
    print(f"\nAgainst ngspice, one train at each of {count} points of the demo:")
    print(
        f"  one process, alter and op in a loop: {each:.1f} ms a point, {each * count / 1000:.1f} s in all "
        f"(extrapolated from {len(prints)})"
    )
    print(f"  one process each: {one:.0f} ms a point, {one * count / 1000:.0f} s in all (extrapolated)")
    print(
        f"  here: {mine:.0f} ms in all, with shorts, placements and wire currents; {each * count / mine:.0f} and "
        f"{one * count / mine:.0f} times quicker"
    )


def main() -> None:
    demo = gannet_bay()
    calm_collector()  # as the server does
    print("Median milliseconds, this machine.\n")
    names = ["m of track", "nodes", "points", "assemble", "derive cold", "findings", "one point", "edit→answers"]
    print(f"{'':22}" + "".join(f"{n:>14}" for n in names))
    one = row("the demo", demo, "W1")
    three = row("three times", copies(demo, 3), "W1_0")
    ten = row("ten times", copies(demo, 10), "W1_0")
    growth = np.log(ten["derive, nothing remembered"] / one["derive, nothing remembered"]) / np.log(
        ten["metres"] / one["metres"]
    )
    print(f"\nDeriving grows as length to the power {growth:.2f} (1 is linear) when districts grow with the track.")
    facts = derive(demo, "open-day")
    worst = facts.worst_point()
    assert worst is not None
    place = facts.place_of(worst)
    print(
        f"What-ifs at the worst point: {timed(lambda: what_if(facts, *place), 3):.0f} ms.  "
        f"A change checked and applied: "
        f"{timed(lambda: apply_patch(demo, [{'op': 'replace', 'path': '/runs/W1/gauge', 'value': '12 AWG'}])):.0f} ms."
    )
    print(f"Reading the demo's file: {timed(lambda: read_layout(json.loads(demo.model_dump_json()))):.0f} ms.")
    against_ngspice(demo)
    del three


if __name__ == "__main__":
    main()
