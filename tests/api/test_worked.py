"""What one program works out is worked out once, however many ask at a time."""

from __future__ import annotations

import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from jolly_copper.api.worked import Worked
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.document import Layout
from jolly_copper.store import Revision, Store


@pytest.fixture
def revision(tmp_path: Path, demo: Layout) -> Revision:
    store = Store(tmp_path / "club.sqlite3")
    found = store.add("demo", demo)
    store.close()
    return found


def test_who_asks_while_it_is_worked_out_waits_for_it(revision: Revision) -> None:
    worked, begun, go = Worked(), threading.Event(), threading.Event()
    times: list[int] = []

    def work(_: Facts) -> list[str]:
        times.append(1)
        begun.set()
        assert go.wait(30)
        return ["told"]

    with ThreadPoolExecutor(4) as pool:
        first = pool.submit(worked.once, "sums", revision, "open-day", work)
        assert begun.wait(30)
        others = [pool.submit(worked.once, "sums", revision, "open-day", work) for _ in range(3)]
        assert worked.once("else", revision, "open-day", lambda _: 7) == 7, "another question goes by"
        go.set()
        answers = [f.result(30) for f in (first, *others)]
    assert times == [1] and all(a is answers[0] for a in answers)


def test_when_it_fails_the_next_works_for_itself(revision: Revision) -> None:
    worked, begun, go = Worked(), threading.Event(), threading.Event()

    def fails(_: Facts) -> int:
        begun.set()
        assert go.wait(30)
        raise ArithmeticError("singular")

    with ThreadPoolExecutor(2) as pool:
        first = pool.submit(worked.once, "sums", revision, "open-day", fails)
        assert begun.wait(30)
        second = pool.submit(worked.once, "sums", revision, "open-day", lambda _: 4)
        go.set()
        with pytest.raises(ArithmeticError, match="singular"):
            first.result(30)
        assert second.result(30) == 4
    assert worked.once("sums", revision, "open-day", lambda _: 5) == 4, "and that is kept"


def test_what_was_given_up_on_the_way_is_not_kept(revision: Revision) -> None:
    worked = Worked()
    assert worked.once("what-if", revision, None, lambda _: 1, lambda: False) == 1
    assert worked.once("what-if", revision, None, lambda _: 2) == 2
    assert worked.once("what-if", revision, None, lambda _: 3) == 2


def test_the_oldest_is_let_go_and_one_is_always_kept(revision: Revision) -> None:
    worked = Worked(most=2_500_000)
    for n in range(4):
        worked.once(f"sum {n}", revision, None, lambda _, n=n: n)  # type: ignore[misc]
    assert worked.once("sum 3", revision, None, lambda _: 99) == 3
    assert worked.once("sum 0", revision, None, lambda _: 99) == 99, "it was let go"
