"""Answers that take a while: lines of JSON that tell of progress, then one with the answer, or with what went wrong."""

from __future__ import annotations

import json
import queue
import threading
from collections.abc import Callable, Iterator
from typing import Any

from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from jolly_copper.core.drawing.sheet import DrawingError

Tell = Callable[[dict[str, Any]], None]


class Stopped(Exception):
    """Nobody listens any more: the work need not be finished."""


def streamed(work: Callable[[Tell], BaseModel], what: str) -> StreamingResponse:
    """Run some work on a thread and send what it tells as it goes; when the listener hangs up, its next word stops it.

    Args:
        work: given a function to tell progress with; answers the answer.
        what: what it works out, for the sentence when it fails.
    """
    told: queue.Queue[dict[str, Any] | None] = queue.Queue()
    gone = threading.Event()

    def tell(step: dict[str, Any]) -> None:
        if gone.is_set():
            raise Stopped
        told.put(step)

    def run() -> None:
        try:
            told.put({"answer": work(tell).model_dump(mode="json")})
        except Stopped:
            pass
        except DrawingError as error:  # it cannot be done, and says why
            told.put({"trouble": str(error)})
        except Exception as error:  # the stream has begun: the trouble goes down it in words
            told.put({"trouble": f"{what} could not be worked out ({type(error).__name__})."})
            raise
        finally:
            told.put(None)

    def lines() -> Iterator[str]:
        threading.Thread(target=run, daemon=True).start()
        try:
            while (step := told.get()) is not None:
                yield json.dumps(step) + "\n"
        finally:
            gone.set()

    return StreamingResponse(lines(), media_type="application/x-ndjson")
