"""An archive of one layout: a zip that reads without the program, and is taken in again whole.

What comes in is looked at as a stranger's: only names this program writes, no more bytes than it would, and nothing is
unpacked to the disk.
"""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from jolly_copper.exchange.cells import FileRefused

INDEX, LAYOUT, ROWS = "INDEX.txt", "layout.json", "rows.json"
NAME = re.compile(
    r"INDEX\.txt|READ-ME-FIRST\.txt|layout\.json|rows\.json|book\.pdf|(history|work|readings|notes|shows|names)\.csv|"
    r"calendar\.ics|photos/[0-9a-f]{64}\.(png|jpg|webp|svg)"
)
MOST_ENTRIES = 2000
LARGEST_ENTRY, LARGEST_WHOLE = 120_000_000, 400_000_000
"""Bytes unpacked."""


@dataclass(frozen=True)
class Archived:
    """What an archive holds: the rows of its layout, and photos by their SHA-256, with their media type."""

    rows: dict[str, Any]
    photos: dict[str, tuple[str, bytes]]


MEDIA = {"png": "image/png", "jpg": "image/jpeg", "webp": "image/webp", "svg": "image/svg+xml"}
ENDINGS = {media: ending for ending, media in MEDIA.items()}


def write_archive(files: Mapping[str, bytes], made: str) -> bytes:
    """The archive of these files, the index first. made: ISO time; the same files make the same bytes."""
    stamp = tuple(int(x) for x in re.findall(r"\d+", made)[:6])
    when = (max(stamp[0], 1980), *stamp[1:6]) if len(stamp) >= 6 else (1980, 1, 1, 0, 0, 0)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name in sorted(files, key=lambda n: (n != INDEX, n)):
            entry = zipfile.ZipInfo(name, when)  # type: ignore[arg-type]
            entry.compress_type = zipfile.ZIP_DEFLATED
            entry.external_attr = 0o644 << 16
            archive.writestr(entry, files[name])
    return out.getvalue()


def read_archive(data: bytes) -> Archived:
    """What stands in an archive.

    Raises:
        FileRefused: it is none, holds what no archive of this program does, or unpacks to more than one may.
    """
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        entries = archive.infolist()
    except (zipfile.BadZipFile, ValueError, NotImplementedError, OSError):
        raise FileRefused("This is no archive: it cannot be read as a zip.") from None
    if len(entries) > MOST_ENTRIES:
        raise FileRefused(f"It holds {len(entries)} files; an archive has {MOST_ENTRIES} at most.")
    names = [e.filename for e in entries]
    for entry in entries:
        if not NAME.fullmatch(entry.filename) or entry.is_dir():
            raise FileRefused(f"It holds “{entry.filename[:60]}”, which no archive of this program does.")
        if entry.flag_bits & 0x1:
            raise FileRefused("It is locked with a passphrase; archives of this program are not.")
    if len(set(names)) != len(names):
        raise FileRefused("It holds two files of one name.")
    if sum(e.file_size for e in entries) > LARGEST_WHOLE:
        raise FileRefused("It would unpack to more than any layout takes.")
    if ROWS not in names:
        raise FileRefused("It holds no layout with its history: rows.json is missing.")
    left = LARGEST_WHOLE
    photos: dict[str, tuple[str, bytes]] = {}
    rows: Any = None
    for entry in entries:
        if entry.filename != ROWS and not entry.filename.startswith("photos/"):
            continue
        got = _unpacked(archive, entry, min(left, LARGEST_ENTRY))
        left -= len(got)
        if entry.filename == ROWS:
            try:
                rows = json.loads(got)
            except (ValueError, RecursionError):
                raise FileRefused("Its rows.json cannot be read.") from None
        else:
            name, ending = entry.filename.removeprefix("photos/").split(".")
            photos[name] = (MEDIA[ending], got)
    if not isinstance(rows, dict) or rows.get("rows_version") != 1:
        raise FileRefused("Its rows.json is not of a version this program knows.")
    return Archived(rows, photos)


def _unpacked(archive: zipfile.ZipFile, entry: zipfile.ZipInfo, most: int) -> bytes:
    """The bytes of an entry, read no farther than it may go, whatever the archive says of its size."""
    try:
        with archive.open(entry) as file:
            got = file.read(most + 1)
    except (zipfile.BadZipFile, OSError, EOFError, NotImplementedError, RuntimeError):
        raise FileRefused(f"{entry.filename} in it is damaged.") from None
    if len(got) > most:
        raise FileRefused("It unpacks to more than any layout takes.")
    return got
