"""What a finding is, and the registry of rules that make them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from typing import Literal

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts

Severity = Literal["must", "should", "look"]
ORDER: dict[str, int] = {"must": 0, "should": 1, "look": 2}


@dataclass(frozen=True)
class Place:
    """Where a finding is: a thing of the layout, and a point on the track when there is one (mm from its A end)."""

    kind: str
    id: str
    track: str | None = None
    at: float | None = None


@dataclass(frozen=True)
class RailStretch:
    """One rail of a stretch of track, mm from its A end: part of the metal that proves a finding."""

    track: str
    start: float
    end: float
    side: str


@dataclass(frozen=True)
class Mend:
    """A change that removes a finding, as a JSON Patch that can be previewed and then made in one step."""

    label: str
    patch: Patch


@dataclass(frozen=True)
class Finding:
    """One sentence with its numbers, why it matters, and what mends it. `key` is stable while the cause stays."""

    key: str
    rule: str
    severity: Severity
    title: str
    why: str
    mend: str
    place: Place
    figures: tuple[tuple[str, str], ...] = ()
    shows: tuple[str, ...] = ()
    rails: tuple[RailStretch, ...] = ()
    mends: tuple[Mend, ...] = ()
    source: str = "common practice"
    accepted: str | None = field(default=None)


Rule = Callable[[Facts], Iterable[Finding]]
Step = Literal["track", "trains", "zones", "cabs", "reverse", "detect", "signal", "travel", "book"]
REGISTRY: dict[str, Rule] = {}
STEPS: dict[str, tuple[Step, ...]] = {}
"""The steps of the work where a rule is settled, beside the wiring itself."""


def rule(name: str, *steps: Step) -> Callable[[Rule], Rule]:
    """Register a rule under its name, with the steps besides Wire where it is settled."""

    def keep(function: Rule) -> Rule:
        if name in REGISTRY:
            raise ValueError(f"two rules are called {name}")
        REGISTRY[name] = function
        STEPS[name] = steps
        return function

    return keep
