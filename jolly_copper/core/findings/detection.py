"""Rules about block detection: what a detector sees, what it is fooled by, how boards and addresses follow on."""

from __future__ import annotations

import itertools
from collections import defaultdict
from collections.abc import Iterator, Sequence

from jolly_copper.core.circuits.edits import Patch, nearest_terminal
from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.findings.model import Finding, Mend, Place, rule
from jolly_copper.core.layout.connections import circuit_under
from jolly_copper.core.layout.control import control_of
from jolly_copper.core.layout.document import REVERSERS, Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.power_tree import reads_a_rail
from jolly_copper.core.layout.signalling import Detecting, DetectorBoard, Driver
from jolly_copper.core.materials.detectors import DETECTORS, deaf_kind
from jolly_copper.core.quantities import print_current, print_length
from jolly_copper.core.rails.nets import Rail
from jolly_copper.core.rails.pieces import opposite
from jolly_copper.core.signals.numbering import begins, numbers_taken
from jolly_copper.core.signals.occupancy import sensing
from jolly_copper.core.signals.sensitivity import MARGIN, sensitivity, vanishing

FEW = 6
READ_RAIL = (
    "An isolated rail has no feeder: this one ties it to power, so it shows a train for ever. One wire goes "
    "from it to its input, and no other."
)


@rule("feeder round its detector", "detect")
def bypassed(facts: Facts) -> Iterator[Finding]:
    """A feeder whose sensed wire is still on the bus: its current goes past the detector unseen."""
    layout = facts.layout
    for feeder_id, feeder in layout.feeders.items():
        section_id = facts.rails.section_at(feeder.track, feeder.at)
        if section_id is None:
            continue
        section = layout.sections[section_id]
        device_id = facts.tree.fed_by.get(section.circuit)
        device = layout.devices[device_id] if device_id else None
        if device is None or device.kind != "detector":
            continue
        sensed = layout.detectors[device.board].sensed if device.board else device.sensed
        tied = circuit_under(layout, feeder, sensed)
        if tied == section.circuit or tied not in facts.tree.lineage(section.circuit):
            continue
        right = nearest_terminal(facts, section.circuit, feeder.track, feeder.at)
        circuit, bus = layout.circuits[section.circuit], layout.circuits[tied]
        colour = bus.colour_a if sensed == "A" else bus.colour_b
        patch: Patch = []
        if right is not None:
            patch = [
                {"op": "replace", "path": f"/feeders/{feeder_id}/terminal", "value": right},
                {"op": "add", "path": f"/feeders/{feeder_id}/other", "value": feeder.terminal},
            ]
        yield Finding(
            key=f"round:{feeder_id}",
            rule="feeder round its detector",
            severity="must",
            title=f"Feeder {feeder.label} in {section.name} goes round {device.name}: a train fed by it is not seen",
            why=READ_RAIL
            if reads_a_rail(layout, device)
            else f"Both its wires are on the {layout.circuits[tied].name} bus. All feeders of a section belong behind "
            f"its channel, with the {colour} wire.",
            mend=f"Its {colour} wire to a terminal of {circuit.name}; the other stays."
            if right
            else f"Run the {colour} wire of {section.name} home first (step Wire, Lay it).",
            place=Place("feeder", feeder_id, feeder.track, feeder.at),
            shows=(feeder_id, feeder.terminal),
            figures=(("channel", device.name), ("tied to", layout.circuits[tied].name)),
            mends=(Mend(f"Take {feeder.label} behind {device.name}", patch),) if patch else (),
        )


def _deaf_in(facts: Facts, board_id: str) -> tuple[str, list[str]] | None:
    """Why a board sees nothing in some of its circuits, and which; each is judged by its own source.

    A board without a channel yet is judged by the brief, and names no circuit.
    """
    layout, kind = facts.layout, facts.layout.detectors[board_id].kind
    outputs: list[str | None] = [d.output for d in layout.devices.values() if d.board == board_id]
    why = {c: w for c in outputs or [None] if (w := deaf_kind(control_of(facts.tree, c), kind)) is not None}
    if not why:
        return None
    some = sorted((layout.circuits[c].name for c in why if c is not None), key=natural)
    return next(iter(why.values())), some if len(why) < len(outputs) else []


@rule("gap in the wrong rail for detection", "detect")
def wrong_rail(facts: Facts) -> Iterator[Finding]:
    """Two detection sections that meet at a gap in the one rail that is not sensed: both channels see both."""
    layout, nets = facts.layout, facts.topology.nets
    sensed = sensing(layout, facts.rails)
    for gap_id, gap in layout.gaps.items():
        if gap.rails not in ("left", "right"):
            continue
        pieces = facts.rails.pieces[gap.track]
        after = facts.rails.piece_at(gap.track, gap.at + 0.01)
        k = pieces.index(after)
        if k == 0:
            continue
        before = pieces[k - 1]
        one, other = sensed[facts.rails.extent_of[before]], sensed[facts.rails.extent_of[after]]
        if one.device == other.device or (one.device is None and other.device is None):
            continue
        whole = opposite(gap.rails)
        zone = facts.topology.zones.at(after)
        channel = layout.devices[str(other.device or one.device)]
        wire = layout.detectors[channel.board].sensed if channel.board else channel.sensed
        a_rail = zone.a_rail(after) if zone.votes else None
        if a_rail is None or (a_rail if wire == "A" else opposite(a_rail)) == gap.rails:
            continue
        if nets.net_of[Rail(before, whole)] != nets.net_of[Rail(after, whole)]:
            continue
        yield Finding(
            key=f"wrong-rail:{gap_id}",
            rule="gap in the wrong rail for detection",
            severity="must",
            title=f"Gap {gap_id} on {layout.tracks[gap.track].name} cuts the {gap.rails} rail, but the {whole} rail "
            f"is sensed there",
            why=f"{one.name} and {other.name} stay joined in the sensed rail, so a train in either lights both.",
            mend="Cut the other rail; this gap does no harm and may stay.",
            place=Place("gap", gap_id, gap.track, gap.at),
            shows=(gap_id, gap.track),
            figures=(("sections", f"{one.name}, {other.name}"),),
            mends=(
                Mend(
                    f"Cut both rails at {gap_id}", [{"op": "replace", "path": f"/gaps/{gap_id}/rails", "value": "both"}]
                ),
            ),
        )


@rule("addresses of detectors", "detect", "book")
def addresses(facts: Facts) -> Iterator[Finding]:
    """Boards that answer to the same address, or leave a hole between; boards numbered otherwise than their kind is."""
    layout, wishes = facts.layout, facts.layout.brief.detecting
    yield from _against_their_kind(layout)
    for kind, size in (("detectors", "channels"), ("drivers", "outputs")):
        boards = sorted(getattr(layout, kind).items(), key=lambda b: (b[1].address, natural(b[1].name)))
        boards = [b for b in boards if not isinstance(b[1], Driver) or b[1].drives != "hand controllers"]
        detects = kind == "detectors"
        mixed_up = "a channel shows what the other sees" if detects else "an output does what the other is told"
        for (i, one), (k, other) in itertools.pairwise(boards):
            end = one.address + getattr(one, size)
            full = one.address + numbers_taken(one.channels, wishes) if isinstance(one, DetectorBoard) else end
            if other.address in (end, full):
                continue
            clash = other.address < end
            if not clash and kind == "drivers":
                continue  # a hole hurts nobody there
            yield Finding(
                key=f"address:{i}:{k}",
                rule="addresses of detectors",
                severity="must" if clash else "should",
                title=f"{one.name} and {other.name} both answer to address {other.address}"
                if clash
                else f"A hole in the addresses: {one.name} ends at {end - 1}, {other.name} begins at {other.address}",
                why=f"Two boards at one address speak over each other: {mixed_up}."
                if clash
                else "Where boards are counted on one after another the first address without a board ends the count, "
                "and all behind it stay silent.",
                mend=f"{other.name} from address {end}, and those after it on from there.",
                place=Place("detector" if detects else "driver", k),
                shows=(i, k),
                figures=((one.name, f"{one.address} to {end - 1}"), (other.name, f"from {other.address}")),
                mends=(_renumbered(boards, wishes, min(b.address for _, b in boards)),),
            )


def _against_their_kind(layout: Layout) -> Iterator[Finding]:
    """Detector boards that begin where boards of their kind cannot: not at one, or inside a module."""
    wishes = layout.brief.detecting
    boards = sorted(layout.detectors.items(), key=lambda b: (b[1].address, natural(b[1].name)))
    if not boards:
        return
    renumbered = _renumbered(boards, wishes, 1 if wishes.from_one else boards[0][1].address)
    if wishes.from_one and boards[0][1].address != 1:
        i, board = boards[0]
        yield Finding(
            key="address-from-one",
            rule="addresses of detectors",
            severity="should",
            title=f"The lowest board, {board.name}, begins at {board.address}; boards of this kind begin at 1",
            why="As the club has it from their leaflet: they are counted from one, and no board before it means that "
            "those behind are not asked.",
            mend="Number them from 1 on.",
            place=Place("detector", i),
            shows=(i,),
            figures=(("begins at", str(board.address)),),
            mends=(renumbered,),
        )
    for i, board in boards:
        if begins(board.address, wishes) != board.address:
            yield Finding(
                key=f"address-module:{i}",
                rule="addresses of detectors",
                severity="should",
                title=f"{board.name} begins at {board.address}, inside a module of {wishes.module}",
                why="Boards of this kind are set to a module number, and a module begins at 1, "
                f"{1 + (wishes.module or 0)}, {1 + 2 * (wishes.module or 0)} and so on: no setting gives "
                f"{board.address}.",
                mend=f"{board.name} from {begins(board.address, wishes)}, and those after it on from there.",
                place=Place("detector", i),
                shows=(i,),
                figures=(("begins at", str(board.address)), ("channels", str(board.channels))),
                mends=(renumbered,),
            )


def _renumbered(boards: Sequence[tuple[str, DetectorBoard | Driver]], wishes: Detecting, first: int) -> Mend:
    address, patch = first, []
    for i, board in boards:
        detects = isinstance(board, DetectorBoard)
        address = begins(address, wishes) if detects else address
        if board.address != address:
            path = f"/{'detectors' if detects else 'drivers'}/{i}/address"
            patch.append({"op": "replace", "path": path, "value": address})
        address += numbers_taken(board.channels, wishes) if isinstance(board, DetectorBoard) else board.outputs
    return Mend("Number them on without a hole", patch)


@rule("detector boards and districts", "detect")
def districts(facts: Facts) -> Iterator[Finding]:
    """A board whose channels share one input, but lie in two districts; a block in two districts; a reverser behind a
    detector."""
    layout = facts.layout
    inputs: dict[str, set[str]] = defaultdict(set)
    for device in layout.devices.values():
        if device.board is not None and device.input is not None:
            inputs[device.board].add(device.input)
    for i, board in layout.detectors.items():
        if DETECTORS[board.kind].common_input and len(inputs[i]) > 1:
            names = " and ".join(sorted(layout.circuits[c].name for c in inputs[i]))
            yield Finding(
                key=f"board-districts:{i}",
                rule="detector boards and districts",
                severity="must",
                title=f"{board.name} has channels in {names}; a board of its kind has one input for all",
                why="Its channels are joined on the board, so the districts become one: no breaker protects its own "
                "part any more.",
                mend="A board for each district, or current transformers, which join nothing.",
                place=Place("detector", i),
                shows=(i,),
                figures=(("districts", str(len(inputs[i]))),),
            )
        deaf = _deaf_in(facts, i)
        if deaf is not None:
            why, some = deaf
            where = f"in {', '.join(some[:FEW])}{' and more' if len(some) > FEW else ''}" if some else "here"
            usual = DETECTORS["diode drop"]
            figures = {"kind": "diode drop", "drop": usual.drop, "ohms": usual.ohms, "threshold": usual.threshold}
            yield Finding(
                key=f"board-kind:{i}",
                rule="detector boards and districts",
                severity="must",
                title=f"{board.name} is of kind {board.kind}, which sees nothing {where}",
                why=why,
                mend="Another kind of detector: diodes see any current.",
                place=Place("detector", i),
                shows=(i,),
                figures=(("kind", board.kind),),
                mends=(
                    Mend(
                        "Diode drop instead",
                        [{"op": "add", "path": f"/detectors/{i}/{k}", "value": v} for k, v in figures.items()],
                    ),
                ),
            )
    homes: dict[str, set[str]] = defaultdict(set)
    for section in layout.sections.values():
        if section.block is not None:
            device_id = facts.tree.fed_by.get(section.circuit)
            behind = device_id is not None and layout.devices[device_id].kind == "detector"
            circuit = layout.devices[device_id].input if behind and device_id else section.circuit
            homes[section.block].add(circuit or section.circuit)
    for block, circuits in homes.items():
        if len(circuits) < 2:
            continue
        parts = [s for s in layout.sections.values() if s.block == block]
        names = " and ".join(sorted(layout.circuits[c].name for c in circuits))
        turned = any(layout.devices[d].kind in REVERSERS for c in circuits if (d := facts.tree.fed_by.get(c)))
        yield Finding(
            key=f"block-districts:{block}",
            rule="detector boards and districts",
            severity="should",
            title=f"Block {layout.blocks[block].name} lies in {names}",
            why="A reversing section is whole blocks: otherwise a train may stand half in what turns over."
            if turned
            else "A trip in one district darkens half a block, and its detectors show a free half where a train "
            "stands.",
            mend="End the block where the district ends: two blocks, each with its own sections.",
            place=Place("track", parts[0].track, parts[0].track, parts[0].at),
            shows=tuple(p.track for p in parts),
            figures=(("circuits", str(len(circuits))),),
        )
    for i, device in layout.devices.items():
        above = facts.tree.fed_by.get(device.input or "")
        if device.kind in REVERSERS and above is not None and layout.devices[above].kind == "detector":
            yield Finding(
                key=f"reverser-behind:{i}",
                rule="detector boards and districts",
                severity="should",
                title=f"{device.name} hangs behind {layout.devices[above].name}: it draws current itself, and changes "
                f"which rail is sensed",
                why="A unit that turns polarity over has electronics of its own, which the detector takes for a "
                "train. First the reverser, then the detectors of its sections.",
                mend="Hang the reverser under the district, and a detector under the reverser.",
                place=Place("device", i),
                shows=(i, above),
                figures=(("first in the wire", layout.devices[above].name),),
            )
    for i, load in layout.loads.items():
        above = facts.tree.fed_by.get(load.circuit)
        if above is not None and layout.devices[above].kind == "detector":
            yield Finding(
                key=f"load-behind:{i}",
                rule="detector boards and districts",
                severity="must",
                title=f"{load.name} draws from behind {layout.devices[above].name}: it shows a train that is not there",
                why="A lamp or a decoder behind a detector draws current for ever.",
                mend="Feed it from an accessory bus, or from the bus before the detector.",
                place=Place("load", i),
                shows=(i, above),
                figures=(("draws", print_current(load.amps)),),
            )


@rule("what detectors see", "detect")
def sees(facts: Facts) -> Iterator[Finding]:
    """Sections whose detector misses what it should see, or would show wet ballast as a train."""
    _layout, units = facts.layout, facts.layout.brief.units
    rows = sensitivity(facts)
    blind: dict[tuple[str, ...], list[str]] = defaultdict(list)
    for row in rows:
        engine = [b for b in row.blind if b.endswith("standing still")]
        if engine:
            blind[tuple(engine)].append(row.name)
    for what, names in blind.items():
        row = next(r for r in rows if r.name == names[0])
        yield Finding(
            key=f"blind:{what[0]}"[:110],
            rule="what detectors see",
            severity="should",
            title=f"{what[0][:1].upper() + what[0][1:]} is not sure to be seen in "
            f"{', '.join(names[:FEW])}{f' and {len(names) - FEW} more' if len(names) > FEW else ''}",
            why=f"It draws {print_current(row.engine[1]) if row.engine else '?'}; to be seen every time it should "
            f"draw {MARGIN:g} times the threshold of {print_current(row.threshold)}.",
            mend="More turns through the coil, a detector that sees less, or a lamp or resistor in that engine.",
            place=Place("track", _track(facts, row.number)),
            shows=(_track(facts, row.number),),
            figures=(("threshold", print_current(row.threshold)), ("sections", str(len(names)))),
            source="calculated",
        )
    ghosts = [r for r in rows if any(g != "wet ballast" for g in r.ghost)]
    for row in ghosts:
        which = next(g for g in row.ghost if g != "wet ballast")
        amps = row.leaks[0] if which == "dry ballast" else row.leaks[1]
        yield Finding(
            key=f"ghost:{row.name}"[:110],
            rule="what detectors see",
            severity="should",
            title=f"{which.capitalize()} may show a train in {row.name}, {print_length(row.length, units)} long",
            why=f"It leaks about {print_current(amps)} and fills with {print_current(row.filling)}; the detector "
            f"answers at {print_current(row.threshold)}. A guess until measured: rail to rail, nothing on it.",
            mend="A shorter section, or a detector less eager.",
            place=Place("track", _track(facts, row.number)),
            shows=(_track(facts, row.number),),
            figures=(("leak", print_current(amps)), ("threshold", print_current(row.threshold))),
            source="calculated from a guess of the ballast, certainty C",
        )
    gone = vanishing(facts)
    if gone:
        worst = max(gone, key=lambda v: v.wanted - v.axles)
        yield Finding(
            key="vanish",
            rule="what detectors see",
            severity="look",
            title=f"Cars of {len(gone)} train{'s' if len(gone) != 1 else ''} are not seen by themselves: a car left "
            f"behind looks like a clear block",
            why=f"{worst.name} has about {worst.cars} cars without lamps and {worst.axles} resistor axles; so that "
            f"every car shows, {worst.wanted} are wanted.",
            mend="Resistor axles on every car, or at least on the last two; step Detect works out how many.",
            place=Place("train", worst.train),
            shows=(),
            figures=(("trains", str(len(gone))), ("axles wanted", str(worst.wanted))),
            source="calculated",
        )


def _track(facts: Facts, number: int) -> str:
    return max(facts.rails.extents[number], key=lambda p: (p.end - p.start, p.track)).track
