"""The club file over the years: long histories, damage, copies, troubles of the disk, and what may be kept."""

from __future__ import annotations

import json
import random
import shutil
import sqlite3
import threading
import time
from datetime import date, timedelta
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import LayoutError, Problem
from jolly_copper.store import FileTrouble, Store
from jolly_copper.store.copies import Nights, backup, check_file, copies_of, folder_of, nightly, restore
from jolly_copper.store.keeping import WHOLE_EVERY, difference, differing
from tests.api.conftest import Layouts
from tests.layouts import plain
from tests.long import either


@pytest.fixture
def layouts() -> Layouts:
    return {"small": plain().plain}


def note(store: Store, text: str) -> int:
    number = store.get("small").number
    return store.change("small", number, [{"op": "replace", "path": "/notes", "value": text}], text[:40]).number


# --- a long history


def test_a_history_longer_than_a_whole_document_reads_back_exactly(store: Store) -> None:
    rng = random.Random(4)
    kept = {1: store.get("small").data}
    for _ in range(2 * WHOLE_EVERY + 9):
        now = store.get("small")
        do = rng.choice(["note", "board", "drop", "undo"])
        boards = list(now.data["boards"])
        if do == "undo" and now.can_undo:
            found = store.undo("small", now.number)
        elif do == "drop" and boards:
            patch = [{"op": "remove", "path": f"/boards/{rng.choice(boards)}"}]
            found = store.change("small", now.number, patch, "Drop")
        elif do == "board":
            outline = [{"x": rng.randint(0, 900), "y": 0}, {"x": 5, "y": 0}, {"x": 5, "y": 5}]
            value = {"name": "B", "outline": outline, "removable": False}
            path = f"/boards/b{rng.randint(0, 5)}"
            found = store.change("small", now.number, [{"op": "add", "path": path, "value": value}], "Board")
        else:
            found = store.change("small", now.number, [{"op": "replace", "path": "/notes", "value": do}], "Note")
        kept[found.number] = found.data
    again = Store(store.path)
    for number, data in kept.items():
        found = again.get("small", number)
        assert found.data == data and json.dumps(found.data) == json.dumps(data), "order and all"
    with again.reading() as db:
        rows = db.execute("SELECT count(*), count(DISTINCT coalesce(whole, number)) FROM revision").fetchone()
    assert rows[0] == len(kept) and rows[1] <= 2 + len(kept) // WHOLE_EVERY, "few of them are whole"
    again.close()


def test_a_change_costs_little_of_the_file(store: Store, demo: Layout) -> None:
    store.add("demo", demo)
    feeders, number = list(demo.feeders), 1
    with store.reading() as db:
        for k in range(60):
            path = f"/feeders/{feeders[k % len(feeders)]}/gauge"
            value = "18 AWG" if k % 2 else "22 AWG"
            patch = [{"op": "replace", "path": path, "value": value}]
            number = store.change("demo", number, patch, "Gauge").number
        (bytes_each,) = db.execute(
            "SELECT avg(length(document) + length(patch)) FROM revision WHERE layout = 'demo'"
        ).fetchone()
    assert bytes_each < 3000, "ten thousand of them stay under 40 MB"


MAPS = st.dictionaries(st.sampled_from("abcd"), st.integers(0, 2), max_size=4)


@settings(max_examples=either(100, 2000), deadline=None)
@given(
    st.fixed_dictionaries({"n": st.integers(0, 1), "m": MAPS}),
    st.fixed_dictionaries({"n": st.integers(0, 1), "m": MAPS}),
)
def test_what_differs_makes_the_other_or_is_not_used(one: dict[str, object], other: dict[str, object]) -> None:
    made = difference(one, other)
    if made is not None:
        assert json.dumps(differing(one, json.loads(json.dumps(made)))) == json.dumps(other)


def test_history_is_read_in_pages(store: Store) -> None:
    for k in range(9):
        note(store, f"n{k}")
    first = store.history("small", 4)
    second = store.history("small", 4, before=first[-1]["number"])
    assert [r["number"] for r in first + second] == [10, 9, 8, 7, 6, 5, 4, 3]
    assert store.history("small", 4, before=1) == []


# --- damage


def damage(store: Store, number: int, column: str = "document") -> None:
    store.close()
    with sqlite3.connect(store.path) as db:
        db.execute(
            f"UPDATE revision SET {column} = ? WHERE number = ?",
            (b"\x00broken" if column == "document" else "[", number),
        )
    db.close()


def test_a_damaged_newest_document_is_made_again_from_its_change(store: Store) -> None:
    for k in range(3):
        note(store, f"n{k}")
    damage(store, 4)
    found = Store(store.path)
    assert found.get("small").layout.notes == "n2" and found.get("small").mended is None
    found.close()


def test_a_damaged_newest_change_leaves_the_one_before_it_and_the_layout_goes_on(store: Store) -> None:
    for k in range(3):
        note(store, f"n{k}")
    damage(store, 4)
    damage(store, 4, "patch")
    found = Store(store.path)
    now = found.get("small")
    assert now.number == 4 and now.layout.notes == "n1" and "change 3" in (now.mended or "")
    assert found.get("small", 3).mended is None
    assert "damaged" in check_file(store.path).problems[0]
    after = found.change("small", 4, [{"op": "replace", "path": "/notes", "value": "on"}], "On")
    assert after.number == 5 and after.layout.notes == "on"
    found.close()
    again = Store(store.path)
    assert again.get("small").layout.notes == "on" and again.get("small").mended is None
    again.close()


def test_a_damaged_whole_document_loses_nothing_of_what_differs_from_it(store: Store) -> None:
    for k in range(WHOLE_EVERY + 6):
        note(store, f"n{k}")
    damage(store, WHOLE_EVERY + 1)
    found = Store(store.path)
    assert found.get("small").layout.notes == f"n{WHOLE_EVERY + 5}"
    assert note(found, "after") == WHOLE_EVERY + 8
    found.close()


def test_damaged_pages_are_told_in_a_sentence(store: Store) -> None:
    for k in range(80):
        note(store, f"{k} " + "x" * 1500)
    store.close()
    raw = bytearray(Path(store.path).read_bytes())
    for at in range(8192, len(raw), 4096):
        raw[at : at + 200] = b"\xff" * 200
    Path(store.path).write_bytes(raw)
    with pytest.raises(FileTrouble, match="damaged"):
        Store(store.path).get("small")
    assert check_file(store.path).problems


@pytest.mark.parametrize("content", [b"not a club file at all" * 300, b"SQLite format 3\x00" + b"\x00" * 4000])
def test_what_is_no_club_file_is_told_in_a_sentence(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "club.sqlite3"
    path.write_bytes(content)
    with pytest.raises(FileTrouble, match="file"):
        Store(path)
    with pytest.raises(FileTrouble):
        Store(tmp_path)  # a folder
    with pytest.raises(FileTrouble):
        Store(tmp_path / "no" / "such" / "folder.db")
    assert path.read_bytes() == content, "it is left alone"


def test_a_full_disk_saves_nothing_and_says_so(store: Store) -> None:
    with store.reading() as db:
        (pages,) = db.execute("PRAGMA page_count").fetchone()
        db.execute(f"PRAGMA max_page_count = {pages}")
    with pytest.raises(FileTrouble, match="full"):
        for k in range(200):
            note(store, f"{k} " + random.Random(k).randbytes(900).hex())
    number = store.get("small").number
    with store.reading() as db:
        db.execute("PRAGMA max_page_count = 100000")
    assert note(store, "room again") == number + 1


def test_a_file_that_may_not_be_written_is_read_all_the_same(store: Store) -> None:
    with store.reading() as db:
        db.execute("PRAGMA query_only = 1")
    with pytest.raises(FileTrouble, match="not written"):
        note(store, "x")
    assert store.get("small").number == 1


# --- copies


def test_a_plain_copy_of_the_file_holds_the_newest_change_once_it_rests(store: Store, tmp_path: Path) -> None:
    for k in range(26):
        note(store, f"n{k}")
    until = time.monotonic() + 15
    while time.monotonic() < until:
        time.sleep(0.3)
        shutil.copy(store.path, tmp_path / "copy.sqlite3")
        copied = Store(tmp_path / "copy.sqlite3")
        number = copied.newest("small")
        copied.close()
        if number == 27:
            return
    pytest.fail(f"after 15 s of rest the copy holds change {number} of 27")


def test_after_a_stop_everything_is_in_the_file_itself(store: Store) -> None:
    threads = [threading.Thread(target=lambda: store.layouts()) for _ in range(4)]
    note(store, "last")
    for t in threads:
        t.start()
        t.join()
    store.close()
    assert not Path(store.path + "-wal").exists()


def test_a_backup_is_right_while_others_write(store: Store, tmp_path: Path) -> None:
    stop = threading.Event()

    def write() -> None:
        while not stop.is_set():
            note(store, "x" * 400)

    hand = threading.Thread(target=write)
    hand.start()
    try:
        for k in range(5):
            before = store.get("small").number
            made = backup(store.path, tmp_path / f"b{k}.sqlite3")
            checked = check_file(made)
            assert checked.problems == () and before <= checked.changes <= store.get("small").number
            assert not Path(f"{made}-wal").exists() and [f for f in tmp_path.iterdir() if "half" in f.name] == []
    finally:
        stop.set()
        hand.join()


def test_a_copy_is_put_back_and_what_was_there_is_kept(store: Store, tmp_path: Path) -> None:
    note(store, "good")
    copy = backup(store.path, tmp_path / "friday.sqlite3")
    note(store, "bad")
    kept = restore(store, copy)
    assert store.get("small").layout.notes == "good" and store.get("small").number == 2
    assert note(store, "and on") == 3
    there = Store(kept)
    assert there.get("small").layout.notes == "bad"
    there.close()
    assert [c.name for c in copies_of(store.path)] == [kept.name]


def test_a_copy_of_an_earlier_version_is_put_back_too(store: Store, tmp_path: Path) -> None:
    restore(store, Path(shutil.copy(Path(__file__).parents[1] / "old" / "club-0.2.0.db", tmp_path / "old.sqlite3")))
    assert "gannet-bay" in {r["id"] for r in store.layouts()} and store.get("gannet-bay").layout.tracks


def test_a_copy_that_is_not_sound_is_not_put_back(store: Store, tmp_path: Path) -> None:
    copy = backup(store.path, tmp_path / "bad.sqlite3")
    with sqlite3.connect(copy) as db:
        db.execute("UPDATE revision SET document = x'00'")
    db.close()
    note(store, "here")
    for wrong in (copy, tmp_path / "none.sqlite3"):
        with pytest.raises(FileTrouble):
            restore(store, wrong)
    other = tmp_path / "other.sqlite3"
    with sqlite3.connect(other) as db:
        db.execute("CREATE TABLE recipe (name TEXT)")
    db.close()
    with pytest.raises(FileTrouble, match="no club file"):
        restore(store, other)
    assert store.get("small").layout.notes == "here" and copies_of(store.path) == []


def test_a_copy_a_night_and_no_more_than_are_kept(store: Store) -> None:
    first = date(2026, 11, 1)
    mine = folder_of(store.path) / "letter.sqlite3"
    for k in range(6):
        made = nightly(store.path, 4, first + timedelta(days=k))
        assert made is not None and nightly(store.path, 4, first + timedelta(days=k)) is None
    mine.write_bytes(b"")
    assert sorted(c.name for c in copies_of(store.path)) == [f"club-2026-11-0{d}.sqlite3" for d in (3, 4, 5, 6)]
    assert mine.exists(), "what is not ours is left alone"


def test_the_program_makes_the_copy_of_the_day_by_itself(store: Store) -> None:
    nights = Nights(store.path, 3)
    nights.start()
    until = time.monotonic() + 10
    while not copies_of(store.path) and time.monotonic() < until:
        time.sleep(0.05)
    nights.stop()
    assert len(copies_of(store.path)) == 1 and nights.trouble is None


# --- what may be kept


def test_what_does_not_compute_is_not_kept(tmp_path: Path) -> None:
    def prove(layout: Layout, _mark: str) -> None:
        if layout.notes == "endless":
            raise LayoutError([Problem("/notes", "That cannot be worked out.")])

    store = Store(tmp_path / "club.sqlite3", prove)
    store.add("small", plain().plain())
    with pytest.raises(LayoutError, match="worked out"):
        note(store, "endless")
    assert store.get("small").number == 1 and note(store, "fine") == 2
    store.close()


def test_a_layout_larger_than_it_may_be_is_not_kept(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    from jolly_copper.store import layouts

    size = store.size("small")
    monkeypatch.setattr(layouts, "LARGEST_DOCUMENT", size + 100)
    assert note(store, "x" * 50) == 2
    with pytest.raises(LayoutError, match="MB at most"):
        note(store, "x" * 500)
    with pytest.raises(LayoutError, match="MB at most"):
        store.add("other", plain().plain().model_copy(update={"notes": "x" * 500}))
    assert store.newest("small") == 2 and [r["id"] for r in store.layouts()] == ["small"]


@pytest.mark.parametrize("changes", [0, 3, WHOLE_EVERY + 2])
def test_the_size_of_a_layout_is_told_without_reading_it(store: Store, changes: int) -> None:
    for k in range(changes):
        note(store, f"n{k}")
    read = store.size("small")
    again = Store(store.path)
    assert again.size("small") == pytest.approx(read, rel=0.05) and again.size("nothing") == 0
    assert again._read == {}, "nothing was read for it"
    again.close()


@settings(max_examples=20, deadline=None)
@given(st.lists(st.sampled_from(["edit", "undo", "redo"]), max_size=10))
def test_stacks_of_an_older_file_are_linked_as_if_it_had_been_written_today(steps: list[str]) -> None:
    """The columns that tell what can be undone are taken away and worked out again by the migration."""
    from jolly_copper.store.migrations import _link_stacks

    store = Store(":memory:")
    store.add("small", plain().plain())
    for count, step in enumerate(steps):
        now = store.get("small")
        if step == "edit":
            note(store, f"n{count}")
        elif step == "undo" and now.can_undo:
            store.undo("small", now.number)
        elif step == "redo" and now.can_redo:
            store.redo("small", now.number)
    query = "SELECT number, undo_top, redo_top, below, undone FROM revision ORDER BY number"
    with store.reading() as db:
        before = db.execute(query).fetchall()
        for column in ("whole", "undo_top", "redo_top", "below", "undone"):
            db.execute(f"ALTER TABLE revision DROP COLUMN {column}")
        _link_stacks(db)
        assert db.execute(query).fetchall() == before
    store.close()
