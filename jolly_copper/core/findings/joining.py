"""Rules about where wires are joined: terminals, connectors, plugs."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import SAME_PLACE_MM, along_run, cuts_of, point_on_track, terminal_point
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.benchwork import board_at, board_name, lifting_boards, lifting_finder, lifting_joints
from jolly_copper.core.layout.connections import hung_at, pairs_at, plug_holds
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.layout.wiring import Feeder
from jolly_copper.core.materials.connectors import CONNECTORS, PLUG, fits
from jolly_copper.core.materials.joints import TerminalKind
from jolly_copper.core.quantities import print_length, read_gauge
from jolly_copper.core.travel.crossing import NEAR_A_JOINT_MM


def pairs_tied(layout: Layout) -> Counter[str]:
    """Pairs of wire at each terminal: the pieces of its own run, what hangs on it, and loads."""
    found = hung_at(layout)
    cuts = cuts_of(layout)
    for i, terminal in layout.terminals.items():
        places = cuts[terminal.run]
        for n, at in enumerate(places):
            if abs(at - terminal.along) <= SAME_PLACE_MM:
                found[i] += (n > 0) + (n < len(places) - 1)
                break
    return found


@rule("terminal too crowded", "book")
def crowded(facts: Facts) -> Iterator[Finding]:
    """More pairs at a terminal than it has room for."""
    layout, tied = facts.layout, pairs_tied(facts.layout)
    for i, terminal in layout.terminals.items():
        takes = pairs_at(layout, terminal)
        if tied[i] <= takes:
            spare = layout.brief.rules.spare_posts
            if terminal.kind == "screw strip" and takes - tied[i] < spare:
                yield Finding(
                    key=f"no-spare:{i}",
                    rule="terminal too crowded",
                    severity="look",
                    title=f"Terminal {i} has {takes - tied[i]:g} posts for another pair; the house wants {spare:g} "
                    "spare",
                    why="Next year's feeder, or the wire that broke off, has nowhere to go.",
                    mend="A longer strip while it is being mounted.",
                    place=Place("terminal", i),
                    shows=(i,),
                    figures=(("pairs", str(tied[i])), ("takes", str(takes))),
                    mends=(
                        Mend(
                            f"{i} as a strip for {takes + round(spare)} pairs",
                            [{"op": "add", "path": f"/terminals/{i}/pairs", "value": takes + round(spare)}],
                        ),
                    ),
                )
            continue
        kind = "screw strip" if terminal.kind == "screw strip" else terminal.kind
        feeders = [f for f in layout.feeders.values() if f.terminal == i]
        yield Finding(
            key=f"crowded:{i}",
            rule="terminal too crowded",
            severity="should",
            title=f"Terminal {i} has {tied[i]} pairs of wire; a {kind} takes {takes}",
            why="More wires under a screw than it holds work loose, warm up and fall off years later, on an open day.",
            mend="A second strip beside it, joined by a short jumper of the bus gauge; or join feeders first and run "
            "one pair in.",
            place=Place("terminal", i),
            shows=(i, *(k for k, f in layout.feeders.items() if f.terminal == i)),
            figures=(("pairs", str(tied[i])), ("takes", str(takes)), ("feeders", str(len(feeders)))),
            mends=(
                Mend(
                    f"{i} as two strips with a jumper",
                    [{"op": "add", "path": f"/terminals/{i}/pairs", "value": 2 * takes - 1}],
                ),
            )
            if tied[i] <= 2 * takes - 1 and terminal.kind == "screw strip"
            else (),
        )


@rule("connector not rated for its wire", "book")
def not_rated(facts: Facts) -> Iterator[Finding]:
    """A gauge put into connectors that do not hold it: bus by bus and kind by kind, since they are mended together."""
    layout = facts.layout
    for (run_id, kind, gauge), places in _misfits(layout).items():
        run, takes = layout.runs[run_id], CONNECTORS[kind]
        which = ", ".join(places[:3]) + (f" and {len(places) - 3} more" if len(places) > 3 else "")
        many = len(places) > 1
        yield Finding(
            key=f"connector:{run_id}:{kind}:{gauge}",
            rule="connector not rated for its wire",
            severity="must",
            title=f"{gauge} does not fit the {kind}{'s' if many else ''} {which} on bus {run.label}",
            why=f"Such connectors take {takes.words}. A wire too thin slips out, one too thick is held by a few "
            f"strands: both burn.",
            mend="Connectors that say they take this gauge, or solder. What is printed on the connector in hand "
            "comes first.",
            place=Place("terminal", places[0]),
            shows=tuple(places),
            figures=(("gauge", gauge), ("takes", takes.words)),
            mends=(
                Mend(
                    f"Solder at {which}",
                    [{"op": "replace", "path": f"/terminals/{i}/kind", "value": "soldered"} for i in places],
                ),
            )
            if fits(CONNECTORS["soldered"], read_gauge(gauge))
            else (),
        )
    by_run: dict[str, list[str]] = {}
    for i, plug in layout.plugs.items():
        if not plug_holds(plug, read_gauge(layout.runs[plug.run].gauge)):
            by_run.setdefault(plug.run, []).append(i)
    for run_id, plugs in by_run.items():
        run = layout.runs[run_id]
        names = ", ".join(plugs)
        yield Finding(
            key=f"connector:{run_id}:plug",
            rule="connector not rated for its wire",
            severity="must",
            title=f"{run.gauge} of bus {run.label} does not fit plug{'s' if len(plugs) > 1 else ''} {names}",
            why=f"Two-pole plugs of the usual size take {PLUG.words}. A contact held by a few strands burns.",
            mend="Larger plugs that say they take this gauge.",
            place=Place("plug", plugs[0]),
            shows=(*plugs, run_id),
            figures=(("gauge", run.gauge), ("takes", PLUG.words)),
            mends=(
                Mend(
                    f"{names} as plugs that take {run.gauge}",
                    [{"op": "add", "path": f"/plugs/{i}/takes", "value": run.gauge} for i in plugs],
                ),
            ),
        )


def _misfits(layout: Layout) -> dict[tuple[str, TerminalKind, str], list[str]]:
    """Terminals whose kind does not hold the gauge of their bus, or of a feeder tied there."""
    gauges: dict[str, set[str]] = {i: {layout.runs[t.run].gauge} for i, t in layout.terminals.items()}
    for feeder in layout.feeders.values():
        gauges[feeder.terminal].add(feeder.gauge)
    found: dict[tuple[str, TerminalKind, str], list[str]] = {}
    for i, terminal in layout.terminals.items():
        for gauge in sorted(gauges[i]):
            if not fits(CONNECTORS[terminal.kind], read_gauge(gauge)):
                found.setdefault((terminal.run, terminal.kind, gauge), []).append(i)
    return found


@rule("plug missing at a joint", "travel", "book")
def plug_missing(facts: Facts) -> Iterator[Finding]:
    """Wire across the edge of a board that lifts out, with no plug near."""
    layout, units = facts.layout, facts.layout.brief.units
    plugs = defaultdict(list)
    for plug in layout.plugs.values():
        plugs[plug.run].append(plug.along)
    for run_id, run in layout.runs.items():
        line = run.line
        have = plugs[run_id]
        wanting: list[tuple[tuple[str, ...], float]] = []
        for joint in lifting_joints(layout, line):
            at = along_run(run, joint.at)
            if all(abs(at - p) > NEAR_A_JOINT_MM for p in have):
                wanting.append((joint.boards, at))
        if not wanting:
            continue
        names = ", ".join(dict.fromkeys(board_name(layout, b) for boards, _ in wanting for b in boards))
        where = " and ".join(print_length(at, units) for _, at in wanting)
        patch = []
        taken = set(layout.plugs)
        for _, at in wanting:
            new = next_id(taken, "P")
            taken.add(new)
            patch.append({"op": "add", "path": f"/plugs/{new}", "value": {"run": run_id, "along": round(at, 1)}})
        yield Finding(
            key=f"plug-missing:{run_id}",
            rule="plug missing at a joint",
            severity="should",
            title=f"Bus {run.label} crosses the edge of {names} without a plug, {where} from its start",
            why="The board lifts out: somebody will cut this wire, or forget it and tear it.",
            mend="A plug at each joint, its socket on the side that can be live.",
            place=Place("run", run_id),
            shows=(run_id,),
            figures=(("joints without a plug", str(len(wanting))),),
            mends=(Mend(f"{len(wanting)} plug{'' if len(wanting) == 1 else 's'} in {run.label}", patch),),
        )
    yield from feeders_across(layout)


def feeders_across(layout: Layout) -> Iterator[Finding]:
    """Feeders tied on another board than their rail's, where one of the two lifts out."""
    lifting, lifts = lifting_boards(layout), lifting_finder(layout)
    for i, feeder in layout.feeders.items() if lifting else ():
        here = point_on_track(layout, feeder.track, feeder.at)
        across = [t for t in _ends_of(feeder) if lifts(*terminal_point(layout, layout.terminals[t])) != lifts(*here)]
        if not across:
            continue
        rail = board_at(layout, *here)
        tied = board_at(layout, *terminal_point(layout, layout.terminals[across[0]]))
        board = board_name(layout, rail if rail in lifting else tied)
        yield Finding(
            key=f"plug-missing:{i}",
            rule="plug missing at a joint",
            severity="should",
            title=f"Feeder {feeder.label} goes from {board_name(layout, rail)} to a terminal on "
            f"{board_name(layout, tied)}",
            why=f"{board} lifts out, and a feeder has no plug: its rail and its terminal belong on the same board.",
            mend=f"A terminal of bus {layout.runs[layout.terminals[across[0]].run].label} on "
            f"{board_name(layout, rail)}, and the feeder tied there.",
            place=Place("feeder", i, feeder.track, feeder.at),
            shows=(i, *across),
            figures=(("rail on", board_name(layout, rail)), ("tied on", board_name(layout, tied))),
            mends=_terminals_here(layout, i, across, rail),
        )


def _ends_of(feeder: Feeder) -> list[str]:
    return [t for t in dict.fromkeys((feeder.terminal, feeder.other)) if t is not None]


def _terminals_here(layout: Layout, feeder_id: str, across: Sequence[str], board: str | None) -> tuple[Mend, ...]:
    """Each end of a feeder that is tied on another board, tied on the rail's own: at a terminal of the same run that is
    there already, or at one put where the run passes nearest; none where a run does not come there."""
    feeder = layout.feeders[feeder_id]
    patch: Patch = []
    words: list[str] = []
    taken = set(layout.terminals)
    for old in across:
        field = "terminal" if feeder.terminal == old else "other"
        move = {"op": "replace", "path": f"/feeders/{feeder_id}/{field}"}
        here = _terminal_here(layout, feeder, old, board)
        if here is None:
            return ()
        if isinstance(here, str):
            patch.append({**move, "value": here})
            words.append(f"Tie {feeder.label} at {here}")
            continue
        new = next_id(taken, "T")
        taken.add(new)
        patch += [{"op": "add", "path": f"/terminals/{new}", "value": here}, {**move, "value": new}]
        words.append(f"A terminal on {board_name(layout, board)}, and {feeder.label} tied there")
    return (Mend("; ".join(words), patch),)


def _terminal_here(layout: Layout, feeder: Feeder, old: str, board: str | None) -> str | dict[str, object] | None:
    """A terminal on a board of the run that another terminal is on, or one to put there; None where neither goes."""
    run_id = layout.terminals[old].run
    run, rail = layout.runs[run_id], point_on_track(layout, feeder.track, feeder.at)
    there = [
        (math.dist(rail, at), i)
        for i, t in layout.terminals.items()
        if t.run == run_id and board_at(layout, *(at := terminal_point(layout, t))) == board
    ]
    if there:
        return min(there)[1]
    line = run.line
    along, _ = line.nearest(*rail)
    if board is None or board_at(layout, *line.point(along)) != board:
        return None
    return {"run": run_id, "along": round(along_run(run, along), 1), "kind": layout.terminals[old].kind}
