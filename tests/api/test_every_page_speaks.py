"""Every question the page may ask of a layout is answered, for railroads of every control, a bare one and an empty one,
in words a person reads: no figure without a number, no trace of the program, number and noun in agreement."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.core.layout.document import Layout
from jolly_copper.demo import DEMOS
from jolly_copper.store import Store
from tests.api.conftest import Layouts
from tests.core.test_words import CODE, ONE_OF_MANY, STOPS
from tests.layouts import plain
from tests.long import either

BESIDE = {
    "document",
    "patch",
    "path",
    "key",
    "id",
    "mark",
    "settings",
    "rests_on",
    "revision",
    "made",
    "ink",
    "svg",
    "d",
}
"""Fields that are not for people, or are what people typed."""
NOT_HERE = {"trace", "archive.zip", "card"}
"""What is no page of words, or is asked for by its own tests."""
SMALL = ["tinplate-lane", "millbeck", "harbour-arm"]


@pytest.fixture
def layouts() -> Layouts:
    named = {name: DEMOS[name] for name in either(SMALL, list(DEMOS))}
    return {**named, "empty": lambda: Layout(name="Empty"), "bare": lambda: plain().plain()}


def questions() -> list[str]:
    """Paths of every GET about a layout that wants nothing besides it."""
    app = create_app(Store(":memory:"))
    found = []
    for path, methods in app.openapi()["paths"].items():
        get = methods.get("get")
        if get is None or "{layout_id}" not in path or path.count("{") > 1:
            continue
        if any(p.get("required") and p["in"] == "query" for p in get.get("parameters", ())):
            continue
        if path.rsplit("/", 1)[-1] not in NOT_HERE:
            found.append(path)
    return sorted(found)


QUESTIONS = questions()
IN_WORDS = [q for q in QUESTIONS if "/files/" not in q]


def texts(thing: Any, where: str = "") -> Iterator[tuple[str, str]]:
    if isinstance(thing, str):
        yield where, thing
    elif isinstance(thing, dict):
        for name, value in thing.items():
            if name not in BESIDE:
                yield from texts(value, f"{where}.{name}")
    elif isinstance(thing, list):
        for value in thing:
            yield from texts(value, where)


def slips(answer: Any) -> list[str]:
    found = []
    for where, text in texts(answer):
        for what in (CODE, STOPS, ONE_OF_MANY):
            if (hit := what.search(text)) is not None:
                found.append(f"{where}: …{text[max(hit.start() - 40, 0) : hit.end() + 40]}…")
    return found


def test_the_questions_are_all_there() -> None:
    assert len(QUESTIONS) > 50 and len(IN_WORDS) > 30


def test_every_question_is_answered_in_words(client: TestClient, layouts: Layouts) -> None:
    """Or refused in a sentence, where the layout has nothing of the kind."""
    wrong = []
    for name in layouts:
        for question in IN_WORDS:
            got = client.get(question.format(layout_id=name))
            if got.status_code not in (200, 404, 422):
                wrong.append(f"{name} {question}: {got.status_code} {got.text[:120]}")
                continue
            if got.headers.get("content-type", "").split(";")[0] != "application/json":
                continue  # lines that stream in
            answer = got.json()
            if got.status_code != 200:
                said = answer.get("message", "")
                if not said.endswith(".") or not said[0].isupper():
                    wrong.append(f"{name} {question}: refused by {answer}")
            wrong += [f"{name} {question}{slip}" for slip in slips(answer)]
    assert wrong == []


def test_every_file_of_a_layout_is_made_or_refused_in_words(client: TestClient, layouts: Layouts) -> None:
    wrong = []
    for name in layouts:
        for question in (q for q in QUESTIONS if "/files/" in q and not q.endswith((".pdf", ".xlsx", ".zip"))):
            got = client.get(question.format(layout_id=name))
            if got.status_code == 200:
                if not got.content:
                    wrong.append(f"{name} {question}: an empty file")
                elif question.endswith((".csv", ".html", ".ics")):
                    text = got.text
                    hit = CODE.search(text) if question.endswith(".csv") else None
                    wrong += [f"{name} {question}: {text[max(hit.start() - 40, 0) : hit.end() + 20]}"] if hit else []
            elif not got.json().get("message", "").endswith("."):
                wrong.append(f"{name} {question}: {got.status_code} {got.text[:120]}")
    assert wrong == []
