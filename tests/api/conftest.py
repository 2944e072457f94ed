"""A club file and the program over it, for tests over the wire. A file of tests names its layouts itself."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.core.layout.document import Layout
from jolly_copper.store import Store
from tests.layouts import plain

Layouts = Mapping[str, Callable[[], Layout]]


@pytest.fixture
def layouts() -> Layouts:
    """What is in the club file, by id; a file of tests that wants others has a fixture of this name."""
    return {"plain": plain().plain}


@pytest.fixture
def store(tmp_path: Path, layouts: Layouts) -> Iterator[Store]:
    found = Store(tmp_path / "club.sqlite3")
    for name, make in layouts.items():
        found.add(name, make())
    yield found
    found.close()


@pytest.fixture
def client(store: Store) -> Iterator[TestClient]:
    with TestClient(create_app(store), base_url="http://localhost") as found:
        yield found
