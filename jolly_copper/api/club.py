"""Routes of the club file itself: copies of it, a look whether it is sound, and putting a copy back."""

from __future__ import annotations

import os
import tempfile
from datetime import datetime
from pathlib import Path
from typing import Annotated

import anyio.to_thread
from fastapi import APIRouter, HTTPException, Query, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel
from starlette.background import BackgroundTask

from jolly_copper.api.used import StoreUsed
from jolly_copper.store import FileTrouble, NotFound, Store
from jolly_copper.store.copies import COPY, Checked, backup, check_file, copies_of, folder_of, keep_now, restore

router = APIRouter(prefix="/api/club")
SQLITE = "application/vnd.sqlite3"


class CopyShape(BaseModel):
    name: str
    size_text: str
    made: str


class ClubShape(BaseModel):
    """The club file and the copies kept beside it."""

    file: str
    folder: str
    size_text: str
    layouts: int
    copies: list[CopyShape]


class CheckedShape(BaseModel):
    """What a look into the club file found."""

    words: str
    problems: list[str]


class Restored(BaseModel):
    words: str


def size_text(count: int) -> str:
    """Bytes for a person.

    >>> size_text(2_345_678)
    '2.3 MB'
    """
    return f"{count / 1e6:.1f} MB" if count >= 100_000 else f"{count / 1e3:.0f} kB"


def _shape(store: Store) -> ClubShape:
    path = Path(store.path)
    copies = [CopyShape(name=c.name, size_text=size_text(c.size), made=c.made) for c in copies_of(path)]
    return ClubShape(
        file=path.name,
        folder=str(path.resolve().parent),
        size_text=size_text(path.stat().st_size if path.exists() else 0),
        layouts=len(store.layouts()),
        copies=copies,
    )


@router.get("")
def club(store: StoreUsed) -> ClubShape:
    """Where the club file is, and its copies."""
    return _shape(store)


@router.get("/backup")
def download_backup(store: StoreUsed) -> FileResponse:
    """The club file as it is at this moment, whole and sound by itself."""
    made = _spare(store)
    try:
        backup(store.path, made)
    except FileTrouble:
        made.unlink(missing_ok=True)
        raise
    name = f"{Path(store.path).stem}-{datetime.now().strftime('%Y-%m-%d')}.sqlite3"
    gone = BackgroundTask(made.unlink, missing_ok=True)
    return FileResponse(made, media_type=SQLITE, filename=name, background=gone)


def _spare(store: Store) -> Path:
    """An empty file beside the club file, where there is room for another of its size if anywhere."""
    try:
        number, name = tempfile.mkstemp(prefix=".half-", suffix=".sqlite3", dir=Path(store.path).resolve().parent)
    except OSError as error:
        raise FileTrouble(f"No file can be made beside the club file: {error.strerror}.") from None
    os.close(number)
    return Path(name)


@router.post("/copies", status_code=201)
def make_copy(store: StoreUsed) -> ClubShape:
    """Make a copy beside the club file now."""
    keep_now(store.path)
    return _shape(store)


def _copy(store: Store, name: str) -> Path:
    path = folder_of(store.path) / name
    if not COPY.fullmatch(name) or not path.is_file():
        raise NotFound("There is no such copy any more.")
    return path


@router.get("/copies/{name}")
def download_copy(name: str, store: StoreUsed) -> FileResponse:
    return FileResponse(_copy(store, name), media_type=SQLITE, filename=name)


@router.post("/check")
def check(store: StoreUsed, copy: Annotated[str | None, Query(max_length=200)] = None) -> CheckedShape:
    """Look whether the club file, or one of its copies, is sound: every layout is read."""
    found = check_file(store.path if copy is None else _copy(store, copy))
    return CheckedShape(words=_words(found), problems=list(found.problems))


def _words(found: Checked) -> str:
    layouts = f"{found.layouts} layout{'' if found.layouts == 1 else 's'}"
    changes = f"{found.changes} change{'' if found.changes == 1 else 's'}"
    return f"{layouts} with {changes} " + ("read, and all of it is sound." if not found.problems else "can be read.")


@router.post("/put-back")
def put_back(store: StoreUsed, copy: Annotated[str, Query(max_length=200)]) -> Restored:
    """Put a copy kept beside the club file in its place; what was there is kept as a copy too."""
    return _restored(store, _copy(store, copy), copy)


def _restored(store: Store, copy: Path, name: str) -> Restored:
    kept = restore(store, copy)
    return Restored(words=f"{name} is the club file now. What was there before is kept as {kept.name}.")


@router.post("/restore")
async def restore_file(request: Request, store: StoreUsed) -> Restored:
    """Put a copy sent along in the place of the club file; what was there is kept as a copy."""
    spare = await anyio.to_thread.run_sync(_spare, store)
    try:
        with open(spare, "wb") as out:
            async for part in request.stream():
                await anyio.to_thread.run_sync(out.write, part)
        if not spare.stat().st_size:
            raise HTTPException(422, "The file is empty.")
        return await anyio.to_thread.run_sync(_restored, store, spare, "The file you sent")
    finally:
        spare.unlink(missing_ok=True)
