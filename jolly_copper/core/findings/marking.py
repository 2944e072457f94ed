"""Rules about what wires wear: colours and labels."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection, Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import cuts_of
from jolly_copper.core.findings.model import Finding, Mend, Place, Severity, rule
from jolly_copper.core.layout.benchwork import board_finder, board_name
from jolly_copper.core.layout.document import Circuit, Layout
from jolly_copper.core.layout.wiring import Feeder

PAIRS = (
    ("red", "black"),
    ("orange", "black"),
    ("blue", "white"),
    ("green", "white"),
    ("yellow", "brown"),
    ("purple", "grey"),
    ("blue", "yellow"),
    ("green", "brown"),
    ("red", "white"),
    ("orange", "grey"),
    ("purple", "white"),
    ("pink", "black"),
    ("blue", "grey"),
    ("green", "yellow"),
)
"""Pairs to offer, each told from the next in poor light. Ours; no source."""
STEP_MM = 100.0


@rule("colour code broken", "book")
def colours(facts: Facts) -> Iterator[Finding]:
    """Wires that cannot be told apart where they lie, or that wear what the house keeps for something else."""
    layout = facts.layout
    used = {r.circuit for r in layout.runs.values()}
    # Behind a detector the wire is its district's, striped; its label says which section it is.
    sensed = {d.output for d in layout.devices.values() if d.board is not None}
    laid = {i: c for i, c in layout.circuits.items() if i in used and i not in sensed}
    names, boards = list(laid), _boards_of(layout, laid)
    found = _Found(layout)
    for i, circuit in laid.items():
        if circuit.colour_a == circuit.colour_b:
            yield found(
                f"colours-same:{i}",
                "must",
                i,
                (i,),
                f"Both wires of {circuit.name} are {circuit.colour_a}",
                "Nobody can tell which goes to which rail; one crossed pair is a dead short.",
            )
    by_district = layout.brief.rules.colours_by_district
    for n, i in enumerate(names):
        for k in names[n + 1 :]:
            one, other = laid[i], laid[k]
            if _pair(one) == _pair(other):
                kinds = {one.purpose, other.purpose}
                if len(kinds) == 2:
                    yield found(
                        f"colours-shared:{i}:{k}",
                        "should",
                        k if other.purpose != "track" else i,
                        (i, k),
                        f"{one.name} and {other.name} wear the same colours, {one.colour_a} and {one.colour_b}",
                        "One is track, the other accessories: tied together by mistake, track power is on the "
                        "accessory supply.",
                    )
                elif by_district and kinds == {"track"} and (both := boards[i] & boards[k]):
                    where = ", ".join(board_name(layout, b) for b in sorted(both, key=str)[:3])
                    yield found(
                        f"colours-shared:{i}:{k}",
                        "should",
                        k,
                        (i, k),
                        f"{one.name} and {other.name} wear the same colours, and both lie at {where}",
                        "By house rule each district has its own pair, so that a helper under the board knows which "
                        "wire belongs where.",
                    )
            elif ({one.colour_a} & {other.colour_b} or {one.colour_b} & {other.colour_a}) and (boards[i] & boards[k]):
                shared = ({one.colour_a} & {other.colour_b} or {one.colour_b} & {other.colour_a}).pop()
                yield found(
                    f"colours-crossed:{i}:{k}",
                    "look",
                    k,
                    (i, k),
                    f"{shared.capitalize()} is wire A in one and wire B in the other: {one.name} and {other.name}",
                    "Where both are under one board a helper ties one the wrong way round.",
                )
    if not by_district:
        pairs = {_pair(c) for c in laid.values() if c.purpose == "track"}
        if len(pairs) > 1:
            first = next(i for i, c in laid.items() if c.purpose == "track")
            odd = [i for i, c in laid.items() if c.purpose == "track" and _pair(c) != _pair(laid[first])]
            yield Finding(
                key="colours-many",
                rule="colour code broken",
                severity="look",
                title=f"All track wears one pair by house rule, but {len(pairs)} pairs are in use",
                why="A helper who learned one pair takes another for accessories.",
                mend="One pair for all track, or the other house rule.",
                place=Place("circuit", odd[0]),
                shows=tuple(odd),
                figures=(("pairs in use", str(len(pairs))),),
                mends=(
                    Mend(
                        f"All track {laid[first].colour_a} and {laid[first].colour_b}",
                        [op for i in odd for op in _wear(i, _pair(laid[first]))],
                    ),
                ),
            )


class _Found:
    """Makes findings about colours: what all of them say of the layout is worked out once."""

    def __init__(self, layout: Layout) -> None:
        self._layout = layout
        taken = {_pair(c) for c in layout.circuits.values()}
        taken |= {p[::-1] for p in taken}
        self._free = next((p for p in PAIRS if p not in taken), None)
        self._runs: dict[str, list[str]] = defaultdict(list)
        self._rank = {i: n for n, i in enumerate(layout.runs)}
        for i, run in layout.runs.items():
            self._runs[run.circuit].append(i)

    def __call__(
        self, key: str, severity: Severity, mended: str, about: tuple[str, ...], title: str, why: str
    ) -> Finding:
        circuits, free, first = self._layout.circuits, self._free, next(iter(self._runs[mended]), None)
        return Finding(
            key=key,
            rule="colour code broken",
            severity=severity,
            title=title,
            why=why,
            mend="Another pair for one of them, before more wire is cut.",
            place=Place("run", first) if first else Place("circuit", mended),
            shows=tuple(sorted((r for i in set(about) for r in self._runs[i]), key=self._rank.__getitem__)),
            figures=tuple((circuits[i].name, f"{circuits[i].colour_a} + {circuits[i].colour_b}") for i in about),
            mends=(Mend(f"{circuits[mended].name} in {free[0]} and {free[1]}", _wear(mended, free)),) if free else (),
        )


def _wear(circuit: str, pair: tuple[str, str]) -> list[dict[str, object]]:
    return [
        {"op": "replace", "path": f"/circuits/{circuit}/colour_a", "value": pair[0]},
        {"op": "replace", "path": f"/circuits/{circuit}/colour_b", "value": pair[1]},
    ]


def _pair(circuit: Circuit) -> tuple[str, str]:
    return circuit.colour_a, circuit.colour_b


def _boards_of(layout: Layout, circuits: Collection[str]) -> dict[str, set[str | None]]:
    """The boards the runs of each circuit lie under."""
    found: dict[str, set[str | None]] = {i: set() for i in circuits}
    board = board_finder(layout)
    for run in layout.runs.values():
        if run.circuit in found:
            line = run.line
            steps = max(int(line.length / STEP_MM), 1)
            found[run.circuit] |= {board(*line.point(line.length * n / steps)) for n in range(steps + 1)}
    return found


@rule("label repeated", "book")
def repeated(facts: Facts) -> Iterator[Finding]:
    """Two wires, or pieces of wire, that wear the same label."""
    layout = facts.layout
    wears: dict[str, list[tuple[str, str]]] = defaultdict(list)
    for i, places in cuts_of(layout).items():
        label = layout.runs[i].label
        wears[label.strip().lower()].append(("run", i))
        if len(places) > 2:
            for n in range(1, len(places)):
                wears[f"{label.strip().lower()}.{n}"].append(("run", i))
    for i, feeder in layout.feeders.items():
        wears[feeder.label.strip().lower()].append(("feeder", i))
    for label, things in wears.items():
        if len(set(things)) < 2:
            continue
        kind, last = things[-1]
        thing = layout.feeders[last] if kind == "feeder" else layout.runs[last]
        free = last if last.lower() not in wears else f"{last}-2"
        names = " and ".join(f"{'bus' if k == 'run' else 'feeder'} {i}" for k, i in things[:3])
        place = Place("run", last)
        if isinstance(thing, Feeder):
            place = Place("feeder", last, thing.track, thing.at)
        yield Finding(
            key=f"label:{label}",
            rule="label repeated",
            severity="should",
            title=f"{len(things)} wires wear the label {thing.label if '.' not in label else label.upper()}: {names}",
            why="A label answers one question: which wire is this. Two answers cost an evening.",
            mend="A label of its own for each.",
            place=place,
            shows=tuple(i for _, i in things),
            figures=(("wires", str(len(things))),),
            mends=(Mend(f"Label it {free}", [{"op": "replace", "path": f"/{kind}s/{last}/label", "value": free}]),),
        )
