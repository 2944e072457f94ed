"""Routes of fault finding: hunts as they are kept, and drills with a hidden fault."""

from __future__ import annotations

from collections import Counter
from datetime import UTC, datetime, timedelta
from typing import Annotated, Literal

from fastapi import APIRouter, Request, Response
from pydantic import BaseModel, Field, StringConstraints

from jolly_copper.api.sums import FieldError
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, known_scene
from jolly_copper.api.who import named
from jolly_copper.core.layout.frogs import JUNCTIONS
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.proving.bench import Bench
from jolly_copper.core.proving.cases import case_of, symptom_words
from jolly_copper.core.proving.causes import DEAD_READS, Case
from jolly_copper.core.proving.hunt import Answer, reweighed
from jolly_copper.core.proving.meters import ReadingError, Unit, read_typed
from jolly_copper.core.wirebook.places import node_words
from jolly_copper.store import Store
from jolly_copper.store.bench import Hunt, HuntAnswer, answer_hunt, end_hunt, hunt_of, hunts_of, open_hunt
from jolly_copper.store.work import work_of
from jolly_copper.telling.hunting import HuntStanding, SymptomShape, standing_shape, symptoms
from jolly_copper.telling.typed import RowId

router = APIRouter(prefix="/api/layouts/{layout_id}")
Words = Annotated[str, StringConstraints(max_length=300, strip_whitespace=True)]


class Symptom(BaseModel):
    """What is seen, and where, as far as somebody knows."""

    kind: Literal["trips", "stalls", "dead", "gap", "turnout", "occupied", "unseen", "hot", "control", "one way"]
    circuit: Annotated[str, Field(max_length=60)] | None = None
    track: Annotated[str, Field(max_length=60)] | None = None
    at: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] | None = None

    @property
    def data(self) -> dict[str, object]:
        return self.model_dump(exclude_none=True)


class HuntRow(BaseModel):
    id: str
    words: str
    who: str
    opened: str
    cause: str | None
    mend: str
    minutes: float
    closed: str


class Guarded(BaseModel):
    """A breaker or booster that may trip, by a circuit behind it."""

    id: str
    name: str


class Named(BaseModel):
    """A place one can name without the plan: a section, or a turnout."""

    name: str
    track: str
    at: float


class Suffered(BaseModel):
    """How often a kind of cause was found."""

    cause: str
    count: int


class HuntsShape(BaseModel):
    """Symptoms to begin with, hunts as they stand, and what this club suffers from."""

    symptoms: list[SymptomShape]
    circuits: list[Guarded]
    places: list[Named]
    hunts: list[HuntRow]
    causes: list[Suffered]


class HuntShape(BaseModel):
    hunt: HuntRow
    standing: HuntStanding


def _case(known: Bench, symptom: dict[str, object], store: Store, layout_id: str) -> Case:
    try:
        case = case_of(known, symptom)
    except ValueError as error:
        raise FieldError("symptom", str(error)) from None
    return reweighed(case, _log(store, layout_id), _touched(store, layout_id))


LATELY = timedelta(days=14)


def _touched(store: Store, layout_id: str) -> set[str]:
    """Tasks of the last fortnight, wired, tested or in trouble, by kind and thing: work leaves faults behind."""
    since = (datetime.now(UTC) - LATELY).isoformat()
    lately = [e.task for e in work_of(store, layout_id).values() if e.done >= since and e.state != "open"]
    return {task.partition("/")[0] for task in lately}


def _log(store: Store, layout_id: str) -> Counter[str]:
    """How often each kind of cause came in closed hunts."""
    return Counter(h.cause.split(":")[0] for h in hunts_of(store, layout_id) if h.cause)


def _row(known: Bench, hunt: Hunt) -> HuntRow:
    return HuntRow(
        id=hunt.id,
        words=symptom_words(known, hunt.symptom),
        who=hunt.who,
        opened=hunt.opened,
        cause=hunt.cause,
        mend=hunt.mend,
        minutes=hunt.minutes,
        closed=hunt.closed,
    )


def _places(known: Bench) -> list[Named]:
    layout, lengths = known.layout, known.facts.rails.lengths
    found = [Named(name=s.name, track=s.track, at=s.at) for s in layout.sections.values()]
    seen: set[str] = set()
    for i, track in layout.tracks.items():
        for node_id, at in ((track.a.node, 0.0), (track.b.node, lengths[i])):
            if layout.nodes[node_id].kind in JUNCTIONS and node_id not in seen:
                seen.add(node_id)
                found.append(Named(name=node_words(layout, node_id).capitalize(), track=i, at=at))
    return sorted(found, key=lambda p: natural(p.name))


@router.get("/hunts", response_model=HuntsShape)
def hunts(layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> Response:
    """What can be hunted, and every hunt there was."""
    found = store.get(layout_id)
    known = worked.bench(found, known_scene(found, scene))
    guards: dict[str, str] = {}
    for i, circuit in found.layout.circuits.items():
        guard = known.facts.tree.protection(i)
        if guard is not None and circuit.purpose == "track":
            guards.setdefault(guard[0], i)
    track = [Guarded(id=i, name=found.layout.devices[d].name) for d, i in guards.items()]
    return as_json(
        HuntsShape(
            symptoms=symptoms(found.layout),
            circuits=track,
            places=_places(known),
            hunts=[_row(known, h) for h in hunts_of(store, layout_id)],
            causes=[Suffered(cause=c, count=n) for c, n in _log(store, layout_id).most_common()],
        )
    )


class Opened(BaseModel):
    id: RowId
    symptom: Symptom


@router.post("/hunts", response_model=HuntShape)
def begin(
    layout_id: str, asked: Opened, request: Request, store: StoreUsed, worked: WorkedUsed, scene: Scene = None
) -> Response:
    """Begin a hunt; begun twice it is one."""
    found = store.get(layout_id)
    known = worked.bench(found, known_scene(found, scene))
    _case(known, asked.symptom.data, store, layout_id)
    opened = datetime.now(UTC).isoformat(timespec="seconds")
    open_hunt(store, layout_id, Hunt(asked.id, found.number, asked.symptom.data, named(request), opened))
    return _told(known, store, layout_id, asked.id)


def _told(known: Bench, store: Store, layout_id: str, hunt_id: str) -> Response:
    hunt, said = hunt_of(store, layout_id, hunt_id)
    case = _case(known, hunt.symptom, store, layout_id)
    answers = [Answer(a.act, a.said) for a in said]
    return as_json(HuntShape(hunt=_row(known, hunt), standing=standing_shape(known.layout, case, answers)))


@router.get("/hunts/{hunt_id}", response_model=HuntShape)
def hunt(layout_id: str, hunt_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None) -> Response:
    """Where a hunt stands."""
    found = store.get(layout_id)
    return _told(worked.bench(found, known_scene(found, scene)), store, layout_id, hunt_id)


class Said(BaseModel):
    """An answer: found, not found, yes, no, unsure, back (the last one is taken back), or a reading as typed."""

    id: RowId
    act: Annotated[str, Field(max_length=140)] = ""
    said: Annotated[str, StringConstraints(min_length=1, max_length=40, strip_whitespace=True)]


PLAIN = ("found", "not found", "yes", "no", "unsure", "back")


def _checked(case: Case, said: Said) -> str:
    act = next((a for a in case.acts if a.key == said.act), None)
    if said.said == "back":
        return said.said
    if act is None:
        raise FieldError("act", "There is no such test in this hunt any more: the layout has changed. Choose another.")
    if not act.reads:
        if said.said not in PLAIN:
            raise FieldError("said", "Answer with one of the buttons.")
        return said.said
    if said.said == "unsure":
        return said.said
    unit: Unit = "Ω" if act.unit == "Ω" else "V"
    try:
        typed = read_typed(said.said, unit)
    except ReadingError as error:
        raise FieldError("said", str(error)) from None
    return f"{DEAD_READS if typed.value is None else abs(typed.value):.5g}"


@router.post("/hunts/{hunt_id}/answers", response_model=HuntShape)
def answer(
    layout_id: str,
    hunt_id: str,
    said: Said,
    request: Request,
    store: StoreUsed,
    worked: WorkedUsed,
    scene: Scene = None,
) -> Response:
    """Answer a test, or take the last answer back."""
    found = store.get(layout_id)
    known = worked.bench(found, known_scene(found, scene))
    kept, _ = hunt_of(store, layout_id, hunt_id)
    words = _checked(_case(known, kept.symptom, store, layout_id), said)
    now = datetime.now(UTC).isoformat(timespec="seconds")
    answer_hunt(store, layout_id, hunt_id, said.id, HuntAnswer(said.act, words, named(request), now))
    return _told(known, store, layout_id, hunt_id)


class Ended(BaseModel):
    """What it was. cause: a key of the catalogue, or `other: …` in words."""

    cause: Annotated[str, StringConstraints(min_length=2, max_length=200, strip_whitespace=True)]
    mend: Words = ""
    minutes: Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)] = 0


@router.post("/hunts/{hunt_id}/end", response_model=HuntShape)
def end(
    layout_id: str, hunt_id: str, ended: Ended, store: StoreUsed, worked: WorkedUsed, scene: Scene = None
) -> Response:
    """Close a hunt with what it was: a line of the club's log, by which causes are weighed from then on."""
    found = store.get(layout_id)
    end_hunt(store, layout_id, hunt_id, ended.cause, ended.mend, ended.minutes)
    return _told(worked.bench(found, known_scene(found, scene)), store, layout_id, hunt_id)
