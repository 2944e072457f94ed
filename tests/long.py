"""How much of the random checks is run: a share in `make test`, all of it in `make test-long`."""

from __future__ import annotations

import os
from typing import TypeVar

LONG = os.environ.get("COPPER_LONG") == "1"
T = TypeVar("T")


def either(short: T, long: T) -> T:
    """The first for a test run that people wait for, the second for a long one."""
    return long if LONG else short
