"""Shared by all tests: the demo layout, how much of the random checks is run, and what marks a test has."""

from __future__ import annotations

import hypothesis
import pytest

from jolly_copper.calm import calm_collector
from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.demo import DEMOS
from tests.long import either
from tests.times import is_long, is_slow

# A slow or busy machine must not fail a test that would pass on a quick one.
hypothesis.settings.register_profile("steady", deadline=None, derandomize=True, max_examples=either(40, 100))
hypothesis.settings.load_profile("steady")


@pytest.fixture(scope="session")
def demo() -> Layout:
    return DEMOS["gannet-bay"]()


@pytest.fixture(scope="session")
def demo_facts(demo: Layout) -> Facts:
    return derive(demo, "open-day")


def pytest_collection_finish() -> None:
    """What is loaded by now stays; sweeping what tests share again and again costs more than most of them do."""
    calm_collector()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """A test in the browser is tried once more before it counts as failed, and the run says which were (-rR).

    A machine at several times its load loses a click now and then; a fault of the program fails twice. What a test asks
    for tells that it is one: a mark of its own can be forgotten in a file.
    """
    for item in items:
        browser = isinstance(item, pytest.Function) and "browser" in item.fixturenames
        if browser:
            item.add_marker(pytest.mark.browser)
            item.add_marker(pytest.mark.flaky(reruns=1))
        if is_slow(item.nodeid):
            item.add_marker(pytest.mark.slow)
        if is_long(item.nodeid, browser):
            item.add_marker(pytest.mark.long)
