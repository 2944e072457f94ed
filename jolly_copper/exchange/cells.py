"""What every file reader and writer shares: a refusal in words, and cells no spreadsheet takes for a formula."""

from __future__ import annotations


class FileRefused(ValueError):
    """A file that cannot be taken, in a plain sentence."""


def safe(text: str) -> str:
    """A cell no spreadsheet takes for a formula: an apostrophe goes before it where it would."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


def unsafe(text: str) -> str:
    """What was in a cell before `safe`."""
    return text.removeprefix("'")
