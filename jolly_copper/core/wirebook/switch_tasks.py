"""The work of cabs, one thing at a time: switches of a panel at the bench, cuts of stops and isolated rails under
it."""

from __future__ import annotations

from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.layout.benchwork import board_at
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.stretches import BrakingSection, IsolatedRail
from jolly_copper.core.materials.joints import OPEN_OHMS
from jolly_copper.core.quantities import print_ohms
from jolly_copper.core.wirebook.places import on_track
from jolly_copper.core.wirebook.switch_backs import PINS_SEEN, PanelBack, SwitchBack, panel_back
from jolly_copper.core.wirebook.task import BoardTasks, Task


def panel_tasks(layout: Layout) -> list[BoardTasks]:
    """Every control panel with switches, as work at the bench: its strips, its switches in order, then the proof."""
    found = []
    for i, panel in sorted(layout.panels.items(), key=lambda e: natural(e[1].name)):
        back = panel_back(layout, i)
        if back.switches:
            tasks = (_strips(i, back), *(_switch(layout, s) for s in back.switches), _proof(i, back))
            found.append(BoardTasks(None, panel.name, (), tasks, i))
    return found


def _strips(panel: str, back: PanelBack) -> Task:
    rows = tuple((f"{r.name}, {r.colour}", " · ".join(r.tied)) for r in back.rows)
    return Task(
        f"strips:{panel}",
        "switch",
        "Strips",
        None,
        rows,
        "Row to row, before a wire is tied: open on every pair of rows. Along a combed row: closed, end to end.",
    )


def _switch(layout: Layout, switch: SwitchBack) -> Task:
    rows = [("What", f"{switch.name}: {switch.part}"), ("Lies", "; ".join(switch.lies))]
    rows += [(f"Pin {p.number}", f"{p.label}, {p.colour}" if p.label else p.joins) for p in switch.pins]
    rows += [("Cross", f"pin {a} to pin {b}") for a, b in switch.links]
    out = layout.circuits[layout.devices[switch.device].output]
    meter = (
        f"{PINS_SEEN} Then from each post of {out.name} to the post of what the lever gives: closed in its position, "
        f"over {print_ohms(OPEN_OHMS)} in every other one."
    )
    kind = f"Switch {switch.number}" if not switch.ganged else f"Switch {switch.number}, more poles"
    return Task(f"switch:{switch.device}", "switch", kind, (out.colour_a, out.colour_b), tuple(rows), meter)


def _proof(panel: str, back: PanelBack) -> Task:
    words = (
        "Every lever off: no block's posts closed to any cab's. Every lever on its first way, and on its next: "
        "each block closed to that cab and to no other, with the polarity the labels say."
    )
    count = sum(not s.ganged for s in back.switches)
    rows = (("Check", words), ("How many", f"{count} lever{'s' if count != 1 else ''}, every position of each"))
    return Task(f"check:panel-{panel}/proof", "check", "Off the bench", None, rows, "")


def stretch_tasks(layout: Layout, board: str | None) -> list[Task]:
    """The two cuts of every stop and isolated rail that begins over a board, and what is tied between them."""
    found = []
    both: list[tuple[str, BrakingSection | IsolatedRail]] = [*layout.braking.items(), *layout.isolated.items()]
    for i, s in sorted(both, key=lambda e: natural(e[1].name)):
        if board_at(layout, *point_on_track(layout, s.track, s.at)) != board:
            continue
        stop = isinstance(s, BrakingSection)
        rail = f"the {s.rail} rail" if isinstance(s, BrakingSection) else f"the {s.outer} outer rail"
        rows = (
            ("Cut", f"{rail} only, at both places; looking from the track's end A"),
            ("First cut", on_track(layout, s.track, s.start)),
            ("Second cut", on_track(layout, s.track, s.end)),
            ("Tie between them", _tied(s)),
        )
        meter = f"Across each cut before anything is tied: open, over {print_ohms(OPEN_OHMS)}. " + (
            "Tied: closed through the module one way only." if stop else "A wheelset on it: closed to the other outer."
        )
        found.append(Task(f"{'stop' if stop else 'isolated'}:{i}", "gap", s.name, None, rows, meter))
    return found


def _tied(stretch: BrakingSection | IsolatedRail) -> str:
    if isinstance(stretch, IsolatedRail):
        return f"One wire to {stretch.works}; its other wire to the hot post. No feeder."
    given, taken = stretch.terminal_in or "in", stretch.terminal_out or "out"
    return f"{stretch.module}: {taken} to this rail, {given} to the bus wire of the same rail. No feeder."
