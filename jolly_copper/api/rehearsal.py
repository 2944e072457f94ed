"""The running railroad: an evening streamed as it is worked out, plans proved, evenings by chance, records kept."""

from __future__ import annotations

from typing import Annotated, Any, get_args

from fastapi import APIRouter, HTTPException, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, Field

from jolly_copper.api.files import Content, csv_file
from jolly_copper.api.streaming import Tell, streamed
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, as_json, change_newest, changed, known_scene
from jolly_copper.api.worked import Worked
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.plans import RunningPlan, SingleLines
from jolly_copper.core.rehearsal.checks import problems
from jolly_copper.core.rehearsal.evening import StandsStill
from jolly_copper.core.rehearsal.evenings import evenings, weaknesses
from jolly_copper.core.rehearsal.make_plan import plan_from_scene
from jolly_copper.core.rehearsal.other_ways import other_ways
from jolly_copper.core.rehearsal.proof import prove
from jolly_copper.core.rehearsal.run import ENGINE_VERSION, PlanRefused, rehearse, set_out
from jolly_copper.core.rehearsal.smallest import smallest_test_track
from jolly_copper.core.rehearsal.trace import Opening
from jolly_copper.core.signals.aspects import signalling_of
from jolly_copper.exchange.plan_csv import plan_csv, read_plan
from jolly_copper.store import Revision
from jolly_copper.store.rehearsals import Record, forget_rehearsal, keep_rehearsal, rehearsals
from jolly_copper.telling import rehearsal as told
from jolly_copper.telling import shapes

router = APIRouter(prefix="/api/layouts/{layout_id}")
Key = Annotated[str, Field(min_length=1, max_length=40)]


class PlanAsked(BaseModel):
    """A plan to be run, with what was dropped into it besides. id: of the plan in the layout."""

    id: Key = "plan"
    plan: RunningPlan
    revision: int | None = None


class EveningsAsked(PlanAsked):
    count: Annotated[int, Field(ge=1, le=200)] = 100


class SceneAsked(BaseModel):
    scene: Key
    name: Annotated[str, Field(min_length=1, max_length=80)] | None = None


class KeepAsked(PlanAsked):
    """A rehearsal to be kept, as it ran."""

    record: Annotated[str, Field(pattern=r"^[A-Za-z0-9_.-]{1,60}$")]
    sentences: Annotated[list[told.SentenceShape], Field(max_length=200)] = []
    who: Annotated[str, Field(max_length=80)] = ""


class WhyAsked(BaseModel):
    """A head at a moment: how turnouts lie, which stretches are lit."""

    signal: Key
    lies: dict[str, str] = {}
    lit: Annotated[list[int], Field(max_length=8000)] = []


class WhyShape(BaseModel):
    aspect: str
    reasons: list[str]


class RecordShape(BaseModel):
    """A rehearsal that was kept. plan_id: which plan of the layout it was. stale: the layout has changed since."""

    id: str
    plan_id: str
    revision: int
    name: str
    plan: dict[str, Any]
    seed: int
    stale: bool
    sentences: list[told.SentenceShape]
    who: str
    made: str


def _facts(worked: Worked, found: Revision, plan: RunningPlan) -> Facts:
    return worked.facts(found, known_scene(found, plan.scene))


@router.post("/rehearse/plan", response_model=told.MadePlan)
def made_plan(layout_id: str, asked: SceneAsked, store: StoreUsed, worked: WorkedUsed) -> Response:
    """A first plan from a scene; nothing is saved."""
    found = store.get(layout_id)
    if asked.scene not in found.layout.scenes:
        raise HTTPException(422, f"There is no scene {asked.scene}.")
    facts = worked.facts(found, asked.scene)
    plan, homeless = plan_from_scene(facts.layout, facts, asked.scene, asked.name)
    return as_json(told.MadePlan(plan=plan, homeless=homeless))


@router.post("/rehearse/check", response_model=list[told.PlanProblem])
def checked(layout_id: str, asked: PlanAsked, store: StoreUsed, worked: WorkedUsed) -> list[told.PlanProblem]:
    """What keeps a plan from being run; empty where nothing does."""
    found = store.get(layout_id, asked.revision)
    facts = _facts(worked, found, asked.plan)
    return [told.PlanProblem(path=p, sentence=s) for p, s in problems(facts.layout, facts, asked.plan)]


@router.post(
    "/rehearse",
    response_model=told.CameTo,
    responses={202: {"model": told.OpeningShape, "description": "What the first line holds."}},
)
def rehearsed(layout_id: str, asked: PlanAsked, store: StoreUsed, worked: WorkedUsed) -> StreamingResponse:
    """Run a plan: an opening, lines as they come in the order of time, then what it came to. Who hangs up stops it."""
    found = store.get(layout_id, asked.revision)
    facts = _facts(worked, found, asked.plan)

    def work(tell: Tell) -> told.CameTo:
        try:
            run = rehearse(facts.layout, facts, asked.plan)
        except PlanRefused as refused:
            wrong = [told.PlanProblem(path=p, sentence=s) for p, s in refused.wrong]
            return told.CameTo(revision=found.number, seed=asked.plan.seed, version=ENGINE_VERSION, problems=wrong)
        opening = next(run.lines)
        assert isinstance(opening, Opening)
        tell({"opening": told.opening_told(run.evening, opening).model_dump(mode="json")})
        try:
            for until, some in told.batches(run.lines):
                tell({"until": until, "lines": some})
        except StandsStill as error:
            raise DrawingError(f"{error} What was worked out until then is shown.") from None
        tell({"until": run.evening.ends, "lines": []})
        return told.came_to(run.evening, asked.id, found.number, asked.plan.seed, ENGINE_VERSION)

    return streamed(work, "The rehearsal")


@router.post("/rehearse/proof", response_model=told.ProvedShape)
def proved(layout_id: str, asked: PlanAsked, store: StoreUsed, worked: WorkedUsed) -> StreamingResponse:
    """Whether a plan can knot under each rule, and other ways that free it where none does."""
    found = store.get(layout_id, asked.revision)
    facts = _facts(worked, found, asked.plan)

    def work(tell: Tell) -> told.ProvedShape:
        try:
            evening = set_out(facts.layout, facts, asked.plan)
        except PlanRefused as refused:
            raise DrawingError(refused.wrong[0][1]) from None
        proofs = []
        for rule in get_args(SingleLines):
            tell({"rule": rule})
            proofs.append(prove(evening, rule, tell=lambda n: tell({"states": n})))
        ways = []
        for way in other_ways(evening, proofs):
            ways.append(told.other_way_told(asked.id, asked.plan, way))
            tell({"way": ways[-1].words})
        return told.ProvedShape(rules=[told.proof_told(p) for p in proofs], other_ways=ways)

    return streamed(work, "The proof")


@router.post(
    "/rehearse/evenings",
    response_model=told.EveningsShape,
    responses={202: {"model": told.PlayedEvening, "description": "What the line of one evening holds."}},
)
def many(layout_id: str, asked: EveningsAsked, store: StoreUsed, worked: WorkedUsed) -> StreamingResponse:
    """Many evenings with faults by chance: one line an evening, with what is known so far; then all together."""
    found = store.get(layout_id, asked.revision)
    facts = _facts(worked, found, asked.plan)

    def work(tell: Tell) -> told.EveningsShape:
        played = []
        try:
            for one in evenings(facts.layout, facts, asked.plan, asked.count):
                played.append(one)
                so_far = told.evenings_told(played, weaknesses(played)).model_dump(mode="json")
                tell(
                    {
                        "done": len(played),
                        "total": asked.count,
                        "so_far": so_far,
                        "evening": told.evening_told(one).model_dump(mode="json"),
                    }
                )
        except PlanRefused as refused:
            raise DrawingError(refused.wrong[0][1]) from None
        return told.evenings_told(played, weaknesses(played))

    return streamed(work, "The evenings")


@router.post("/rehearse/why", response_model=WhyShape)
def why(layout_id: str, asked: WhyAsked, store: StoreUsed, worked: WorkedUsed) -> WhyShape:
    """Why a head shows what it shows, by the rules of step Signal."""
    found = store.get(layout_id)
    if asked.signal not in found.layout.signals:
        raise HTTPException(404, f"There is no signal {asked.signal}.")
    shown = signalling_of(worked.facts(found, known_scene(found, None))).show(asked.lies, frozenset(asked.lit))
    one = shown[asked.signal]
    return WhyShape(aspect=one.aspect, reasons=list(one.reasons))


def _plan(found: Revision, plan_id: str) -> RunningPlan:
    plan = found.layout.plans.get(plan_id)
    if plan is None:
        raise HTTPException(404, f"There is no plan {plan_id}.")
    return plan


@router.get("/plans/{plan_id}/runs.csv")
def runs_file(layout_id: str, plan_id: str, store: StoreUsed) -> Response:
    """The runs of a plan as a table."""
    found = store.get(layout_id)
    text = plan_csv(found.layout, _plan(found, plan_id))
    return csv_file(text, f"{layout_id}-{plan_id}-{found.number}.csv")


@router.post("/plans/{plan_id}/runs", response_model=shapes.Changed)
def take_runs(
    layout_id: str, plan_id: str, data: Content, store: StoreUsed, worked: WorkedUsed, scene: Scene = None
) -> Response:
    """Take the runs of a plan in from a table, as one change: they replace those it has."""

    def runs_of(current: Revision) -> tuple[list[dict[str, Any]], str]:
        plan = _plan(current, plan_id)
        trains = read_plan(data, current.layout)
        patch = [{"op": "add", "path": f"/plans/{plan_id}/trains", "value": trains}]
        return patch, f"{plan.name}: take in {len(trains)} runs"

    return changed(change_newest(store, layout_id, runs_of), worked, scene)


@router.get("/test-track", response_model=list[told.TrialShape])
def test_track(layout_id: str, store: StoreUsed, worked: WorkedUsed) -> list[told.TrialShape]:
    """The smallest track to try first: what stands for all others of its kind."""
    found = store.get(layout_id)
    return [told.trial_told(t) for t in smallest_test_track(worked.facts(found, known_scene(found, None)))]


@router.get("/rehearsals", response_model=list[RecordShape])
def kept(layout_id: str, store: StoreUsed) -> list[RecordShape]:
    """Rehearsals that were kept, the newest first."""
    newest = store.get(layout_id).number
    return [
        RecordShape(
            id=r.id,
            plan_id=r.plan_id,
            revision=r.revision,
            name=r.name,
            plan=r.plan,
            seed=r.seed,
            stale=r.revision != newest or r.engine != ENGINE_VERSION,
            sentences=[told.SentenceShape.model_validate(s) for s in r.came_to],
            who=r.who,
            made=r.made,
        )
        for r in rehearsals(store, layout_id)
    ]


@router.post("/rehearsals", response_model=list[RecordShape])
def keep_it(layout_id: str, asked: KeepAsked, store: StoreUsed) -> list[RecordShape]:
    """Keep a rehearsal as it ran."""
    record = Record(
        asked.record,
        asked.id,
        asked.revision or store.get(layout_id).number,
        asked.plan.name,
        asked.plan.model_dump(mode="json", exclude_defaults=True),
        asked.plan.seed,
        ENGINE_VERSION,
        [s.model_dump(mode="json") for s in asked.sentences],
        asked.who,
    )
    try:
        keep_rehearsal(store, layout_id, record)
    except ValueError as error:
        raise HTTPException(422, str(error)) from None
    return kept(layout_id, store)


@router.delete("/rehearsals/{record_id}", response_model=list[RecordShape])
def forget(layout_id: str, record_id: str, store: StoreUsed) -> list[RecordShape]:
    """Throw a kept rehearsal away."""
    forget_rehearsal(store, layout_id, record_id)
    return kept(layout_id, store)
