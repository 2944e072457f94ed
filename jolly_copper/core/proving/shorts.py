"""Why a breaker trips: what each act would show of every short of its district, worked out by the network."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from jolly_copper.core.circuits.giving import limit_of
from jolly_copper.core.circuits.points import Floats, Ints
from jolly_copper.core.proving.causes import Act, Case
from jolly_copper.core.proving.lifting import Lifted
from jolly_copper.core.proving.proving import Proving
from jolly_copper.core.proving.short_causes import District, Short, district_of, drawn_between, output_of, shorts_of
from jolly_copper.core.wirebook.places import node_words, on_track

READ_STEP = 3
LOOK, LOOK_A_METRE, LOOK_FINDS = 0.3, 0.25, 0.85
CLOSE, CLOSE_FINDS, CLOSE_MM = 0.8, 0.97, 650.0
SMALLEST_DIFFERENCE = 0.2
LAMP = "lamp in series"
LAMP_MINUTES = 4.0


def short_case(known: Proving, circuit: str) -> Case:
    """Everything that may short the district of a circuit, and every act that parts it.

    Args:
        known: the proving of the layout.
        circuit: behind the breaker that trips.
    """
    name = known.layout.circuits[circuit].name
    if known.facts.tree.protection(circuit) is None:
        return Case("trips", name, (), (), (f"the breaker or booster of {name}, with the amps it trips at",))
    here = district_of(known, circuit)
    if here is None:
        return Case("trips", name, (), (), (f"track that {name} feeds",))
    shorts = shorts_of(known, here)
    acts = (*_looks(known, here, shorts), *_readings(known, here, shorts), *_lifts(known, here, shorts))
    device = known.layout.devices[here.device]
    alone = device.kind == "breaker"
    meanwhile = f"Leave {device.name} off: all other districts run on." if alone else ""
    return Case("trips", f"{device.name} trips", tuple(s.cause for s in shorts), acts, meanwhile=meanwhile)


class _Finder:
    """Which shorts a search finds: by what makes them, or by how near they lie on a track."""

    def __init__(self, shorts: Sequence[Short]) -> None:
        self._made: dict[tuple[str, str], list[int]] = {}
        self._count = len(shorts)
        for n, s in enumerate(shorts):
            self._made.setdefault((s.kind, s.thing), []).append(n)
        self._at = np.array([-1.0 if s.cause.at is None else s.cause.at for s in shorts])

    def made_by(self, kind: str, thing: str) -> Floats:
        """1 for each short that this makes."""
        found = np.zeros(self._count)
        found[self._made.get((kind, thing), [])] = 1.0
        return found

    def near(self, track: str, at: float) -> Floats:
        """1 for each thing on the rails within a close search of a place."""
        found = np.zeros(self._count)
        rows = np.array(self._made.get(("metal", track), []), dtype=np.int64)
        found[rows[np.abs(self._at[rows] - at) <= CLOSE_MM]] = 1.0
        return found


def _looks(known: Proving, here: District, shorts: Sequence[Short]) -> Iterator[Act]:
    layout = known.layout
    finder = _Finder(shorts)
    seen: set[tuple[str, str]] = set()
    for short in shorts:
        kind, thing = short.kind, short.thing
        track, at = short.cause.track, short.cause.at
        if kind in ("metal", "train") and track is not None and at is not None:
            close = finder.near(track, at)
            if kind == "metal":
                where = on_track(layout, track, at)
                how = "Between the rails, at joints, under couplers; a pin, a chip of solder, a wire end."
                yield Act(
                    f"close:{short.cause.key[6:]}",
                    f"Search the metre round {where}",
                    how,
                    CLOSE,
                    True,
                    CLOSE_FINDS,
                    close,
                    track=track,
                    at=at,
                )
        if (kind, thing) in seen:
            continue
        seen.add((kind, thing))
        mine = finder.made_by(kind, thing)
        minutes, finds = 2.0, 0.9
        if kind == "metal":
            words, how = f"Look along {layout.tracks[thing].name}", "Wheels off the rail, pins, tools, cars leaning."
            minutes, finds = LOOK + LOOK_A_METRE * known.facts.rails.lengths[thing] / 1000, LOOK_FINDS
        elif kind == "train":
            words, how = f"Lift the train off {layout.tracks[thing].name}", "Does the breaker hold once it is off?"
            minutes, finds = 0.8, 0.95
        elif kind == "frog":
            words, how = f"Look closely at {node_words(layout, thing)}", "Frog gaps, blades, the contact below."
        elif kind == "feeder":
            words = f"Look at feeder {layout.feeders[thing].label or thing} and meter it"
            how, minutes, finds = "Both wires off the strip: rail to rail, then wire to wire.", 2.5, 0.93
        elif kind == "terminal":
            words, how = f"Look closely at {thing}", "Stray strands from post to post."
        elif kind == "run":
            words = f"Follow run {layout.runs[thing].label or thing}"
            how, minutes, finds = "Where it goes through a brace or under a screw.", 3.0, 0.85
        else:
            words = f"Unplug all behind {layout.devices[thing].name}"
            how, finds = "Does it still trip with nothing on it?", 0.95
        yield Act(f"{kind}:{thing}", words, how, minutes, True, finds, mine, track=track, at=at)


def _readings(known: Proving, here: District, shorts: Sequence[Short]) -> Iterator[Act]:
    """Millivolts rail to rail with one ampere through a lamp in place of the breaker: V_p = a·part + b."""
    ground = here.ground
    island = ground.island
    out = output_of(here)
    taken = [
        n
        for n, e in enumerate(ground.elements)
        if e.kind == "source" or (e.kind == "device" and e.owner == here.device)
    ]
    lifted = Lifted(island, taken)
    drawn = lifted.columns(island.between_nodes(*out))
    one, other = [s.a for s in shorts], [s.b for s in shorts]
    through = lifted.columns(island.resistance.columns(drawn_between(ground, shorts)))
    rows = np.arange(len(shorts))
    own = through[one, rows] - through[other, rows]
    flows = (drawn[one] - drawn[other]) / np.maximum(own, 1e-9)
    read: Ints = np.array(here.rows[::READ_STEP], dtype=np.int64)
    pick = island.pick(ground.points.take(read))
    seen = np.abs(np.asarray(pick @ drawn)[:, None] - np.asarray(pick @ through) * flows[None, :])
    for k, n in enumerate(read):
        place = ground.places[int(n)]
        yield Act(
            f"mv:{place.key}",
            f"Millivolts from rail to rail at {on_track(known.layout, place.track, place.at)}",
            "With a lamp of one ampere in place of the breaker. The fewer, the nearer to the short.",
            0.6,
            setup=LAMP_MINUTES,
            gear=LAMP,
            part=seen[k],
            unit="V",
            unknown_base=True,
            track=place.track,
            at=place.at,
            caution="The lamp gets hot. The rails carry its ampere and no more.",
        )


def _lifts(known: Proving, here: District, shorts: Sequence[Short]) -> Iterator[Act]:
    """Plugs opened and runs lifted at their start: does the breaker hold then? Worked out, never assumed."""
    layout, ground = known.layout, here.ground
    device = layout.devices[here.device]
    trip = device.trip_amps or 0.1
    source = known.facts.tree.source(device.output)
    limit = limit_of(layout, source[0]).amps if source else np.inf
    plugs: dict[str, list[int]] = {}
    starts: dict[str, dict[str, int]] = {}
    for n, element in enumerate(ground.elements):
        if element.kind != "run" or layout.runs[element.owner].circuit not in here.circuits:
            continue
        for part in element.parts:
            if part.kind == "plug":
                plugs.setdefault(part.owner, []).append(n)
        if layout.runs[element.owner].fed.terminal is not None:
            starts.setdefault(element.owner, {}).setdefault(element.conductor, n)
    asked = [(f"plug:{p}", f"Open plug {p}", 1.0, ns) for p, ns in sorted(plugs.items())]
    for run, by in sorted(starts.items()):
        words = f"Lift run {layout.runs[run].label or run} off {layout.runs[run].fed.terminal}"
        asked.append((f"start:{run}", words, 3.0, list(by.values())))
    for key, words, minutes, numbers in asked:
        amps = _short_amps(here, shorts, numbers, limit)
        holds = 0.03 + 0.94 / (1 + (np.maximum(amps, 0.0) / trip) ** 8)
        holds = np.where([bool(s.own) and set(s.own) <= set(numbers) for s in shorts], 0.97, holds)
        if float(np.ptp(holds)) < SMALLEST_DIFFERENCE:
            continue  # the rails carry round: it would tell nothing
        how = "Power on again: does the breaker hold?"
        yield Act(key, words, how, minutes, yes=holds, yes_words="It holds", no_words="It trips again")


def _short_amps(here: District, shorts: Sequence[Short], lifted: Sequence[int], limit: float) -> Floats:
    """A through each short with these elements lifted, as the source bounds them."""
    island = here.ground.island
    change = Lifted(island, lifted)
    volts = change.columns(island.open_volts_by_node)
    one, other = [s.a for s in shorts], [s.b for s in shorts]
    rows = np.arange(len(shorts))
    solved = change.columns(island.resistance.columns(drawn_between(here.ground, shorts)))
    loop = solved[one, rows] - solved[other, rows]
    ohms = np.array([s.cause.ohms for s in shorts])
    return np.asarray(np.minimum(np.abs(volts[one] - volts[other]) / (loop + ohms), limit))
