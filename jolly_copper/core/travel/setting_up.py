"""Setting a railroad up in a hall: in which order boards stand, what is tried at each joint, and the way back."""

from __future__ import annotations

from collections import Counter, defaultdict, deque
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from jolly_copper.core.circuits.lengths import run_length
from jolly_copper.core.circuits.wires import run_ohms_per_metre
from jolly_copper.core.layout.benchwork import board_finder, board_name, boards_in_order, lifting_boards
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.materials.joints import OPEN_OHMS, PLUG, TERMINAL
from jolly_copper.core.quantities import print_ohms
from jolly_copper.core.travel.couplings import CouplingRead, joined_by, plain_plugs, read_couplings
from jolly_copper.core.travel.crossing import BoardJoint, Boards, Crossing, board_joints
from jolly_copper.core.travel.rail_ends import MEETINGS

LEADS = "and the leads of the meter"


@dataclass(frozen=True)
class JointTest:
    """Something tried at a joint. key: stable while the joint stands: `show:front1+front2/1A/open`. foretold: what the
    meter shows where all is well."""

    key: str
    title: str
    words: str
    foretold: str


@dataclass(frozen=True)
class SetUp:
    """A board in its turn. beside: boards that stand already, which it is bolted to. before: tried on the board by
    itself; then couplings are mated; after: tried with power off; live: with power on, and the rails closed."""

    number: int
    board: str
    box: str | None
    beside: tuple[str, ...]
    couplings: tuple[CouplingRead, ...]
    tracks: int
    before: tuple[JointTest, ...]
    after: tuple[JointTest, ...]
    live: tuple[JointTest, ...]


@dataclass(frozen=True)
class SettingUp:
    """standing: boards that never move. steps: the others in their order; apart: boards that no joint leads to."""

    standing: tuple[str, ...]
    steps: tuple[SetUp, ...]
    apart: tuple[str, ...]


def joint_key(boards: Boards) -> str:
    """A joint as records name it: `front1+front2`; `off` for what is off the boards."""
    return "+".join(b or "off" for b in boards)


def failed_joints(failed: Iterable[str]) -> Counter[str]:
    """How often something failed at each joint, from the keys of tests that failed, one for each time.

    >>> failed_joints(["show:one+two/J1/open/R1", "proof:joint:one+two", "proof:coin:main"])
    Counter({'one+two': 2})
    """
    found: Counter[str] = Counter()
    for key in failed:
        if key.startswith("show:"):
            found[key.removeprefix("show:").split("/", 1)[0]] += 1
        elif key.startswith("proof:joint:"):
            found[key.removeprefix("proof:joint:")] += 1
    return found


def setting_up(layout: Layout, joints: Sequence[BoardJoint] | None = None) -> SettingUp:
    """The order in which boards are set up, so that each can be tried from those that stand.

    Boards that never move stand already; where all lift out, the one with most sources stands first. Then ring by ring
    over the joints, by name among equals.
    """
    joints = board_joints(layout) if joints is None else joints
    read = read_couplings(layout, joints)
    read = (*read, *plain_plugs(joints, read))
    order, apart = set_up_order(layout, joints)
    standing = {b for b in layout.boards if not layout.boards[b].removable}
    up: list[str] = sorted(standing, key=order.index) if standing else []
    steps: list[SetUp] = []
    for board in order:
        if board in standing:
            continue
        here = [j for j in joints if board in j.boards and any(b in up for b in j.boards) and len(set(j.boards)) == 2]
        steps.append(_step(layout, len(steps) + 1, board, here, up, read))
        up.append(board)
    return SettingUp(tuple(b for b in order if b in standing), tuple(steps), tuple(apart))


def set_up_order(layout: Layout, joints: Sequence[BoardJoint]) -> tuple[list[str], list[str]]:
    """All boards in the order they are set up; and those at its end that no joint leads to from the first ones."""
    beside: dict[str, set[str]] = defaultdict(set)
    for joint in joints:
        one, other = joint.boards
        if one is not None and other is not None:
            beside[one].add(other)
            beside[other].add(one)
    names = boards_in_order(layout)
    rank = {b: n for n, b in enumerate(names)}
    board = board_finder(layout)
    power = Counter(board(d.at.x, d.at.y) for d in layout.devices.values() if d.kind in SOURCES or d.kind == "supply")
    fixed = [b for b in names if not layout.boards[b].removable]
    first = fixed or [min(names, key=lambda b: (-power[b], rank[b]))] if names else []
    order: list[str] = []
    ahead = deque(first)
    while ahead:
        here = ahead.popleft()
        if here in order:
            continue
        order.append(here)
        ahead.extend(sorted(beside[here] - set(order), key=rank.__getitem__))
    rest = [b for b in names if b not in order]
    return order + rest, rest


def _step(
    layout: Layout, number: int, board: str, here: Sequence[BoardJoint], up: Sequence[str], read: Sequence[CouplingRead]
) -> SetUp:
    beside = tuple(b for j in here for b in j.boards if b in up and b is not None)
    mated: list[CouplingRead] = []
    before: list[JointTest] = []
    after: list[JointTest] = []
    live: list[JointTest] = []
    for joint in here:
        mine = [r for r in read if joined_by(r.coupling) == frozenset(joint.boards)]
        mated += mine
        key = f"show:{joint_key(joint.boards)}"
        for r in mine:
            before += _isolation(layout, board, key, r)
            after += _continuity(layout, key, r, read)
        live += _rails(layout, key, joint)
    off = [r for r in read if joined_by(r.coupling) == frozenset((board, None))]
    tracks = sum(len(j.tracks) for j in here)
    return SetUp(
        number,
        board,
        layout.boards[board].box,
        beside,
        (*mated, *off),
        tracks,
        tuple(before),
        tuple(after),
        tuple(live),
    )


def _pairs(read: CouplingRead) -> Iterator[tuple[Crossing, dict[int, int]]]:
    """Runs through a coupling: the pin of each of their wires."""
    of: dict[str, tuple[Crossing, dict[int, int]]] = {}
    for pin in read.pins:
        of.setdefault(pin.of.name, (pin.of, {}))[1][pin.wire] = pin.number
    yield from of.values()


def _isolation(layout: Layout, board: str, key: str, read: CouplingRead) -> Iterator[JointTest]:
    for crossing, pins in _pairs(read):
        if crossing.power.kind != "track" or len(pins) < 2:
            continue
        a, b = pins[1], pins[2]
        off = _across(layout, board, layout.runs[crossing.owner].circuit)
        yield JointTest(
            f"{key}/{read.id}/open/{crossing.label}",
            f"{read.coupling.name}, pins {a} and {b}: open",
            f"Before {board_name(layout, board)} is bolted up, no engine or lit car on it{off}: on its half of "
            f"{read.coupling.name}, pin {a} to pin {b} ({crossing.label}).",
            f"over {print_ohms(OPEN_OHMS)}",
        )


def _across(layout: Layout, board: str, circuit: str) -> str:
    """Devices of a board that stand across the wires of a circuit, to be taken off them: a meter reads through them."""
    board_of = board_finder(layout)
    names = [
        d.name for d in layout.devices.values() if circuit in (d.input, d.output) and board_of(d.at.x, d.at.y) == board
    ]
    return f", {' and '.join(sorted(names, key=natural))} off its terminals" if names else ""


def _continuity(layout: Layout, key: str, read: CouplingRead, all_read: Sequence[CouplingRead]) -> Iterator[JointTest]:
    for crossing, pins in _pairs(read):
        if crossing.owner not in layout.runs:
            continue
        ends = beside_joint(layout, crossing, all_read)
        if ends is None:
            continue
        (one, other), ohms = ends
        colours = " and ".join(crossing.colours[w - 1] for w in sorted(pins))
        yield JointTest(
            f"{key}/{read.id}/closed/{crossing.label}",
            f"{read.coupling.name}, {crossing.label}: closed",
            f"Power off, {read.coupling.name} mated: {one} to {other}, {colours}, each to its own colour.",
            f"{print_ohms(ohms)} {LEADS}",
        )


def beside_joint(
    layout: Layout, crossing: Crossing, read: Sequence[CouplingRead] = ()
) -> tuple[tuple[str, str], float] | None:
    """The places to meter a run on both sides of a joint, and the ohms of one conductor between them: wire, the plug,
    the contacts of the terminals. Never farther than the next joint, which may be open still. None where there is
    nothing to meter at on one side.

    R = ρ'·l + R_plug + 2·R_contact, Ω.
    """
    run = layout.runs[crossing.owner]
    marks = [
        (t.along, f"terminal {i}", TERMINAL[t.kind][1]) for i, t in layout.terminals.items() if t.run == crossing.owner
    ]
    pins = {p.of.key: (r.coupling.name, p.number) for r in read for p in reversed(r.pins)}
    for i, plug in layout.plugs.items():
        if plug.run == crossing.owner and f"plug:{i}" != crossing.key:
            name, pin = pins.get(f"plug:{i}", (i, 1))
            marks.append((plug.along, f"the back of {name}, from pin {pin} on", 0.0))
    if run.fed.device is not None:
        marks.append((run.fed.along, layout.devices[run.fed.device].name, TERMINAL["screw strip"][1]))
    if run.ends_at_device is not None:
        marks.append((run_length(run), layout.devices[run.ends_at_device].name, TERMINAL["screw strip"][1]))
    before = max((m for m in marks if m[0] < crossing.along), default=None)
    beyond = min((m for m in marks if m[0] > crossing.along), default=None)
    if before is None or beyond is None:
        return None
    wire = run_ohms_per_metre(layout, run) * (beyond[0] - before[0]) / 1000
    return (before[1], beyond[1]), wire + PLUG[1] + before[2] + beyond[2]


def _rails(layout: Layout, key: str, joint: BoardJoint) -> Iterator[JointTest]:
    """Rails that are joined over a joint, each side on its own feeders. Where they are gapped they may differ by
    right: another cab, a reverser. Then they are closed."""
    meeting = MEETINGS[layout.brief.travelling.rail_ends]
    for t in (t for t in joint.tracks if t.gap is None):
        track = layout.tracks[t.track]
        yield JointTest(
            f"{key}/rails/{t.track}.{t.at:.0f}",
            f"{track.name}, rails over the joint",
            f"Power on, nothing bridging the rails yet, meter on volts: each rail of {track.name} to the same rail "
            "beyond the joint.",
            "0 V on both; the whole track volts mean that a pair is swapped",
        )
        yield JointTest(
            f"{key}/closing/{t.track}.{t.at:.0f}",
            f"{track.name}, rails closed",
            meeting.closes,
            meeting.foretold,
        )


def take_down(plan: SettingUp) -> tuple[SetUp, ...]:
    """The steps backwards: the board that stood last comes off first."""
    return plan.steps[::-1]


def boxes(layout: Layout) -> dict[str, list[str]]:
    """Boards that lift out, by the box each travels in, both in order of name; those with none under ``""``."""
    found: dict[str, list[str]] = defaultdict(list)
    for i in lifting_boards(layout):
        found[layout.boards[i].box or ""].append(i)
    return dict(sorted(found.items(), key=lambda kv: (kv[0] == "", natural(kv[0]))))


def spare_connectors(layout: Layout) -> Mapping[str, int]:
    """Pairs of each kind in use that lie in the drawer besides: what to take along as spares."""
    used = Counter(c.kind for c in layout.couplings.values())
    return {k: max(layout.connectors[k].on_hand - n, 0) for k, n in sorted(used.items())}
