"""Hand-over over the wire: names compared, the notebook searched, the calendar read by others, the archive by a
stranger."""

from __future__ import annotations

import csv
import io
import json
import zipfile
from pathlib import Path
from typing import Any

import jsonschema
import pypdf
import pytest
import vobject
from fastapi.testclient import TestClient
from PIL import Image

from jolly_copper.api import create_app
from jolly_copper.demo import harbour_arm, signalled_bay
from jolly_copper.exchange.names import NamesFile
from jolly_copper.store import Store
from tests.api.conftest import Layouts
from tests.layouts import plain

ARM = "/api/layouts/arm"


@pytest.fixture
def layouts() -> Layouts:
    return {"arm": harbour_arm, "plain": plain().plain}


def change(client: TestClient, layout: str, patch: list[dict[str, Any]], summary: str = "A change") -> None:
    number = client.get(f"/api/layouts/{layout}").json()["revision"]
    body = {"summary": summary, "patch": patch}
    got = client.patch(f"/api/layouts/{layout}", json=body, headers={"If-Match": f'"{number}"'})
    assert got.status_code == 200, got.text


def photo(size: tuple[int, int] = (60, 40)) -> bytes:
    out = io.BytesIO()
    exif = Image.Exif()
    exif[0x0112] = 6  # lies on its side
    exif.get_ifd(0x8825)[1] = "N"  # where it was taken
    exif.get_ifd(0x8825)[2] = (51.0, 30.0, 0.0)
    Image.new("RGB", size, (180, 90, 40)).save(out, "JPEG", exif=exif)
    return out.getvalue()


# --- names


def test_names_go_out_and_come_back_as_they_were(client: TestClient) -> None:
    table, plain_json = client.get(f"{ARM}/files/names.csv"), client.get(f"{ARM}/files/names.json")
    rows = list(csv.DictReader(io.StringIO(table.content.decode("utf-8-sig"))))
    assert {r["what"] for r in rows} == {"section", "turnout", "link"}
    turnout = next(r for r in rows if r["name"] == "T3")
    assert (turnout["number"], turnout["contact"], turnout["inverted"]) == ("3", "3", "no")
    jsonschema.validate(plain_json.json(), NamesFile.model_json_schema())
    for listed in (table.content, plain_json.content):
        told = client.post(f"{ARM}/names/compare", content=listed, headers={"content-type": "text/csv"}).json()
        assert told["wrong"] == [] and told["words"].endswith("rows read: all as it is here.")


def test_a_list_that_differs_is_told_row_by_row(client: TestClient) -> None:
    body = (
        "what,name,number,contact\nturnout,T3,33,3\nTurnout,t4,4,\nturnout,T4,4,4\nsection,Nowhere,9,1\nturnout,T5,,5\n"
    )
    told = client.post(f"{ARM}/names/compare", content=body, headers={"content-type": "text/csv"}).json()
    words = [w["words"] for w in told["wrong"]]
    assert "T3: number is 33 in the list and 3 here." in words
    assert "The turnout T4 stands twice in the list." in words
    assert "There is no section Nowhere on this railroad." in words
    assert "T5: number is nothing in the list and 5 here." in words
    assert "The turnout T8 is not in the list." in words
    assert not any("link" in w for w in words), "what the list does not speak of is not missing in it"


@pytest.mark.parametrize(
    ("body", "why"),
    [
        (b"name,number\nT1,1\n", "what"),
        (b"what,name\nhorse,T1\n", "Row 2: what is one of section"),
        (b"what,name\nturnout,\n", "Row 2: the name is missing"),
        (b'{"sections": 3}', "sections must be a list"),
        (b'{"sections": [{"number": 1}]}', "One of the sections has no name"),
        (b'{"railroad": "x"}', "There are no names in it"),
        (b"{", "cannot be read as JSON"),
        (b"\xff\xfe\x00", "CSV"),
    ],
)
def test_what_is_no_list_is_refused(client: TestClient, body: bytes, why: str) -> None:
    got = client.post(f"{ARM}/names/compare", content=body, headers={"content-type": "text/csv"})
    assert got.status_code == 422 and why in got.json()["message"], got.text


def test_parts_that_share_a_number_are_not_told_twice(store: Store) -> None:
    store.add("bay", signalled_bay())
    with TestClient(create_app(store), base_url="http://localhost") as client:
        listed = client.get("/api/layouts/bay/files/names.csv").content
        kind = {"content-type": "text/csv"}
        assert client.post("/api/layouts/bay/names/compare", content=listed, headers=kind).json()["wrong"] == []
        told = client.get("/api/layouts/bay/files/names.json").json()
        route = next(r for r in told["routes"] if r["turnouts"])
        assert set(route["turnouts"].values()) <= {"through", "diverging", "left", "right"} and route["sections"]
        assert any(s["group"] for s in told["sections"]) and all(len(s["outputs"]) >= 2 for s in told["signals"])


# --- the notebook


def note(client: TestClient, text: str, number: int = 1, **more: Any) -> dict[str, Any]:
    got = client.post(f"{ARM}/notes", json={"id": f"note-000{number}", "text": text, **more})
    assert got.status_code == 200, got.text
    found: dict[str, Any] = got.json()
    return found


def test_notes_are_written_changed_and_taken_back(client: TestClient, store: Store) -> None:
    note(client, "The booster hums when warm", about="device:booster1", who="Ada")
    told = note(client, "Nobody runs over the joint before it is slid", 2, kind="decision")
    assert [n["about_words"] for n in told["notes"]] == ["", "Device Booster"]
    told = note(client, "It hums no more: a foot was loose", 1, about="device:booster1")
    assert len(told["notes"]) == 2 and "no more" in next(n for n in told["notes"] if n["id"] == "note-0001")["text"]
    assert [n["id"] for n in note(client, "", 1)["notes"]] == ["note-0002"]
    assert store.newest("arm") == 1, "the layout is as it was"


def test_search_goes_through_all_that_is_written(client: TestClient) -> None:
    note(client, "Booster hums when warm", about="device:booster1", who="Ada")
    change(client, "arm", [{"op": "replace", "path": "/notes", "value": "x"}], "Booster moved to the back")
    when = "2026-11-20T20:00:00Z"
    work = {"id": "work-00001", "task": "feeder:F1", "state": "trouble", "note": "booster lead too short", "done": when}
    client.post(f"{ARM}/work", json={"entries": [work]})
    found = client.get(f"{ARM}/search?text=booster").json()
    assert {f["kind"] for f in found} == {"note", "change", "work"}
    assert [f["kind"] for f in client.get(f"{ARM}/search?text=ada+HUMS").json()] == ["note"]
    assert client.get(f"{ARM}/search?text=giraffe").json() == client.get(f"{ARM}/search?text=+").json() == []


def test_a_photo_comes_upright_and_without_its_place(client: TestClient) -> None:
    kept = client.post("/api/photos", content=photo(), headers={"content-type": "image/jpeg"}).json()["photo"]
    got = client.get(f"/api/pictures/{kept}")
    with Image.open(io.BytesIO(got.content)) as picture:
        assert picture.size == (40, 60) and not picture.getexif()
    told = note(client, "", 3, about="board:front1", photo=kept)
    assert told["notes"][0]["photo"] == kept and told["notes"][0]["about_words"] == "Board 1 Town"


@pytest.mark.parametrize(
    ("data", "why"),
    [(b"GIF89a" + b"x" * 50, "JPEG, PNG or WebP"), (b"x" * 10_000_001, "A photo may have 10 MB; this has 10.")],
)
def test_what_is_no_photo_is_refused(client: TestClient, data: bytes, why: str) -> None:
    got = client.post("/api/photos", content=data, headers={"content-type": "image/jpeg"})
    assert got.status_code in (413, 422) and (got.status_code == 413 or why in got.json()["message"]), got.text


@pytest.mark.parametrize(
    ("about", "words"),
    [
        ("board:front1", "Board 1 Town"),
        ("board:gone", "board gone, which is gone"),
        ("note:x", "note x, which is gone"),  # a field of the layout that holds no things
        ("name:x", "name x, which is gone"),
        ("", ""),
    ],
)
def test_what_a_note_is_about_is_told_by_name(client: TestClient, about: str, words: str) -> None:
    note(client, "Here", 1, about=about)
    assert [n["about_words"] for n in client.get(f"{ARM}/notes").json()["notes"]] == [words]


def test_the_last_readings_come_bad_ones_first_then_the_newest(client: TestClient) -> None:
    shown = {"gap:G1/left": "0.2 ohm", "gap:G4/left": "OL", "gap:G15/right": "OL"}
    rows = [
        {"id": f"reading-0{n}", "test": test, "shown": read, "done": f"2026-11-2{n}T20:00:00Z"}
        for n, (test, read) in enumerate(shown.items())
    ]
    client.post(f"{ARM}/readings", json={"readings": rows})
    page = client.get(f"{ARM}/files/book.html?chapters=read-me").text
    at = [page.index(f"Gap {name}") for name in ("G1, left rail: read", "G15, right rail: read", "G4, left rail: read")]
    assert at == sorted(at)


def test_a_note_about_nothing_sensible_is_refused(client: TestClient) -> None:
    for bad in ({"about": "the moon"}, {"id": "x"}, {"photo": "0" * 64}, {"kind": "joke"}):
        got = client.post(f"{ARM}/notes", json={"id": "note-0009", "text": "x", **bad})
        assert got.status_code in (404, 422), got.text


# --- the calendar


def test_another_library_reads_the_calendar(client: TestClient) -> None:
    dates = {
        "d1": {"kind": "building", "name": "Board 3", "day": "2026-12-03", "starts": "19:30", "ends": "22:00"},
        "d2": {"kind": "show", "name": "Spring fair, hall 2; gate B", "day": "2027-04-10", "place": "Dunmere"},
    }
    dates["d1"] |= {"every": "fortnight", "until": "2027-01-31"}
    change(client, "arm", [{"op": "add", "path": "/dates", "value": dates}])
    got = client.get(f"{ARM}/files/calendar.ics")
    assert got.headers["content-type"].startswith("text/calendar")
    read = vobject.readOne(got.text)
    first, second = read.vevent_list
    assert first.summary.value == "Building: Board 3" and first.dtstart.value.isoformat() == "2026-12-03T19:30:00"
    assert first.rrule.value.startswith("FREQ=WEEKLY;") and "INTERVAL=2" in first.rrule.value
    assert [d.day for d in first.getrruleset()] == [3, 17, 31, 14, 28]
    assert second.dtstart.value.isoformat() == "2027-04-10" and second.dtend.value.isoformat() == "2027-04-11"
    assert second.summary.value == "Show: Spring fair, hall 2; gate B" and "8 boards" in second.description.value
    assert client.get(f"{ARM}/files/calendar.ics").content == got.content


def test_the_yearly_test_is_due_a_year_after_the_last_reading(client: TestClient) -> None:
    reading = {"id": "reading-01", "test": "gap:G1/left", "shown": "OL", "done": "2026-11-20T20:00:00Z"}
    client.post(f"{ARM}/readings", json={"readings": [reading]})
    read = vobject.readOne(client.get(f"{ARM}/files/calendar.ics").text)
    assert read.vevent.summary.value.startswith("Test: coin test") and str(read.vevent.dtstart.value) == "2027-11-20"


@pytest.mark.parametrize(
    ("more", "why"),
    [
        ({"ends": "18:00"}, "ends after it begins"),
        ({"until": "2025-01-01"}, "until a day after"),
        ({"day": "soon"}, "a day such as"),
        ({"starts": "tea"}, "a time of day such as"),
    ],
)
def test_a_date_that_cannot_be_is_refused(client: TestClient, more: dict[str, Any], why: str) -> None:
    value = {"name": "Evening", "day": "2026-12-03", "starts": "19:30", **more}
    body = {"summary": "x", "patch": [{"op": "add", "path": "/dates/d1", "value": value}]}
    got = client.patch(ARM, json=body, headers={"If-Match": '"1"'})
    assert (got.status_code == 422 and why in got.text.lower()) or why in got.text, got.text


# --- Read me first, and the archive


def lived_in(client: TestClient) -> str:
    """The demo with a life behind it; answers its photo."""
    kept: str = client.post("/api/photos", content=photo(), headers={"content-type": "image/jpeg"}).json()["photo"]
    note(client, "Pin 3 of 1A was loose", 1, kind="trouble", about="board:front1", photo=kept)
    note(client, "Sockets face the booster", 2, kind="decision", who="Ada")
    change(client, "arm", [{"op": "replace", "path": "/brief/rules/coin_margin", "value": 2.0}], "Coin margin 2")
    change(client, "arm", [{"op": "replace", "path": "/notes", "value": "y"}], "Notes")
    client.post(f"{ARM}/undo", headers={"If-Match": '"3"'})
    when = "2026-11-20T20:00:00Z"
    client.post(
        f"{ARM}/readings",
        json={"readings": [{"id": "reading-01", "test": "gap:G1/left", "shown": "0.2 ohm", "done": when}]},
    )
    client.post(f"{ARM}/hunts", json={"id": "hunt-00001", "symptom": {"kind": "hot"}})
    entry = {
        "id": "show-00001",
        "show": "Fair",
        "day": "2026-11-20",
        "what": "proof:coin:main",
        "state": "failed",
        "done": when,
    }
    client.post(f"{ARM}/shows", json={"entries": [entry]})
    return kept


def test_read_me_first_says_how_to_run_test_and_mend(client: TestClient) -> None:
    lived_in(client)
    page = client.get(f"{ARM}/files/book.html?chapters=read-me").text
    for said in ("Harbour Arm of Wick Lane Travelling Railroad", "Supply 12 V (Board 6 Power)", "Breaker Main line"):
        assert said in page
    assert "Pin 3 of 1A was loose" in page and "A hunt begun on" in page and "Gap G1, left rail: read 0.2 ohm" in page
    chapters = [c["key"] for c in client.get(f"{ARM}/book").json()["chapters"]]
    assert chapters[0] == "read-me" and {"rules", "decisions", "notebook", "history"} <= set(chapters)
    book = client.get(f"{ARM}/files/book.html?chapters=rules,decisions").text
    assert "Coin test margin" in book and "Sockets face the booster" in book


def test_the_archive_reads_without_the_program(client: TestClient) -> None:
    kept = lived_in(client)
    got = client.get(f"{ARM}/files/archive.zip")
    assert got.headers["content-type"] == "application/zip"
    with zipfile.ZipFile(io.BytesIO(got.content)) as archive:
        assert archive.testzip() is None and archive.namelist()[0] == "INDEX.txt"
        index = archive.read("INDEX.txt").decode()
        assert all(name in index for name in archive.namelist() if name != "INDEX.txt")
        assert "READ-ME-FIRST.txt" in index and "Switch it on" in archive.read("READ-ME-FIRST.txt").decode()
        assert json.loads(archive.read("layout.json"))["name"] == "Harbour Arm"
        assert len(list(csv.DictReader(io.StringIO(archive.read("history.csv").decode())))) == 4
        assert len(pypdf.PdfReader(io.BytesIO(archive.read("book.pdf"))).pages) > 20
        assert Image.open(io.BytesIO(archive.read(f"photos/{kept}.jpg"))).size == (40, 60)


def test_the_archive_is_taken_in_again_whole(client: TestClient, store: Store, tmp_path: Path) -> None:
    kept = lived_in(client)
    data = client.get(f"{ARM}/files/archive.zip").content
    for name in ("beside", "elsewhere"):
        # Beside the first one, and into an empty club file.
        other = store if name == "beside" else Store(tmp_path / "other.sqlite3")
        with TestClient(create_app(other), base_url="http://localhost") as there:
            got = there.post("/api/archives", content=data, headers={"content-type": "application/zip"})
            assert got.status_code == 201, got.text
            taken = got.json()["id"]
            assert taken != "arm" and got.json()["revision"] == 4
            assert other.get(taken).layout == store.get("arm").layout
            for n in (1, 2, 3):
                assert other.get(taken, n).layout == store.get("arm", n).layout
            path = f"/api/layouts/{taken}"
            assert [n["text"] for n in there.get(f"{path}/notes").json()["notes"]] == [
                n["text"] for n in client.get(f"{ARM}/notes").json()["notes"]
            ]
            assert len(there.get(f"{path}/bench").json()["tests"]) > 10
            assert there.get(f"{path}/shows").json()["entries"][0]["show"] == "Fair"
            assert len(there.get(f"{path}/hunts").json()) >= 1 and there.get(f"/api/pictures/{kept}").status_code == 200
            # What was undone can be made again.
            assert there.post(f"{path}/redo", headers={"If-Match": '"4"'}).status_code == 200
            assert other.get(taken).layout.notes == "y"
        if other is not store:
            other.close()


def packed(files: dict[str, bytes]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    return out.getvalue()


ROWS = json.dumps({"rows_version": 1, "first": {"name": "X"}, "changes": [], "beside": {}, "answers": []}).encode()


@pytest.mark.parametrize(
    ("files", "why"),
    [
        ({"../evil.txt": b"x", "rows.json": ROWS}, "which no archive of this program does"),
        ({"/etc/passwd": b"x", "rows.json": ROWS}, "which no archive of this program does"),
        ({"photos/x.php": b"x", "rows.json": ROWS}, "which no archive of this program does"),
        ({"layout.json": b"{}"}, "rows.json is missing"),
        ({"rows.json": b"[" * 100_000}, "cannot be read"),
        ({"rows.json": b"{}"}, "not of a version"),
        ({"rows.json": ROWS}, "no history"),
        ({"rows.json": ROWS, f"photos/{'0' * 64}.jpg": b"x"}, "not the one its name says"),
        ({"rows.json": b" " * 130_000_000}, "unpacks to more"),
        ({f"photos/{n:064x}.jpg": b"x" for n in range(2001)}, "2001 files"),
    ],
)
def test_hostile_archives_are_refused_and_change_nothing(
    client: TestClient, store: Store, files: dict[str, bytes], why: str
) -> None:
    got = client.post("/api/archives", content=packed(files), headers={"content-type": "application/zip"})
    assert got.status_code == 422 and why in got.json()["message"], got.text
    assert len(store.layouts()) == 2


def test_an_archive_that_lies_about_its_size_is_refused(client: TestClient) -> None:
    data = bytearray(packed({"rows.json": b" " * 200_000_000}))
    # The directory says a byte; the stream holds two hundred million.
    at = data.rindex(b"PK\x01\x02")
    data[at + 24 : at + 28] = (1).to_bytes(4, "little")
    got = client.post("/api/archives", content=bytes(data), headers={"content-type": "application/zip"})
    assert got.status_code == 422, got.text


@pytest.mark.parametrize(
    ("spoil", "why"),
    [
        (lambda r: r["changes"][1].update(number=7), "Change 2 of its history is not one"),
        (lambda r: r["changes"][1].update(patch=[{"op": "remove", "path": "/nothing"}]), "Change 2 does not fit"),
        (lambda r: r["changes"][0].update(kind="edit"), "Change 1 of its history is not one"),
        (lambda r: r["first"].update(tracks=3), ""),
        (lambda r: r["beside"]["note"].append({"id": {}, "kind": "note"}), "A row of note cannot be taken in"),
        (lambda r: r["beside"]["work"].append({"id": "x", "state": "happy"}), "A row of work cannot be taken in"),
    ],
)
def test_an_archive_with_a_broken_history_is_refused_whole(
    client: TestClient, store: Store, spoil: Any, why: str
) -> None:
    lived_in(client)
    with zipfile.ZipFile(io.BytesIO(client.get(f"{ARM}/files/archive.zip").content)) as archive:
        rows = json.loads(archive.read("rows.json"))
    spoil(rows)
    got = client.post(
        "/api/archives",
        content=packed({"rows.json": json.dumps(rows).encode()}),
        headers={"content-type": "application/zip"},
    )
    assert got.status_code == 422 and why in got.json()["message"], got.text
    assert len(store.layouts()) == 2


def test_what_is_no_zip_is_refused(client: TestClient) -> None:
    got = client.post("/api/archives", content=b"not a zip", headers={"content-type": "application/zip"})
    assert got.status_code == 422 and "no archive" in got.json()["message"]
