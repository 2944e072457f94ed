"""Why a train stalls at a place, or track is dead though nothing tripped: dirt, frogs, pick-ups, and every part that
may have come open on the way there."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from jolly_copper.core.circuits.points import Floats, Ints
from jolly_copper.core.layout.frogs import JUNCTIONS
from jolly_copper.core.proving.causes import DEAD_READS, Act, Case, Cause
from jolly_copper.core.proving.copper import PRIOR, Ground, Place
from jolly_copper.core.proving.places import EVERYWHERE, Spot, spots
from jolly_copper.core.proving.proving import Proving
from jolly_copper.core.proving.speaking import element_place, element_words
from jolly_copper.core.wirebook.places import node_words, on_track

DIRTY, FROG_NEAR, PICKUPS, BREAKER_OFF, SUPPLY, CABLE = 0.5, 1.0, 0.3, 0.6, 0.4, 0.4
"""Weights. Common practice, no source."""
NEAR_FROG_MM = 400.0
STALL_VOLTS = 11.0
STALL_AMPS = 0.5
LEFT_DEAD_OHMS = 30.0
FROG_HOW = "Volts on the frog, both ways."
MOST_OPEN = 60
MOST_READ = 24
FAR_MM = 4000.0


def stall_case(known: Proving, track: str, at: float) -> Case:
    """What may stop a train, or cut its sound, at one place."""
    place = known.ac.nearest(track, at)
    words = f"a train stalls at {on_track(known.layout, track, at)}"
    if place is None:
        return Case("stalls", words, (), (), ("power to this track",))
    g, row = known.ac.where[place.key]
    ground = known.ac.grounds[g]
    reach = ground.felt[row] * np.minimum(ground.worse(np.inf), 1e4)
    volts = abs(float(ground.open_volts[row]))
    # Only what would bring it under the volts a train stops at comes into question.
    low = volts - STALL_AMPS * (float(ground.loop[row]) + reach) < STALL_VOLTS
    broken = _broken(known, g, [n for n in np.argsort(-reach) if low[n]][:MOST_OPEN])
    causes = [
        Cause("dirty", "dirty rail or wheels there", "other", DIRTY, "Clean rail and wheels; find what soils them."),
        Cause("pick-ups", "the engine's own pick-ups", "other", PICKUPS, "Clean or mend its wipers."),
        *_frogs(known, place),
    ]
    fixed = [
        _look("wipe", "Wipe the rail there, and the wheels of that engine", "Does it run over it now?", 1.5, 0.9),
        _look(
            "other engine", "Run another engine over it", "If that one runs, it is the first engine's own.", 1.0, 0.9
        ),
        *(
            _look(
                f"look:{c.key}",
                f"Look closely at {c.words.split(' of ')[-1]}",
                FROG_HOW,
                2.0,
                0.9,
            )
            for c in causes[2:]
        ),
    ]
    return _case("stalls", words, known, ground, causes, fixed, broken, place)


def dead_case(known: Proving, circuit: str) -> Case:
    """Why track is dead though no breaker is off: what feeds it, or what came open on the way."""
    layout = known.layout
    words = f"{layout.circuits[circuit].name} is dead, and nothing has tripped"
    rows = [
        (g, n) for g, x in enumerate(known.ac.grounds) for n, p in enumerate(x.places) if known.circuit_at(p) == circuit
    ]
    if not rows:
        return Case("dead", words, (), (), (f"track that {layout.circuits[circuit].name} feeds",))
    g = rows[0][0]
    mine = [n for k, n in rows if k == g]
    ground = known.ac.grounds[g]
    # Open, it must leave some of this circuit without power.
    worst = (ground.felt[mine] * np.minimum(ground.worse(np.inf), 1e4)).max(axis=0)
    broken = _broken(known, g, [n for n in np.argsort(-worst) if worst[n] > LEFT_DEAD_OHMS][:MOST_OPEN])
    upstream = known.facts.tree.upstream(circuit)
    causes, fixed = [], []
    for i in upstream:
        name = layout.devices[i].name
        causes.append(
            Cause(f"device:{i}", f"{name} is off or dead", "other", BREAKER_OFF, "Power to it, or another one.")
        )
        fixed.append(_look(f"look:device:{i}", f"Look at {name}: lamp, plugs, volts at its output", "", 1.0, 0.93))
    for key, said, weight, how in (
        ("supply", "the supply behind it is off", SUPPLY, "Look at the supply's lamp and plug"),
        ("control", "a control cable has come off", CABLE, "Look at the control cable at both ends"),
    ):
        causes.append(Cause(key, said, "other", weight, "Plug it in again; tie it down."))
        fixed.append(_look(f"look:{key}", how, "", 0.7, 0.95))
    place = ground.places[int(mine[len(mine) // 2])]
    return _case("dead", words, known, ground, causes, fixed, broken, place)


def _look(key: str, words: str, how: str, minutes: float, finds: float) -> Act:
    return Act(key, words, how, minutes, look=True, finds=finds)


def _frogs(known: Proving, place: Place) -> list[Cause]:
    layout = known.layout
    length = known.facts.rails.lengths[place.track]
    track = layout.tracks[place.track]
    near = [n for n, x in ((track.a.node, place.at), (track.b.node, length - place.at)) if x < NEAR_FROG_MM]
    return [
        Cause(f"frog:{n}", f"the dead frog of {node_words(layout, n)}", "other", FROG_NEAR, "Set its contact.")
        for n in near
        if layout.nodes[n].kind in JUNCTIONS
    ]


def _broken(known: Proving, g: int, elements: Sequence[int | np.integer]) -> list[tuple[Spot, float]]:
    """Things that may be open, with their weight: of the elements given, both wires of a thing as one."""
    wanted = {int(n) for n in elements}
    ground = known.ac.grounds[g]
    found = []
    for spot in spots(known.ac, EVERYWHERE["every joint"]):
        if spot.ground == g and wanted & set(spot.elements):
            parts = [p for n in spot.elements if n in wanted for p in ground.elements[n].parts]
            found.append((spot, sum(PRIOR.get(p.kind, 0.0) for p in parts)))
    return found


def _case(
    symptom: str,
    words: str,
    known: Proving,
    ground: Ground,
    causes: list[Cause],
    fixed: list[Act],
    broken: list[tuple[Spot, float]],
    place: Place,
) -> Case:
    layout = known.layout
    first = len(causes)
    looks: list[tuple[str, str, float, float, tuple[str | None, float | None]]] = []
    for spot, weight in broken:
        element = ground.elements[spot.elements[0]]
        said, where = element_words(layout, known.ac, element), element_place(layout, known.ac, element)
        minutes, finds = (
            (2.5, 0.93) if element.kind == "feeder" else (2.0, 0.9) if element.kind == "run" else (1.5, 0.8)
        )
        key = f"{element.kind}:{spot.owner}:{spot.elements[0]}"
        causes.append(Cause(key, f"{said}, open", "open", weight, "Make the joint anew.", *where))
        looks.append((key, f"Press and meter {said}", minutes, finds, where))
    whole = np.eye(len(causes))
    acts = []
    for n, act in enumerate(fixed):
        acts.append(Act(act.key, act.words, act.how, act.minutes, True, act.finds, whole[n]))
    for n, (key, said, minutes, finds, where) in enumerate(looks):
        acts.append(
            Act(
                f"joint:{key}",
                said,
                "Ohms over it with the power off, or millivolts with a load on.",
                minutes,
                True,
                finds,
                whole[first + n],
                track=where[0],
                at=where[1],
            )
        )
    acts += list(_reads(known, ground, first, [s for s, _ in broken], place))
    return Case("dead" if symptom == "dead" else "stalls", words, tuple(causes), tuple(acts))


def _reads(known: Proving, ground: Ground, first: int, broken: Sequence[Spot], place: Place) -> Iterator[Act]:
    """Ohms of the loop, from volts with a load and without, near the place: z + f²·h with a part open."""
    rows = [n for n, p in enumerate(ground.places) if p.track == place.track and abs(p.at - place.at) < FAR_MM]
    others = [n for n in range(len(ground.places)) if ground.places[n].track != place.track]
    felt: Floats = ground.felt[:, [s.elements[0] for s in broken]] if broken else np.zeros((len(ground.places), 0))
    if broken:
        telling = np.argsort(-np.ptp(np.minimum(felt[others], 1.0), axis=1))[: MOST_READ // 2]
        rows = rows[:: max(1, len(rows) // (MOST_READ // 2))] + [others[int(n)] for n in telling]
    worse = np.minimum(ground.worse(np.inf), 1e4)
    chosen: Ints = np.array(sorted(set(rows))[:MOST_READ], dtype=np.int64)
    for n in chosen:
        loop = float(ground.loop[n])
        part = np.full(first + len(broken), max(loop, 0.02))
        for k, spot in enumerate(broken):
            its = list(spot.elements)
            part[first + k] = min(loop + float((ground.felt[n, its] * worse[its]).max()), DEAD_READS)
        here = ground.places[int(n)]
        yield Act(
            f"ohms:{here.key}",
            f"Volts without and with one ampere at {on_track(known.layout, here.track, here.at)}",
            "Their difference per ampere. No volts at all counts as 60.",
            1.2,
            setup=1.0,
            gear="load of one ampere",
            part=part,
            unit="Ω",
            track=here.track,
            at=here.at,
            caution="The load gets hot: hold it by its clips.",
        )
