"""Shared fixtures: the demo layout, and for browser tests the real app on a port of its own."""

from __future__ import annotations

import gc
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import hypothesis
import pytest
from playwright.sync_api import expect

from jolly_copper.api import create_app, use
from jolly_copper.api.worked import Worked
from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.demo import DEMOS
from jolly_copper.store import Store
from tests.started import started

# A slow or busy machine must not fail a test that would pass on a quick one.
hypothesis.settings.register_profile("steady", deadline=None, derandomize=True)
hypothesis.settings.load_profile("steady")
expect.set_options(timeout=15_000)

SHELL = "/usr/bin/chromium-headless-shell"
CHROMIUM = SHELL if Path(SHELL).exists() else "/usr/bin/chromium"
"""The browser without its own windows, a tenth of the work for a page; the whole one where that is not there."""
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-dev-shm-usage",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--disable-default-apps",
    "--force-color-profile=srgb",
    "--font-render-hinting=none",
]


@pytest.fixture(scope="session")
def demo() -> Layout:
    return DEMOS["gannet-bay"]()


@pytest.fixture(scope="session")
def demo_facts(demo: Layout) -> Facts:
    return derive(demo, "open-day")


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, Any]:
    return {"executable_path": CHROMIUM, "headless": True, "args": FLAGS}


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, Any]:
    return {
        "viewport": {"width": 1280, "height": 800},
        "device_scale_factor": 1,
        "reduced_motion": "reduce",
        "locale": "en-GB",
        "timezone_id": "Europe/London",
        "color_scheme": "light",
    }


@pytest.fixture(scope="session")
def demo_club(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A club file with the demo railroads, to be copied."""
    path = tmp_path_factory.mktemp("club") / "club.sqlite3"
    store = Store(path)
    for name, layout in DEMOS.items():
        store.add(name, layout())
    store.close()
    return path


@pytest.fixture(scope="session")
def worked() -> Worked:
    """What was worked out of the demo railroads, for all tests: it goes by the document, so it is the same for each."""
    return Worked()


@pytest.fixture
def base_url(tmp_path: Path, demo_club: Path, worked: Worked) -> Iterator[str]:
    """The real app with a fresh demo."""
    store = Store(shutil.copy(demo_club, tmp_path / "club.sqlite3"))
    app = create_app(store)
    app.state.worked = worked
    use(app, store)
    with started(app) as port:
        yield f"http://127.0.0.1:{port}"
    store.close()
    gc.collect()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """A test in the browser is tried once more before it counts as failed, and the run says which were (-rR).

    A machine at several times its load loses a click now and then; a fault of the program fails twice.
    """
    for item in items:
        if item.get_closest_marker("browser"):
            item.add_marker(pytest.mark.flaky(reruns=1))
