"""Shared fixtures: the demo layout, and for browser tests the real app on a port of its own."""

from __future__ import annotations

import gc
import socket
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import hypothesis
import pytest
from playwright.sync_api import expect

from jolly_copper.core.circuits.facts import Facts, derive
from jolly_copper.core.layout.document import Layout
from jolly_copper.demo import gannet_bay, signalled_bay, undivided_bay, unwired_bay

# A slow or busy machine must not fail a test that would pass on a quick one.
hypothesis.settings.register_profile("steady", deadline=None, derandomize=True)
hypothesis.settings.load_profile("steady")
expect.set_options(timeout=15_000)

CHROMIUM = "/usr/bin/chromium"
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
    return gannet_bay()


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


@pytest.fixture
def base_url(tmp_path: Path) -> Iterator[str]:
    """The real app with a fresh demo, served from a socket that is bound before the server starts (no port race)."""
    import uvicorn

    from jolly_copper.api import create_app
    from jolly_copper.store import Store

    store = Store(tmp_path / "club.sqlite3")
    store.add("gannet-bay-signalled", signalled_bay())
    store.add("gannet-bay-unwired", unwired_bay())
    store.add("gannet-bay-undivided", undivided_bay())
    store.add("gannet-bay", gannet_bay())
    listener = socket.socket(socket.AF_INET, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    listener.bind(("127.0.0.1", 0))
    listener.listen(128)
    server = uvicorn.Server(uvicorn.Config(create_app(store), log_level="error", lifespan="off"))
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{listener.getsockname()[1]}"
    server.should_exit = True
    thread.join(timeout=10)
    store.close()
    gc.collect()
