"""Kinds of things a layout holds: each is known wherever kinds are listed, and each can be told by name."""

from __future__ import annotations

import pytest

from jolly_copper.core.comparing import KINDS
from jolly_copper.core.layout.bounds import MOST_OF_A_KIND
from jolly_copper.core.layout.changes import MAPS, difference
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import patched
from jolly_copper.core.layout.words import thing_words
from jolly_copper.demo import harbour_arm, signalled_bay

BAY, ARM = signalled_bay(), harbour_arm()


def test_every_kind_is_bounded_compared_and_changed_thing_by_thing() -> None:
    assert set(MAPS) == set(MOST_OF_A_KIND) == set(KINDS)
    assert {m for m in MAPS if m in Layout.model_fields} == set(MAPS)


@pytest.mark.parametrize("kind", ["signals", "drivers", "detectors", "blocks", "couplings", "connectors", "locos"])
def test_a_change_of_one_thing_names_only_that_thing(kind: str) -> None:
    """A change that put back every signal would undo what somebody else did to another one meanwhile."""
    layout = BAY if getattr(BAY, kind) else ARM
    old = layout.model_dump(mode="json")
    first = next(iter(old[kind]))
    new = {**old, kind: {**old[kind], first: {**old[kind][first], "name": "Otherwise"}}}
    patch = difference(old, new)
    assert patch == [{"op": "add", "path": f"/{kind}/{first}/name", "value": "Otherwise"}]
    assert patched(old, patch) == new
    gone = {**old, kind: {k: v for k, v in old[kind].items() if k != first}}
    assert difference(old, gone) == [{"op": "remove", "path": f"/{kind}/{first}"}]
    assert difference(gone, old) == [{"op": "add", "path": f"/{kind}/{first}", "value": old[kind][first]}]


@pytest.mark.parametrize("layout", [BAY, ARM], ids=["bay", "arm"])
def test_every_thing_is_told_by_its_name_or_its_label(layout: Layout) -> None:
    told = 0
    for kind in MAPS:
        if not kind.endswith("s"):
            continue
        for i, thing in getattr(layout, kind).items():
            words = thing_words(layout, f"{kind[:-1]}:{i}")
            assert "gone" not in words, (kind, i)
            name = getattr(thing, "name", None) or getattr(thing, "label", None) or i
            assert words.endswith(str(name))
            told += 1
    assert told > 200
