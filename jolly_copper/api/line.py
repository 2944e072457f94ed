"""The railroad's own line, heard and spoken to over the page: a stand-in, or a box of the club's, on this machine."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterable
from contextlib import suppress
from typing import Annotated, Any, Literal

from fastapi import APIRouter, HTTPException, Query
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel, Field

router = APIRouter(prefix="/api/line")
HOST = "127.0.0.1"
WAITS_SECONDS = 3.0
LONGEST_LINE = 400_000
Port = Annotated[int, Query(ge=1024, le=65535)]
NOTHING = "Nothing of ours answers on port {port} of this machine. Start the stand-in, or the club's own box, there."


class ActAsked(BaseModel):
    """Something to be done on the railroad: a turnout thrown, a device switched, a train driven, another pace."""

    port: Annotated[int, Field(ge=1024, le=65535)]
    do: Literal["throw", "power", "drive", "times"]
    turnout: Annotated[str, Field(max_length=40)] | None = None
    lies: Literal["through", "diverging", "left", "right"] | None = None
    device: Annotated[str, Field(max_length=40)] | None = None
    on: bool | None = None
    train: Annotated[str, Field(max_length=40)] | None = None
    does: Literal["go", "stop", "turn"] | None = None
    times: Annotated[float, Field(ge=0.1, le=300)] | None = None


class Done(BaseModel):
    done: bool


async def _open(port: int) -> tuple[asyncio.StreamReader, asyncio.StreamWriter, dict[str, Any]]:
    """A line to what listens there, with its first word. Nothing is said to a program that does not say hello first."""
    try:
        async with asyncio.timeout(WAITS_SECONDS):
            reader, writer = await asyncio.open_connection(HOST, port, limit=LONGEST_LINE)
            hello = json.loads(await reader.readline())
    except (OSError, TimeoutError, ValueError):
        raise HTTPException(422, NOTHING.format(port=port)) from None
    if not isinstance(hello, dict) or hello.get("is") != "hello":
        writer.close()
        raise HTTPException(422, NOTHING.format(port=port))
    return reader, writer, hello


@router.get("/hello")
async def hello(port: Port = 4700) -> dict[str, Any]:
    """Whether something of ours listens on a port, and what railroad it is."""
    _, writer, said = await _open(port)
    writer.close()
    return said


@router.get("/heard", response_class=EventSourceResponse)
async def heard(port: Port = 4700) -> AsyncIterable[ServerSentEvent]:
    """What the railroad tells, line by line, for as long as somebody listens."""
    try:
        reader, writer, first = await _open(port)
    except HTTPException as error:
        yield ServerSentEvent(event="gone", data={"words": error.detail})
        return
    try:
        yield ServerSentEvent(event="told", data=first)
        while line := await reader.readline():
            with suppress(ValueError):
                yield ServerSentEvent(event="told", data=json.loads(line))
        yield ServerSentEvent(event="gone", data={"words": "The railroad has hung up."})
    except (ValueError, ConnectionError):
        yield ServerSentEvent(event="gone", data={"words": "The line broke off."})
    finally:
        writer.close()


@router.post("/do")
async def do(asked: ActAsked) -> Done:
    """Have something done on the railroad.

    Raises:
        HTTPException: it was refused, in the railroad's own words.
    """
    reader, writer, _ = await _open(asked.port)
    try:
        async with asyncio.timeout(WAITS_SECONDS):
            writer.write(json.dumps(asked.model_dump(exclude_none=True, exclude={"port"})).encode() + b"\n")
            while line := await reader.readline():
                said = json.loads(line)
                if said.get("is") == "done":
                    return Done(done=True)
                if said.get("is") == "refused":
                    raise HTTPException(422, str(said.get("words", "It was refused.")))
    except (OSError, TimeoutError, ValueError):
        pass
    finally:
        writer.close()
    raise HTTPException(422, "The railroad did not answer.")
