"""All that is proved about a layout, worked out once: copper by both methods and tiers of places."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proving.copper import Copper, Place, Surveyed, read_copper, survey
from jolly_copper.core.proving.meter_test import MeterTest
from jolly_copper.core.proving.meters import Wave
from jolly_copper.core.proving.places import Cover, Tier, cover, least, tier_spots
from jolly_copper.core.wirebook.worked import Worked

TIERS: tuple[Tier, ...] = ("must", "every part", "every joint")
WAVES: dict[str, Wave] = {"dcc": "square", "dc": "steady", "ac3": "sine"}


@dataclass(frozen=True)
class Proving:
    """What the tests of a layout draw on."""

    facts: Facts

    @property
    def layout(self) -> Layout:
        return self.facts.layout

    def wave_of(self, circuit: str | None) -> Wave:
        """What a circuit carries as selectors lie; the brief's where nothing feeds it."""
        return WAVES[control_of(self.facts.tree, circuit)]

    def wave_at(self, track: str, at: float) -> Wave:
        """What the track carries at a place."""
        return self.wave_of(self.facts.meant[self.facts.rails.extent_of[self.facts.rails.piece_at(track, at)]])

    def wave_for(self, test: MeterTest) -> Wave:
        """What is read in a test: by its place, else by the device it is done at."""
        if test.track is not None and test.at is not None and test.track in self.layout.tracks:
            return self.wave_at(test.track, test.at)
        device = self.layout.devices.get(test.key.partition(":")[2].partition(":")[0])
        return self.wave_of(device.output if device is not None else None)

    @cached_property
    def book(self) -> Worked:
        return Worked(self.facts)

    @cached_property
    def surveyed(self) -> Surveyed:
        return survey(self.layout)

    @cached_property
    def dc(self) -> Copper:
        """Read with one ampere of DC put in behind the breakers."""
        return read_copper(self.layout, "dc", self.surveyed)

    @cached_property
    def ac(self) -> Copper:
        """Read under the railroad's own power."""
        return read_copper(self.layout, "ac", self.surveyed)

    def circuit_at(self, place: Place) -> str | None:
        """The circuit meant to feed a place."""
        piece = self.facts.rails.piece_at(place.track, place.at)
        return self.facts.meant[self.facts.rails.extent_of[piece]]

    def trip_at(self, place: Place) -> float:
        """A at which the nearest protection of a place opens; NaN without one."""
        circuit = self.circuit_at(place)
        guard = self.facts.tree.protection(circuit) if circuit is not None else None
        return math.nan if guard is None or guard[1].trip_amps is None else guard[1].trip_amps

    @cached_property
    def covers(self) -> dict[Tier, Cover]:
        """The smallest sets of places found, by tier."""
        return {t: cover(self.dc, t, tier_spots(self.dc, self.ac, t, self.trip_at)) for t in TIERS}

    @cached_property
    def least(self) -> dict[Tier, int]:
        """The fewest places each tier can do with, as far as that was settled in a moment."""
        return {t: least(c) for t, c in self.covers.items()}
