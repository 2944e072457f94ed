"""Where the work stands: every step not begun, begun, to settle or sound, with the reason and the next act.

The order is the one in which nothing is laid twice: what cuts the rails (reversing sections, districts, blocks) comes
before the wire that feeds the pieces. Wish and judgement are kept apart: what a club said it does not want is sound.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import ORDER, STEPS, Finding, Place
from jolly_copper.core.layout.benchwork import lifting_boards
from jolly_copper.core.layout.control import controls, has_three_rails
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.travel.crossing import joints_of

StepName = Literal[
    "brief",
    "track",
    "reverse",
    "trains",
    "zones",
    "cabs",
    "detect",
    "signal",
    "wire",
    "travel",
    "rehearse",
    "book",
    "bench",
]
Condition = Literal["not begun", "begun", "to settle", "sound"]
Urgency = Literal["now", "soon", "some day"]


@dataclass(frozen=True)
class Next:
    """The next act of a step: a sentence to do, how soon, and where (a place on the plan, a finding), if anywhere."""

    words: str
    urgency: Urgency
    place: Place | None = None
    finding: str | None = None


@dataclass(frozen=True)
class Standing:
    """How one step stands. reason: why it is said to stand so. must: whether one of its findings is a must."""

    step: StepName
    condition: Condition
    reason: str
    act: Next | None
    must: bool = False


@dataclass(frozen=True)
class Said:
    """What a step says of itself before its findings are looked at."""

    condition: Literal["not begun", "begun", "sound"]
    reason: str
    act: str = ""
    place: Place | None = None
    urgency: Urgency = "now"


URGENCY: dict[str, Urgency] = {"must": "now", "should": "soon", "look": "some day"}
HOW_SOON: dict[Urgency, int] = {"now": 0, "soon": 1, "some day": 2}
UNFINISHED = frozenset({"piece without feeder", "wire with no source"})
"""Findings of work that is under way rather than wrong."""


@dataclass(frozen=True)
class Proved:
    """Tests by meter: how many read sound, and how many not."""

    sound: int = 0
    bad: int = 0


NOTHING_PROVED = Proved()


def work_order(
    facts: Facts, found: Sequence[Finding], done: int = 0, proved: Proved = NOTHING_PROVED
) -> tuple[Standing, ...]:
    """How every step stands, in the order the work is best done.

    Args:
        facts: of the layout.
        found: its findings, as `check` answers them; accepted ones count as settled.
        done: tasks recorded as done under the boards.
        proved: tests by meter.
    """
    open_ones = [f for f in found if f.accepted is None]
    mine: dict[str, list[Finding]] = {step: [] for step in SAYS}
    for f in open_ones:
        for step in STEPS[f.rule] or ("wire",):
            mine[step].append(f)
    said = {step: say(facts, mine[step], done) for step, say in SAYS.items()}
    said["bench"] = _bench(facts, mine["bench"], done, proved)
    return tuple(_standing(step, says, mine[step]) for step, says in said.items())


def next_step(order: Sequence[Standing]) -> Standing | None:
    """The step to go on with: the first whose act is most urgent; None where everything is sound."""
    acting = [s for s in order if s.act is not None]
    return min(acting, key=lambda s: HOW_SOON[s.act.urgency] if s.act else 9, default=None)


def _standing(step: StepName, said: Said, mine: Sequence[Finding]) -> Standing:
    if said.condition != "sound" or (not mine and said.act):
        act = Next(said.act, said.urgency, said.place) if said.act else None
        return Standing(step, said.condition, said.reason, act)
    if not mine:
        return Standing(step, "sound", said.reason, None)
    worst = min(mine, key=lambda f: ORDER[f.severity])
    musts = sum(f.severity == "must" for f in mine)
    reason = _counted(len(mine), "thing to settle", "things to settle") + (f", {musts} of them a must" if musts else "")
    act = Next(worst.title, URGENCY[worst.severity], worst.place, worst.key)
    return Standing(step, "to settle", f"{reason}.", act, musts > 0)


def _counted(count: int, one: str, many: str) -> str:
    return f"{count} {one if count == 1 else many}"


def _brief(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    if not facts.layout.brief.lead:
        return Said(
            "begun",
            "Scale, control and units are settled; who leads the wiring is not.",
            "Say who leads the wiring: the name stands on every page of the book.",
            urgency="some day",
        )
    return Said("sound", f"Settled; {facts.layout.brief.lead} leads the wiring.")


def _track(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    layout = facts.layout
    if not layout.tracks:
        return Said("not begun", "Nothing is drawn yet.", "Draw the first track, or take in a drawing.")
    ends = _open_ends(layout)
    tail = f" {_counted(ends, 'end is', 'ends are')} open." if ends else ""
    return Said("sound", f"{_counted(len(layout.tracks), 'track', 'tracks')} drawn.{tail}")


def _open_ends(layout: Layout) -> int:
    """Joints that only one track reaches."""
    reached: dict[str, int] = {}
    for track in layout.tracks.values():
        for port in (track.a, track.b):
            reached[port.node] = reached.get(port.node, 0) + 1
    return sum(n.kind == "joint" and reached.get(i, 0) == 1 for i, n in layout.nodes.items())


def _reverse(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    if not facts.layout.tracks:
        return Said("not begun", "There is no track to come back on.")
    layout = facts.layout
    if all(has_three_rails(layout, t) for t in layout.tracks.values()):
        return Said("sound", "Both running rails are one conductor: a train may come back on itself.")
    sections = sum(d.kind in ("reverser", "reversing switch") for d in facts.layout.devices.values())
    if sections:
        return Said("sound", f"{_counted(sections, 'reversing section is', 'reversing sections are')} fed for it.")
    return Said("sound", "No train comes back on itself.")


def _trains(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    layout = facts.layout
    if not layout.trains:
        return Said("not begun", "No train is named.", "Name the trains that run, and what their engines draw.")
    if not layout.scenes:
        return Said("begun", "There is no scene yet.", "Make a scene: who runs where at once.")
    placed = {p.train for s in layout.scenes.values() for p in s.placements}
    homeless = [i for i in layout.trains if i not in placed]
    if homeless:
        few = f"{len(homeless)} of {len(layout.trains)}"
        verb = "has" if len(homeless) == 1 else "have"
        return Said(
            "begun", f"{few} trains {verb} no place in any scene.", f"Say where trains run: {few} {verb} no place."
        )
    guesses = sum(not k.measured for k in layout.locos.values())
    words = f"{_counted(len(layout.trains), 'train has', 'trains have')} a place."
    if guesses:
        kinds = f"{guesses} of {_counted(len(layout.locos), 'kind', 'kinds')} of engine"
        return Said("sound", words, f"Measure what {kinds} draw; until then they go by a guess.", urgency="some day")
    return Said("sound", f"{words} Every kind of engine is measured.")


def _zones(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    layout = facts.layout
    fed = {i for i, c in layout.circuits.items() if c.purpose == "track"}
    if not any(d.kind in SOURCES and d.output in fed for d in layout.devices.values()):
        return Said("not begun", "No track power is placed.", "Place the first booster, or press Divide for me.")
    if not layout.sections:
        return Said("begun", "No district has track yet.", "Paint track into its districts, or press Divide for me.")
    held = sum(s.circuit in fed for s in layout.sections.values())
    return Said("sound", f"{_counted(held, 'section has', 'sections have')} a district.")


def _cabs(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    layout = facts.layout
    kinds = controls(layout)
    switches = sum(d.kind == "selector" and d.gang is None for d in layout.devices.values())
    if switches:
        return Said("sound", f"{_counted(switches, 'switch chooses', 'switches choose')} who drives what.")
    if not layout.tracks:
        return Said("not begun", "There is no track to drive.")
    if kinds == {"dcc"}:
        return Said("sound", "Digital alone: no switch chooses between sources.")
    sources = sum(d.kind in SOURCES for d in layout.devices.values())
    if not sources:
        return Said("not begun", "No cab or transformer is placed.", "Place the cabs or transformers, in step Zones.")
    if "dc" in kinds and sources > 1:
        return Said(
            "begun", "No block has a selector.", "Press Block it for cabs: who drives where is chosen by block."
        )
    return Said("sound", f"{_counted(sources, 'source drives', 'sources drive')} all there is.")


def _detect(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    layout = facts.layout
    if not layout.brief.detecting.wanted:
        return Said("sound", "The club wants no detection, as the step says.")
    channels = sum(d.kind == "detector" for d in layout.devices.values())
    if not channels:
        words = "Press Block it, or say there that the club wants no detection."
        return Said("not begun", "No track is watched by a detector.", words)
    return Said("sound", f"{_counted(channels, 'section is', 'sections are')} watched.")


def _signal(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    layout = facts.layout
    if not layout.brief.signalling.wanted:
        return Said("sound", "The club wants no signals, as the step says.")
    if not layout.signals:
        words = "Press Signal it, or say there that the club wants no signals."
        return Said("not begun", "No signal is planned.", words)
    return Said("sound", f"{_counted(len(layout.signals), 'signal', 'signals')} planned.")


def _wire(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    layout = facts.layout
    if not layout.runs and not layout.feeders:
        return Said("not begun", "No wire is laid.", "Press Lay it, or draw the first bus.")
    waiting = [f for f in mine if f.rule in UNFINISHED]
    if waiting and len(waiting) == sum(f.severity == "must" for f in mine):
        reason = f"{_counted(len(waiting), 'piece waits', 'pieces wait')} for wire."
        return Said("begun", reason, waiting[0].title, waiting[0].place)
    buses, feeders = _counted(len(layout.runs), "bus", "buses"), _counted(len(layout.feeders), "feeder", "feeders")
    return Said("sound", f"{buses} and {feeders} laid.")


def _travel(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    layout = facts.layout
    if not layout.tracks:
        return Said("not begun", "There is no board with track on it.")
    lifting = len(lifting_boards(layout))
    if not lifting:
        return Said("sound", "No board lifts out.")
    crossed = [j for j in joints_of(facts) if j.crossings]
    boards = _counted(lifting, "board lifts", "boards lift")
    if not crossed:
        return Said("sound", f"{boards} out; no wire crosses a joint yet.")
    if not layout.couplings:
        words = "List the connectors the club owns, in step Travel, and press Plug the joints."
        return Said("sound", f"{boards} out, each pair with a plug of its own.", words, urgency="some day")
    couplings = _counted(len(layout.couplings), "coupling", "couplings")
    return Said("sound", f"{boards} out, with {couplings} at {_counted(len(crossed), 'joint', 'joints')}.")


def _rehearse(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    layout = facts.layout
    if not layout.plans:
        words = "Make a plan of an evening from a scene, and run it before any wire is cut."
        return Said("not begun", "No evening is planned yet.", words, urgency="some day")
    gone = [
        p.name
        for p in layout.plans.values()
        if any(
            t.train not in layout.trains or any(x not in layout.tracks for x in (t.track, *(c.track for c in t.calls)))
            for t in p.trains.values()
        )
    ]
    if gone:
        words = f"{gone[0]} names a train or a track that is gone: say another, or take it out."
        return Said("begun", f"{_counted(len(gone), 'plan does', 'plans do')} not fit the railroad.", words)
    return Said("sound", f"{_counted(len(layout.plans), 'evening is', 'evenings are')} planned.")


def _book(facts: Facts, mine: Sequence[Finding], done: int) -> Said:
    layout = facts.layout
    if not layout.runs and not layout.feeders:
        return Said("not begun", "There is no wire to write down yet.")
    if not done:
        words = "Print the boards' pages, or open Under the boards on a phone and log what is wired."
        return Said("sound", "Written; nothing is logged as wired yet.", words, urgency="some day")
    return Said("sound", f"{_counted(done, 'task is', 'tasks are')} logged as done under the boards.")


def _bench(facts: Facts, mine: Sequence[Finding], done: int, proved: Proved = NOTHING_PROVED) -> Said:
    layout = facts.layout
    if not layout.runs and not layout.feeders:
        return Said("not begun", "There is no wire to prove yet.")
    if proved.bad:
        words = (
            f"Bench: {_counted(proved.bad, 'test reads', 'tests read')} not sound; Readings says which part is likely."
        )
        return Said("begun", f"{_counted(proved.bad, 'test is', 'tests are')} not sound.", words, urgency="soon")
    if not proved.sound:
        words = "Bench: prove the wire by meter; most bad joints stop no train until a second one does."
        return Said("not begun", "Nothing is proved by meter yet.", words, urgency="some day")
    return Said("sound", f"{_counted(proved.sound, 'test reads', 'tests read')} sound.")


SAYS: dict[StepName, Callable[[Facts, Sequence[Finding], int], Said]] = {
    "brief": _brief,
    "track": _track,
    "reverse": _reverse,
    "trains": _trains,
    "zones": _zones,
    "cabs": _cabs,
    "detect": _detect,
    "signal": _signal,
    "wire": _wire,
    "travel": _travel,
    "rehearse": _rehearse,
    "book": _book,
    "bench": _bench,
}
