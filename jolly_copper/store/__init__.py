"""Layouts on disk: one SQLite file, every revision kept."""

from jolly_copper.store.layouts import Conflict, NotFound, Revision, Store

__all__ = ["Conflict", "NotFound", "Revision", "Store"]
