"""Places where trains stop by themselves: a braking section at a station, before a signal, or at both ends of a
shuttle."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.findings.braking import wanted_length
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.layout.words import CONTROL
from jolly_copper.core.quantities import print_length

Why = Literal["shuttle", "stop", "signal"]
CLEAR_MM = 120.0
"""A cut stands so far from a turnout, a joint's end or another gap."""
FEEDER_CLEAR_MM = 60.0
MARGIN_MM = 30.0


@dataclass(frozen=True)
class Place:
    """Where a train shall stand, by its front: mm from a track's A end, going towards this end."""

    track: str
    at: float
    towards: Literal["a", "b"]


@dataclass(frozen=True)
class Stops:
    """sections: ids of the new braking sections. length: of each, mm. train: whose need it is, in words. moved:
    labels of
    feeders that had to leave the stretch."""

    sections: tuple[str, ...]
    length: float
    train: str
    stopping: float
    moved: tuple[str, ...]
    patch: Patch


def stop_here(facts: Facts, place: Place, train: str | None = None, seconds: float | None = 15.0) -> Stops:
    """A station stop: the train slows, waits, and goes on when the module is bridged.

    Args:
        facts: of the layout.
        place: where its front shall stand at most.
        train: id of the train it is made for; the one that needs most when not given.
        seconds: how long it waits.

    Raises:
        DrawingError: no digital track, no room, or something stands in the way.
    """
    return _make(facts, [place], "stop", train, seconds, None)


def hold_at_signal(facts: Facts, signal: str, train: str | None = None) -> Stops:
    """A stop before a signal, lifted by a contact or output of the signal when it clears.

    Raises:
        DrawingError: as `stop_here`, or there is no such signal.
    """
    if signal not in facts.layout.signals:
        raise DrawingError(f"There is no signal {signal}; somebody may have removed it.")
    s = facts.layout.signals[signal]
    at = s.at - MARGIN_MM if s.towards == "b" else s.at + MARGIN_MM
    return _make(facts, [Place(s.track, at, s.towards)], "signal", train, None, signal)


def make_shuttle(
    facts: Facts, one: Place, other: Place, train: str | None = None, seconds: float | None = 20.0
) -> Stops:
    """A shuttle between two places, one module for both ends: the train stops, waits and goes back.

    Raises:
        DrawingError: as `stop_here`, or both ends overlap.
    """
    return _make(facts, [one, other], "shuttle", train, seconds, None)


def _make(
    facts: Facts, places: list[Place], why: Why, train: str | None, seconds: float | None, signal: str | None
) -> Stops:
    layout = facts.layout
    if not layout.trains:
        raise DrawingError("Enter a train first (step Trains): how long a stop must be goes by what stops there.")
    if train is not None and train not in layout.trains:
        raise DrawingError(f"There is no train {train}; somebody may have removed it.")
    needs = {t: wanted_length(facts, t) for t in ([train] if train is not None else layout.trains)}
    whose = max(needs, key=lambda t: (needs[t][0], t))
    length, stopping = needs[whose]
    length = float(round(length + MARGIN_MM))
    sheet = Sheet(layout)
    number = 1 + len({b.module for b in layout.braking.values()})
    module = f"Braking module {number}"
    made: list[str] = []
    moved: list[str] = []
    for k, place in enumerate(places):
        start, end = _span(facts, place, length, whose)
        section = next_id(sheet["braking"], "BR")
        names = {"shuttle": "Shuttle end", "stop": "Stop", "signal": "Stop before signal"}
        label = layout.signals[signal].name if signal else layout.tracks[place.track].name
        sheet["braking"][section] = {
            "name": f"{names[why]} {label}{' ' + str(k + 1) if len(places) > 1 else ''}",
            "track": place.track,
            "at": round(start, 1),
            "length": round(end - start, 1),
            "rail": _rail(facts, place),
            "towards": place.towards,
            "why": why,
            "module": module,
            "held_by": signal,
            "seconds": seconds,
        }
        moved += _feeders_out(facts, sheet, place.track, start, end)
        made.append(section)
    if len(places) == 2 and places[0].track == places[1].track:
        one, other = (sheet["braking"][i] for i in made)
        if one["at"] < other["at"] + other["length"] and other["at"] < one["at"] + one["length"]:
            raise DrawingError(
                f"The two ends of the shuttle overlap on {layout.tracks[places[0].track].name}: each wants "
                f"{print_length(length, layout.brief.units)}."
            )
    return Stops(tuple(made), length, layout.trains[whose].name, stopping, tuple(moved), sheet.patch())


def _span(facts: Facts, place: Place, length: float, train: str) -> tuple[float, float]:
    """Where the stretch begins and ends, mm from the track's A end, on plain track alone."""
    layout, units = facts.layout, facts.layout.brief.units
    if place.track not in layout.tracks:
        raise DrawingError(f"There is no track {place.track}; somebody may have removed it.")
    track = layout.tracks[place.track]
    piece = facts.rails.piece_at(place.track, place.at)
    circuit = facts.meant[facts.rails.extent_of[piece]]
    if circuit is not None and control_of(facts.tree, circuit) != "dcc":
        kind = CONTROL[control_of(facts.tree, circuit)]
        raise DrawingError(
            f"{track.name} is {kind}: an unequal wave is read by decoders alone. On DC a block that is switched off "
            "stops a train."
        )
    start, end = (place.at - length, place.at) if place.towards == "b" else (place.at, place.at + length)
    low, high = piece.start + CLEAR_MM, piece.end - CLEAR_MM
    beyond = layout.nodes[(track.a if place.towards == "b" else track.b).node]
    if layout.nodes[(track.b if place.towards == "b" else track.a).node].kind == "bumper":
        low, high = (low, piece.end - 10.0) if place.towards == "b" else (piece.start + 10.0, high)
    if high - low < length:
        what = f"{beyond.kind} {beyond.name}" if beyond.name else "its end"
        raise DrawingError(
            f"{track.name} has {print_length(max(high - low, 0.0), units)} of plain track clear of {what} and of gaps; "
            f"{layout.trains[train].name} wants {print_length(length, units)} to stop in."
        )
    # A train may stand earlier than asked for, never farther on.
    if place.towards == "b" and end > high:
        start, end = high - length, high
    if place.towards == "a" and start < low:
        start, end = low, low + length
    missing = max(low - start, end - high)
    if missing > 0.05:
        raise DrawingError(
            f"{layout.trains[train].name} wants {print_length(length, units)} to stop in before that place, and "
            f"{print_length(missing, units)} are missing on {track.name}: a place farther on would do."
        )
    for other in layout.braking.values():
        if other.track == place.track and other.start < end and start < other.end:
            raise DrawingError(f"{other.name} lies there already, on {track.name}.")
    return start, end


def _rail(facts: Facts, place: Place) -> str:
    """The rail that carries conductor A, so that braking rails are on one side all along."""
    piece = facts.rails.piece_at(place.track, place.at)
    zone = facts.topology.zones.at(piece)
    return zone.a_rail(piece) if zone.votes else facts.phase[piece]


def _feeders_out(facts: Facts, sheet: Sheet, track: str, start: float, end: float) -> list[str]:
    """Move feeders out of a stretch to its nearer end; answers their labels."""
    length = facts.rails.lengths[track]
    found = []
    for feeder in sheet["feeders"].values():
        if feeder["track"] != track or not start - FEEDER_CLEAR_MM / 2 <= feeder["at"] <= end + FEEDER_CLEAR_MM / 2:
            continue
        before, after = start - FEEDER_CLEAR_MM, end + FEEDER_CLEAR_MM
        near_start = feeder["at"] - start < end - feeder["at"]
        feeder["at"] = round(before if (near_start or after > length - 5) and before > 5 else min(after, length - 5), 1)
        feeder["tape"] = None
        found.append(feeder["label"])
    return found
