"""The proof before the doors open: what exercises every district in the minutes there are, what failed before first."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.layout.benchwork import board_at, board_name
from jolly_copper.core.layout.document import REVERSERS
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.quantities import print_volts
from jolly_copper.core.travel.crossing import BoardJoint, joint_name
from jolly_copper.core.travel.setting_up import joint_key

ENGINE_SECONDS, COIN_SECONDS, REVERSER_SECONDS, TURNOUT_SECONDS = 25.0, 20.0, 40.0, 5.0
HEADS_SECONDS, VOLTS_SECONDS, WIGGLE_SECONDS = 15.0, 20.0, 20.0
"""What each takes one person who knows the railroad. Common practice, no source (certainty C)."""
Kind = Literal["joint", "engine", "reverser", "turnouts", "coin", "heads", "volts"]
FIRST: tuple[Kind, ...] = ("joint", "engine", "reverser", "turnouts", "coin", "heads", "volts")
"""Without an engine in every district nothing runs; a coin proves what protects; lamps and volts come last."""


@dataclass(frozen=True)
class Proof:
    """One thing to try. failed: how often it or its joint failed at earlier shows."""

    key: str
    kind: Kind
    title: str
    words: str
    foretold: str
    seconds: float
    failed: int = 0


@dataclass(frozen=True)
class TenMinutes:
    """tried: in their order; later: what does not fit into the minutes the club gives it. seconds: of what is tried."""

    tried: tuple[Proof, ...]
    later: tuple[Proof, ...]
    seconds: float


def ten_minutes(facts: Facts, joints: Sequence[BoardJoint], failed: Mapping[str, int] | None = None) -> TenMinutes:
    """The proof before the doors open.

    Args:
        facts: of the layout, in the scene of the show.
        joints: its joints.
        failed: by joint key, how often something there failed at earlier shows.
    """
    known = Counter(dict(failed or {}))
    wanted = [*_joints(facts, joints, known), *_districts(facts), *_devices(facts)]
    wanted.sort(key=lambda p: (FIRST.index(p.kind), -p.failed, natural(p.title)))
    most = facts.layout.brief.travelling.proof_minutes * 60
    tried: list[Proof] = []
    later: list[Proof] = []
    spent = 0.0
    for proof in wanted:
        if spent + proof.seconds <= most + 1e-9:
            tried.append(proof)
            spent += proof.seconds
        else:
            later.append(proof)
    return TenMinutes(tuple(tried), tuple(later), spent)


def _joints(facts: Facts, joints: Sequence[BoardJoint], failed: Mapping[str, int]) -> Iterator[Proof]:
    layout = facts.layout
    for joint in joints:
        times = failed.get(joint_key(joint.boards), 0)
        if times:
            yield Proof(
                f"proof:joint:{joint_key(joint.boards)}",
                "joint",
                f"The joint between {joint_name(layout, joint.boards)}",
                "An engine idling beyond it: move each coupling by hand, one after the other.",
                "its lamps do not blink",
                WIGGLE_SECONDS,
                times,
            )


def _districts(facts: Facts) -> Iterator[Proof]:
    layout, tree = facts.layout, facts.tree
    fed: dict[str, list[str]] = {}
    for circuit in dict.fromkeys(c for c in facts.meant if c is not None and tree.source(c) is not None):
        fed.setdefault(tree.district(circuit), []).append(circuit)
    weakest: dict[str, tuple[float, int]] = {}
    for n, there in enumerate(facts.circuit):
        if there is not None and facts.trip[n] > 0:
            ratio = float(facts.coin[n] / facts.trip[n])
            district = tree.district(there)
            weakest[district] = min(weakest.get(district, (ratio, n)), (ratio, n))
    for district in sorted(fed, key=lambda c: natural(layout.circuits[c].name)):
        name = layout.circuits[district].name
        yield Proof(
            f"proof:engine:{district}",
            "engine",
            f"{name}: an engine through it",
            f"An engine with sound or a lamp over all of {name}, both ways, over every joint and frog on its way.",
            "it neither halts nor cuts out",
            ENGINE_SECONDS,
        )
        protection = tree.protection(district)
        if district in weakest and protection is not None:
            track, at = facts.place_of(weakest[district][1])
            board = board_at(layout, *layout.tracks[track].line.point(at))
            yield Proof(
                f"proof:coin:{district}",
                "coin",
                f"{name}: a coin at its far end",
                f"On {layout.tracks[track].name}, {board_name(layout, board)}: touch a coin across the rails, never "
                "hold it.",
                f"{protection[1].name} opens at once, and no other",
                COIN_SECONDS,
            )


def _devices(facts: Facts) -> Iterator[Proof]:
    layout = facts.layout
    for i, device in layout.devices.items():
        if device.kind in REVERSERS:
            yield Proof(
                f"proof:reverser:{i}",
                "reverser",
                f"{device.name}: in and out",
                "The longest train through its section, once each way"
                + (", the switch thrown while all of it is inside." if device.kind == "reversing switch" else "."),
                "nothing opens"
                if device.kind == "reversing switch"
                else "it turns over without a halt, and nothing opens",
                REVERSER_SECONDS,
            )
        elif device.kind == "supply":
            yield Proof(
                f"proof:volts:{i}",
                "volts",
                f"{device.name}: volts at the far end",
                f"Meter on DC, at the last terminal of {layout.circuits[device.output].name}.",
                f"about {print_volts(source_volts(layout, i))}",
                VOLTS_SECONDS,
            )
    thrown: dict[str | None, list[str]] = {}
    for i, node in layout.nodes.items():
        if node.hand is not None and node.motor is not None:
            thrown.setdefault(node.driver, []).append(node.name or i)
    for driver, names in thrown.items():
        names.sort(key=natural)
        board = layout.drivers[driver].name if driver in layout.drivers else "no driver board"
        yield Proof(
            f"proof:turnouts:{driver or 'none'}",
            "turnouts",
            f"{board}: every turnout once each way",
            f"{', '.join(names)}: throw and look at the blades.",
            "blades lie home both ways",
            TURNOUT_SECONDS * len(names),
        )
    for i, lamps in layout.drivers.items():
        heads = [s.name for s in layout.signals.values() if s.driver == i]
        if heads:
            yield Proof(
                f"proof:heads:{i}",
                "heads",
                f"{lamps.name}: its heads",
                f"Turn the lamp test on: {', '.join(sorted(heads, key=natural))}.",
                "every lamp lights",
                HEADS_SECONDS,
            )
