"""Pages of the book for boards that travel: pin lists of both halves, setting up, before the doors open, the way
back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.words import many
from jolly_copper.core.travel.couplings import CouplingRead, couplings_of, joined_by, plain_plugs
from jolly_copper.core.travel.crossing import BoardJoint, joint_name, joints_of, track_crossings
from jolly_copper.core.travel.placing import where_to_hang
from jolly_copper.core.travel.rail_ends import MEETINGS
from jolly_copper.core.travel.setting_up import SetUp, boxes, setting_up, spare_connectors, take_down
from jolly_copper.core.travel.ten_minutes import ten_minutes
from jolly_copper.core.wirebook.book import Block, Chapter, Column, Paragraphs, Table

TICK = Column("Done", 0.4, "tick")


def travel_chapters(facts: Facts, failed: Mapping[str, int] | None = None) -> list[Chapter]:
    """Chapters a layout with boards that lift out has besides; none for one that stays.

    Args:
        facts: of the layout. failed: by joint, how often something failed there at earlier shows.
    """
    layout = facts.layout
    joints = joints_of(facts)
    if not joints:
        return []
    read = couplings_of(facts)
    every = (*read, *plain_plugs(joints, read))
    plan = setting_up(layout, joints)
    lists = tuple(t for j in joints if (t := _pin_list(layout, j, every)).rows)
    set_up: list[Block] = [Paragraphs("Stand already", tuple(board_name(layout, b) for b in plan.standing), True)]
    set_up = set_up if plan.standing else []
    set_up += [_step(layout, s) for s in plan.steps]
    proof = ten_minutes(facts, joints, failed)
    rows = tuple((p.title, p.words, p.foretold, f"{p.seconds:.0f} s", "") for p in (*proof.tried, *proof.later))
    set_up.append(
        Table(
            "Before the doors open",
            (Column("What", 1.4), Column("How", 2.6), Column("Should be", 1.6), Column("Takes", 0.5, "figure"), TICK),
            rows,
            f"{many(len(proof.tried), 'thing')} fit into {layout.brief.travelling.proof_minutes:g} minutes; what "
            "stands below them only if there is time. A coin is touched, never held.",
        )
    )
    set_up.append(Paragraphs("Take down", tuple(way_back(layout, take_down(plan))), True))
    set_up.append(Paragraphs("Packing list", tuple(packing(layout)), True))
    return [
        *([Chapter("joints", "Joints and couplings", lists)] if lists else []),
        Chapter("setting-up", "Setting up and taking down", tuple(set_up)),
    ]


def _pin_list(layout: Layout, joint: BoardJoint, read: Sequence[CouplingRead]) -> Table:
    rows = tuple(
        (r.coupling.name, kind_words(layout, r), str(p.number), p.colour, p.of.label, p.of.power.words)
        for r in read
        if joined_by(r.coupling) == frozenset(joint.boards)
        for p in r.pins
    )
    sockets = sorted(
        {
            f"{r.coupling.name} on {board_name(layout, r.coupling.socket_on)}"
            for r in read
            if joined_by(r.coupling) == frozenset(joint.boards)
        }
    )
    return Table(
        joint_name(layout, joint.boards),
        (
            Column("Coupling", 0.8),
            Column("Kind", 1.6),
            Column("Pin", 0.4, "figure"),
            Column("Wire", 1.0, "colours"),
            Column("Of", 1.3),
            Column("Carries", 1.8),
        ),
        rows,
        f"The same pin on both halves. They hang {where_to_hang(layout, joint).words}. Sockets: {', '.join(sockets)}.",
    )


def kind_words(layout: Layout, read: CouplingRead) -> str:
    """What a coupling is, and how it is keyed where its kind can be."""
    kind = layout.connectors.get(read.coupling.kind)
    if kind is None:
        return "plug of its own"
    return f"{kind.name}, keyed {read.coupling.coding} of {kind.codings}" if kind.codings > 1 else kind.name


def step_words(layout: Layout, step: SetUp) -> str:
    """What is done with a board in its turn."""
    beside = " and ".join(board_name(layout, b) for b in step.beside)
    said = f"Bolt it to {beside}." if beside else "Stand it first, level, with power off."
    if step.couplings:
        said += f" Mate {', '.join(r.coupling.name for r in step.couplings)}."
    return said


def _step(layout: Layout, step: SetUp) -> Block:
    said = step_words(layout, step)
    box = f", out of {step.box}" if step.box else ""
    title = f"{step.number}. {board_name(layout, step.board)}{box}"
    tests = (*step.before, *step.after, *step.live)
    if not tests:
        return Paragraphs(title, (said,))
    return Table(
        title,
        (Column("What", 1.4), Column("How", 3), Column("Should be", 1.4), TICK),
        tuple((t.title, t.words, t.foretold, "") for t in tests),
        said,
    )


def way_back(layout: Layout, steps: Sequence[SetUp]) -> list[str]:
    """Taking down, in sentences."""
    found = ["Engines and cars off into their boxes; then all power off, and supplies unplugged."]
    for step in steps:
        undone = ", ".join(r.coupling.name for r in step.couplings)
        box = f", into {step.box}" if step.box else ""
        loose = f"open {undone}, caps on the sockets; " if undone else ""
        joiners = MEETINGS[layout.brief.travelling.rail_ends].opens if step.tracks else ""
        found.append(f"{board_name(layout, step.board)}: {loose}{joiners}unbolt{box}.")
    return found


def packing(layout: Layout) -> list[str]:
    """What travels in which box, and what goes along beside the boards."""
    found = [
        f"{box or 'By themselves'}: {', '.join(board_name(layout, b) for b in boards)}"
        for box, boards in boxes(layout).items()
    ]
    return found + loose_things(layout)


def loose_things(layout: Layout) -> list[str]:
    """What goes along beside the boards."""
    found = [
        "Meter, test lamp, a coin, and an engine with sound or a lamp",
        "This list, the pin lists, and Read me first",
    ]
    if any(track_crossings(layout)):
        found.append(MEETINGS[layout.brief.travelling.rail_ends].along)
    spare = [f"{n} × {layout.connectors[k].name}" for k, n in spare_connectors(layout).items() if n]
    if spare:
        found.append(f"Spare pairs: {', '.join(spare)}")
    if layout.trains:
        found.append(f"Trains: {', '.join(t.name for t in layout.trains.values())}")
    return found
