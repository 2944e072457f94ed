"""Layouts on disk: one SQLite file, every revision kept, and the work done beside them."""

from jolly_copper.store.layouts import Conflict, NotFound, Revision, Store
from jolly_copper.store.work import Entry, add_work, work_log, work_of

__all__ = ["Conflict", "Entry", "NotFound", "Revision", "Store", "add_work", "work_log", "work_of"]
