"""Tracing over the wire: a picture under a new plan, traced, put right, taken as one change, and everything refused."""

from __future__ import annotations

import io
import json
from typing import Any

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image
from pypdf import PdfWriter

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import read_layout
from jolly_copper.demo import harbour_arm
from jolly_copper.exchange.dxf import write_dxf
from tests.api.conftest import Layouts
from tests.papers import plan_as_pdf
from tests.pictures import picture, scanned
from tests.small_plans import stub_yard
from tests.traced import found_and_true, kinds, same_topology

NEW = "/api/layouts/new"
FILE = {"content-type": "application/octet-stream"}


@pytest.fixture
def layouts() -> Layouts:
    return {"new": lambda: Layout(name="New")}


def put_under(client: TestClient, data: bytes, media: str = "image/png", **backdrop: Any) -> None:
    kept = client.post("/api/pictures", content=data, headers={"content-type": media}).json()
    revision = client.get(NEW).json()["revision"]
    value = {"picture": kept["picture"], "width": 1000, "height": 600, "x": 0, "y": 0, "mm_per_pixel": 4, **backdrop}
    patch = [{"op": "add", "path": "/backdrop", "value": value}]
    done = client.patch(NEW, headers={"If-Match": f'"{revision}"'}, json={"summary": "Picture", "patch": patch})
    assert done.status_code == 200, done.text


def plan(client: TestClient, hand: str = "one line", wide: int = 1500, scan: bool = True) -> None:
    made, mm, (x, y) = picture(harbour_arm(), wide, hand, True)  # type: ignore[arg-type]
    out = io.BytesIO()
    (scanned(made) if scan else made).save(out, "PNG")
    put_under(client, out.getvalue(), width=made.width, height=made.height, x=x, y=y, mm_per_pixel=mm)


def traced(client: TestClient, **asked: Any) -> tuple[list[str], dict[str, Any]]:
    got = client.post(f"{NEW}/trace", json=asked)
    assert got.status_code == 200, got.text
    lines = [json.loads(line) for line in got.text.splitlines()]
    return [x["doing"] for x in lines if "doing" in x], lines[-1]


def take(client: TestClient, found: dict[str, Any], **more: Any) -> Any:
    lines = [{**x, "d": ""} for x in found["lines"] if not x["why"]]
    body = {"lines": lines, "crossings": found["crossings"], "tables": found["tables"], **more}
    return client.post(f"{NEW}/trace/take", json=body)


def test_from_a_scan_to_joined_track_and_back(client: TestClient) -> None:
    plan(client)
    doing, last = traced(client)
    assert doing[0] == "Opening the picture" and doing[-1] == "Fitting curves"
    found = last["answer"]
    assert "8 turnouts" in found["words"] and len(found["turnouts"]) == 8
    assert client.get(NEW).json()["document"]["tracks"] == {}, "nothing is saved before it is taken"
    got = take(client, found, use="branch")
    assert got.status_code == 200 and "8 turnouts" in got.json()["words"]
    layout = read_layout(client.get(NEW).json()["document"])
    assert same_topology(harbour_arm(), layout) and kinds(layout)["turnout"] == 8
    assert {t.use for t in layout.tracks.values()} == {"branch"}
    revision = client.get(NEW).json()["revision"]
    assert client.post(f"{NEW}/undo", headers={"If-Match": f'"{revision}"'}).status_code == 200
    assert client.get(NEW).json()["document"]["tracks"] == {}, "undone in one"


def test_inks_chosen_and_their_uses(client: TestClient) -> None:
    plan(client, "coloured", scan=False)
    found = traced(client)[1]["answer"]
    dark = [i["number"] for i in found["inks"] if i["chosen"]]
    assert len(dark) > 1 and all(i["colour"].startswith("#") for i in found["inks"])
    other = min(dark, key=lambda n: next(float(i["share_text"].split()[0]) for i in found["inks"] if i["number"] == n))
    less = traced(client, inks=[n for n in dark if n != other])[1]["answer"]
    assert sum(not x["why"] for x in less["lines"]) < sum(not x["why"] for x in found["lines"])
    got = take(client, found, uses={str(other): "yard"})
    uses = {t["use"] for t in got.json()["changed"]["state"]["document"]["tracks"].values()}
    assert uses == {"main", "yard"}


def test_what_is_taken_is_an_act_on_the_newest_state(client: TestClient) -> None:
    """Somebody else changed the layout while one looked at the trace: both changes stand."""
    plan(client, wide=1200)
    found = traced(client)[1]["answer"]
    revision = client.get(NEW).json()["revision"]
    patch = [{"op": "replace", "path": "/name", "value": "Renamed"}]
    client.patch(NEW, headers={"If-Match": f'"{revision}"'}, json={"summary": "Name", "patch": patch})
    assert take(client, found).status_code == 200
    now = client.get(NEW).json()["document"]
    assert now["name"] == "Renamed" and now["tracks"]


def blank() -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (1200, 800), "white").save(out, "PNG")
    return out.getvalue()


def test_every_way_it_cannot_be_traced_is_told(client: TestClient) -> None:
    none = client.post(f"{NEW}/trace", json={})
    assert none.status_code == 422 and "no picture under the plan" in none.text
    put_under(client, blank())
    assert "There is no ink on this picture." in traced(client)[1]["trouble"]
    put_under(client, blank(), mm_per_pixel=30)
    assert "too near to be told" in traced(client)[1]["trouble"]
    put_under(client, b"\x89PNG and nothing more")
    assert "cannot be read as a picture" in traced(client)[1]["trouble"]
    put_under(client, b'<svg xmlns="http://www.w3.org/2000/svg"><text>Plan</text></svg>', "image/svg+xml")
    assert "There are no lines in this drawing." in traced(client)[1]["trouble"]
    square = {"corners": [[0, 0], [900, 0], [900, 600], [0, 600]], "wide": 900, "high": 600}
    drawing = client.post(f"{NEW}/straighten", json=square)
    assert drawing.status_code == 422 and "is square already" in drawing.text


def test_what_is_against_a_picture_is_told_before_it_is_traced(client: TestClient) -> None:
    assert client.get(f"{NEW}/trace").status_code == 422
    put_under(client, blank(), width=1200, height=800, mm_per_pixel=2)
    assert client.get(f"{NEW}/trace").json() == {"drawing": False, "warning": ""}
    put_under(client, blank(), width=1200, height=800, mm_per_pixel=5)
    assert "should lie 16 px apart; here they lie 10" in client.get(f"{NEW}/trace").json()["warning"]
    put_under(client, blank(), width=1200, height=800, mm_per_pixel=30)
    assert "too near to be told" in client.get(f"{NEW}/trace").json()["warning"]
    # Of a large file only 3000 px are looked at; a small one is doubled.
    put_under(client, blank(), width=6000, height=800, mm_per_pixel=1)
    assert client.get(f"{NEW}/trace").json()["warning"] == ""
    put_under(client, blank(), width=9000, height=800, mm_per_pixel=1.1)
    assert "here they lie 15" in client.get(f"{NEW}/trace").json()["warning"]
    put_under(client, blank(), width=900, height=800, mm_per_pixel=5)
    assert client.get(f"{NEW}/trace").json()["warning"] == ""


def rails_as_svg(layout: Layout, head: str, scale: float) -> bytes:
    """Both rails of every track as paths, with a label."""
    parts = []
    for track in layout.tracks.values():
        line = track.line
        for side in (-8.25, 8.25):
            at = np.column_stack([line.xs, line.ys])
            step = np.gradient(at, axis=0)
            normal = np.column_stack([-step[:, 1], step[:, 0]]) / np.linalg.norm(step, axis=1)[:, None]
            rail = (at + side * normal) / scale
            parts.append("M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in rail))
    return (
        head + f'<text x="9" y="9">Rails</text><path d="{"".join(parts)}" fill="none" stroke="#000"/></svg>'
    ).encode()


@pytest.mark.parametrize("sized", [True, False], ids=["with a size on screen", "with a view box alone"])
def test_a_drawing_of_both_rails_becomes_track_by_the_same_way(client: TestClient, sized: bool) -> None:
    layout = stub_yard()
    ns = 'xmlns="http://www.w3.org/2000/svg"'
    head = f'<svg {ns} width="2200" height="400">' if sized else f'<svg {ns} viewBox="0 0 2200 400">'
    data = rails_as_svg(layout, head, 2.0)
    shown = 2200 if sized else 300  # how wide a browser shows it, px
    put_under(client, data, "image/svg+xml", width=shown, height=shown * 400 / 2200, mm_per_pixel=4400 / shown)
    _, last = traced(client)
    found = last["answer"]
    assert found["two_rails"]
    taken = take(client, found)
    assert taken.status_code == 200
    out = read_layout(client.get(NEW).json()["document"])
    assert same_topology(layout, out) and min(found_and_true(layout, out, 12.0)) > 0.97


def test_a_dxf_of_single_lines_is_traced_as_well(client: TestClient) -> None:
    drawing = write_dxf(stub_yard())
    kept = client.post("/api/pictures", content=drawing.encode(), headers=FILE).json()
    revision = client.get(NEW).json()["revision"]
    value = {k: kept[k] for k in ("picture", "mm_per_pixel", "width", "height", "x", "y")}
    patch = [{"op": "add", "path": "/backdrop", "value": value}]
    client.patch(NEW, headers={"If-Match": f'"{revision}"'}, json={"summary": "Drawing", "patch": patch})
    last = traced(client)[1]
    assert "answer" in last, last
    found = last["answer"]
    assert sum(not x["why"] for x in found["lines"]) >= 4 and len(found["turnouts"]) == 3


def test_a_page_of_a_pdf_is_a_picture_and_is_traced(client: TestClient) -> None:
    data = plan_as_pdf(stub_yard())
    cover = client.post("/api/pictures", content=data, headers={"content-type": "application/pdf"})
    assert cover.status_code == 201 and cover.json()["pages"] == 2 and cover.json()["width"] == 3000
    kept = client.post("/api/pictures?page=2", content=data, headers=FILE).json()
    assert kept["picture"] != cover.json()["picture"]
    revision = client.get(NEW).json()["revision"]
    size = {
        "width": kept["width"],
        "height": kept["height"],
        "x": 0,
        "y": 0,
        "mm_per_pixel": 842 / 0.18 / kept["width"],
    }
    patch = [{"op": "add", "path": "/backdrop", "value": {"picture": kept["picture"], **size}}]
    client.patch(NEW, headers={"If-Match": f'"{revision}"'}, json={"summary": "Page", "patch": patch})
    found = traced(client)[1]["answer"]
    assert take(client, found).json()["turnouts"] == 3
    assert same_topology(stub_yard(), read_layout(client.get(NEW).json()["document"]))


@pytest.mark.parametrize(
    ("data", "page", "why"),
    [
        (plan_as_pdf(stub_yard(), 1), 2, "has 1 page; there is no page 2"),
        (b"%PDF-1.7 and nothing more", 1, "cannot be read as a PDF"),
        (plan_as_pdf(stub_yard(), 1)[:600], 1, "cannot be read as a PDF"),
    ],
)
def test_a_pdf_that_cannot_be_shown_says_why(client: TestClient, data: bytes, page: int, why: str) -> None:
    got = client.post(f"/api/pictures?page={page}", content=data, headers=FILE)
    assert got.status_code == 422 and why in got.text


def test_a_pdf_with_a_password_says_so(client: TestClient) -> None:
    writer = PdfWriter(io.BytesIO(plan_as_pdf(stub_yard(), 1)))
    writer.encrypt("open sesame", algorithm="RC4-128")
    out = io.BytesIO()
    writer.write(out)
    got = client.post("/api/pictures", content=out.getvalue(), headers=FILE)
    assert got.status_code == 422 and "wants a password" in got.text


@pytest.mark.parametrize(
    "body",
    [
        {"lines": []},
        {"lines": [{"number": 0, "corners": [{"x": 0, "y": 0}]}]},
        {"lines": [{"number": 0, "corners": [{"x": 0, "y": 0}, {"x": 1e12, "y": 0}]}]},
        {"lines": [{"number": 0, "corners": [{"x": 0, "y": 0}, {"x": 1, "y": 0}]}]},
        {"lines": [{"number": 0, "corners": [{"x": 0, "y": 0}, {"x": 900, "y": 0}]}], "use": "moon"},
    ],
    ids=["none", "one corner", "far away", "too short", "use"],
)
def test_bad_takings_change_nothing(client: TestClient, body: dict[str, Any]) -> None:
    got = client.post(f"{NEW}/trace/take", json=body)
    assert got.status_code == 422 and client.get(NEW).json()["revision"] == 1


@pytest.mark.parametrize(("units", "least"), [("metric", "30 mm"), ("imperial", "1 in")])
def test_a_line_too_short_to_be_track_is_told(client: TestClient, units: str, least: str) -> None:
    revision = client.get(NEW).json()["revision"]
    patch = [{"op": "replace", "path": "/brief/units", "value": units}]
    client.patch(NEW, headers={"If-Match": f'"{revision}"'}, json={"summary": "Units", "patch": patch})
    lines = [{"number": n, "corners": [{"x": 0, "y": n}, {"x": x, "y": n}]} for n, x in enumerate((900, 20, 25))]
    got = client.post(f"{NEW}/trace/take", json={"lines": lines}).json()
    assert got["tracks"] == 1 and got["words"].endswith(f" 2 lines shorter than {least} left out.")


def test_a_lead_to_a_line_that_is_not_taken_ends_in_the_open(client: TestClient) -> None:
    line = {"number": 0, "corners": [{"x": 0, "y": 0}, {"x": 900, "y": 0}]}
    line["starts"] = {"host": 7, "along": 100, "ahead": True}
    got = client.post(f"{NEW}/trace/take", json={"lines": [line]})
    assert got.status_code == 200 and (got.json()["turnouts"], got.json()["loose_ends"]) == (0, 2)


def test_a_photo_is_made_square_and_kept_beside_it(client: TestClient) -> None:
    out = io.BytesIO()
    Image.new("RGB", (1000, 600), "white").save(out, "PNG")
    put_under(client, out.getvalue())
    corners = [[200, 200], [3800, 100], [3900, 2300], [100, 2200]]
    got = client.post(f"{NEW}/straighten", json={"corners": corners, "wide": 3000, "high": 2000})
    assert got.status_code == 200
    told = got.json()
    assert told["width"] / told["height"] == pytest.approx(1.5, rel=0.01)
    assert told["mm_per_pixel"] * told["width"] == pytest.approx(3000) and (told["x"], told["y"]) == (100, 100)
    assert client.get(f"/api/pictures/{told['picture']}").headers["content-type"] == "image/png"
    flat = client.post(
        f"{NEW}/straighten", json={"corners": [[0, 0], [1, 0], [2, 0], [3, 0]], "wide": 300, "high": 200}
    )
    assert flat.status_code == 422 and "corner" in flat.text


@pytest.mark.parametrize(("kind", "count"), [("crossing", 1), ("slip", 1), ("over", 0)])
def test_a_crossing_is_what_somebody_says(client: TestClient, kind: str, count: int) -> None:
    lines = [
        {"number": 0, "corners": [{"x": 0, "y": 500}, {"x": 1000, "y": 500}]},
        {"number": 1, "corners": [{"x": 500, "y": 0}, {"x": 520, "y": 1000}]},
    ]
    met = {"one": 0, "one_at": 510, "other": 1, "other_at": 500, "x": 510, "y": 500, "kind": kind}
    got = client.post(f"{NEW}/trace/take", json={"lines": lines, "crossings": [met]})
    assert got.status_code == 200
    nodes = got.json()["changed"]["state"]["document"]["nodes"].values()
    assert [n["kind"] for n in nodes if n["kind"] in ("crossing", "slip")] == [kind] * count
    assert got.json()["tracks"] == (4 if count else 2)
