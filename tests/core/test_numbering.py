"""Numbers of boards by channel and by module, and sockets of hand controllers, which have none."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Point
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.layout.signalling import Detecting, DetectorBoard
from jolly_copper.core.proposals.blocking.make import renumber
from jolly_copper.core.signals.cables import cables
from jolly_copper.core.signals.numbering import begins, module_words, numbered, numbers_taken
from jolly_copper.core.signals.report_line import hand_line, report_line
from jolly_copper.core.wirebook.commissioning import commissioning
from jolly_copper.core.wirebook.control_parts import control_parts
from jolly_copper.demo import gannet_bay, signalled_bay


def board(channels: int, address: int = 1) -> dict[str, Any]:
    return DetectorBoard(
        name=f"Detector {address}", at=Point(x=0, y=0), channels=channels, address=address
    ).model_dump()


def with_boards(*boards: dict[str, Any], **wishes: object) -> Layout:
    patch = [{"op": "add", "path": f"/detectors/D{n}", "value": b} for n, b in enumerate(boards, start=1)]
    patch += [{"op": "add", "path": f"/brief/detecting/{k}", "value": v} for k, v in wishes.items()]
    return apply_patch(gannet_bay(), patch)


def about_numbers(layout: Layout) -> list[str]:
    return [f.key for f in check(derive(layout)) if f.rule == "addresses of detectors"]


@given(st.lists(st.integers(1, 64), min_size=1, max_size=9), st.none() | st.integers(2, 64), st.integers(1, 200))
def test_boards_are_numbered_on_where_they_may_begin_and_never_over_each_other(
    channels: list[int], module: int | None, first: int
) -> None:
    wishes = Detecting(module=module)
    at = begins(first, wishes)
    assert first <= at < first + (module or 1)
    for n in channels:
        assert begins(at, wishes) == at and n <= numbers_taken(n, wishes) < n + (module or 1)
        at += numbers_taken(n, wishes)


@pytest.mark.parametrize(
    ("channels", "address", "module", "words"),
    [
        (16, 17, 8, "modules 3 to 4"),
        (8, 17, 8, "module 3"),
        (16, 17, 16, "module 2"),
        (4, 9, 8, "module 2"),
        (8, 12, 8, "no module begins at 12"),
        (16, 17, None, ""),
    ],
)
def test_which_modules_a_board_is(channels: int, address: int, module: int | None, words: str) -> None:
    assert module_words(DetectorBoard.model_validate(board(channels, address)), Detecting(module=module)) == words


def test_a_board_of_sixteen_takes_two_numbers_where_a_module_is_eight() -> None:
    layout = with_boards(board(16, 1), board(8, 17), board(4, 25), board(8, 33), module=8)
    assert about_numbers(layout) == [], "the four channels that a half-full module leaves are no hole"
    flat = apply_patch(layout, [{"op": "add", "path": "/brief/detecting/module", "value": None}])
    assert about_numbers(flat) == ["address:D3:D4"]


def test_a_board_inside_a_module_is_told_and_mended() -> None:
    layout = with_boards(board(4, 1), board(8, 5), module=8)
    (finding,) = (f for f in check(derive(layout)) if f.key.startswith("address-module"))
    assert "begins at 5, inside a module of 8" in finding.title
    mended = apply_patch(layout, finding.mends[0].patch)
    assert mended.detectors["D2"].address == 9 and about_numbers(mended) == []


def test_boards_that_begin_at_one() -> None:
    layout = with_boards(board(8, 33), board(8, 41))
    assert about_numbers(layout) == [], "where the kind allows it, a line may begin anywhere"
    strict = apply_patch(layout, [{"op": "add", "path": "/brief/detecting/from_one", "value": True}])
    (finding,) = (f for f in check(derive(strict)) if f.key == "address-from-one")
    mended = apply_patch(strict, finding.mends[0].patch)
    assert [b.address for b in mended.detectors.values()] == [1, 9] and about_numbers(mended) == []


def test_renumbering_begins_where_a_module_begins() -> None:
    layout = with_boards(board(12, 1), board(8, 13), module=8)
    assert numbered(layout, 3) == {"D1": 9, "D2": 25}
    assert [b.address for b in apply_patch(layout, renumber(layout, 3)).detectors.values()] == [9, 25]


def with_sockets(layout: Layout, *places: tuple[float, float]) -> Layout:
    plates = [
        {"name": f"Plate {n}", "drives": "hand controllers", "outputs": 2, "at": {"x": x, "y": y}}
        for n, (x, y) in enumerate(places, start=1)
    ]
    return apply_patch(
        layout, [{"op": "add", "path": f"/drivers/P{n}", "value": p} for n, p in enumerate(plates, start=1)]
    )


def test_sockets_are_on_a_line_of_their_own_and_have_no_numbers() -> None:
    bare = signalled_bay()
    layout = with_sockets(bare, (5000, 600), (600, 600), (3000, 600))
    stops = hand_line(layout)
    assert stops[0].name == "Booster 1" and sorted(s.id for s in stops[1:]) == ["P1", "P2", "P3"]
    asked = apply_patch(layout, [{"op": "add", "path": "/brief/detecting/line_wires", "value": 4}])
    assert not {"P1", "P2", "P3"} & {s.id for s in report_line(asked)}
    legs = [c for c in cables(layout) if c.key.startswith("hand:")]
    assert [c.label for c in legs] == ["Hand 1", "Hand 2", "Hand 3"] and all(len(c.colours) == 6 for c in legs)
    assert about_numbers(layout) == about_numbers(bare)
    assert ("Plate of 2 sockets for hand controllers", 3) in {(words, n) for _, words, n, _ in control_parts(layout)}
    tasks = [t for ts in commissioning(layout).values() for t in ts if t.key == "board:P1"]
    assert "each of its 2 sockets" in tasks[0].meter and not any(heading == "Number" for heading, _ in tasks[0].rows)
    assert hand_line(bare) == ()
