"""The rails under a train: what it stands on at a place, and the same seen from its other end."""

from __future__ import annotations

from jolly_copper.core.rehearsal.ground import End, Ground, Place, Segment
from jolly_copper.core.signals.aspects import lies_of
from jolly_copper.core.signals.routes import drive


def under_place(ground: Ground, place: Place, length: float) -> list[Segment] | None:
    """The segments a train stands on whose front is at a place, as the turnouts lie in the document; None where the
    track behind it is too short."""
    back = Place(place.track, place.at, "a" if place.towards == "b" else "b")
    came = drive(ground.layout, ground.ways, back.track, back.at, back.towards, length, lies_of(ground.layout))
    if came.stopped is not None:
        return None
    found: list[Segment] = []
    s = 0.0
    for leg in reversed([x for x in came.passed if abs(x.finish - x.start) > 1e-6] or came.passed[:1]):
        towards: End = "a" if leg.start < leg.finish else "b"  # it was driven over backwards
        track = ground.layout.tracks[leg.track]
        node = (track.a if towards == "b" else track.b).node if found else None
        found += ground.on_track(Place(leg.track, leg.finish, towards), leg.start, s, node, None)
        s = found[-1].end
    return found


def turned_segments(segments: list[Segment], length: float) -> list[Segment]:
    """What a train stands on, seen from its other end."""
    tail = segments[-1].end - length
    found: list[Segment] = []
    at = 0.0
    for n in range(len(segments) - 1, -1, -1):
        segment = segments[n]
        start = max(segment.s, tail)
        if segment.end - start < 1e-6 and len(segments) > 1:
            continue
        node, lies = (segments[n + 1].node, segments[n + 1].lies) if found else (None, None)
        long = segment.end - start
        place = segment.place(segment.end)
        found.append(
            Segment(
                at, long, segment.track, place.at, "a" if segment.towards == "b" else "b", segment.piece, node, lies
            )
        )
        at += long
    return found
