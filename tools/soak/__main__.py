"""Run all attacks in full and print the closing table: `python -m tools.soak [attack …]`. Exit code 1 where one
succeeds."""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from tools.soak.clients import clients
from tools.soak.found import Found, table
from tools.soak.fuzz import fuzz
from tools.soak.hostile import hostile
from tools.soak.kills import kills
from tools.soak.strangers import strangers

ATTACKS: dict[str, Callable[[Path], Found]] = {
    "kills": lambda folder: kills(folder, 200),
    "fuzz": lambda folder: fuzz(folder, 10_000),
    "hostile": lambda folder: hostile(folder, 300),
    "clients": lambda folder: clients(folder, 20, 60),
    "strangers": lambda folder: strangers(folder, 400, 40),
}


def main(chosen: list[str]) -> int:
    found = []
    for name in chosen or list(ATTACKS):
        begun = time.monotonic()
        with tempfile.TemporaryDirectory() as folder:
            found.append(ATTACKS[name](Path(folder)))
        print(f"{name}: {time.monotonic() - begun:.0f} s", file=sys.stderr, flush=True)
    print(table(found))
    return int(not all(f.well for f in found))


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
