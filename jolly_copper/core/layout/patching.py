"""Making a JSON Patch (RFC 6902) on a layout's plain data: one way for saving, previews and what-ifs alike.

Bounded: `copy` may multiply what is there, and `test` may compare it again and again, so both are counted.
"""

from __future__ import annotations

import copy
import json
from typing import Any

import jsonpatch
import jsonpointer

from jolly_copper.core.layout.bounds import LARGEST_DOCUMENT, MOST_OPERATIONS
from jolly_copper.core.layout.checking import Problem
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.reading import LayoutError, read_layout


def patched(data: dict[str, Any], patch: list[dict[str, Any]]) -> dict[str, Any]:
    """The data with the patch made, leaving what was given as it was.

    Args:
        data: a layout as plain data.
        patch: the operations.

    Raises:
        LayoutError: the patch does not fit, has too many operations, or makes the document too large.
    """
    if len(patch) > MOST_OPERATIONS:
        raise _refused(f"A change holds {MOST_OPERATIONS} operations at most; this has {len(patch)}.")
    room = LARGEST_DOCUMENT
    operation: dict[str, Any] = {}
    try:
        made = _copied(data, patch)
        for operation in patch:
            room -= _weight(made, operation)
            if room < 0:
                raise _refused(f"The change makes the layout larger than {LARGEST_DOCUMENT // 1_000_000} MB.")
            made = jsonpatch.apply_patch(made, [operation], in_place=True)
    except LayoutError:
        raise
    except jsonpatch.JsonPatchTestFailed:
        raise _refused(
            f"The change does not fit the layout: {_where(operation)} is not what it was meant for."
        ) from None
    except (
        jsonpatch.JsonPatchException,
        jsonpointer.JsonPointerException,
        TypeError,
        KeyError,
        IndexError,
        RecursionError,
        ValueError,
    ):
        # What the library says holds the whole layout.
        what = str(operation.get("op", "nothing"))[:20]
        where = _where(operation)
        raise _refused(f"The change does not fit the layout: “{what}” cannot be done at {where}.") from None
    return made


def _where(operation: dict[str, Any]) -> str:
    return str(operation.get("from") or operation.get("path") or "no place")[:120]


def _refused(sentence: str) -> LayoutError:
    return LayoutError([Problem("", sentence)])


def _copied(data: dict[str, Any], patch: list[dict[str, Any]]) -> dict[str, Any]:
    """A copy of what the patch may touch; the rest is shared, and left alone by it."""
    ways = [(jsonpointer.JsonPointer(o[end]).parts, end) for o in patch for end in ("path", "from") if _is_way(o, end)]
    if any(end == "from" and len(way) < 2 for way, end in ways):
        return copy.deepcopy(data)  # a whole map goes elsewhere
    made = dict(data)
    own: set[tuple[str, ...]] = set()
    for way, _ in ways:
        held = made.get(way[0])
        if not isinstance(held, dict):
            continue  # a plain value, which can only be exchanged
        if (way[0],) not in own:
            own.add((way[0],))
            held = made[way[0]] = dict(held)
        thing = tuple(way[:2])
        if len(way) > 1 and thing not in own and way[1] in held:
            own.add(thing)
            held[way[1]] = copy.deepcopy(held[way[1]])
    return made


def _is_way(operation: dict[str, Any], end: str) -> bool:
    return isinstance(operation.get(end), str) and bool(operation[end])


def _weight(data: dict[str, Any], operation: dict[str, Any]) -> int:
    """Bytes of JSON that an operation copies or compares beside what it brings itself."""
    where = {"copy": "from", "test": "path"}.get(str(operation.get("op")))
    if where is None or not isinstance(operation.get(where), str):
        return 1
    found = jsonpointer.resolve_pointer(data, operation[where], None)
    return len(json.dumps(found)) if isinstance(found, dict | list) else 1


def patched_on(known: tuple[dict[str, Any], Layout], patch: list[dict[str, Any]]) -> Layout:
    """A layout with a patch made, not saved; what it did not touch is shared with the one before.

    Args:
        known: the layout as plain data, and as read from it.
        patch: the operations.

    Raises:
        LayoutError: the patch does not fit, or its result cannot be read.
    """
    return read_layout(patched(known[0], patch), known)


def apply_patch(layout: Layout, patch: list[dict[str, Any]]) -> Layout:
    """A layout with a patch made, not saved.

    Raises:
        LayoutError: the patch does not fit, or its result cannot be read.
    """
    return read_layout(patched(layout.model_dump(mode="json"), patch))
