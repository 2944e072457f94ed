"""The application: API routes, the built page, errors in plain words."""

from __future__ import annotations

import re
from pathlib import Path

from fastapi import APIRouter, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, PlainTextResponse, Response
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware

from jolly_copper import __version__
from jolly_copper.api import (
    access,
    apart,
    archives,
    bench,
    blocking,
    book,
    cabs,
    change_orders,
    club,
    copper,
    detection,
    dividing,
    drawing,
    drills,
    fleet,
    handover,
    hunts,
    layouts,
    line,
    live,
    moment,
    notebook,
    rails,
    rehearsal,
    rim,
    shelf,
    signalling,
    sums,
    tracing,
    travel,
    under,
    waveform,
    work_order,
    zones,
)
from jolly_copper.api.mother import Mother, available
from jolly_copper.api.who import Who
from jolly_copper.api.worked import KEPT_IN_A_CHILD, Worked
from jolly_copper.core.drawing.sheet import DrawingError
from jolly_copper.core.layout.reading import LayoutError, in_words
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.page import page_folder
from jolly_copper.store import Conflict, FileTrouble, NotFound, Store, TooBusy
from jolly_copper.store.copies import CopyRefused
from jolly_copper.telling import answering, shapes


def _rooms() -> APIRouter:
    found = APIRouter()
    for room in (
        drawing,
        bench,
        hunts,
        drills,
        fleet,
        zones,
        cabs,
        dividing,
        copper,
        waveform,
        blocking,
        detection,
        moment,
        rehearsal,
        line,
        travel,
        tracing,
        handover,
        notebook,
        archives,
        signalling,
        book,
        change_orders,
        under,
        access,
        club,
        rails,
        work_order,
        live,
        shelf,
        layouts,
        sums,
    ):
        found.include_router(room.router)
    return found


ROOMS = _rooms()
"""What can be asked, in one place for all applications of a process: reading all signatures takes half a second."""


def create_app(store: Store | None, web: Path | None = None, shared: access.Access | None = None) -> FastAPI:
    """The web application over a store.

    Args:
        store: the club file; None where `use` gives it later.
        web: the folder of the built page.
        shared: who may come in from the club's network; None where nobody may.
    """
    app = FastAPI(
        title="Jolly Copper",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        redirect_slashes=False,
    )
    app.state.worked = Worked()
    app.state.access = shared
    app.state.mother = None
    app.state.live = live.Live()
    if store is not None:
        use(app, store)

    def large(layout_id: str) -> bool:
        found: Store = app.state.store
        return found.size(layout_id) > apart.LARGE

    # The last one added is the outermost.
    app.add_middleware(Who)
    app.add_middleware(apart.Apart, mother=lambda: app.state.mother, large=large)
    if shared is not None:
        # On this machine itself packing takes longer than it saves.
        app.add_middleware(GZipMiddleware, compresslevel=3)
        app.add_middleware(access.Guard, access=shared)
    app.add_middleware(rim.Rim, any_name=shared is not None)
    _errors(app)
    app.router.routes.extend(ROOMS.routes)
    _page(app, page_folder() if web is None else web)
    return app


def use(app: FastAPI, store: Store) -> None:
    """Let an application work on a club file; what is saved there is worked out first."""
    app.state.store = store
    store.prove = app.state.worked.prove


def give_birth(app: FastAPI, path: str) -> Mother | None:
    """Have heavy requests answered apart from now on. To be called before the store is opened and any thread begun.

    Args:
        app: from `create_app`, without a store.
        path: the club file.
    """
    if not available():
        return None

    def in_a_child() -> None:
        app.state.mother = None
        app.state.worked = Worked(KEPT_IN_A_CHILD)
        use(app, Store(path))

    app.state.mother = Mother(app, in_a_child)
    return app.state.mother  # type: ignore[no-any-return]


def _trouble(status: int, trouble: shapes.Trouble) -> JSONResponse:
    return JSONResponse(trouble.model_dump(mode="json"), status_code=status)


def _errors(app: FastAPI) -> None:
    @app.exception_handler(NotFound)
    def not_found(_: Request, error: NotFound) -> JSONResponse:
        return _trouble(404, shapes.Trouble(message=str(error)))

    @app.exception_handler(Conflict)
    def conflict(_: Request, error: Conflict) -> JSONResponse:
        return _trouble(409, shapes.Trouble(message=str(error), current=answering.state(error.current)))

    @app.exception_handler(LayoutError)
    def bad_layout(_: Request, error: LayoutError) -> JSONResponse:
        problems = [shapes.ProblemShape(path=p.path, sentence=p.sentence) for p in error.problems[:50]]
        return _trouble(422, shapes.Trouble(message=error.problems[0].sentence, problems=problems))

    @app.exception_handler(TooBusy)
    def busy(_: Request, error: TooBusy) -> JSONResponse:
        return _trouble(429, shapes.Trouble(message=str(error)))

    @app.exception_handler(FileTrouble)
    def file_trouble(_: Request, error: FileTrouble) -> JSONResponse:
        status = 422 if isinstance(error, CopyRefused) else 429 if error.busy else 507
        return _trouble(status, shapes.Trouble(message=str(error)))

    @app.exception_handler(MemoryError)
    @app.exception_handler(RecursionError)
    def too_much(_: Request, error: Exception) -> JSONResponse:
        return _trouble(422, shapes.Trouble(message="That is too large or too deep to be worked out here."))

    @app.exception_handler(Exception)
    def unforeseen(_: Request, error: Exception) -> JSONResponse:
        # What the server itself logs has the rest; a person gets a sentence all the same.
        words = f"Something went wrong in the program ({type(error).__name__}). Nothing was changed by it."
        return _trouble(500, shapes.Trouble(message=words))

    @app.exception_handler(DrawingError)
    @app.exception_handler(FileRefused)
    def cannot(_: Request, error: Exception) -> JSONResponse:
        return _trouble(422, shapes.Trouble(message=str(error)))

    @app.exception_handler(sums.FieldError)
    def bad_field(_: Request, error: sums.FieldError) -> JSONResponse:
        problem = shapes.ProblemShape(path=f"/{error.field}", sentence=str(error))
        return _trouble(422, shapes.Trouble(message=str(error), problems=[problem]))

    @app.exception_handler(RequestValidationError)
    def bad_request(_: Request, error: RequestValidationError) -> JSONResponse:
        plain = [in_words({**e, "loc": e["loc"][1:]}) for e in error.errors()]
        problems = [shapes.ProblemShape(path=p.path, sentence=p.sentence) for p in plain]
        return _trouble(
            422, shapes.Trouble(message=problems[0].sentence if problems else "Unreadable.", problems=problems)
        )

    @app.exception_handler(HTTPException)
    def plain(_: Request, error: HTTPException) -> JSONResponse:
        said = _trouble(error.status_code, shapes.Trouble(message=str(error.detail)))
        said.headers.update(error.headers or {})
        return said


def _page(app: FastAPI, web: Path) -> None:
    @app.api_route("/api/{rest:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def no_such_route(rest: str) -> JSONResponse:
        return _trouble(404, shapes.Trouble(message=f"There is no /api/{rest}."))

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        index = web / "index.html"
        if not index.exists():
            return PlainTextResponse("The page is not built yet: run `make build`.", status_code=503)
        asked = (web / path).resolve()
        if path and asked.is_file() and asked.is_relative_to(web.resolve()):
            lasting = re.match(r"assets/.*-[\w-]{8,}\.", path)
            return FileResponse(
                asked, headers={"Cache-Control": "max-age=31536000, immutable" if lasting else "no-cache"}
            )
        return FileResponse(index, headers={"Cache-Control": "no-cache"})
