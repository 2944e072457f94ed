"""Trains under way: what is due next for each, and what happens when it is."""

from __future__ import annotations

from jolly_copper.core.rehearsal.asking import ASKS_SECONDS, ask, keep, legs_of_call, set_motion, sight, wanted
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.ground import Segment
from jolly_copper.core.rehearsal.motion import NEVER, STILL_MM_S, Phase, when_at
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.stretches import USUAL_HALT_SECONDS, begin_on, standing_in, work
from jolly_copper.core.rehearsal.telling_heads import tell_heads
from jolly_copper.core.rehearsal.trace import Lit, Motion, Way, WaySpan
from jolly_copper.core.rehearsal.under import turned_segments
from jolly_copper.core.rehearsal.wheels import JUST_AFTER, hot_edges, is_hot_here
from jolly_copper.core.signals.occupancy import WHEEL_MM

TURNS_SECONDS = 15.0
"""A free train stands so long at least at the end of a track, and up to four times that. Certainty C."""
MOST_LEGS = 8


def schedule(evening: Evening, train: Rolling) -> None:
    """Put what is due next for a train on the heap."""
    train.version += 1
    due, what = _next(evening, train)
    if due < NEVER:
        evening.at(max(due, evening.t), what, train.key, train.version)


def _next(evening: Evening, train: Rolling) -> tuple[float, str]:
    s, v = train.where(evening.t)
    best, what = NEVER, ""

    def consider(place: float, name: str) -> None:
        nonlocal best, what
        t = when_at(train.phases, place, evening.t)
        if t < best:
            best, what = t, name

    last = train.phases[-1]
    if train.phases[-1].t > evening.t + 1e-12 or v > STILL_MM_S:
        best, what = max(last.t, evening.t), "halt"
        if train.front < len(train.segments) - 1:
            consider(train.segments[train.front].end - WHEEL_MM, "front")
        if train.seen < train.front:
            consider(train.segments[train.seen].end + WHEEL_MM + train.stock.seen, "seen")
        if train.tail < train.front:
            consider(train.segments[train.tail].end + WHEEL_MM + train.stock.length, "tail")
        if train.promised:
            consider(train.promised[0][0] + JUST_AFTER, "head")
        if len(train.speeds) > 1:
            consider(train.speeds[1][0], "speed")
        if train.marks:
            consider(train.marks[0].at, "works")
        if train.state == "running" and not train.arriving:
            pace = train.stock.pace
            early = train.stop - pace.line * pace.line / (2 * pace.brakes) - ASKS_SECONDS * pace.line
            if s < early - 1e-3:
                consider(early, "ask")
        for edge in hot_edges(evening, train, s):
            consider(edge, "wheel")
    return best, what


def passed(evening: Evening, train: Rolling, what: str) -> None:
    """Something a train was to come to has come."""
    s, _ = train.where(evening.t)
    match what:
        case "front":
            train.front = min(train.front + 1, len(train.segments) - 1)
            _moved_on(evening, train)
        case "seen":
            train.seen = min(train.seen + 1, train.front)
            _moved_on(evening, train)
        case "tail":
            train.tail = min(train.tail + 1, train.front)
            _moved_on(evening, train)
            drop = train.tail - 2
            if drop > 20:
                _forget(train, drop)
        case "head":
            train.promised.pop(0)
            tell_heads(evening)
            set_motion(evening, train)
        case "speed":
            set_motion(evening, train)
        case "ask":
            go_on(evening, train)
        case "works":
            work(evening, train)
        case "halt":
            _halted(evening, train, s)
        case _:
            evening.judge = True


def _forget(train: Rolling, count: int) -> None:
    """Drop what lies far behind a train's tail."""
    del train.segments[:count]
    train.tail -= count
    train.seen -= count
    train.front -= count


def _moved_on(evening: Evening, train: Rolling) -> None:
    given_back = keep(evening, train)
    if evening.loose_wheels or is_hot_here(evening, train):
        evening.judge = True
    relight(evening)
    if given_back:
        released(evening, given_back)
    else:
        tell_heads(evening)


def relight(evening: Evening) -> None:
    """Tell the stretches whose detectors changed their mind; those behind one channel light together."""
    seen = 0
    for train in evening.trains.values():
        seen |= train.lit
    now = 0
    for channel in evening.channels:
        if seen & channel:
            now |= channel
    changed = now ^ evening.lit
    if changed:
        for n in range(changed.bit_length()):
            if changed >> n & 1:
                evening.told.append(Lit(evening.t, n, bool(now >> n & 1)))
        evening.lit = now


def released(evening: Evening, bits: int) -> None:
    """Something was given back: heads look again, and who waits for it may go, the longest waiting first."""
    tell_heads(evening)
    waiting = [x for x in evening.trains.values() if x.state == "waiting" and x.blocked & bits and not x.by_sight]
    for train in sorted(waiting, key=lambda x: (x.since, x.key)):
        go_on(evening, train)
    for train in evening.trains.values():
        if train.by_sight & bits and train.state in ("running", "waiting"):
            _look_again(evening, train)


def _look_again(evening: Evening, train: Rolling) -> None:
    """A train that stopped, or slows, for what it saw in its way goes on as far as it is free now."""
    set_motion(evening, train, log_unseen=False)
    schedule(evening, train)
    if train.phases[-1].s > train.phases[0].s + 1:
        _end_wait(evening, train)


def go_on(evening: Evening, train: Rolling) -> None:
    """A train asks for what lies ahead, as far as it may plan now."""
    if train.plan.by == "calls" and not train.ahead:
        return
    if train.plan.by == "hand" and not train.going:
        if train.where(evening.t)[1] <= STILL_MM_S and train.state in ("running", "waiting"):
            train.state = "standing"
        return
    if (
        evening.t < train.plan.leaves
        or train.arriving
        or not train.powered
        or train.state in ("dark", "stopped", "parked", "done")
    ):
        return
    s, v = train.where(evening.t)
    got = False
    for _ in range(MOST_LEGS):  # the first leg may be no more than the few mm to its head
        if not ask(evening, train):
            break
        got, train.turned_in_vain = True, 0
        if train.arriving or train.stop - s > 1:
            break
    if got:
        _end_wait(evening, train)
        set_motion(evening, train)
        schedule(evening, train)
    if train.stop - s > 1 or train.arriving or train.by_sight:
        return
    if train.plan.by == "hand" and not train.options:
        train.state, train.going = "standing", False
        return
    if train.plan.by == "free" and not train.options and v <= STILL_MM_S:
        # Nothing it may take lies ahead: it turns here, as at the end of a track.
        train.turned_in_vain += 1
        if train.turned_in_vain > 2:
            train.state = "done"
            words = f"{train.stock.name} has nowhere to go from {evening.layout.tracks[train.limit_place.track].name}."
            evening.log("blocked for good", words, train=train.key, place=evening.front_of(train)[:2])
            return
        arrived(evening, train)
        return
    if v <= STILL_MM_S and train.stop - s < 1:
        begin_wait(evening, train)


def _end_wait(evening: Evening, train: Rolling) -> None:
    if train.state == "waiting":
        train.longest_wait = max(train.longest_wait, evening.t - train.since)
    train.state = "running"
    train.waits_entry = None


def begin_wait(evening: Evening, train: Rolling) -> None:
    """A train stands and has no way on."""
    if train.state != "waiting":
        train.state, train.since = "waiting", evening.t
    if train.waits_entry is None:
        evening.waits_changed = True


def _halted(evening: Evening, train: Rolling, s: float) -> None:
    """A train stands."""
    train.phases = (Phase(evening.t, s, 0.0, 0.0),)
    if is_hot_here(evening, train):
        evening.judge = True
    if train.state == "dark":
        return
    if _held(evening, train, s):
        return
    if abs(s - train.stop) > 1:  # it stopped for what it saw
        seen = sight(evening, train)
        if seen is not None:
            name = evening.trains[seen[1]].stock.name
            train.why, train.options, train.blockers = f"{name} is in its way", [(seen[1],)], (seen[1],)
            begin_wait(evening, train)
        return
    if train.arriving:
        arrived(evening, train)
        return
    go_on(evening, train)


def _held(evening: Evening, train: Rolling, s: float) -> bool:
    """Whether a train stands since a braking section stopped it: until the signal of its next leg clears, or its time
    is over, or a person comes where neither will be."""
    brake = standing_in(train)
    if brake is None or abs(s - train.stop) <= 1:  # it would stand here anyway
        return False
    section = evening.layout.braking[brake.section]
    waits = not train.arriving and any(x.head is not None and x.head == section.held_by for x in wanted(evening, train))
    head = evening.layout.signals[section.held_by].name if section.held_by is not None else None
    until = f" until {head} clears" if waits else f", and its way does not lead past {head}" if head else ""
    words = f"{train.stock.name} stops by itself in {section.name}{until}."
    evening.log("brakes", words, train=train.key, place=evening.front_of(train)[:2])
    if waits:
        go_on(evening, train)
        if standing_in(train) is not None:
            begin_wait(evening, train)
        return True
    lasts = section.seconds if section.seconds is not None else USUAL_HALT_SECONDS
    train.state = "standing"
    train.wakes = evening.t + (lasts if head is None else max(evening.plan.person_after, 1.0))
    evening.at(train.wakes, "lifted", train.key)
    return True


def lifted(evening: Evening, train: Rolling) -> None:
    """A braking section has held a train long enough."""
    brake = standing_in(train)
    if brake is None:
        return
    train.brakes.remove(brake)
    if train.state == "dark":
        train.before_dark = "running"
    elif train.state == "stopped":
        train.before_stop = "running"
    elif train.state == "standing":
        train.state = "running"
        set_motion(evening, train)
        schedule(evening, train)


def arrived(evening: Evening, train: Rolling) -> None:
    """A train has come to a place of its plan, or to the end of a track."""
    train.arriving = False
    train.arrivals += 1
    where = evening.front_of(train)
    name = evening.layout.tracks[where.track].name
    train.state = "standing"
    if train.plan.by == "calls":
        call = train.plan.calls[train.call]
        wakes = evening.t + call.dwell
        if call.leaves is not None:
            due = train.rounds * (evening.plan.round or 0.0) + call.leaves
            if due < wakes - 5 and evening.plan.round is not None:
                evening.late(train, wakes - due)
            wakes = max(wakes, due)
        evening.log("arrives", f"{train.stock.name} comes to {name}.", train=train.key, place=where[:2])
    else:
        wakes = evening.t + TURNS_SECONDS * (1 + 3 * evening.rng.random())
    if train.plan.by == "hand":
        train.going = False
    else:
        train.wakes = wakes
        evening.at(wakes, "wake", train.key)
    for other in sorted(evening.trains.values(), key=lambda x: (x.since, x.key)):
        if other.state == "waiting" and other.blocked < 0:  # it waits for what anybody does: a cab, or a safe moment
            go_on(evening, other)


def wake(evening: Evening, train: Rolling) -> None:
    """A train has stood long enough."""
    if train.state != "standing" or not train.powered:
        return
    if train.plan.by == "calls":
        call = train.plan.calls[train.call]
        if call.then == "turn":
            turn(evening, train)
        train.call += 1
        if train.call == len(train.plan.calls):
            if evening.plan.round is None:
                train.state = "done"
                return
            train.call, train.rounds = 0, train.rounds + 1
        train.ahead = legs_of_call(evening, train)
        if not train.ahead:
            train.state = "done"
            track = evening.layout.tracks[train.plan.calls[train.call].track].name
            evening.log(
                "blocked for good",
                f"{train.stock.name} has no way from {evening.layout.tracks[train.limit_place.track].name} to {track}.",
                train=train.key,
                place=evening.front_of(train)[:2],
            )
            return
    else:
        turn(evening, train)
    go_on(evening, train)


def turn(evening: Evening, train: Rolling) -> None:
    """A train turns where it stands: its rear is its front, and its engine runs round."""
    s, _ = train.where(evening.t)
    under = [x._replace(length=min(x.end, s) - x.s) for x in train.segments[train.tail : train.front + 1] if x.s < s]
    found = turned_segments(under, train.stock.length)
    stand(evening, train, found)


def stand(evening: Evening, train: Rolling, segments: list[Segment]) -> None:
    """A train stands on these segments, its front at their end."""
    train.segments = segments
    length = segments[-1].end
    train.front = len(segments) - 1
    train.tail = 0
    train.seen = next((n for n, x in enumerate(segments) if x.end > length - train.stock.seen + 1e-6), train.front)
    train.phases = (Phase(evening.t, length, 0.0, 0.0),)
    train.stop = length
    train.speeds, train.promised, train.choices = [], [], []
    begin_on(evening, train)
    spans = tuple(WaySpan(x.track, round(x.at, 2), round(x.place(x.end).at, 2), round(x.s, 2)) for x in segments)
    evening.told.append(Way(evening.t, train.key, spans, True))
    evening.told.append(Motion(evening.t, train.key, train.phases))
    given_back = keep(evening, train)
    relight(evening)
    if given_back:
        released(evening, given_back)
