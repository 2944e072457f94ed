"""Revisions, undo that outlives the program, conflicts, and a kill -9 in the middle of saving."""

from __future__ import annotations

import os
import signal
import sqlite3
import subprocess
import sys
import time
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import LayoutError
from jolly_copper.store import Conflict, FileTrouble, NotFound, Store
from jolly_copper.store.migrations import MIGRATIONS
from jolly_copper.store.pictures import keep_picture, picture_of
from tests.api.conftest import Layouts
from tests.layouts import plain


@pytest.fixture
def layouts() -> Layouts:
    return {"small": plain().plain}


def rename(store: Store, name: str, based_on: int) -> int:
    return store.change("small", based_on, [{"op": "replace", "path": "/name", "value": name}], f"Name {name}").number


def test_changes_are_numbered_and_kept(store: Store) -> None:
    assert rename(store, "One", 1) == 2
    assert rename(store, "Two", 2) == 3
    assert store.get("small").layout.name == "Two" and store.get("small", 2).layout.name == "One"
    assert [r["summary"] for r in store.history("small")] == ["Name Two", "Name One", "New layout"]
    assert store.layouts()[0]["name"] == "Two"


def test_a_stale_change_is_refused_with_the_newer_state(store: Store) -> None:
    rename(store, "One", 1)
    with pytest.raises(Conflict) as refused:
        rename(store, "Other", 1)
    assert refused.value.current.number == 2 and store.get("small").layout.name == "One"


@pytest.mark.parametrize(
    "patch",
    [
        [{"op": "replace", "path": "/nowhere/at/all", "value": 1}],
        [{"op": "replace", "path": "/runs/R1/gauge", "value": "purple"}],
        [{"op": "remove", "path": "/circuits/main"}],
        [{"op": "test", "path": "/name", "value": "not it"}],
        [{"op": "sing", "path": "/name"}],
        [{"path": "/name"}],
        [{"op": "replace", "path": "name", "value": "x"}],
    ],
)
def test_a_bad_change_changes_nothing(store: Store, patch: list[dict[str, object]]) -> None:
    with pytest.raises(LayoutError):
        store.change("small", 1, patch, "bad")
    assert store.get("small").number == 1


def test_undo_and_redo_are_changes_of_their_own(store: Store) -> None:
    rename(store, "One", 1)
    rename(store, "Two", 2)
    assert store.undo("small", 3).layout.name == "One"
    assert store.undo("small", 4).layout.name == "Plain"
    revision = store.redo("small", 5)
    assert (revision.layout.name, revision.can_undo, revision.can_redo) == ("One", "Name One", "Name Two")
    rename(store, "Three", 6)
    assert store.get("small").can_redo is None, "a new change ends what could be redone"
    with pytest.raises(NotFound):
        store.redo("small", 7)


def test_undo_outlives_the_program(store: Store) -> None:
    rename(store, "One", 1)
    again = Store(store.path)
    assert again.undo("small", 2).layout.name == "Plain"
    again.close()


@settings(max_examples=25, deadline=None)
@given(st.lists(st.sampled_from(["edit", "undo", "redo"]), max_size=12))
def test_undo_and_redo_walk_like_two_stacks(steps: list[str]) -> None:
    """Against the obvious model: a list of states and a place in it."""
    store = Store(":memory:")
    store.add("small", plain().plain())
    states, at, count = ["Plain"], 0, 0
    for step in steps:
        number = store.get("small").number
        if step == "edit":
            count += 1
            rename(store, f"N{count}", number)
            states, at = [*states[: at + 1], f"N{count}"], at + 1
        elif step == "undo" and at > 0:
            store.undo("small", number)
            at -= 1
        elif step == "redo" and at + 1 < len(states):
            store.redo("small", number)
            at += 1
        else:
            continue
        found = store.get("small")
        assert found.layout.name == states[at]
        assert (found.can_undo is None, found.can_redo is None) == (at == 0, at + 1 == len(states))
    store.close()


def test_names_that_are_taken_or_missing(store: Store, demo: Layout) -> None:
    with pytest.raises(ValueError, match="already"):
        store.add("small", demo)
    for ask in (lambda: store.get("nothing"), lambda: store.get("small", 9), lambda: store.delete("nothing")):
        with pytest.raises(NotFound):
            ask()
    store.delete("small")
    assert store.layouts() == []


def test_a_file_from_a_newer_program_is_left_alone(tmp_path: Path) -> None:
    path = tmp_path / "club.sqlite3"
    Store(path).close()
    with sqlite3.connect(path) as db:
        db.execute("PRAGMA user_version = 99")
    with pytest.raises(FileTrouble, match="newer"):
        Store(path)
    db.close()


WRITER = """
import sys
from jolly_copper.store import Store
store = Store(sys.argv[1])
number = store.get("small").number
while True:
    patch = [{"op": "replace", "path": "/notes", "value": "x" * 1500 + str(number)}]
    number = store.change("small", number, patch, f"n{number}").number
    print(number, flush=True)
"""


@pytest.mark.parametrize("pause", [0.05, 0.18, 0.4])
def test_killed_in_the_middle_of_saving_nothing_said_to_be_saved_is_lost(store: Store, pause: float) -> None:
    """kill -9 while saving without end: the file opens, is sound, and holds every change that was answered."""
    writer = subprocess.Popen([sys.executable, "-c", WRITER, store.path], stdout=subprocess.PIPE, text=True)
    assert writer.stdout is not None
    writer.stdout.readline()
    time.sleep(pause)
    os.kill(writer.pid, signal.SIGKILL)
    said = [int(line) for line in writer.communicate()[0].split("\n") if line.strip().isdigit()]
    again = Store(store.path)
    newest = again.get("small")
    assert newest.number >= max(said, default=2)
    assert newest.layout.notes.endswith(str(newest.number - 1))
    with sqlite3.connect(store.path) as db:
        assert db.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        numbers = [n for (n,) in db.execute("SELECT number FROM revision ORDER BY number")]
    db.close()
    assert numbers == list(range(1, newest.number + 1))
    assert again.undo("small", newest.number).number == newest.number + 1
    again.close()


def test_a_club_file_of_the_first_release_is_brought_up_to_date(tmp_path: Path, demo: Layout) -> None:
    """Its layouts stay, and it can keep pictures from then on."""
    path = tmp_path / "old.sqlite3"
    old = sqlite3.connect(path)
    old.executescript(f"{MIGRATIONS[0]} PRAGMA user_version = 1;")
    old.close()
    store = Store(path)
    store.add("gannet-bay", demo)
    name = keep_picture(store, "image/png", b"\x89PNG")
    assert picture_of(store, name) == ("image/png", b"\x89PNG") and keep_picture(store, "image/png", b"\x89PNG") == name
    store.close()
    again = Store(path)
    assert again.get("gannet-bay").layout == demo and picture_of(again, name)[1] == b"\x89PNG"
    with pytest.raises(NotFound, match="drop it in again"):
        picture_of(again, "0" * 64)
    again.close()
