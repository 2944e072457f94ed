"""For tests in the browser: the real app on a port of its own, and a browser that waits."""

from __future__ import annotations

import contextlib
import shutil
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import pytest
from playwright._impl.assertions import AssertionsBase
from playwright.sync_api import Error, expect

from jolly_copper.api import create_app, use
from jolly_copper.api.worked import Worked
from jolly_copper.demo import DEMOS
from jolly_copper.store import Store
from tests.started import started

PATIENCE_MS = 15_000
expect.set_options(timeout=PATIENCE_MS)

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


_looks = AssertionsBase._expect_impl
NOT_THERE = ("to.have.count", "to.be.hidden", "to.be.detached")
"""What may be true of a thing that is not there."""


async def _waits_first(self: Any, expression: str, options: Any, *rest: Any, **more: Any) -> None:
    """Wait until the thing is there before anything is expected of it.

    A look that fails writes down the whole page for its message, a quarter of a second on a plan with its thousands of
    marks; ten looks would cost more than the page they wait for.
    """
    if not self._is_not and not expression.endswith(".array") and expression not in NOT_THERE:
        state = "visible" if expression == "to.be.visible" else "attached"
        most = options.get("timeout") or self._timeout or PATIENCE_MS
        until = time.monotonic() + most / 1000
        with contextlib.suppress(Error):
            await self._actual_locator.first.wait_for(state=state, timeout=most)
        options = {**options, "timeout": max(1000 * (until - time.monotonic()), 500)}
    await _looks(self, expression, options, *rest, **more)


AssertionsBase._expect_impl = _waits_first  # type: ignore[method-assign]


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


@pytest.fixture(scope="session")
def closing() -> Iterator[Callable[[ExitStack], object]]:
    """Ends a program while the next test begins; what goes wrong with that is told at the end."""
    with ThreadPoolExecutor(1) as apart:
        ends: list[Future[None]] = []
        yield lambda program: ends.append(apart.submit(program.close))
        for end in ends:
            end.result()


@pytest.fixture
def base_url(tmp_path: Path, demo_club: Path, worked: Worked, closing: Callable[[ExitStack], object]) -> Iterator[str]:
    """The real app with a fresh demo."""
    with ExitStack() as program:
        store = Store(shutil.copy(demo_club, tmp_path / "club.sqlite3"))
        program.callback(store.close)
        app = create_app(store)
        app.state.worked = worked
        use(app, store)
        port = program.enter_context(started(app))
        yield f"http://127.0.0.1:{port}"
        closing(program.pop_all())
