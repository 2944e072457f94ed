"""The bench of a layout: what is proved about it, and every test of it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from jolly_copper.core.proving.listed import listed
from jolly_copper.core.proving.meter_test import MeterTest
from jolly_copper.core.proving.proving import Proving


@dataclass(frozen=True)
class Bench(Proving):
    """Proving, with the tests that follow from it."""

    @cached_property
    def tests(self) -> tuple[MeterTest, ...]:
        """Every test, in the order it is best done: power off first, then on; board by board."""
        return listed(self)

    @cached_property
    def by_key(self) -> dict[str, MeterTest]:
        return {t.key: t for t in self.tests}
