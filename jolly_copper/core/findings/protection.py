"""Rules about what opens first, and about amps asked against amps given."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.protection import coordination, goes_dark
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.control import control_given, control_of
from jolly_copper.core.layout.document import REVERSERS
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.words import FILLS, sources_word
from jolly_copper.core.materials.copper import in_units
from jolly_copper.core.quantities import print_current, print_long_length


@rule("opens too late", "zones")
def opens_too_late(facts: Facts) -> Iterator[Finding]:
    """A breaker, or a reverser, slower than the protection above it: the wrong one opens."""
    layout, units = facts.layout, facts.layout.brief.units
    for pair in coordination(layout):
        below, above = layout.devices[pair.below], layout.devices[pair.above]
        if pair.in_time is not False or below.kind == "reversing switch":  # a hand throws it, before or too late
            continue
        assert below.trip_seconds is not None and above.trip_seconds is not None
        lost = goes_dark(layout, facts.rails, pair.above)
        own = goes_dark(layout, facts.rails, pair.below)
        wanted = round(above.trip_seconds / 2, 4)
        reverser = below.kind in REVERSERS
        yield Finding(
            key=f"too-late:{pair.below}",
            rule="opens too late",
            severity="must",
            title=f"{below.name} needs {below.trip_seconds * 1000:.0f} ms, {above.name} opens after "
            f"{above.trip_seconds * 1000:.0f} ms",
            why=(
                "The breaker opens before the reverser has turned over, so every train over its gaps stops the "
                "district."
                if reverser
                else f"A short behind it puts {print_long_length(lost.track, units)} of track in the dark instead of "
                f"{print_long_length(own.track, units)}."
            ),
            mend=f"Set it to {wanted * 1000:.0f} ms or less, or let {above.name} wait longer.",
            place=Place("device", pair.below),
            shows=(pair.below, pair.above),
            figures=(
                (below.name, f"{below.trip_seconds * 1000:.0f} ms"),
                (above.name, f"{above.trip_seconds * 1000:.0f} ms"),
            ),
            mends=(
                Mend(
                    f"{below.name} to {wanted * 1000:.0f} ms",
                    [{"op": "replace", "path": f"/devices/{pair.below}/trip_seconds", "value": wanted}],
                ),
            ),
        )


@rule("amps asked", "zones")
def amps_asked(facts: Facts) -> Iterator[Finding]:
    """A source or breaker that the scene may ask for more than it gives."""
    layout = facts.layout
    for asked in facts.asked:
        room = asked.head_room
        if room is None or asked.gives is None or room >= -1e-9:
            continue
        device = layout.devices[asked.device]
        yield Finding(
            key=f"asked:{asked.device}",
            rule="amps asked",
            severity="should",
            title=f"{device.name} may be asked for {print_current(asked.worst)} and gives {print_current(asked.gives)}",
            why=f"With {len(asked.trains)} trains of the scene behind it at once it trips, or its volts sag before.",
            mend="Send fewer trains there, divide the district, or give it a source of its own.",
            place=Place("device", asked.device),
            shows=(asked.device,),
            figures=(
                ("asked at worst", print_current(asked.worst)),
                ("with one engine stalled", print_current(asked.stalled)),
                ("gives", print_current(asked.gives)),
                ("trains", str(len(asked.trains))),
            ),
        )


@rule("starts after a trip", "zones")
def starts_after_trip(facts: Facts) -> Iterator[Finding]:
    """Everything behind a protection fills up at once when power returns; it must let that through."""
    layout = facts.layout
    for asked in facts.asked:
        device = layout.devices[asked.device]
        if asked.starts is None or asked.inrush <= asked.starts + 1e-9:
            continue
        again = (
            f" It tries again after {device.recovery_seconds:g} s, and the same happens."
            if device.recovery_seconds
            else ""
        )
        yield Finding(
            key=f"starts:{asked.device}",
            rule="starts after a trip",
            severity="should" if device.inrush_amps is not None else "look",
            title=f"{device.name} lets {print_current(asked.starts)} through; after a trip "
            f"{print_current(asked.inrush)} is asked for a moment",
            why=f"{FILLS[control_of(facts.tree, device.output)].capitalize()} of {len(asked.trains)} trains take "
            "more together when "
            f"power returns.{again}",
            mend="Park fewer engines there, divide the district, or choose a device that rides through starting "
            "current.",
            place=Place("device", asked.device),
            shows=(asked.device,),
            figures=(
                ("for a moment", print_current(asked.inrush)),
                ("lets through", print_current(asked.starts)),
                ("trains", str(len(asked.trains))),
            ),
        )


@rule("reference wire", "zones")
def reference_wire(facts: Facts) -> Iterator[Finding]:
    """Several boosters, and one that shares no reference wire with the others (house rule)."""
    layout = facts.layout
    boosters = {i: d for i, d in layout.devices.items() if d.kind in SOURCES and control_given(layout, d) == "dcc"}
    if len(boosters) < 2 or not layout.brief.rules.reference_wire:
        return
    for i, device in boosters.items():
        if device.reference:
            continue
        yield Finding(
            key=f"reference:{i}",
            rule="reference wire",
            severity="look",
            title=f"{device.name} has no reference wire to the other boosters",
            why="A train over the gap between two boosters joins their commons; without "
            "a wire the current returns through signal leads.",
            mend=f"A wire between the commons where the makers provide a place for it, "
            f"{in_units('14 AWG', layout.brief.units)} or so. No earth rod: that belongs to a licensed electrician.",
            place=Place("device", i),
            shows=tuple(boosters),
            figures=(("boosters", str(len(boosters))),),
            mends=(
                Mend(
                    f"{device.name} is tied to the reference wire",
                    [{"op": "replace", "path": f"/devices/{i}/reference", "value": True}],
                ),
            ),
        )


@rule("buses joined", "zones")
def buses_joined(facts: Facts) -> Iterator[Finding]:
    """A run tied to a terminal of another circuit: two districts, or two boosters, become one."""
    layout = facts.layout
    for i, run in layout.runs.items():
        for terminal in (run.fed.terminal, run.ends_at_terminal):
            if terminal is None:
                continue
            other = layout.runs[layout.terminals[terminal].run]
            if other.circuit == run.circuit:
                continue
            one, two = facts.tree.source(run.circuit), facts.tree.source(other.circuit)
            both = one is not None and two is not None and one[0] != two[0]
            names = layout.circuits[run.circuit].name, layout.circuits[other.circuit].name
            yield Finding(
                key=f"joined:{i}:{terminal}",
                rule="buses joined",
                severity="must",
                title=f"Bus {run.label} joins {names[0]} to {names[1]} at terminal {terminal}",
                why=f"Two {sources_word(control_of(facts.tree, run.circuit))} on one wire fight each other; they "
                "are never joined."
                if both
                else "A short in one then stops both, and neither breaker sees all of it.",
                mend="Take the run off that terminal, or give it the circuit it belongs to.",
                place=Place("run", i),
                shows=(i, layout.terminals[terminal].run),
                figures=(("one", names[0]), ("other", names[1])),
            )
