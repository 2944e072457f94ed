"""Routes of the bench: tests, meters, readings and what they teach."""

from __future__ import annotations

import hashlib
from base64 import b64decode
from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response
from pydantic import BaseModel, Field, StringConstraints, ValidationError

from jolly_copper.api.files import download
from jolly_copper.api.sums import FieldError
from jolly_copper.api.under import RefusedEntry
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.api.who import named
from jolly_copper.core.layout.reading import in_words
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.proving.judging import band_words
from jolly_copper.core.proving.learn import learn
from jolly_copper.core.proving.meter_test import MeterTest
from jolly_copper.core.proving.meters import KINDS, ReadingError, Setting
from jolly_copper.core.proving.offering import offered
from jolly_copper.core.proving.readings import Typing, lessons, understand
from jolly_copper.exchange.bench_files import readings_csv, readings_xlsx, rows_of
from jolly_copper.store import Store
from jolly_copper.store.bench import Meter, Reading, add_meter, add_readings, meters_of, readings_of
from jolly_copper.telling.proving import (
    BenchShape,
    LearnedShape,
    MeterShape,
    ReadingShape,
    bench_shape,
    learned_shape,
    meter_shape,
    reading_row,
    reading_shape,
)
from jolly_copper.telling.shapes import MendShape
from jolly_copper.telling.typed import Line, Moment, RowId

router = APIRouter(prefix="/api/layouts/{layout_id}")


class Typed(BaseModel):
    """A reading as somebody typed it; sent twice, it is kept once."""

    id: RowId
    test: Annotated[str, StringConstraints(min_length=3, max_length=140)]
    shown: Line
    meter: Line = ""
    amps: Annotated[float, Field(ge=0, le=50, allow_inf_nan=False)] | None = None
    before: Line = ""
    who: Line = ""
    done: Moment
    note: Annotated[str, StringConstraints(max_length=500, strip_whitespace=True)] = ""
    withdraws: Annotated[str, StringConstraints(max_length=60)] = ""


class SentReadings(BaseModel):
    """Readings as `Typed`. Each is looked at by itself, so that a bad one does not keep the others back."""

    readings: Annotated[list[dict[str, Any]], Field(min_length=1, max_length=1000)]


class TakenReadings(BaseModel):
    """The readings as they are kept, with their verdicts, and those that were not taken, with the reason."""

    readings: list[ReadingShape]
    refused: list[RefusedEntry]


@router.get("/bench", response_model=BenchShape)
def bench(
    layout_id: str,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
    since: Annotated[int | None, Query(ge=1, description="Tell which tests were touched since this change.")] = None,
) -> Response:
    """Every test with what it foretells and where it stands."""
    found = store.get(layout_id)
    known = worked.bench(found, known_scene(found, scene))
    older = store.get(layout_id, since) if since is not None else None
    before = worked.bench(older, known_scene(older, scene)) if older is not None else None
    readings, meters = readings_of(store, layout_id), meters_of(store, layout_id)
    return as_json(bench_shape(known, found.number, readings, meters, before))


@router.get("/readings")
def readings(layout_id: str, store: StoreUsed) -> list[ReadingShape]:
    """All readings that count, the newest first."""
    return [reading_shape(r) for r in reversed(readings_of(store, layout_id))]


@router.post("/readings")
def send_readings(
    layout_id: str, sent: SentReadings, request: Request, store: StoreUsed, worked: WorkedUsed, scene: Scene = None
) -> TakenReadings:
    """Keep readings, and say what each says. Nothing of it changes the layout."""
    found = store.get(layout_id)
    known = worked.bench(found, known_scene(found, scene))
    meters = {m.id: m for m in meters_of(store, layout_id)}
    taken: list[Reading] = []
    refused: list[RefusedEntry] = []
    for place, entry in enumerate(sent.readings):
        try:
            typed = Typed.model_validate(entry)
            who = typed.who or named(request)
            taken.append(read(known, found.number, typed, meters, who))
        except ValidationError as error:
            problem = in_words(error.errors()[0])
            refused.append(RefusedEntry(place=place, id=str(entry.get("id", ""))[:60], why=problem.sentence))
        except ReadingError as error:
            refused.append(RefusedEntry(place=place, id=str(entry.get("id", ""))[:60], why=str(error)))
    add_readings(store, layout_id, taken)
    return TakenReadings(readings=[reading_shape(r) for r in taken], refused=refused)


def read(known: Bench, revision: int, typed: Typed, meters: dict[str, Meter], who: str) -> Reading:
    """A typed reading with its verdict. What no test asks for any more is kept as it was typed."""
    test = known.by_key.get(typed.test)
    meter = meters.get(typed.meter)
    value, sound, verdict = None, None, "Kept; there is no such test on the layout now."
    if typed.withdraws:
        verdict = "Taken back."
    elif test is not None:
        setting: Setting | None = meter.setting if meter and meter.setting in KINDS else None
        factor = meter.factor if meter else None
        made = understand(test, Typing(typed.shown, setting, factor, typed.amps, typed.before), known.wave_for(test))
        value, verdict = made.value, made.verdict.words
        sound = None if made.verdict.sound is None else int(made.verdict.sound)
    return Reading(
        typed.id,
        revision,
        typed.test,
        test.told if test else "",
        typed.meter,
        typed.shown,
        test.unit if test else "",
        value,
        typed.amps,
        typed.before,
        _foretold(test),
        test.low if test else None,
        test.high if test else None,
        sound,
        verdict,
        who,
        typed.done,
        typed.note,
        typed.withdraws,
    )


def _foretold(test: MeterTest | None) -> str:
    if test is None:
        return ""
    band = band_words(test.low, test.high, test.unit)
    return f"{test.foretold}; {band} is sound" if band and test.value is not None else test.foretold


class MeterTyped(BaseModel):
    """A meter as the club calls it. factor: V over what it shows, from a bridge reading at the source."""

    id: RowId
    name: Annotated[str, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]
    setting: Setting
    factor: Annotated[float, Field(ge=0.3, le=3, allow_inf_nan=False)] | None = None
    note: Annotated[str, StringConstraints(max_length=200, strip_whitespace=True)] = ""


@router.post("/meters")
def keep_meter(layout_id: str, typed: MeterTyped, request: Request, store: StoreUsed) -> list[MeterShape]:
    """Keep a meter, or its new factor."""
    checked = datetime.now(UTC).isoformat(timespec="seconds") if typed.factor is not None else ""
    meter = Meter(typed.id, typed.name, typed.setting, typed.factor, checked, named(request), typed.note)
    add_meter(store, layout_id, meter)
    return [meter_shape(m) for m in meters_of(store, layout_id)]


def _counting(known: Bench, store: Store, layout_id: str) -> list[Reading]:
    """Readings of tests that stand as they stood then."""
    told = {t.key: t.told for t in known.tests}
    return [r for r in readings_of(store, layout_id) if r.test in told and r.told in ("", told[r.test])]


@router.get("/learned", response_model=LearnedShape)
def learned(layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> Response:
    """What all readings under load say together: the likely bad parts, and which reading would settle it."""
    found = store.get(layout_id)
    known = worked.bench(found, known_scene(found, scene))
    rows = [(r.test, r.value, r.sound) for r in _counting(known, store, layout_id)]
    return as_json(learned_shape(known, learn(known.dc, lessons(rows))))


class OfferShape(BaseModel):
    """Measured values for the document, a line each, and the change they make; None where there is nothing."""

    lines: list[str]
    mend: MendShape | None


@router.get("/learned/offer")
def offer(layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> OfferShape:
    """Measured values in place of those of the tables, as one change to look at."""
    found = store.get(layout_id)
    known = worked.bench(found, known_scene(found, scene))
    counting = _counting(known, store, layout_id)
    rows = [(r.test, r.value, r.sound) for r in counting]
    latest = {r.test: r.value for r in counting if r.value is not None and r.sound is not None}
    made = offered(found.layout, latest, learn(known.dc, lessons(rows)))
    label = f"Measured: {'; '.join(made.lines)}"[:200]
    return OfferShape(
        lines=list(made.lines), mend=MendShape(label=label, patch=list(made.patch)) if made.patch else None
    )


@router.get("/files/readings.csv")
def readings_file(layout_id: str, store: StoreUsed) -> Response:
    """Every reading, with what was foretold and its verdict, as a table."""
    name = store.get(layout_id).layout.name
    table = readings_csv(name, map(reading_row, readings_of(store, layout_id)))
    return download(table, "text/csv; charset=utf-8", f"{layout_id}-readings.csv")


@router.get("/files/readings.xlsx")
def readings_book(layout_id: str, store: StoreUsed) -> Response:
    """The same as a workbook."""
    name = store.get(layout_id).layout.name
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return download(
        readings_xlsx(name, map(reading_row, readings_of(store, layout_id))), kind, f"{layout_id}-readings.xlsx"
    )


class Table(BaseModel):
    """A table of readings as a file: its name tells CSV from workbook."""

    name: Annotated[str, Field(max_length=200)]
    base64: Annotated[str, Field(max_length=3_000_000)]


@router.post("/readings/file")
def take_readings(
    layout_id: str, table: Table, request: Request, store: StoreUsed, worked: WorkedUsed, scene: Scene = None
) -> TakenReadings:
    """Readings from a table as it was written by `readings.csv` or `.xlsx`; what was kept already is kept once."""
    try:
        rows = rows_of(table.name, b64decode(table.base64, validate=True))
    except ValueError as error:
        raise FieldError("file", str(error) or "This is no table.") from None
    sent = []
    for cells in rows:
        mark = hashlib.sha256(repr((layout_id, sorted(cells.items()))).encode()).hexdigest()[:24]
        entry: dict[str, Any] = {
            "id": cells.get("Id") or f"file-{mark}",
            "test": cells["Test"],
            "shown": cells["Reading"],
            "who": cells.get("Who", ""),
            "note": cells.get("Note", ""),
            "before": cells.get("Before", ""),
            "meter": cells.get("Meter", ""),
            "done": cells.get("Time") or datetime.now(UTC).isoformat(),
            "amps": cells.get("Load A", "").replace(",", ".").strip() or None,
        }
        sent.append(entry)
    if not sent:
        raise FieldError("file", "The table has no readings in it.")
    return send_readings(layout_id, SentReadings(readings=sent), request, store, worked, scene)
