"""Several hands on one club file at once: nothing lost, nothing doubled."""

from __future__ import annotations

import subprocess
import sys
import threading
from pathlib import Path

from jolly_copper.store import Conflict, Store
from tests.layouts import plain

ONE_HAND = """
import sys
from jolly_copper.store import Conflict, Store
store, mine, done = Store(sys.argv[1]), sys.argv[2], 0
while done < 15:
    current = store.get("small")
    notes = current.layout.notes + mine
    try:
        store.change("small", current.number, [{"op": "replace", "path": "/notes", "value": notes}], mine)
        done += 1
    except Conflict:
        pass
"""


def test_two_programs_and_two_threads_each_keep_every_change(tmp_path: Path) -> None:
    path = tmp_path / "club.sqlite3"
    store = Store(path)
    store.add("small", plain().plain())
    others = [subprocess.Popen([sys.executable, "-c", ONE_HAND, str(path), mine]) for mine in "ab"]

    def thread(mine: str) -> None:
        done = 0
        while done < 15:
            current = store.get("small")
            patch = [{"op": "replace", "path": "/notes", "value": current.layout.notes + mine}]
            try:
                store.change("small", current.number, patch, mine)
                done += 1
            except Conflict:
                continue
        store.close()

    hands = [threading.Thread(target=thread, args=(mine,)) for mine in "cd"]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join(60)
    assert [p.wait(60) for p in others] == [0, 0]
    final = store.get("small")
    assert final.number == 61 and sorted(final.layout.notes) == sorted("abcd" * 15)
    store.close()
