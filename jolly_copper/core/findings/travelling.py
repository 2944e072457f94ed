"""Rules about the joints of boards that lift out: what crosses them, by which connectors, and what the rails do."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence

from jolly_copper.core.circuits.edits import CLEAR_OF_GAP_MM, Patch, offer_feeder
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, Severity, rule
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.words import many
from jolly_copper.core.quantities import print_current, print_length
from jolly_copper.core.travel.alone import lone_tracks
from jolly_copper.core.travel.couplings import (
    CouplingRead,
    boards_of,
    couplings_of,
    mixed_up,
    takes_wire,
    unlike,
    unplugged,
)
from jolly_copper.core.travel.crossing import Boards, joint_name, joints_of

FAR_BEYOND = 1.5
"""A pole that may carry so many times its rating burns; below it warms. Certainty C."""
FEW = 4


def _place(layout: Layout, read: CouplingRead) -> Place:
    """A coupling is on the plan where its boards are."""
    return Place("board", next((b for b in read.coupling.boards if b in layout.boards), read.coupling.boards[0]))


def _few(names: Sequence[str]) -> str:
    return ", ".join(names[:FEW]) + (f" and {len(names) - FEW} more" if len(names) > FEW else "")


@rule("couplings that mate wrongly", "travel")
def mate_wrongly(facts: Facts) -> Iterator[Finding]:
    """Couplings whose halves go together crosswise, and would put unlike volts on each other's wires."""
    layout = facts.layout
    read = couplings_of(facts)
    for one, other, pin, met in mixed_up(read):
        kind = layout.connectors[one.coupling.kind]
        burns = {pin.of.power.kind, met.of.power.kind} != {"control"}
        keyed = f", keyed {one.coupling.coding}" if kind.codings > 1 else ""
        yield Finding(
            key=f"mates:{one.id}:{other.id}",
            rule="couplings that mate wrongly",
            severity="must" if burns else "should",
            title=f"Couplings {one.coupling.name} and {other.coupling.name} mate: pin {pin.number} would put "
            f"{pin.of.power.words} on {met.of.power.words}",
            why=f"Both are {kind.name}{keyed}. On a Saturday morning somebody plugs one into the other.",
            mend="Key one of them otherwise, or use another kind of connector for one of the two.",
            place=_place(layout, one),
            shows=(one.id, other.id),
            figures=((one.coupling.name, pin.of.power.words), (other.coupling.name, met.of.power.words)),
            mends=_keyed_otherwise(layout, read, other),
        )


def _keyed_otherwise(layout: Layout, read: Sequence[CouplingRead], one: CouplingRead) -> tuple[Mend, ...]:
    """The first coding at which a coupling meets none of unlike volts."""
    kind = layout.connectors[one.coupling.kind]
    for coding in range(1, kind.codings + 1):
        there = [
            r for r in read if r.id != one.id and (r.coupling.kind, r.coupling.coding) == (one.coupling.kind, coding)
        ]
        if not any(unlike(p.of.power, q.of.power) for r in there for p, q in zip(one.pins, r.pins, strict=False)):
            patch: Patch = [{"op": "add", "path": f"/couplings/{one.id}/coding", "value": coding}]
            return (Mend(f"Key {one.coupling.name} as {coding}", patch),)
    return ()


@rule("bare pins that are live", "travel")
def live_pins(facts: Facts) -> Iterator[Finding]:
    """Couplings whose half with the bare pins is the one that is fed."""
    layout = facts.layout
    for read in couplings_of(facts):
        live, socket = read.live, read.coupling.socket_on
        wrong = [p for p in read.pins if p.of.live != socket]
        if not wrong:
            continue
        both = len(live) > 1
        fed = board_name(layout, wrong[0].of.live)
        one = next(iter(live))
        patch: Patch = [{"op": "add", "path": f"/couplings/{read.id}/socket_on", "value": one}]
        yield Finding(
            key=f"live-pins:{read.id}",
            rule="bare pins that are live",
            severity="should",
            title=f"Coupling {read.coupling.name} has its bare pins on {fed}, where they are live when it is open",
            why="A screwdriver across two of them is a short; sockets keep what is live covered.",
            mend="Its wires are fed from both sides: two couplings, each with its sockets on the fed side."
            if both
            else f"Sockets on {fed}, pins on the other half.",
            place=_place(layout, read),
            shows=(read.id,),
            figures=(("live pins", ", ".join(str(p.number) for p in wrong)),),
            mends=() if both else (Mend(f"Sockets of {read.coupling.name} on {fed}", patch),),
        )


@rule("pole beyond its rating", "travel")
def beyond_rating(facts: Facts) -> Iterator[Finding]:
    """Poles that may carry more than is printed on the connector, or hold a wire thicker than it takes."""
    layout = facts.layout
    for read in couplings_of(facts):
        kind = layout.connectors[read.coupling.kind]
        worst = max((p for p in read.pins if p.of.amps is not None), key=lambda p: p.of.amps or 0.0, default=None)
        amps = worst.of.amps if worst is not None else None
        if worst is not None and amps is not None and amps > kind.amps + 1e-9:
            severity: Severity = "must" if amps > FAR_BEYOND * kind.amps else "should"
            yield Finding(
                key=f"pole-amps:{read.id}",
                rule="pole beyond its rating",
                severity=severity,
                title=f"Coupling {read.coupling.name}: {worst.of.label} may put {print_current(amps)} through a pole "
                f"made for {print_current(kind.amps)}",
                why="A contact beyond its rating warms, softens its shell and loosens; then it warms more.",
                mend="A kind of connector that carries it, or a smaller trip upstream.",
                place=_place(layout, read),
                shows=(read.id, worst.of.owner),
                figures=(("may carry", print_current(amps)), ("rated", print_current(kind.amps))),
            )
        thick = [p for p in read.pins if not takes_wire(kind, p.of.gauge)]
        if thick:
            yield Finding(
                key=f"pole-gauge:{read.id}",
                rule="pole beyond its rating",
                severity="should",
                title=f"Coupling {read.coupling.name}: {thick[0].of.label} is {thick[0].of.gauge}; a {kind.name} takes "
                f"{kind.takes} at most",
                why="A thick wire held by a few strands burns at the contact.",
                mend="A kind of connector that takes it.",
                place=_place(layout, read),
                shows=(read.id, thick[0].of.owner),
                figures=(("gauge", thick[0].of.gauge), ("takes", kind.takes)),
            )
        if read.without:
            yield Finding(
                key=f"poles:{read.id}",
                rule="pole beyond its rating",
                severity="should",
                title=f"Coupling {read.coupling.name} holds {many(read.without, 'wire')} more than it has poles",
                why=f"A {kind.name} has {kind.poles}.",
                mend="A second coupling, or one with more poles.",
                place=_place(layout, read),
                shows=(read.id,),
                figures=(("poles", str(kind.poles)),),
            )


@rule("wire over a joint in no coupling", "travel")
def in_no_coupling(facts: Facts) -> Iterator[Finding]:
    """What crosses joints without a pole, once the club has begun to choose its connectors; joint by joint."""
    layout = facts.layout
    if not layout.couplings:
        return
    bare: dict[Boards, list[tuple[str, str, int]]] = defaultdict(list)
    for boards, crossing, wires in unplugged(joints_of(facts), couplings_of(facts)):
        bare[boards].append((crossing.label, crossing.owner, wires or len(crossing.colours)))
    for boards, found in bare.items():
        names = list(dict.fromkeys(label for label, _, _ in found))
        owners = tuple(o for _, o, _ in found if o in layout.runs)
        wires = sum(n for _, _, n in found)
        yield Finding(
            key=f"no-coupling:{boards[0]}:{boards[1]}",
            rule="wire over a joint in no coupling",
            severity="should",
            title=f"{many(wires, 'wire')} cross{'es' if wires == 1 else ''} between {joint_name(layout, boards)} in no "
            f"coupling: {_few(names)}",
            why="Somebody will cut it, or forget it and tear it, when the boards are parted.",
            mend="Plug the joints, in step Travel.",
            place=Place("board", next(b for b in boards if b is not None)),
            shows=owners,
            figures=(("wires", str(wires)),),
        )


@rule("coupling that holds nothing there", "travel")
def holds_nothing(facts: Facts) -> Iterator[Finding]:
    """Couplings that name wires which do not cross their joint, or crossed it once."""
    layout = facts.layout
    for read in couplings_of(facts):
        if not read.gone:
            continue
        kept = [h.model_dump(mode="json") for h in read.coupling.holds if h.of not in read.gone]
        path = f"/couplings/{read.id}"
        patch: Patch = (
            [{"op": "add", "path": f"{path}/holds", "value": kept}] if kept else [{"op": "remove", "path": path}]
        )
        what = _few([g.split(":", 1)[1] for g in read.gone])
        yield Finding(
            key=f"coupling-gone:{read.id}",
            rule="coupling that holds nothing there",
            severity="should",
            title=f"Coupling {read.coupling.name} holds {what}, which does not cross between "
            f"{joint_name(layout, boards_of(read.coupling))}",
            why="Its pin list no longer tells what is there.",
            mend="Take it out of the coupling, and plug the joints anew.",
            place=_place(layout, read),
            shows=(read.id,),
            mends=(Mend(f"{what} out of {read.coupling.name}", patch),),
        )


@rule("connectors to buy", "travel")
def to_buy(facts: Facts) -> Iterator[Finding]:
    """More couplings of a kind than there are in the drawer, of a kind that is not to be bought."""
    layout = facts.layout
    used = Counter(c.kind for c in layout.couplings.values())
    for kind_id, count in used.items():
        kind = layout.connectors[kind_id]
        if count > kind.on_hand and not kind.buy:
            yield Finding(
                key=f"connectors:{kind_id}",
                rule="connectors to buy",
                severity="look",
                title=f"{many(count, 'coupling')} of the kind {kind.name}; the club has {kind.on_hand}",
                why="The club said that it buys no more of them.",
                mend="Say in step Travel that more may be bought, or plug the joints anew with other kinds.",
                place=_place(layout, next(r for r in couplings_of(facts) if r.coupling.kind == kind_id)),
                figures=(("wanted", str(count)), ("on hand", str(kind.on_hand))),
            )


@rule("gap that a joint closes", "travel")
def closed_gap(facts: Facts) -> Iterator[Finding]:
    """Gaps that lie on the joint of two boards and part unlike power: drawn together, the rail ends touch."""
    layout, rails = facts.layout, facts.rails
    for joint in joints_of(facts):
        for crossing in joint.tracks:
            if crossing.gap is None:
                continue
            cut = rails.cut_at[crossing.gap]
            before, after = (rails.piece_at(crossing.track, max(cut + s, 0.0)) for s in (-1.0, 1.0))
            meant = {facts.meant[rails.extent_of[p]] for p in (before, after)}
            if None in meant or len(meant) == 1:
                continue
            track = layout.tracks[crossing.track]
            room = min(CLEAR_OF_GAP_MM, max(before.end - before.start, 0.0) / 2)
            patch: Patch = [
                {"op": "replace", "path": f"/gaps/{crossing.gap}/at", "value": round(crossing.at - room, 1)}
            ]
            yield Finding(
                key=f"joint-closes:{crossing.gap}",
                rule="gap that a joint closes",
                severity="should",
                title=f"Gap {crossing.gap} on {track.name} lies on the joint between "
                f"{joint_name(layout, joint.boards)}",
                why="Bolts that are drawn tight push the rail ends together, in the warmth of a hall all the more: "
                "two circuits meet, and nobody sees where.",
                mend="Cut it a hand away on one of the boards, and let the rails at the joint be of one circuit.",
                place=Place("gap", crossing.gap, crossing.track, crossing.at),
                shows=(crossing.gap, crossing.track),
                mends=(Mend(f"{crossing.gap} {room:.0f} mm before the joint", patch),) if room > 10 else (),
            )


@rule("track fed over a joint", "travel")
def fed_over_a_joint(facts: Facts) -> Iterator[Finding]:
    """Track with no feeder of its own on its board: it hangs on the rails over a joint."""
    layout, units = facts.layout, facts.layout.brief.units
    for lone in lone_tracks(layout, joints_of(facts)):
        track = layout.tracks[lone.track]
        piece = facts.rails.piece_at(lone.track, lone.at)
        circuit = facts.meant[facts.rails.extent_of[piece]]
        patch = offer_feeder(facts, circuit, lone.track, lone.at)
        yield Finding(
            key=f"over-joint:{lone.track}:{lone.at:.0f}",
            rule="track fed over a joint",
            severity="should",
            title=f"{track.name} on {board_name(layout, lone.board)} has no feeder there: "
            f"{print_length(lone.length, units)} of track hangs on the rails over a joint",
            why="What bridges the rails of a joint is slid, bumped and carried: it is the first to fail in the hall, "
            "and the board cannot be tried by itself.",
            mend="A feeder on the board itself.",
            place=Place("track", lone.track, lone.track, lone.at),
            shows=(lone.track,),
            figures=(("track", print_length(lone.length, units)),),
            mends=(Mend(f"Feeder for {track.name}", patch),) if patch else (),
        )


@rule("no feeder by a joint", "travel")
def none_by_a_joint(facts: Facts) -> Iterator[Finding]:
    """Joints with no feeder within the club's own wish, on one side or both."""
    layout, units = facts.layout, facts.layout.brief.units
    wish = layout.brief.travelling.feeder_by_joint
    if wish is None:
        return
    at: dict[str, list[float]] = defaultdict(list)
    for feeder in layout.feeders.values():
        at[feeder.track].append(feeder.at)
    for joint in joints_of(facts):
        for crossing in joint.tracks:
            length = facts.rails.lengths[crossing.track]
            near = [f - crossing.at for f in at[crossing.track]]
            sides = {"before": [-d for d in near if d < 0], "beyond": [d for d in near if d >= 0]}
            room = {"before": crossing.at, "beyond": length - crossing.at}
            bare = [s for s, found in sides.items() if room[s] > wish and min(found, default=wish + 1) > wish]
            if bare:
                track = layout.tracks[crossing.track]
                yield Finding(
                    key=f"joint-feeder:{crossing.track}:{crossing.at:.0f}",
                    rule="no feeder by a joint",
                    severity="look",
                    title=f"{track.name} has no feeder within {print_length(wish, units)} {' and '.join(bare)} the "
                    f"joint between {joint_name(layout, joint.boards)}",
                    why="It is the club's own wish, in step Travel: a joint can fail, and each side then has its own.",
                    mend="A feeder there, or a longer wish.",
                    place=Place("track", crossing.track, crossing.track, crossing.at),
                    shows=(crossing.track,),
                )
