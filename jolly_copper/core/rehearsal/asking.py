"""How a train gets its way: it asks for a leg, and has it when nobody else keeps any of it and the turnouts obey."""

from __future__ import annotations

from collections.abc import Iterable

from jolly_copper.core.circuits.stopping import scale_speed
from jolly_copper.core.rehearsal.driving import cab_refuses, hand_over
from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.legs import Leg, free_legs, legs_to
from jolly_copper.core.rehearsal.motion import run_up_to
from jolly_copper.core.rehearsal.rolling import Rolling
from jolly_copper.core.rehearsal.roving import may_go
from jolly_copper.core.rehearsal.rules import Refused, may_enter
from jolly_copper.core.rehearsal.stretches import lifted_by, meet_stretches, stops_at
from jolly_copper.core.rehearsal.telling_heads import ask_heads, tell_heads
from jolly_copper.core.rehearsal.trace import Motion, Thrown, Way, WaySpan
from jolly_copper.core.signals.heads import ASPECTS

ASKS_SECONDS = 3.0
"""A train asks for its way so long, at line speed, before it would have to brake. Certainty C."""
APPROACH_SHARE = 0.6
"""Of line speed, from a head on that says the next one stops. Certainty C."""
DIVERGING_KMH, RESTRICTING_KMH = 40.0, 15.0
"""Scale speeds over turnouts, and by sight. Certainty C."""
CLEAR_MM = 60.0
"""A driver who sees a train in the way stops so far before it. Certainty C."""


def takes(evening: Evening, leg: Leg) -> int:
    """Everything a leg needs to itself: pieces run over and junctions passed; at a signal, whole stretches."""
    found = 0
    ground = evening.ground
    for segment in leg.segments:
        found |= ground.bits(segment)
        if leg.head is not None and ground.layout.signals:
            found |= ground.extent_mask[ground.extent[segment.piece]]
    if leg.head is not None and leg.segments:
        # The signal itself may stand in the stretch before its gap: that one is the train's own.
        first = leg.segments[0]
        if first.length < 1e-6 or ground.known.approach.get(leg.head) == ground.extent[first.piece]:
            found &= ~ground.extent_mask[ground.extent[first.piece]]
            for segment in leg.segments:
                found |= ground.bits(segment)
    return found


def ask(evening: Evening, train: Rolling) -> bool:
    """Try to get a train its next leg; whether it got one. What it waits for is kept with it."""
    legs = wanted(evening, train)
    if not legs:
        train.blocked, train.blockers, train.options, train.choices = 0, (), [], []
        return False
    refused: list[Refused] = []
    for leg in legs:
        no = refusal(evening, train, leg)
        if no is None:
            give(evening, train, leg)
            return True
        refused.append(no)
    train.blocked = 0
    for no in refused:
        train.blocked |= no.bits
    train.blockers = tuple(dict.fromkeys(t for no in refused for t in no.trains))
    train.options = [no.trains for no in refused]
    train.polite = all(no.polite for no in refused)
    train.why = refused[0].words + (f", and {len(refused) - 1} other ways are taken too" if len(refused) > 1 else "")
    train.choices = legs
    return False


def wanted(evening: Evening, train: Rolling) -> list[Leg]:
    """The legs a train would take next, the best first."""
    if train.plan.by == "calls":
        return train.ahead[:1]
    if train.choices and train.state == "waiting":
        return train.choices
    legs = [x for x in free_legs(evening.ground, train.limit_place) if may_go(evening, train, x)]
    if train.plan.by == "hand":  # it goes as the turnouts lie
        now = evening.heads.lies
        return [x for x in legs if all(s.lies is None or now.get(s.node or "", s.lies) == s.lies for s in x.segments)]
    evening.rng.shuffle(legs)
    # Where it has a choice it rather goes on than into the end of a track.
    return sorted(legs, key=lambda x: x.ends == "track end")


def refusal(evening: Evening, train: Rolling, leg: Leg) -> Refused | None:
    """Why a train may not have a leg just now; None where it may."""
    need = takes(evening, leg) & ~train.kept
    clashing = {k: _meets(evening, leg, need, o) for k, o in evening.trains.items() if o is not train and need & o.kept}
    held = [(k, evening.trains[k]) for k, bits in clashing.items() if bits]
    if held:
        bits = 0
        for key, _ in held:
            bits |= clashing[key]
        names = " and ".join(o.stock.name for _, o in held)
        what = _called(evening, bits)
        return Refused(bits, tuple(k for k, _ in held), f"{names} {'has' if len(held) == 1 else 'have'} {what}")
    if need & evening.stuck_lit:
        return Refused(need & evening.stuck_lit, (), f"{_called(evening, need & evening.stuck_lit)} tells of a train")
    for segment in leg.segments:
        if segment.node is None or segment.lies is None:
            continue
        if evening.heads.lies.get(segment.node, segment.lies) == segment.lies:
            continue
        bit = evening.ground.node_bit[segment.node]
        over = [k for k, o in evening.trains.items() if bit & (o.body | o.kept)]
        if over:
            who = " and ".join("its own tail" if k == train.key else evening.trains[k].stock.name for k in over)
            others = tuple(k for k in over if k != train.key)
            return Refused(bit, others, f"{evening.name_of(segment.node)} cannot be thrown under {who}")
        if segment.node in evening.dumb:
            return Refused(bit, (), f"{evening.name_of(segment.node)} does not answer")
    return cab_refuses(evening, train, leg) or may_enter(evening, train, leg)


def _meets(evening: Evening, leg: Leg, need: int, other: Rolling) -> int:
    """What of a leg another train has, as bits. Where nothing signals a train follows another by sight over plain track
    that is run the same way, and only junctions and track run the other way keep it."""
    bits = need & other.kept
    if evening.layout.signals:
        return bits
    mine = {s.piece: s.towards for s in leg.segments}
    theirs = {s.piece: s.towards for s in other.segments[other.tail :]}
    for piece, towards in theirs.items():
        if mine.get(piece) == towards:
            bits &= ~(1 << piece)
    for node, bit in evening.ground.node_bit.items():
        if bits & bit and evening.layout.nodes[node].kind == "joint":
            bits &= ~bit
    return bits


def _called(evening: Evening, bits: int) -> str:
    """What pieces and junctions are called together: the first stretch named, and how many more."""
    ground = evening.ground
    extents = list(dict.fromkeys(ground.extent[n] for n in range(len(ground.pieces)) if bits >> n & 1))
    if extents:
        names = ground.known.names(extents)
    else:
        names = [evening.name_of(i) for i, b in ground.node_bit.items() if bits & b]
    return names[0] if len(names) < 2 else f"{names[0]} and {len(names) - 1} more"


def give(evening: Evening, train: Rolling, leg: Leg) -> None:
    """A train has its leg: turnouts are thrown, what it takes is kept for it, its motion goes on."""
    base = train.end
    segments = [s._replace(s=s.s + base) for s in leg.segments]
    # A turnout that lies right is as good as thrown.
    for segment in segments:
        if segment.node is not None and segment.lies is not None:
            throw(evening, segment.node, segment.lies)
    hand_over(evening, train, leg)
    if leg.head is not None:
        number = _way_number(evening, leg)
        train.promised.append((base, leg.head, number))
    train.segments += segments
    train.ahead = train.ahead[1:] if train.plan.by == "calls" else train.ahead
    train.choices = []
    train.blocked, train.blockers, train.options, train.let_go = 0, (), [], False
    if train.itinerary is not None:
        onward = train.itinerary.after(train.standing_no)
        train.standing_no = train.standing_no if onward is None else onward
    keep(evening, train)
    tell_heads(evening)
    train.speeds.append((base, speed := _speed(evening, train, leg)))
    lifted_by(evening, train, leg.head)
    meet_stretches(evening, train, segments, speed)
    train.stop = train.end - leg.halt
    train.arriving = leg.stops
    spans = tuple(WaySpan(s.track, round(s.at, 2), round(s.place(s.end).at, 2), round(s.s, 2)) for s in segments)
    evening.told.append(Way(evening.t, train.key, spans, False))


def _way_number(evening: Evening, leg: Leg) -> int:
    """The way of the leg's signal that it follows; −1 where the signal has none that leads there."""
    heads = evening.heads
    assert leg.head is not None
    lies = {s.node: s.lies for s in leg.segments if s.node is not None and s.lies is not None}
    over = [s.track for s in leg.segments]
    for n in heads.of_head[heads.ids.index(leg.head)]:
        route = heads.ways[n].route
        tracks = [x.track for x in route.legs]
        own = list(dict.fromkeys(over))
        if tracks[: len(own)] == own and all(route.settings.get(i, v) == v for i, v in lies.items()):
            return n
    key = (leg.head, leg.goal.track)
    evening.unset[key] = evening.unset.get(key, 0) + 1
    return -1


def _speed(evening: Evening, train: Rolling, leg: Leg) -> float:
    """Speed from the beginning of a leg on, mm/s, by what its head shows."""
    line = train.stock.pace.line
    scale = evening.layout.brief.scale
    if leg.head is None:
        return min(line, scale_speed(scale, DIVERGING_KMH))
    if evening.stale_heads:
        ask_heads(evening)
    aspect = ASPECTS[evening.shown[evening.heads.ids.index(leg.head)]]
    match aspect:
        case "clear":
            return line
        case "approach":
            return APPROACH_SHARE * line
        case "diverging clear" | "diverging approach":
            return min(line, scale_speed(scale, DIVERGING_KMH))
        case _:
            return min(line, scale_speed(scale, RESTRICTING_KMH))


def throw(evening: Evening, node: str, lies: str) -> None:
    """Throw a turnout; nothing where it lies so already."""
    if evening.heads.lies.get(node) == lies or node in evening.dumb:
        return
    evening.heads.throw(node, lies)
    evening.metal.standing.lies[node] = lies
    if evening.metal.nets.guarded:
        evening.metal_changed()
    evening.told.append(Thrown(evening.t, node, lies))


def keep(evening: Evening, train: Rolling) -> int:
    """Work out anew what a train keeps, covers and lights; what it gave back, as bits."""
    ground = evening.ground
    before = train.kept | train.body
    body = kept = lit = 0
    # Signals alone give back what detectors see clear; a rule that keeps count of trains knows how long they are.
    by_length = evening.plan.single_lines != "signals alone"
    detected = ground.detected
    for n in range(train.tail, len(train.segments)):
        segment = train.segments[n]
        bits = ground.bits(segment) if n > train.tail else 1 << segment.piece
        if n <= train.front:
            body |= bits
        if by_length or n >= train.seen or not detected >> segment.piece & 1:
            kept |= bits
        if train.seen <= n <= train.front and detected >> segment.piece & 1:
            lit |= 1 << ground.extent[segment.piece]
    train.body, train.kept, train.lit = body, kept, lit
    return before & ~(body | kept)


def legs_of_call(evening: Evening, train: Rolling) -> list[Leg]:
    """The legs to the place a train is to call at next; empty where no way leads there."""
    call = train.plan.calls[train.call]
    return legs_to(evening.ground, train.limit_place, call.track, call.at, call.facing, call.via)


def sight(evening: Evening, train: Rolling) -> tuple[float, str] | None:
    """The nearest tail of another train ahead on the way it has, mm along it, and whose; None where it is free."""
    s, _ = train.where(evening.t)
    found: tuple[float, str] | None = None
    for key, other in evening.trains.items():
        if other is train:
            continue
        for segment in train.segments[train.front :]:
            if not other.body >> segment.piece & 1:
                continue
            for low, high in body_on(evening, other, segment.track):
                near, far = sorted((segment.along(low), segment.along(high)))
                at = max(near, segment.s)
                if far > segment.s and near < segment.end and at > s - 1e-6 and (found is None or at < found[0]):
                    found = (at, key)
    return found


def body_on(evening: Evening, train: Rolling, track: str) -> Iterable[tuple[float, float]]:
    """Where a train stands on a track: intervals, mm from its A end."""
    s, _ = train.where(evening.t)
    tail = s - train.stock.length
    for segment in train.segments[train.tail : train.front + 1]:
        if segment.track == track:
            a, b = max(segment.s, tail), min(segment.end, s)
            if b > a:
                p, q = segment.place(a).at, segment.place(b).at
                yield (min(p, q), max(p, q))


def set_motion(evening: Evening, train: Rolling, log_unseen: bool = True) -> None:
    """Work out a train's motion from now on to where it may go, at the speeds its heads gave."""
    s, v = train.where(evening.t)
    stop = train.stop
    seen = sight(evening, train)
    train.by_sight = 0
    if seen is not None and seen[0] - CLEAR_MM < stop:
        stop = max(s, seen[0] - CLEAR_MM)
        train.by_sight = evening.trains[seen[1]].body
        if log_unseen:
            _tell_unseen(evening, train, seen[1])
    brake = stops_at(train, s)
    if brake is not None and brake.at < stop:
        stop = max(s, brake.at)
    here = [x for x in train.speeds if x[0] <= s + 1e-6]
    train.speeds = [*here[-1:], *(x for x in train.speeds if x[0] > s + 1e-6)]
    train.most = here[-1][1] if here else train.stock.pace.line
    train.phases = run_up_to(evening.t, s, v, stop, max(train.most * train.left, 1.0), train.stock.pace)
    evening.told.append(Motion(evening.t, train.key, train.phases))
    train.version += 1


def _tell_unseen(evening: Evening, train: Rolling, other: str) -> None:
    ahead = evening.trains[other]
    extent = evening.ground.extent[ahead.segments[ahead.tail].piece]
    if ahead.kept & (1 << ahead.segments[ahead.tail].piece):
        return  # it is seen: both may be in one stretch, as at a place where two stand
    pair = (other, extent)
    evening.unseen_pairs[pair] = evening.unseen_pairs.get(pair, 0) + 1
    if evening.unseen_pairs[pair] == 1:
        name = evening.ground.known.sensed[extent].name
        evening.log(
            "unseen train",
            f"{train.stock.name} stops by sight: the tail of {ahead.stock.name} stands in {name}, which tells that it "
            "is clear.",
            train=train.key,
            place=evening.front_of(ahead)[:2],
            others=(other,),
        )
