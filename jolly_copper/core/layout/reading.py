"""Reading a layout: strict fields first, then everything one field cannot know about another."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from operator import is_
from typing import Any

from pydantic import ValidationError

from jolly_copper.core.layout.bounds import (
    LEAST_JOINER_SPACING_MM,
    MOST_BENDS,
    MOST_JOINERS,
    MOST_TRACK_MM,
    counted,
    joiners_of,
)
from jolly_copper.core.layout.checking import (
    SLOP_MM,
    Problem,
    coupling_problems,
    date_problems,
    power_problems,
    signalling_problems,
    stretch_problems,
)
from jolly_copper.core.layout.document import Layout, Node, Track

PORTS = {
    "joint": {"1", "2"},
    "bumper": {"1"},
    "turnout": {"points", "through", "diverging"},
    "three-way": {"points", "left", "through", "right"},
    "crossing": {"west1", "west2", "east1", "east2"},
    "slip": {"west1", "west2", "east1", "east2"},
}
OPEN_PORTS = {"turntable": re.compile(r"stub\d+"), "traverser": re.compile(r"(west|east)\d+")}
"""Tables have as many ports as there are tracks up to their pit."""
MOST_PROBLEMS = 200
"""Told of one file; who has mended these reads it again."""


class LayoutError(ValueError):
    """A layout that cannot be read. Carries every problem found, each with its path."""

    def __init__(self, problems: list[Problem]) -> None:
        self.problems = problems
        super().__init__("; ".join(f"{p.path}: {p.sentence}" for p in problems[:5]))


def read_layout(data: Any, known: tuple[Mapping[str, Any], Layout] | None = None) -> Layout:
    """Read a layout from plain data (as parsed from JSON).

    Args:
        data: a mapping with the fields of `Layout`.
        known: plain data read before, and what came of it. What stands in both is not read again but shared: it is
            frozen, and much that is worked out of it stays with it.

    Returns:
        The layout, with every id resolved and every distance within its track or run.

    Raises:
        LayoutError: with one `Problem` for each thing that is wrong.
    """
    if not isinstance(data, Mapping):
        raise LayoutError([Problem("", "A layout file holds one object with named fields.")])
    # Counted first: a hundred thousand things with something wrong in each would be told one by one.
    crowds = [Problem(p, s) for p, s in counted({k: len(v) for k, v in data.items() if isinstance(v, Mapping)})]
    if crowds:
        raise LayoutError(crowds)
    try:
        layout = Layout.model_validate(data if known is None else _with_known(data, *known))
        if known is not None:
            _share(layout, known[1])
    except ValidationError as error:
        told = error.errors(include_url=False, include_input=False)[:MOST_PROBLEMS]
        raise LayoutError([in_words(e) for e in told]) from None
    problems = list(_too_much(layout)) or list(_cross_checks(layout))
    if problems:
        raise LayoutError(problems)
    return layout


def _with_known(data: Mapping[str, Any], plain: Mapping[str, Any], layout: Layout) -> dict[str, Any]:
    """The data with what was read before in the place of every entry that is as it was."""
    found = dict(data)
    for key, now in data.items():
        before, read = plain.get(key), getattr(layout, key, None)
        if isinstance(now, dict) and isinstance(before, dict) and isinstance(read, dict):
            found[key] = {i: read[i] if i in read and before.get(i) is thing else thing for i, thing in now.items()}
        elif now is before and isinstance(now, dict):
            found[key] = read
    return found


def _share(layout: Layout, known: Layout) -> None:
    """Let the layout hold the very maps of another that have the same things in them, in the same order."""
    held = layout.__dict__
    for name, before in known.__dict__.items():
        now = held.get(name)
        if isinstance(now, dict) and len(now) == len(before) and all(map(is_, now.values(), before.values())):
            held[name] = before if list(now) == list(before) else now


def in_words(error: Any) -> Problem:
    """One error of a strict model, as a path and a plain sentence."""
    path = "".join(f"/{str(p).replace('~', '~0').replace('/', '~1')}" for p in error["loc"] if p != "[key]")
    kind, context = error["type"], error.get("ctx", {})
    field = str(error["loc"][-1]) if error["loc"] else "layout"
    sentences = {
        "extra_forbidden": f"There is no field called “{field}” here.",
        "missing": f"The field “{field}” is missing.",
        "greater_than_equal": f"This must be {context.get('ge')} or more.",
        "greater_than": f"This must be more than {context.get('gt')}.",
        "less_than_equal": f"This must be {context.get('le')} or less.",
        "literal_error": f"This must be one of {context.get('expected')}.",
        "finite_number": "This must be a finite number.",
        "string_too_short": "This must not be empty.",
        "string_too_long": f"This may have {context.get('max_length')} letters at most.",
        "string_pattern_mismatch": "This is not written the way this field wants it (an id is letters, digits, - _ . "
        "and starts with a letter).",
    }
    sentence = sentences.get(kind)
    if sentence is None:
        text = str(error["msg"]).removeprefix("Value error, ")
        sentence = text[:1].upper() + text[1:] + ("" if text.endswith(".") else ".")
    return Problem(path, sentence)


def _too_much(layout: Layout) -> Iterator[Problem]:
    """What makes a layout larger than this program can work out while somebody waits."""
    bends = sum(len(x.path) for kind in (layout.tracks, layout.runs) for x in kind.values())
    if bends > MOST_BENDS:
        yield Problem("/tracks", f"The paths of all tracks and runs bend {MOST_BENDS} times at most; these {bends}.")
        return
    joiners = 0.0
    total = 0.0
    for i, track in layout.tracks.items():
        length = track_length(track)
        total += length
        if track.joiner_every is not None and track.joiner_every < LEAST_JOINER_SPACING_MM:
            yield Problem(
                f"/tracks/{i}/joiner_every",
                f"Joiners are at least {LEAST_JOINER_SPACING_MM:g} mm apart; leave it empty where there are none.",
            )
        else:
            joiners += joiners_of(length, track.joiner_every)
    if joiners > MOST_JOINERS:
        yield Problem(
            "/tracks", f"A layout has {MOST_JOINERS} joiners at most; as they are spaced, this one has {joiners:.0f}."
        )
    if total > MOST_TRACK_MM:
        yield Problem(
            "/tracks", f"A layout has {MOST_TRACK_MM / 1e6:g} km of track at most; this has {total / 1e6:.0f}."
        )


def track_length(track: Track) -> float:
    """Length of a track, mm: the tape measure's figure when there is one, else the drawing's."""
    return track.tape if track.tape else track.line.length


def _cross_checks(layout: Layout) -> Iterator[Problem]:
    lengths = {i: track_length(t) for i, t in layout.tracks.items()}
    yield from _node_settings(layout)
    yield from _track_ends(layout)
    for i, track in layout.tracks.items():
        if lengths[i] < 1:
            yield Problem(f"/tracks/{i}/path", f"{track.name} has no length.")
    for kind in ("gaps", "sections", "feeders", "signals"):
        for i, thing in getattr(layout, kind).items():
            path = f"/{kind}/{i}"
            if thing.track not in layout.tracks:
                yield Problem(f"{path}/track", f"There is no track {thing.track}.")
            elif thing.at > lengths[thing.track] + SLOP_MM:
                yield Problem(
                    f"{path}/at",
                    f"{thing.at:.0f} mm is past the end of {layout.tracks[thing.track].name}, "
                    f"which is {lengths[thing.track]:.0f} mm long.",
                )
    yield from _wires(layout)
    yield from _measured(layout, lengths)
    yield from power_problems(layout)
    yield from _loads(layout)
    yield from _trains(layout)
    yield from signalling_problems(layout)
    yield from coupling_problems(layout)
    yield from date_problems(layout)
    yield from stretch_problems(layout, lengths)


LIES = {"turnout": ("through", "diverging"), "three-way": ("left", "through", "right")}
"""The ways each kind of turnout can be set."""


def may_lie(node: Node) -> tuple[str, ...]:
    """The ways a junction with points can lie; a slip's say which of its two crossing ways is set."""
    return LIES.get(node.kind, ("through", "diverging"))


def _node_settings(layout: Layout) -> Iterator[Problem]:
    for i, node in layout.nodes.items():
        if node.kind == "three-way" and node.frog == "routing":
            yield Problem(
                f"/nodes/{i}/frog",
                "A three-way that routes power wants gaps on all its inner rails: gap them and call its frogs live.",
            )
        table = OPEN_PORTS.get(node.kind)
        if node.points_at is not None and (table is None or not table.fullmatch(node.points_at)):
            what = "points at a port of its own, such as stub1" if table else "has no bridge to point"
            yield Problem(f"/nodes/{i}/points_at", f"A {node.kind} {what}.")
        if node.kind in LIES and node.lies not in LIES[node.kind]:
            yield Problem(f"/nodes/{i}/lies", f"A {node.kind} lies {', '.join(LIES[node.kind])}.")


def _track_ends(layout: Layout) -> Iterator[Problem]:
    taken: dict[tuple[str, str], str] = {}
    for i, track in layout.tracks.items():
        for end in ("a", "b"):
            port = getattr(track, end)
            path = f"/tracks/{i}/{end}"
            node = layout.nodes.get(port.node)
            if node is None:
                yield Problem(f"{path}/node", f"There is no node {port.node}.")
                continue
            allowed = PORTS.get(node.kind)
            fits = port.port in allowed if allowed else OPEN_PORTS[node.kind].fullmatch(port.port)
            if not fits:
                names = ", ".join(sorted(allowed)) if allowed else "a number to each: stub1, or west1 and east1"
                yield Problem(f"{path}/port", f"A {node.kind} has no port “{port.port}”; it has {names}.")
                continue
            other = taken.setdefault((port.node, port.port), i)
            if other != i or (track.a == track.b and end == "b"):
                yield Problem(f"{path}/port", f"Port {port.port} of {port.node} already holds track {other}.")


MEASURED_IN: dict[str, tuple[str, ...]] = {
    "joiner": ("tracks",),
    "contact": ("terminals", "feeders"),
    "plug": ("plugs",),
    "wire": ("feeders",),
}
"""The things a measured part may be of."""


def _measured(layout: Layout, lengths: dict[str, float]) -> Iterator[Problem]:
    for i, part in layout.measured.items():
        path = f"/measured/{i}"
        where = MEASURED_IN[part.what]
        named, other = (part.track, part.of) if part.what == "joiner" else (part.of, part.track)
        if other is not None or not any(named in getattr(layout, kind) for kind in where):
            names = " or ".join(k.removesuffix("s") for k in where)
            yield Problem(f"{path}/{'track' if part.what == 'joiner' else 'of'}", f"There is no {names} {named}.")
        elif part.track is not None and part.at > lengths[part.track] + SLOP_MM:
            yield Problem(f"{path}/at", f"{layout.tracks[part.track].name} is only {lengths[part.track]:.0f} mm long.")
        if (part.what == "joiner") != (part.side in ("left", "right")):
            wanted = "left or right, its rail" if part.what == "joiner" else "A or B, its conductor"
            yield Problem(f"{path}/side", f"The side of a {part.what} is {wanted}.")


def _wires(layout: Layout) -> Iterator[Problem]:
    run_lengths = {i: r.tape if r.tape else r.line.length for i, r in layout.runs.items()}
    for i, run in layout.runs.items():
        path = f"/runs/{i}"
        if run.circuit not in layout.circuits:
            yield Problem(f"{path}/circuit", f"There is no circuit {run.circuit}.")
        if run_lengths[i] < 1:
            yield Problem(f"{path}/path", f"Run {run.label} has no length.")
        if (run.fed.device is None) == (run.fed.terminal is None):
            yield Problem(f"{path}/fed", "A run is fed by a device or by a terminal: name one of the two.")
        elif run.fed.device is not None:
            device = layout.devices.get(run.fed.device)
            if device is None:
                yield Problem(f"{path}/fed/device", f"There is no device {run.fed.device}.")
            elif device.output != run.circuit:
                yield Problem(f"{path}/fed/device", f"{device.name} feeds {device.output}, not {run.circuit}.")
        elif run.fed.terminal not in layout.terminals:
            yield Problem(f"{path}/fed/terminal", f"There is no terminal {run.fed.terminal}.")
        elif layout.terminals[run.fed.terminal].run == i:
            yield Problem(f"{path}/fed/terminal", "A run cannot be fed from its own terminal.")
        if run.fed.along > run_lengths[i] + SLOP_MM:
            yield Problem(f"{path}/fed/along", f"Run {run.label} is only {run_lengths[i]:.0f} mm long.")
        if run.ends_at_device is not None:
            device = layout.devices.get(run.ends_at_device)
            if device is None:
                yield Problem(f"{path}/ends_at_device", f"There is no device {run.ends_at_device}.")
            elif run.circuit not in (*device.inputs, device.input):
                yield Problem(
                    f"{path}/ends_at_device",
                    f"{device.name} takes its power from {' or '.join(device.inputs) or device.input}, "
                    f"not {run.circuit}.",
                )
        if run.ends_at_terminal is not None and run.ends_at_terminal not in layout.terminals:
            yield Problem(f"{path}/ends_at_terminal", f"There is no terminal {run.ends_at_terminal}.")
    for kind in ("terminals", "plugs"):
        for i, thing in getattr(layout, kind).items():
            if thing.run not in layout.runs:
                yield Problem(f"/{kind}/{i}/run", f"There is no run {thing.run}.")
            elif thing.along > run_lengths[thing.run] + SLOP_MM:
                label = layout.runs[thing.run].label
                yield Problem(f"/{kind}/{i}/along", f"Run {label} is only {run_lengths[thing.run]:.0f} mm long.")
    for i, feeder in layout.feeders.items():
        if feeder.terminal not in layout.terminals:
            yield Problem(f"/feeders/{i}/terminal", f"There is no terminal {feeder.terminal}.")
        elif feeder.other is not None and feeder.other not in layout.terminals:
            yield Problem(f"/feeders/{i}/other", f"There is no terminal {feeder.other}.")
        elif layout.terminals[feeder.terminal].run in layout.runs:
            held = layout.runs[layout.terminals[feeder.terminal].run].wires
            if held != "both" and feeder.other is None:
                yield Problem(
                    f"/feeders/{i}/other", f"Its terminal holds wire {held} only: name one for the other wire."
                )


def _loads(layout: Layout) -> Iterator[Problem]:
    for i, load in layout.loads.items():
        if load.circuit not in layout.circuits:
            yield Problem(f"/loads/{i}/circuit", f"There is no circuit {load.circuit}.")
        if load.terminal is not None:
            terminal = layout.terminals.get(load.terminal)
            if terminal is None:
                yield Problem(f"/loads/{i}/terminal", f"There is no terminal {load.terminal}.")
            elif terminal.run in layout.runs and layout.runs[terminal.run].circuit != load.circuit:
                yield Problem(f"/loads/{i}/terminal", f"Terminal {load.terminal} is on another circuit.")
        if load.at_once > load.count:
            yield Problem(f"/loads/{i}/at_once", f"There are only {load.count} of them.")
        if load.least_volts and load.most_volts and load.least_volts > load.most_volts:
            yield Problem(f"/loads/{i}/most_volts", "The most it stands is less than the least it needs.")


def _trains(layout: Layout) -> Iterator[Problem]:
    for i, train in layout.trains.items():
        for n, kind in enumerate(train.engines):
            if kind not in layout.locos:
                yield Problem(f"/trains/{i}/engines/{n}", f"There is no kind of locomotive {kind}.")
    for i, engine in layout.engines.items():
        if engine.kind not in layout.locos:
            yield Problem(f"/engines/{i}/kind", f"There is no kind of locomotive {engine.kind}.")
    for i, scene in layout.scenes.items():
        for node in scene.bridges:
            if node not in layout.nodes or layout.nodes[node].kind not in OPEN_PORTS:
                yield Problem(f"/scenes/{i}/bridges/{node}", f"There is no bridge {node}.")
        for n, placed in enumerate(scene.placements):
            path = f"/scenes/{i}/placements/{n}"
            if placed.train not in layout.trains:
                yield Problem(f"{path}/train", f"There is no train {placed.train}.")
            for k, circuit in enumerate(placed.circuits):
                if circuit not in layout.circuits:
                    yield Problem(f"{path}/circuits/{k}", f"There is no circuit {circuit}.")
            if (placed.track is None) == (not placed.circuits and not placed.uses):
                yield Problem(
                    path, "A train either roams some districts or uses of track, or stands on one track: say which."
                )
            if placed.track is not None and placed.track not in layout.tracks:
                yield Problem(f"{path}/track", f"There is no track {placed.track}.")
            if placed.track in layout.tracks and (placed.at or 0) > track_length(layout.tracks[placed.track]) + SLOP_MM:
                yield Problem(f"{path}/at", f"That is past the end of {layout.tracks[placed.track].name}.")
