"""Pictures kept beside the layouts, each once, under its SHA-256."""

from __future__ import annotations

import hashlib

from jolly_copper.store.layouts import Store
from jolly_copper.store.revision import NotFound, now


def keep_picture(store: Store, media: str, data: bytes) -> str:
    """Keep a picture beside the layouts; the same one is kept once. Answers its SHA-256."""
    name = hashlib.sha256(data).hexdigest()
    with store.writing() as db:
        db.execute("INSERT OR IGNORE INTO picture VALUES (?, ?, ?, ?)", (name, media, now(), data))
    return name


def picture_of(store: Store, name: str) -> tuple[str, bytes]:
    """Media type and bytes of a picture.

    Raises:
        NotFound: there is none of that name.
    """
    with store.reading() as db:
        row = db.execute("SELECT media, bytes FROM picture WHERE id = ?", (name,)).fetchone()
    if row is None:
        raise NotFound("That picture is not in this club file; drop it in again.")
    return row[0], row[1]
