"""What the program says to people, on every demo and on railroads with mistakes: findings, the bench and the book are
words and figures, without a trace of what makes them, and number and noun agree."""

from __future__ import annotations

import dataclasses
import re
from collections.abc import Iterator
from typing import Any

import pytest

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proposals.whatif import what_if
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.wirebook.compose import compose
from jolly_copper.demo import DEMOS
from tests.core.test_mends_everywhere import with_mistakes
from tests.layouts import random_layout
from tests.long import either

CODE = re.compile(r"\bnan\b|\bNone\b(?! of| at)|\binf\b|\bTrue\b|\bFalse\b|[{}]|\w\(\)|0x[0-9a-f]{4}")
"""What only a program says."""
STOPS = re.compile(r"  +|,,|(?<!\.)\.\.(?!\.)| [,.;](?=\s|$)|\( | \)")
"""Slips of the pen."""
ONE_OF_MANY = re.compile(
    r"(?<![\w.'/])1 (pairs|feeders|trains|gaps|terminals|turnouts|wires|sections|boards|signals|joiners|cars|axles|"
    r"districts|boosters|channels|outputs|runs|plugs|tracks|engines|places|settings|couplings|minutes|holes|strips)\b"
)
INSIDE = {"key", "rests_on", "id", "patch", "shows", "owner", "track", "terminal", "place", "path"}
"""Fields that no person reads."""
SOME = ["tinplate-lane", "millbeck", "harbour-arm"]


def sentences(thing: Any, where: str = "") -> Iterator[tuple[str, str]]:
    """Every text in a thing, with where it stands."""
    if isinstance(thing, str):
        yield where, thing
    elif dataclasses.is_dataclass(thing):
        for field in dataclasses.fields(thing):
            if field.name not in INSIDE:
                yield from sentences(getattr(thing, field.name), f"{where}.{field.name}")
    elif isinstance(thing, dict):
        for value in thing.values():
            yield from sentences(value, where)
    elif isinstance(thing, list | tuple | set | frozenset):
        for value in thing:
            yield from sentences(value, where)


def slips(things: Any) -> list[str]:
    """What is wrong with the words, each with some of what stands round it."""
    found = []
    for where, text in sentences(things):
        for what in (CODE, STOPS, ONE_OF_MANY):
            if (hit := what.search(text)) is not None:
                found.append(f"{where}: …{text[max(hit.start() - 40, 0) : hit.end() + 40]}…")
    return found


def scene_of(layout: Layout) -> str | None:
    return next(iter(layout.scenes), None)


@pytest.mark.parametrize("name", DEMOS)
def test_findings_are_words(name: str) -> None:
    layout = DEMOS[name]()
    assert slips(check(derive(layout, scene_of(layout)))) == []


@pytest.mark.parametrize("seed", range(either(12, 150)))
def test_findings_about_mistakes_are_words(seed: int) -> None:
    layout = with_mistakes(random_layout(seed, tracks=6), seed, most=4)
    found = check(derive(layout))
    assert slips(found) == []
    for f in found:
        assert f.why.endswith(".") and f.mend.endswith(".") and not f.title.endswith("."), f.title
        assert len({n for n, _ in f.figures}) == len(f.figures), f"{f.title}: one figure twice"
        assert all(m.label and not m.label.endswith(".") for m in f.mends)


@pytest.mark.parametrize("name", either(SOME, list(DEMOS)))
def test_the_book_is_words(name: str) -> None:
    facts = derive(DEMOS[name]())
    assert slips(compose(facts, 1, "2026-11-30").chapters) == []


@pytest.mark.parametrize("name", either(SOME, list(DEMOS)))
def test_the_bench_is_words(name: str) -> None:
    assert slips(Bench(derive(DEMOS[name]())).tests) == []


@pytest.mark.parametrize("name", SOME)
def test_what_might_be_changed_is_words(name: str) -> None:
    layout = DEMOS[name]()
    facts = derive(layout, scene_of(layout))
    worst = facts.worst_point()
    assert worst is not None
    offers = what_if(facts, *facts.place_of(worst))
    assert slips(offers) == [] and len({o.label for o in offers}) == len(offers)


@pytest.mark.parametrize("name", SOME)
def test_the_other_units_are_words_too(name: str) -> None:
    layout = DEMOS[name]()
    other = "imperial" if layout.brief.units == "metric" else "metric"
    turned = layout.model_copy(update={"brief": layout.brief.model_copy(update={"units": other})})
    facts: Facts = derive(turned, scene_of(turned))
    texts = " ".join(t for _, t in sentences((check(facts), compose(facts, 1, "2026-11-30").chapters)))
    assert slips(check(facts)) == []
    if other == "metric":
        assert not re.search(r"\d+' \d|\d in\b", texts), "no foot and no inch on a metric sheet"
    else:
        panels = r"Panel, \d+ × \d+ mm|\d+, \d+ mm"  # a panel is drawn and drilled in millimetres everywhere
        told = re.sub(panels, "", texts)
        assert not re.search(r"\d m\b(?!²)|every \d+ mm|of \d+ mm|Drill bit, [\d.]+ mm", told), "in feet and inches"


@pytest.mark.parametrize("text", ["1 pairs", "nan V", "two  blanks", "a {name}", "was None", "end ,", "lies .. so"])
def test_a_slip_is_seen(text: str) -> None:
    assert slips([text])


@pytest.mark.parametrize(
    "text", ["1 pair", "11 pairs", "R1 pairs off", "None of them", "4' 1 1/2\"", "an inch…", "6.1 trains"]
)
def test_what_is_no_slip_is_none(text: str) -> None:
    assert slips([text]) == []
