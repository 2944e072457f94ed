"""How documents lie in the club file: whole every so many changes, and between them as what differs from the whole.

A difference names, for every map of the document, the things that changed and those that went. So any change is read
from two rows, however long the history, and a plain SQLite browser with zlib can read all of it.
"""

from __future__ import annotations

import json
import zlib
from typing import Any

WHOLE_EVERY = 32
Data = dict[str, Any]


def packed(value: Any) -> bytes:
    """JSON, compressed."""
    return zlib.compress(json.dumps(value, separators=(",", ":")).encode(), 6)


def unpacked(blob: bytes) -> Any:
    """What `packed` made.

    Raises:
        ValueError: it is damaged.
    """
    try:
        return json.loads(zlib.decompress(blob))
    except (zlib.error, UnicodeDecodeError, RecursionError) as error:
        raise ValueError(str(error)) from None


def unpacked_size(blob: bytes) -> int:
    """Bytes of JSON in it; 0 where it is damaged."""
    try:
        return len(zlib.decompress(blob))
    except zlib.error:
        return 0


def difference(whole: Data, data: Data) -> Data | None:
    """What turns one document into another; None where only a whole document tells it (something stands in another
    order)."""
    fields: Data = {}
    maps: Data = {}
    for field, value in data.items():
        before = whole.get(field)
        if field not in whole:
            return None
        if before == value and not (isinstance(value, dict) and list(before) != list(value)):
            continue
        if isinstance(value, dict) and isinstance(before, dict):
            gone = [i for i in before if i not in value]
            maps[field] = {"gone": gone, "put": {i: v for i, v in value.items() if i not in before or before[i] != v}}
        else:
            fields[field] = value
    made = {"fields": fields, "maps": maps}
    again = differing(whole, made)
    # JSON remembers the order of things, and so must we.
    same = again == data and list(again) == list(data)
    for field, value in data.items():
        same = same and not (isinstance(value, dict) and list(value) != list(again[field]))
    return made if same else None


def differing(whole: Data, made: Data) -> Data:
    """A document from a whole one and a difference.

    Raises:
        ValueError: the difference is not one of this document.
    """
    try:
        data = {**whole, **made["fields"]}
        for field, change in made["maps"].items():
            gone = set(change["gone"])
            data[field] = {i: v for i, v in whole[field].items() if i not in gone} | change["put"]
    except (KeyError, TypeError, AttributeError) as error:
        raise ValueError(f"The difference does not fit ({error}).") from None
    return data
