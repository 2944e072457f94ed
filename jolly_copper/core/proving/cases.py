"""The case a symptom makes: its causes and acts, whatever kind of symptom it is."""

from __future__ import annotations

from typing import Any

from jolly_copper.core.proving.cause_tables import TABLES, table_case
from jolly_copper.core.proving.causes import SYMPTOMS, Case
from jolly_copper.core.proving.opens import dead_case, stall_case
from jolly_copper.core.proving.proving import Proving
from jolly_copper.core.proving.shorts import short_case
from jolly_copper.core.wirebook.places import on_track


def symptom_words(known: Proving, symptom: dict[str, Any]) -> str:
    """What was seen, in words, without working out what may cause it."""
    layout, kind = known.layout, symptom.get("kind", "")
    circuit, track, at = symptom.get("circuit"), symptom.get("track"), symptom.get("at")
    words = SYMPTOMS.get(kind, "Something that is not in the list any more")
    if circuit in layout.circuits:
        guard = known.facts.tree.protection(circuit) if kind == "trips" else None
        return f"{guard[1].name} trips" if guard else f"{layout.circuits[circuit].name}: {words[0].lower()}{words[1:]}"
    where = f" at {on_track(layout, track, float(at))}" if track in layout.tracks and at is not None else ""
    return f"{words}{where}"


def case_of(known: Proving, symptom: dict[str, Any]) -> Case:
    """The case of a symptom.

    Args:
        known: the proving of the layout.
        symptom: kind, with `circuit` for what trips or is dead, `track` and `at` for a place, as far as it is known.

    Raises:
        ValueError: it names something the layout has not, with a sentence.
    """
    kind, layout = symptom.get("kind"), known.layout
    if kind not in SYMPTOMS:
        raise ValueError("Say what is seen: one of the symptoms of the list.")
    if kind in ("trips", "dead"):
        circuit = symptom.get("circuit")
        if circuit not in layout.circuits:
            raise ValueError("Say which district: its name, or the breaker whose lamp is out.")
        return short_case(known, circuit) if kind == "trips" else dead_case(known, circuit)
    track, at = symptom.get("track"), symptom.get("at")
    if track is not None and track not in layout.tracks:
        raise ValueError("That track is not on the layout any more.")
    if kind == "stalls":
        if track is None or at is None:
            raise ValueError("Say where: click the place on the plan.")
        return stall_case(known, track, float(at))
    where = f" at {on_track(layout, track, float(at))}" if track is not None and at is not None else ""
    words = SYMPTOMS[kind]
    return table_case(kind, words[0].lower() + words[1:] + where)


__all__ = ["TABLES", "case_of"]
