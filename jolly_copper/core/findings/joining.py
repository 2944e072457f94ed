"""Rules about where wires are joined: terminals, connectors, plugs."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import SAME_PLACE_MM, along_run, cuts_of, point_on_track, terminal_point
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.benchwork import board_at, board_name, finder, lifting_joints
from jolly_copper.core.layout.connections import hung_at, pairs_at, plug_holds
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.materials.connectors import CONNECTORS, PLUG, fits
from jolly_copper.core.materials.joints import TerminalKind
from jolly_copper.core.quantities import print_length, read_gauge

NEAR_A_JOINT_MM = 450.0
"""A plug so far from a joint still serves it: it hangs where a hand gets at it. Common practice, no source."""


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


@rule("plug missing at a joint", "book")
def plug_missing(facts: Facts) -> Iterator[Finding]:
    """Wire across the edge of a board that lifts out, with no plug near."""
    layout, units = facts.layout, facts.layout.brief.units
    lifting = {i: b for i, b in layout.boards.items() if b.removable}
    lifts = finder([(i, b.corners) for i, b in lifting.items()])
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
    for i, feeder in layout.feeders.items() if lifting else ():
        ends = (
            point_on_track(layout, feeder.track, feeder.at),
            terminal_point(layout, layout.terminals[feeder.terminal]),
        )
        if lifts(*ends[0]) == lifts(*ends[1]):
            continue
        rail, tied = (board_at(layout, *end) for end in ends)
        across = [b for b in (rail, tied) if b in lifting]
        board = board_name(layout, across[0])
        yield Finding(
            key=f"plug-missing:{i}",
            rule="plug missing at a joint",
            severity="should",
            title=f"Feeder {feeder.label} goes from {board_name(layout, rail)} to a terminal on "
            f"{board_name(layout, tied)}",
            why=f"{board} lifts out, and a feeder has no plug: its rail and its terminal belong on the same board.",
            mend=f"A terminal of bus {layout.runs[layout.terminals[feeder.terminal].run].label} on "
            f"{board_name(layout, rail)}, and the feeder tied there.",
            place=Place("feeder", i, feeder.track, feeder.at),
            shows=(i, feeder.terminal),
            figures=(("rail on", board_name(layout, rail)), ("tied on", board_name(layout, tied))),
            mends=_terminal_here(layout, i, rail),
        )


def _terminal_here(layout: Layout, feeder_id: str, board: str | None) -> tuple[Mend, ...]:
    """A terminal of the same run on the rail's own board, there already or put where the run passes nearest."""
    feeder = layout.feeders[feeder_id]
    run_id = layout.terminals[feeder.terminal].run
    run, rail = layout.runs[run_id], point_on_track(layout, feeder.track, feeder.at)
    move = {"op": "replace", "path": f"/feeders/{feeder_id}/terminal"}
    there = [
        i
        for i, t in layout.terminals.items()
        if t.run == run_id and board_at(layout, *terminal_point(layout, t)) == board
    ]
    if there:
        return (Mend(f"Tie {feeder.label} at {there[0]}", [{**move, "value": there[0]}]),)
    line = run.line
    along, _ = line.nearest(*rail)
    if board is None or board_at(layout, *line.point(along)) != board:
        return ()
    new = next_id(layout.terminals, "T")
    kind = layout.terminals[feeder.terminal].kind
    value = {"run": run_id, "along": round(along_run(run, along), 1), "kind": kind}
    return (
        Mend(
            f"A terminal on {board_name(layout, board)}, and {feeder.label} tied there",
            [{"op": "add", "path": f"/terminals/{new}", "value": value}, {**move, "value": new}],
        ),
    )
