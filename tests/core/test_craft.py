"""Craft cards: every kind of task that takes a hand has one, and their drawings are whole."""

from __future__ import annotations

from typing import get_args

import pytest

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.wirebook.consumables import consumables
from jolly_copper.core.wirebook.craft import CARDS, Card, cards_for
from jolly_copper.core.wirebook.sketch import GLYPH, MM_PER_POINT
from jolly_copper.core.wirebook.task import TaskKind
from jolly_copper.core.wirebook.worked import Worked
from tests.layouts import feeder, plain


def test_every_kind_of_handwork_has_a_card() -> None:
    without = {k for k in get_args(TaskKind) if not cards_for(k)}
    assert without == {"switch"}, "a switch is wired pin by pin, as its task says"
    assert len({c.key for c in CARDS}) == len(CARDS) == 14


@pytest.mark.parametrize("card", CARDS, ids=lambda c: c.key)
def test_nothing_of_a_drawing_is_cut_off(card: Card) -> None:
    sketch = card.sketch
    for stroke in sketch.strokes:
        assert all(0 <= x <= sketch.width and 0 <= y <= sketch.height for x, y in stroke.points)
    for word in sketch.words:
        assert word.x + GLYPH * word.size * MM_PER_POINT * len(word.text) <= sketch.width, word.text
        assert 2 <= word.y <= sketch.height
    assert 2 <= len(card.says) <= 4 and sketch.title


def test_what_can_hurt_says_so_once() -> None:
    """Common practice, no source: eyes with discs, the iron, the drill."""
    said = {c.key: c.caution for c in CARDS if c.caution}
    assert set(said) == {"drill", "batch", "tin", "gap", "static"}
    assert "Eye protection" in said["gap"] and "under a hot iron" in said["tin"]


def test_what_is_used_up_follows_from_the_jobs() -> None:
    """By hand: two feeders of two leads each are four joints at the rails; two terminals are soldered."""
    d = plain()
    feeder(d, "F1", "t", 500, "T1", gauge="20 AWG")
    feeder(d, "F2", "t", 900, "T2", gauge="20 AWG")
    worked = Worked(derive(d.plain()))
    used = {key: (count, why) for key, _, count, why in consumables(worked.layout, worked.pieces, worked.joints)}
    tied = sum(len(s.colours) for j in worked.joints for s in j.seats)
    assert used["solder-g"][1] == f"{4 + tied} joints, 0.12 g each"
    wires = sum(len(p.colours) for p in worked.pieces)
    assert used["flag"][0] == 2 * wires
    # 20 AWG is 0.812 mm of copper (ASTM B 258), 1.6 with its insulation: a bit of 3 mm.
    assert used["bit-3mm"] == (1, "holes for 2 pairs of leads")
    assert {"solder-g", "flag", "bit-3mm"} <= {i.key for i in worked.items}


def test_nothing_is_used_up_where_nothing_is_wired() -> None:
    assert consumables(plain().plain(), [], []) == []
