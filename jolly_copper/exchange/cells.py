"""What every file reader and writer shares: a refusal in words, and cells no spreadsheet takes for a formula."""

from __future__ import annotations

import re


class FileRefused(ValueError):
    """A file that cannot be taken, in a plain sentence."""


STARTS = re.compile(r"(^\s*|[;\t\r\n]\s*)(?=[=+\-@\t\r])")
ESCAPED = re.compile(r"(^\s*|[;\t\r\n]\s*)'(?=[=+\-@\t\r])")
CONTROL = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ufffe\uffff]")


def safe(text: str) -> str:
    """A cell no spreadsheet takes for a formula: an apostrophe goes before it where it would.

    Also within a cell after a semicolon, which parts cells where the comma is for decimals.

    >>> safe("=1+1"), safe("Yard; =1+1"), safe("Yard 1+1")
    ("'=1+1", "Yard; '=1+1", 'Yard 1+1')
    """
    return STARTS.sub(r"\1'", printable(text))


def unsafe(text: str) -> str:
    """What was in a cell before `safe`.

    >>> unsafe(safe("-5; @x"))
    '-5; @x'
    """
    return ESCAPED.sub(r"\1", text)


def printable(text: str) -> str:
    """A text without control characters, which workbooks and pages cannot hold.

    >>> printable("a\\x07b\\n")
    'ab\\n'
    """
    return CONTROL.sub("", text)
