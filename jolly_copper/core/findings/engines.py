"""Rules about engines and the control of the track they stand on as selectors lie."""

from __future__ import annotations

from collections.abc import Iterator

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Place, rule
from jolly_copper.core.layout.control import control_given
from jolly_copper.core.layout.document import Control
from jolly_copper.core.layout.stock import LocoKind, Placement

ITS_CONTROL: dict[str, Control] = {"digital": "dcc", "direct current": "dc"}
WHY: dict[Control, str] = {
    "dcc": "A motor without a decoder hums on digital track even at a stand, and heats; one without an iron core may "
    "burn in minutes.",
    "dc": "A decoder that is told to obey nothing but its station stands still on a throttle; one that is not told so "
    "may start at full speed.",
    "ac3": "It picks up from two rails, or stands less than a transformer gives.",
}


def may_run_under(engine: LocoKind, control: Control) -> bool:
    """Whether an engine is made for a control, or nobody said what it is made for."""
    return engine.runs_on is None or engine.runs_on == "both" or ITS_CONTROL[engine.runs_on] == control


@rule("engine under the other control", "cabs")
def under_the_other(facts: Facts) -> Iterator[Finding]:
    """An engine of a scene where the track carries what it is not made for, as selectors lie in it."""
    layout = facts.layout
    scene = layout.scenes.get(facts.scene or "")
    told: set[tuple[str, str]] = set()
    for placement in scene.placements if scene else ():
        train = layout.trains[placement.train]
        for circuit in _circuits(facts, placement):
            fed = facts.tree.source(circuit)
            if fed is None:
                continue
            source, device = fed
            control = control_given(layout, device)
            wrong = next((layout.locos[e] for e in train.engines if not may_run_under(layout.locos[e], control)), None)
            if wrong is None or (placement.train, source) in told:
                continue
            told.add((placement.train, source))
            parked = placement.track is not None and placement.at is not None
            where = (
                Place("track", placement.track or "", placement.track, placement.at)
                if parked
                else Place("device", source)
            )
            verb = "stands" if parked else "runs"
            yield Finding(
                key=f"other-control:{placement.train}:{source}",
                rule="engine under the other control",
                severity="should" if control == "dcc" else "look",
                title=f"{train.name} {verb} on {layout.circuits[circuit].name}, which {device.name} gives; "
                f"{wrong.name} is "
                f"made for {wrong.runs_on}",
                why=WHY[control],
                mend="Set the selector to its own control or to off, move the train, or say in step Trains what the "
                "engine runs on.",
                place=where,
                shows=(source,),
                figures=(("made for", wrong.runs_on or ""),),
                source="common practice",
            )


def _circuits(facts: Facts, placement: Placement) -> list[str]:
    """Where a train of a scene may be: what it roams, or what it stands on. A train that may go wherever a use of track
    leads is taken to keep to its own control."""
    if placement.track is None or placement.at is None:
        return placement.circuits
    rails = facts.rails
    circuit = facts.meant[rails.extent_of[rails.piece_at(placement.track, placement.at)]]
    return [] if circuit is None else [circuit]
