"""Rules about signals: detection behind them, turnouts that report, where they stand, what drives them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.quantities import print_current, print_length
from jolly_copper.core.rails.ways import TrackEnd
from jolly_copper.core.signals.aspects import signalling_of
from jolly_copper.core.signals.outputs import driver_amps, outputs_of, resistor_for
from jolly_copper.core.signals.routes import BEFORE_GAP_MM

FEW = 5


@rule("signal with no detection behind it", "signal")
def blind(facts: Facts) -> Iterator[Finding]:
    """Signals that lead into track where nothing looks."""
    layout = facts.layout
    if not layout.signals:
        return
    known = signalling_of(facts)
    for i, routes in known.routes.items():
        signal = layout.signals[i]
        dark = sorted(
            {known.sensed[n].name for r in routes for n in r.sections if known.sensed[n].device is None}, key=natural
        )
        beside = any(r.sections and all(known.sensed[n].device is not None for n in r.sections) for r in routes)
        if dark:
            yield Finding(
                key=f"no-detection:{i}",
                rule="signal with no detection behind it",
                severity="look" if beside else "should",
                title=f"Signal {signal.name} leads into "
                f"{', '.join(dark[:FEW])}{' and more' if len(dark) > FEW else ''}, where nothing detects a train",
                why="Set that way it cannot tell whether the track is clear, and shows restricting at best; its other "
                "ways are detected."
                if beside
                else "It cannot tell whether the way is clear, so it shows restricting at best: a head that never "
                "clears.",
                mend="A detection section there (step Detect), or end the signalled way before it.",
                place=Place("signal", i, signal.track, signal.at),
                shows=(i, signal.track),
                figures=(("sections without a detector", str(len(dark))),),
            )
        if not routes or all(not r.sections for r in routes):
            yield Finding(
                key=f"faces-nothing:{i}",
                rule="signal with no detection behind it",
                severity="must",
                title=f"Signal {signal.name} on {layout.tracks[signal.track].name} faces nothing",
                why="Beyond it the track ends, or trains run only the other way: no train is ever led by it.",
                mend="Turn it to face the other way, or take it away.",
                place=Place("signal", i, signal.track, signal.at),
                shows=(i, signal.track),
                figures=(("ways it leads", "0"),),
                mends=(
                    Mend(
                        "Face it the other way",
                        [
                            {
                                "op": "replace",
                                "path": f"/signals/{i}/towards",
                                "value": "a" if signal.towards == "b" else "b",
                            }
                        ],
                    ),
                    Mend(f"Take {signal.name} away", [{"op": "remove", "path": f"/signals/{i}"}]),
                ),
            )


@rule("turnout without report", "signal")
def silent(facts: Facts) -> Iterator[Finding]:
    """Turnouts in signalled routes that do not tell how they lie."""
    layout = facts.layout
    if not layout.signals:
        return
    led: dict[str, set[str]] = defaultdict(set)
    for r in signalling_of(facts).numbered:
        for s in r.needs:
            led[s.node].add(layout.signals[r.signal].name)
    for node_id in sorted(led, key=natural):
        node = layout.nodes[node_id]
        if node.reports:
            continue
        name, names = node.name or node_id, sorted(led[node_id], key=natural)
        track = next((i for i, t in layout.tracks.items() if node_id in (t.a.node, t.b.node)), None)
        yield Finding(
            key=f"no-report:{node_id}",
            rule="turnout without report",
            severity="must",
            title=f"Turnout {name} does not report how it lies, and {len(names)} "
            f"signal{'s' if len(names) != 1 else ''} depend{'' if len(names) != 1 else 's'} on it",
            why=f"{', '.join(names[:FEW])}{' and more' if len(names) > FEW else ''} would clear for the way somebody "
            f"commanded, not the way the points lie.",
            mend="A contact on its motor, wired to an input; boards that cannot report are bought in vain.",
            place=Place("node", node_id, track, 0.0),
            shows=(node_id,),
            figures=(("signals", str(len(names))),),
            mends=(Mend(f"{name} reports", [{"op": "add", "path": f"/nodes/{node_id}/reports", "value": True}]),),
        )


@rule("signal beyond its gap", "signal")
def beyond(facts: Facts) -> Iterator[Finding]:
    """Signals that stand in the section they protect, or far before it."""
    layout, units = facts.layout, facts.layout.brief.units
    if not layout.signals:
        return
    known = signalling_of(facts)
    for i, signal in layout.signals.items():
        if known.yard.gap_ahead(signal) is not None or not known.routes[i]:
            continue
        marks = [p.end for p in facts.rails.pieces[signal.track][:-1]]
        past = [abs(signal.at - m) for m in marks if (signal.at > m) == (signal.towards == "b")]
        back = min(past, default=None)
        passed = back is not None and back <= BEFORE_GAP_MM
        gap = next((m for m in marks if back is not None and abs(abs(signal.at - m) - back) < 0.1), None)
        right = None if gap is None else round(gap - 60 if signal.towards == "b" else gap + 60, 1)
        patch = (
            [{"op": "replace", "path": f"/signals/{i}/at", "value": right}]
            if passed and right is not None and right >= 0
            else []
        )
        yield Finding(
            key=f"beyond-gap:{i}",
            rule="signal beyond its gap",
            severity="must" if passed else "should",
            title=f"Signal {signal.name} stands {print_length(back, units)} beyond the gap of the section it protects"
            if passed and back is not None
            else f"No gap follows within {print_length(BEFORE_GAP_MM, units)} of signal {signal.name}",
            why="A train that waits at it stands in the section it protects, so it never clears for it."
            if passed
            else "The section the train waits in is the one the signal protects: it stays at stop for the train it "
            "should let go.",
            mend="Before the gap, seen from the train that comes."
            if passed
            else "Move it up to the gap, or cut one just beyond it.",
            place=Place("signal", i, signal.track, signal.at),
            shows=(i, signal.track),
            figures=(("beyond the gap", print_length(back, units) if back is not None else "no gap"),),
            mends=(Mend(f"Move {signal.name} before its gap", patch),) if patch else (),
        )


@rule("overlapping routes", "signal")
def overlapping(facts: Facts) -> Iterator[Finding]:
    """Track that joins a signalled way without a signal of its own: a train may come out of it into a cleared route."""
    layout = facts.layout
    if not layout.signals:
        return
    known = signalling_of(facts)
    told: set[str] = set()
    # Their own signals lead over these already.
    led = {n for r in known.numbered for n in r.nodes if layout.nodes[n].kind != "joint"}
    at_node: dict[str, list[TrackEnd]] = defaultdict(list)
    for i, t in layout.tracks.items():
        at_node[t.a.node].append(TrackEnd(i, "a"))
        at_node[t.b.node].append(TrackEnd(i, "b"))
    guarded: set[tuple[str, str]] = {(s.track, s.towards) for s in layout.signals.values()}
    for route in known.numbered:
        own = {leg.track for leg in route.legs}
        for setting in route.needs:
            for track_id, end in at_node[setting.node]:
                track = layout.tracks[track_id]
                far = track.b.node if end == "a" else track.a.node
                if far in led or track_id in own or track_id in told:
                    continue
                joins_main = any(layout.tracks[e.track].use in RUN_OVER for e in at_node[setting.node])
                if track.use in STOOD_ON and not joins_main:
                    continue
                runs_away = track.runs == ("backward" if end == "b" else "forward")
                if (track_id, end) in guarded or runs_away or _guarded_before(facts, track_id, end, guarded):
                    continue
                told.add(track_id)
                name = layout.nodes[setting.node].name or setting.node
                length = facts.rails.lengths[track_id]
                yield Finding(
                    key=f"unsignalled:{track_id}",
                    rule="overlapping routes",
                    severity="should",
                    title=f"{track.name} joins a signalled way at {name} without a signal of its own",
                    why=f"A train may come out of it while {layout.signals[route.signal].name} is clear over the "
                    f"same turnout; nothing tells its driver to stop.",
                    mend="A dwarf where trains on it must wait, clear of the turnout.",
                    place=Place("track", track_id, track_id, length if end == "b" else 0.0),
                    shows=(track_id, route.signal),
                    figures=(("joins at", name),),
                )


STOOD_ON = frozenset({"industry", "engine terminal", "programming", "yard", "staging"})
RUN_OVER = frozenset({"main", "branch", "siding"})


def _guarded_before(facts: Facts, track: str, end: str, guarded: set[tuple[str, str]]) -> bool:
    """Whether every way onto this track, towards this end, passes a signal on the track before it, or there is none."""
    ways = facts.topology.ways
    far = TrackEnd(track, "b" if end == "a" else "a")
    before = ways.onward(far)
    if not before or facts.rails.lengths[track] > 2000:
        return False
    return all((e.track, e.end) in guarded for e in before)


@rule("outputs of signals", "signal", "book")
def outputs(facts: Facts) -> Iterator[Finding]:
    """Outputs used twice or not there, lamps that ask too much, supplies too weak for their lamps."""
    layout = facts.layout
    seen: dict[tuple[str, int], list[tuple[str, str, str]]] = defaultdict(list)
    for out in outputs_of(layout):
        seen[out.driver, out.number].append((out.kind, out.id, out.what))
        driver = layout.drivers[out.driver]
        if out.number > driver.outputs:
            yield Finding(
                key=f"output:{out.driver}:{out.number}",
                rule="outputs of signals",
                severity="must",
                title=f"{out.what} is on output {out.number} of {driver.name}, which has {driver.outputs}",
                why="It has nowhere to be tied.",
                mend="Another board, or outputs that follow on.",
                place=Place(out.kind, out.id),
                shows=(out.id, out.driver),
                figures=(("outputs", str(driver.outputs)),),
            )
        if out.kind == "signal" and out.amps > driver.most + 1e-9 and layout.signals[out.id].kind != "semaphore":
            yield Finding(
                key=f"output-amps:{out.id}:{out.number}",
                rule="outputs of signals",
                severity="must",
                title=f"{out.what} draws {print_current(out.amps)}; an output of {driver.name} gives "
                f"{print_current(driver.most)}",
                why="The output fails, at once or after a summer.",
                mend="A larger resistor: a lamp seen from a yard away needs few milliamperes.",
                place=Place("signal", out.id),
                shows=(out.id,),
                figures=(("asked", print_current(out.amps)), ("gives", print_current(driver.most))),
                mends=(
                    Mend("5 mA in each lamp", [{"op": "add", "path": f"/signals/{out.id}/lamp_amps", "value": 0.005}]),
                ),
            )
    for (board, number), users in seen.items():
        whose = {i for _, i, _ in users}
        # Both ends of a crossover share an output, and a button; never a report, and nothing else does.
        reports = [
            i
            for i in whose
            if i in layout.nodes and layout.nodes[i].report_board == board and layout.nodes[i].report_input == number
        ]
        shared = (
            len({w.split(", ")[-1] for _, _, w in users}) > 1
            if layout.drivers[board].drives == "buttons"
            else len(whose) > 1 and not all(kind == "node" for kind, _, _ in users)
        )
        if shared or len(reports) > 1:
            yield Finding(
                key=f"output-twice:{board}:{number}",
                rule="outputs of signals",
                severity="must",
                title=f"{'Input' if layout.drivers[board].drives == 'buttons' else 'Output'} {number} of "
                f"{layout.drivers[board].name} is given to {' and '.join(w for _, _, w in users[:3])}",
                why="One tells on, or works, what the other means.",
                mend="One of its own for each; step Signal numbers them.",
                place=Place(users[-1][0], users[-1][1]),
                shows=tuple(sorted(whose)),
                figures=(("users", str(len(users))),),
            )
    unheard = [i for i in layout.nodes if layout.nodes[i].reports and layout.nodes[i].report_board is None]
    if layout.signals and unheard:
        names = ", ".join(layout.nodes[i].name or i for i in sorted(unheard, key=natural)[:FEW])
        yield Finding(
            key="unheard",
            rule="outputs of signals",
            severity="look",
            title=f"The report of {names}{' and more' if len(unheard) > FEW else ''} is on no input yet",
            why="A contact whose wire ends nowhere tells nobody.",
            mend="Step Signal gives inputs to all that have none.",
            place=Place("node", unheard[0]),
            shows=tuple(unheard),
            figures=(("turnouts", str(len(unheard))),),
        )
    for i, signal in layout.signals.items():
        if signal.driver is None:
            yield Finding(
                key=f"undriven:{i}",
                rule="outputs of signals",
                severity="look",
                title=f"Signal {signal.name} has no driver output yet",
                why="Its lamps are on no board, so its cable is in no wire list.",
                mend="Step Signal gives outputs to all that have none.",
                place=Place("signal", i, signal.track, signal.at),
                shows=(i,),
                figures=(("lamps without an output", "all"),),
            )
            continue
        wrong = resistor_for(layout.drivers[signal.driver], signal)
        if isinstance(wrong, str) and signal.kind != "semaphore":
            yield Finding(
                key=f"lamp-volts:{i}",
                rule="outputs of signals",
                severity="must",
                title=f"Signal {signal.name} cannot be lit from {layout.drivers[signal.driver].name}",
                why=wrong,
                mend="A supply of more volts, or lamps of fewer.",
                place=Place("signal", i, signal.track, signal.at),
                shows=(i,),
                figures=(("supply", f"{layout.drivers[signal.driver].volts:g} V"),),
            )
    asked: dict[str, float] = defaultdict(float)
    for i, driver in layout.drivers.items():
        if driver.supply is not None:
            asked[driver.supply] += driver_amps(layout, i)
    for detector in layout.detectors.values():
        if detector.supply is not None:
            asked[detector.supply] += detector.supply_amps
    for circuit, amps in asked.items():
        device_id = facts.tree.fed_by.get(circuit)
        device = layout.devices[device_id] if device_id else None
        gives = (device.measured_amps or device.label_amps) if device else None
        loads = sum(x.count * x.amps for x in layout.loads.values() if x.circuit == circuit)
        if device_id and gives and amps + loads > gives:
            yield Finding(
                key=f"control-supply:{circuit}",
                rule="outputs of signals",
                severity="should",
                title=f"Signals and detectors ask {print_current(amps)} of {layout.circuits[circuit].name}, with its "
                f"loads {print_current(amps + loads)} of {print_current(gives)}",
                why="The supply sags, and detectors that lose their volts show what is not there.",
                mend="A supply of their own for detectors and signals.",
                place=Place("device", device_id),
                shows=(device_id,),
                figures=(("asked", print_current(amps + loads)), ("gives", print_current(gives))),
            )
