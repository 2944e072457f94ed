"""Two states of a layout beside each other: what was added, what is gone, what changed, and what that does.

Things are the same where their ids are, as everywhere in the document. Two layouts drawn apart therefore share little,
and the comparison says so rather than guessing.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.rules import rule_catalogue
from jolly_copper.core.quantities import (
    Units,
    print_current,
    print_length,
    print_ohms,
    print_volts,
)

How = Literal["added", "gone", "changed"]

KINDS: dict[str, str] = {
    "boards": "board",
    "obstacles": "obstacle",
    "nodes": "node",
    "tracks": "track",
    "gaps": "gap",
    "sections": "section",
    "circuits": "circuit",
    "devices": "device",
    "runs": "run",
    "terminals": "terminal",
    "plugs": "plug",
    "feeders": "feeder",
    "measured": "measured part",
    "loads": "load",
    "spools": "spool",
    "prices": "price",
    "detectors": "detector",
    "blocks": "block",
    "signals": "signal",
    "drivers": "driver",
    "locos": "kind of engine",
    "engines": "engine",
    "trains": "train",
    "scenes": "scene",
    "plans": "plan of an evening",
    "panels": "control panel",
    "supplies": "owned supply",
    "braking": "braking section",
    "isolated": "isolated rail",
    "connectors": "kind of connector",
    "couplings": "coupling",
    "dates": "date",
    "accepted": "accepted finding",
}
"""Maps of the document, with what one thing of each is called."""

LENGTHS = frozenset(
    [
        "at",
        "along",
        "tape",
        "tape_b",
        "cut",
        "spacing",
        "length",
        "longest",
        "on_hand",
        "joiner_every",
        "frog_length",
        "diameter",
        "pickups",
        "shortest_block",
        "stopping",
        "feeder_by_joint",
    ]
)


RULE_UNITS: dict[str, str] = {row["key"]: row["unit"] for row in rule_catalogue()}
"""House rules tell their own units."""


@dataclass(frozen=True)
class Difference:
    """One thing that is not as it was. words: for a changed one each field, from what to what."""

    kind: str
    id: str
    how: How
    name: str
    words: tuple[str, ...] = ()


@dataclass(frozen=True)
class Outcome:
    """One figure before and after, in words."""

    name: str
    before: str
    after: str


@dataclass(frozen=True)
class Comparison:
    """differences: in the order of the document. outcomes: figures. settled, new: titles of findings."""

    differences: tuple[Difference, ...]
    outcomes: tuple[Outcome, ...]
    settled: tuple[str, ...]
    new: tuple[str, ...]
    shared: int
    """Things that stand in both."""


def compare(before: Layout, after: Layout) -> tuple[Difference, ...]:
    """What was added, what is gone and what changed, thing by thing; the brief and names first.

    >>> from jolly_copper.core.layout.document import Layout
    >>> one = Layout(name="Pier")
    >>> [d.words for d in compare(one, one.model_copy(update={"name": "Long pier"}))]
    [('name: Pier → Long pier',)]
    """
    old, new = before.model_dump(mode="json"), after.model_dump(mode="json")
    units = after.brief.units
    found = []
    for key, name in (("", "Layout"), ("brief", "Brief"), ("backdrop", "Backdrop picture")):
        a, b = (_plain(old) if not key else old[key] or {}), (_plain(new) if not key else new[key] or {})
        if words := _fields(a, b, units):
            found.append(Difference(key or "layout", "", "changed", name, words))
    for key, kind in KINDS.items():
        a, b = old[key], new[key]
        for i in sorted(a.keys() | b.keys(), key=natural):
            if i not in b:
                found.append(Difference(kind, i, "gone", _called(kind, i, a[i])))
            elif i not in a:
                found.append(Difference(kind, i, "added", _called(kind, i, b[i])))
            elif a[i] != b[i]:
                words = _fields(a[i], b[i], units) if isinstance(a[i], dict) else (f"{a[i]} → {b[i]}",)
                found.append(Difference(kind, i, "changed", _called(kind, i, b[i]), words))
    return tuple(found)


def outcomes(before: Facts, after: Facts, old: list[Finding], new: list[Finding]) -> Comparison:
    """The whole comparison, with volts, shorts, copper and findings before and after.

    Args:
        before, after: facts of both states, each in a scene of its own.
        old, new: their findings; those accepted count as settled.
    """
    a, b = {f.key for f in old if not f.accepted}, {f.key for f in new if not f.accepted}
    musts = [sum(f.severity == "must" and not f.accepted for f in found) for found in (old, new)]
    rows = (
        Outcome("Lowest volts at a wheel", _lowest(before), _lowest(after)),
        Outcome("Weakest short against its trip", _weakest(before), _weakest(after)),
        Outcome("Findings to settle", str(len(a)), str(len(b))),
        Outcome("of them a must", str(musts[0]), str(musts[1])),
    )
    shared = sum(len(getattr(before.layout, k).keys() & getattr(after.layout, k).keys()) for k in KINDS)
    return Comparison(
        compare(before.layout, after.layout),
        rows,
        tuple(f.title for f in old if f.key in a - b),
        tuple(f.title for f in new if f.key in b - a),
        shared,
    )


def _plain(document: Mapping[str, Any]) -> dict[str, Any]:
    return {k: document[k] for k in ("name", "club", "notes")}


def _called(kind: str, i: str, thing: Any) -> str:
    """A thing as people call it."""
    name = (thing.get("name") or thing.get("label")) if isinstance(thing, dict) else None
    return f"{kind.capitalize()} {name or i}"


def _fields(old: Mapping[str, Any], new: Mapping[str, Any], units: Units, before: str = "") -> tuple[str, ...]:
    found: list[str] = []
    for key in [*old, *(k for k in new if k not in old)]:
        a, b = old.get(key), new.get(key)
        if a == b:
            continue
        name = f"{before}{key.replace('_', ' ')}"
        if isinstance(a, dict) and isinstance(b, dict):
            found += [f"{name}: moved"] if _is_point(a) and _is_point(b) else _fields(a, b, units, f"{name}, ")
        elif key in ("path", "outline"):
            found.append(f"{name}: drawn anew")
        elif isinstance(a, list) or isinstance(b, list):
            found.append(
                f"{name}: {len(a or [])} → {len(b or [])} entries"
                if len(a or []) != len(b or [])
                else f"{name}: changed"
            )
        else:
            found.append(f"{name}: {_printed(key, a, units)} → {_printed(key, b, units)}")
    return tuple(found)


def _is_point(value: Mapping[str, Any]) -> bool:
    return value.keys() == {"x", "y"}


def _printed(key: str, value: Any, units: Units) -> str:
    if value is None:
        return "not given"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        unit = RULE_UNITS.get(key, "")
        if key in LENGTHS or unit == "mm":
            return print_length(value, units)
        if unit.startswith("share"):
            return f"{value * 100:g} %"
        if unit:
            return f"{value:g} {unit}"
        if "amps" in key:
            return print_current(value)
        if "volts" in key:
            return print_volts(value)
        if key == "ohms_per_metre":
            return f"{print_ohms(value)}/m"
        if key == "ohms":
            return print_ohms(value)
        return f"{value:g}"
    if isinstance(value, dict):
        return "given"
    return str(value)


def _lowest(facts: Facts) -> str:
    row = facts.worst_point()
    if row is None:
        return "nothing live"
    return f"{print_volts(max(float(facts.volts[row]), 0.0))} on {facts.layout.tracks[facts.place_of(row)[0]].name}"


def _weakest(facts: Facts) -> str:
    row = facts.weakest_short()
    if row is None or not np.isfinite(facts.trip[row]):
        return "no protection"
    ratio = float(facts.coin[row] / facts.trip[row])
    return f"{ratio:.2f} × the trip on {facts.layout.tracks[facts.place_of(row)[0]].name}"
