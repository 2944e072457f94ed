"""Rules about what opens first, and about amps asked against amps given."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.budget import budget
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.protection import coordination, goes_dark
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.document import REVERSERS
from jolly_copper.core.quantities import print_current, print_long_length


@rule("opens too late", "zones")
def opens_too_late(facts: Facts) -> Iterator[Finding]:
    """A breaker, or a reverser, slower than the protection above it: the wrong one opens."""
    layout, units = facts.layout, facts.layout.brief.units
    for pair in coordination(layout):
        if pair.in_time is not False:
            continue
        below, above = layout.devices[pair.below], layout.devices[pair.above]
        assert below.trip_seconds is not None and above.trip_seconds is not None
        lost = goes_dark(layout, facts.rails, pair.above)
        own = goes_dark(layout, facts.rails, pair.below)
        wanted = round(above.trip_seconds / 2, 4)
        reverser = below.kind in REVERSERS
        yield Finding(
            key=f"too-late:{pair.below}", rule="opens too late", severity="must",
            title=f"{below.name} needs {below.trip_seconds * 1000:.0f} ms, {above.name} opens after {above.trip_seconds * 1000:.0f} ms",
            why=("The breaker opens before the reverser has turned over, so every train over its gaps stops the district." if reverser
                 else f"A short behind it puts {print_long_length(lost.track, units)} of track in the dark instead of {print_long_length(own.track, units)}."),
            mend=f"Set it to {wanted * 1000:.0f} ms or less, or let {above.name} wait longer.", place=Place("device", pair.below), shows=(pair.below, pair.above),
            figures=((below.name, f"{below.trip_seconds * 1000:.0f} ms"), (above.name, f"{above.trip_seconds * 1000:.0f} ms")),
            mends=(Mend(f"{below.name} to {wanted * 1000:.0f} ms", [{"op": "replace", "path": f"/devices/{pair.below}/trip_seconds", "value": wanted}]),),
        )  # fmt: skip


@rule("amps asked", "zones")
def amps_asked(facts: Facts) -> Iterator[Finding]:
    """A source or breaker that the scene may ask for more than it gives."""
    layout = facts.layout
    scene = layout.scenes.get(facts.scene) if facts.scene else None
    for asked in budget(layout, scene):
        room = asked.head_room
        if room is None or asked.gives is None or room >= -1e-9:
            continue
        device = layout.devices[asked.device]
        yield Finding(
            key=f"asked:{asked.device}", rule="amps asked", severity="should",
            title=f"{device.name} may be asked for {print_current(asked.worst)} and gives {print_current(asked.gives)}",
            why=f"With {len(asked.trains)} trains of the scene behind it at once it trips, or its volts sag before.",
            mend="Send fewer trains there, divide the district, or give it a source of its own.", place=Place("device", asked.device), shows=(asked.device,),
            figures=(("asked at worst", print_current(asked.worst)), ("with one engine stalled", print_current(asked.stalled)), ("gives", print_current(asked.gives)),
                     ("trains", str(len(asked.trains)))),
        )  # fmt: skip
