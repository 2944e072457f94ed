"""Layouts on disk: one SQLite file, every revision kept, and the work done beside them."""

from jolly_copper.store.club_file import FileTrouble
from jolly_copper.store.layouts import Store
from jolly_copper.store.revision import Conflict, NameTaken, NotFound, Revision
from jolly_copper.store.turns import TooBusy
from jolly_copper.store.work import Entry, add_work, work_log, work_of

__all__ = [
    "Conflict",
    "Entry",
    "FileTrouble",
    "NameTaken",
    "NotFound",
    "Revision",
    "Store",
    "TooBusy",
    "add_work",
    "work_log",
    "work_of",
]
