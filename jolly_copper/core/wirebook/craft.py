"""Craft cards: how each kind of job is done, one screen each with a drawing. All of it is common practice, no
source."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_copper.core.wirebook import craft_drawings as drawings
from jolly_copper.core.wirebook.sketch import Sketch
from jolly_copper.core.wirebook.task import TaskKind


@dataclass(frozen=True)
class Card:
    """says: what to do, in order. caution: where it can hurt, once. kinds: of task it is opened from."""

    key: str
    title: str
    says: tuple[str, ...]
    sketch: Sketch
    kinds: tuple[TaskKind, ...]
    caution: str = ""


CARDS: tuple[Card, ...] = (
    Card(
        "drill",
        "Before drilling",
        (
            "Feel and look below: wire, motor, brace, somebody's hand.",
            "Drill a bit about 1 mm over the wire's insulation.",
            "Stop with a sleeve on the bit as the board's thickness.",
        ),
        drawings.drilling(),
        ("feeder", "terminal", "control"),
        "Eyes covered; nobody below while the drill turns.",
    ),
    Card(
        "foam",
        "Thick foam",
        (
            "Drill from above with a long bit, or melt through with hot wire outdoors.",
            "Tape the lead to a stick, push it through, pull the stick out below.",
            "Foam does not hold a screw: glue a scrap of ply where a strip goes.",
        ),
        drawings.foam(),
        ("feeder", "terminal"),
    ),
    Card(
        "batch",
        "Leads in batches",
        (
            "Cut all leads of one length at once, from the cut list.",
            "Strip against a stop, fold the end a quarter round, twist, tin.",
            "Two colours, two bundles: never mix them on the bench.",
        ),
        drawings.batch(),
        ("feeder",),
        "The iron goes back in its stand between two leads; fresh air.",
    ),
    Card(
        "tin",
        "Tinning, and a short hot touch",
        (
            "Clean the rail bright on its outside; a little flux.",
            "Tin the rail and the lead each by itself.",
            "Hold the lead on, touch both with a hot iron for two seconds, hold still.",
        ),
        drawings.tinning(),
        ("feeder",),
        "Hot metal; eyes covered; never work under a hot iron.",
    ),
    Card(
        "web",
        "Below the head of the rail",
        (
            "On the outside of the web, or under the foot; never on the inside.",
            "No solder higher than the web: flanges and cleaners pass there.",
            "A wet cloth on both sides keeps the ties from melting.",
        ),
        drawings.below_the_head(),
        ("feeder",),
    ),
    Card(
        "dry",
        "A dry joint",
        (
            "A sound joint is bright and runs out flat; a dry one is a dull ball.",
            "Pull it: a sound one holds a firm tug.",
            "Meter it: under 0.1 Ω from rail to the lead's end, and the same when moved.",
        ),
        drawings.dry(),
        ("feeder", "check"),
    ),
    Card(
        "gap",
        "Cut, fill and shape a gap",
        (
            "Clamp or glue both sides first; cut square with a thin blade or disc.",
            "A slip of plastic in, a drop of glue, file to the shape of the head.",
            "Meter it open before any feeder is tied, and again when the glue is dry.",
        ),
        drawings.gap(),
        ("gap",),
        "Eye protection with cutting discs: they shatter.",
    ),
    Card(
        "chain",
        "Wire from above, as a chain",
        (
            "With scenery done: drill from above beside each tie that wants a lead.",
            "Thread one long wire down and up through all holes; solder from above.",
            "Cut each loop below and tie the halves to the strip.",
        ),
        drawings.chain(),
        ("feeder", "control"),
    ),
    Card(
        "ferrule",
        "Ferrule and strip",
        (
            "Strip 8 mm; slide the ferrule on until no strand shows.",
            "Crimp it; bare strands under a screw work loose.",
            "Into the post to its collar, screw firm, tug.",
        ),
        drawings.ferrule(),
        ("terminal", "run", "feeder", "device"),
    ),
    Card(
        "lever",
        "Lever connectors",
        (
            "Strip to the length on its side; lift the lever.",
            "Push the wire to its stop, close, tug.",
            "It opens again: good where things will change.",
        ),
        drawings.lever(),
        ("terminal", "run"),
    ),
    Card(
        "tap",
        "Taps on an unbroken bus",
        (
            "The size by both gauges, as printed on it.",
            "Feeder to its end in the blind hole, bus in the open one, close with pliers.",
            "Tug both; what slips is the wrong size.",
        ),
        drawings.tap(),
        ("terminal",),
    ),
    Card(
        "crimp",
        "Crimping a pin",
        (
            "Strip 3 mm; strands in the front wings, insulation in the rear ones.",
            "The right die, once, to its stop; look at it from the end.",
            "Push into the housing until it clicks, then pull.",
        ),
        drawings.crimp(),
        ("plug", "control", "device"),
    ),
    Card(
        "board-end",
        "Rails at the end of a board",
        (
            "Two copper-clad ties at each end, screwed or glued; their copper cut through between the rails.",
            "Boards bolted up, rails laid over the joint in one piece and soldered to the ties; only then cut.",
            "Rail ends filed square, tops and insides a little round; meter rail to rail: open.",
        ),
        drawings.board_end(),
        ("gap", "plug"),
    ),
    Card(
        "static",
        "Static: where a spark can kill a board",
        (
            "Touch something bare and metal that is part of the frame before you touch electronics.",
            "Boards stay in their bags until they are mounted; hold them by their edges.",
            "A carpet, nylon or a dry winter hall: a damp cloth or a mat; no wire from the railroad to an outlet.",
        ),
        drawings.static(),
        ("device",),
        "Whether and how anything of it is earthed is for local codes and licensed practice, never for the club.",
    ),
)
"""Figures in them: common practice, no source (certainty C)."""


def cards_for(kind: TaskKind) -> tuple[Card, ...]:
    """The cards opened from a kind of task."""
    return tuple(c for c in CARDS if kind in c.kinds)
