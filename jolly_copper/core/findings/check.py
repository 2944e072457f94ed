"""Running every rule over the facts."""

from __future__ import annotations

from dataclasses import replace

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings import (  # noqa: F401  (importing registers their rules)
    accessory,
    braking,
    by_hand,
    cabs,
    detection,
    engines,
    feeding,
    filters,
    joined_rails,
    joining,
    lie,
    making,
    marking,
    measured,
    mixed_control,
    mixed_zones,
    power,
    protection,
    provisional,
    reversing,
    roster,
    signals,
    sources,
    supplies,
    suppression,
    tables,
    three_rail,
    track,
    travelling,
    wires,
)
from jolly_copper.core.findings.model import ORDER, REGISTRY, Finding


def check(facts: Facts) -> list[Finding]:
    """All findings, most serious first; those accepted by somebody carry the reason and come last."""
    found = [f for rule in REGISTRY.values() for f in rule(facts)]
    accepted = facts.layout.accepted
    marked = [replace(f, accepted=accepted[f.key].reason) if f.key in accepted else f for f in found]
    return sorted(marked, key=lambda f: (f.accepted is not None, ORDER[f.severity], f.rule, f.key))
