"""Who writes first: turns in the order of asking, queues with an end, and one winner of two changes on one state."""

from __future__ import annotations

import threading
import time

import pytest

from jolly_copper.store import Conflict, Store, TooBusy
from jolly_copper.store.turns import Turns
from tests.api.conftest import Layouts
from tests.layouts import plain


@pytest.fixture
def layouts() -> Layouts:
    return {"small": plain().plain}


def test_turns_are_given_in_the_order_of_asking() -> None:
    turns, order, hands = Turns(), list[int](), []
    with turns.turn():
        with turns.turn():
            pass  # who has it may take it again
        for k in range(12):
            hand = threading.Thread(target=lambda k=k: _take(turns, order, k))
            hand.start()
            hands.append(hand)
            in_line(turns, k + 1)
    for hand in hands:
        hand.join(5)
    assert order == list(range(12))


def in_line(turns: Turns, count: int) -> None:
    """Wait until so many wait their turn."""
    until = time.monotonic() + 10
    while len(turns._waiting) < count:
        assert time.monotonic() < until, "nobody came"
        time.sleep(0.001)


def _take(turns: Turns, order: list[int], k: int) -> None:
    with turns.turn():
        order.append(k)


def test_a_full_queue_and_a_long_wait_are_said_politely() -> None:
    turns = Turns(most=1)
    done: list[str] = []

    def wait(patience: float) -> None:
        try:
            with turns.turn(patience):
                done.append("came")
        except TooBusy as busy:
            done.append(str(busy))

    with turns.turn():
        first = threading.Thread(target=wait, args=(5,))
        first.start()
        in_line(turns, 1)
        second = threading.Thread(target=wait, args=(5,))
        second.start()
        second.join(2)
        assert "Try again" in done[0]
    first.join(5)
    assert done[1] == "came"
    with turns.turn():
        third = threading.Thread(target=wait, args=(0.05,))
        third.start()
        third.join(2)
    assert "Try again" in done[2]
    wait(1)
    assert done[3] == "came", "who gave up holds nothing"


def test_of_two_changes_on_one_state_one_is_told_the_newer(store: Store) -> None:
    results: list[object] = []

    def change(text: str) -> None:
        try:
            results.append(store.change("small", 1, [{"op": "replace", "path": "/notes", "value": text}], text))
        except Conflict as refused:
            results.append(refused)

    hands = [threading.Thread(target=change, args=(f"n{k}",)) for k in range(8)]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join(10)
    assert sum(isinstance(r, Conflict) for r in results) == 7 and store.get("small").number == 2


def test_a_client_that_waits_for_a_turn_sees_what_was_saved_before_it(store: Store) -> None:
    """Twelve hands on one layout through `turn`: every one builds on the one before, and none is turned away."""

    def add_letter(letter: str) -> None:
        with store.turn("small"):
            now = store.get("small")
            patch = [{"op": "replace", "path": "/notes", "value": now.layout.notes + letter}]
            store.change("small", now.number, patch, letter)

    hands = [threading.Thread(target=add_letter, args=(c,)) for c in "abcdefghijkl"]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join(30)
    assert sorted(store.get("small").layout.notes) == list("abcdefghijkl") and store.newest("small") == 13
