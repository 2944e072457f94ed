"""What wire is this, asked of the API: by strands, by ohms, and refused beside the field."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from jolly_copper.api import create_app
from jolly_copper.store import Store


@pytest.fixture
def client(tmp_path: Path) -> Iterator[TestClient]:
    with TestClient(create_app(Store(tmp_path / "club.db")), base_url="http://localhost") as client:
        yield client


def ask(client: TestClient, **body: object) -> dict[str, object]:
    return client.post("/api/quick/wire", json=body).json()


def test_by_strands_with_every_school(client: TestClient) -> None:
    """19 strands of 0.29 mm are 1.25 mm²: between 16 AWG (1.31 mm², ASTM B258) and 18 AWG (0.82 mm²)."""
    told = ask(client, by="strands", strands=19, diameter="0.29 mm", units="imperial")
    assert told["gauge"] == "16 AWG"
    carries: Any = told["carries"]
    assert carries[0][:2] == ["fixture wire", "8 A"] and all(source for *_, source in carries)
    assert ask(client, by="strands", strands=19, diameter="0.29 mm", units="metric")["gauge"] == "1.5 mm²", (
        "the nearest sold"
    )


@pytest.mark.parametrize("pair", [True, False])
def test_by_ohms_there_and_back_or_one_way(client: TestClient, pair: bool) -> None:
    """14 AWG: 8.28 mΩ/m (computed of ASTM B258 and IEC 60028), so 10 m there and back read 166 mΩ."""
    told = ask(client, by="ohms", ohms="166 mΩ" if pair else "83 mΩ", length="10 m", pair=pair, units="imperial")
    assert told["gauge"] == "14 AWG"


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"by": "strands", "strands": 19, "diameter": "thin"}, "diameter"),
        ({"by": "ohms", "ohms": "none", "length": "10 m"}, "ohms"),
        ({"by": "ohms", "ohms": "80 mΩ", "length": "0"}, "length"),
        ({"by": "strands", "strands": 0, "diameter": "0.3 mm"}, "strands"),
        ({"by": "strands", "strands": 19, "diameter": "99 m"}, "diameter"),
        ({"by": "ohms", "ohms": "9 kΩ", "length": "1 m"}, "ohms"),
    ],
)
def test_bad_input_is_told_beside_its_field(client: TestClient, body: dict[str, object], field: str) -> None:
    refused = client.post("/api/quick/wire", json=body)
    assert refused.status_code == 422
    assert field in refused.text
