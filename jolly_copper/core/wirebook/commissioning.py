"""Commissioning: every device mounted, set, numbered and tried alone; every lamp and every aspect seen once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from jolly_copper.core.circuits.giving import source_volts
from jolly_copper.core.layout.benchwork import board_at
from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.power_tree import SOURCES
from jolly_copper.core.layout.signalling import DetectorBoard, Driver, Signal
from jolly_copper.core.materials.joints import OPEN_OHMS
from jolly_copper.core.quantities import print_current, print_ohms, print_volts
from jolly_copper.core.signals.heads import can_show, lamps_of, shows
from jolly_copper.core.signals.numbering import module_words
from jolly_copper.core.signals.outputs import lamp_words
from jolly_copper.core.signals.places import signal_point
from jolly_copper.core.wirebook.book import Chapter, Column, Table
from jolly_copper.core.wirebook.task import Task

NOT_WRITTEN = "Nothing is written yet: type jumpers, switches and values on its card, as its leaflet has them."
LOOSE = "Join its wires loosely first and try it; insulate and tie them when it works."
ALONE = "With nothing else on the report line"


def commissioning(layout: Layout) -> dict[str | None, list[Task]]:
    """For every board, its devices one by one, then the lamps and heads on it: in the order they are commissioned."""
    found: dict[str | None, list[Task]] = defaultdict(list)
    for i, device in sorted(layout.devices.items(), key=lambda e: natural(e[1].name)):
        if device.board is None and device.kind != "selector":
            found[board_at(layout, device.at.x, device.at.y)].append(_device(layout, i, device))
    boards: list[tuple[str, DetectorBoard | Driver]] = [*layout.detectors.items(), *layout.drivers.items()]
    for i, board in boards:
        found[board_at(layout, board.at.x, board.at.y)].append(_board(layout, i, board))
    for i, signal in sorted(layout.signals.items(), key=lambda e: natural(e[1].name)):
        if signal.driver is not None and signal.output is not None:
            found[board_at(layout, *signal_point(layout, signal))] += [_lamps(layout, i, signal), _head(i, signal)]
    return found


def _device(layout: Layout, device_id: str, device: Device) -> Task:
    rows = [("Mount", f"{device.name}, {device.kind}. {LOOSE}"), ("Set", device.settings or NOT_WRITTEN)]
    rows += [(heading, words) for heading, words in _figures(device)]
    return Task(f"device:{device_id}", "device", device.name, None, tuple(rows), _alone(layout, device_id, device))


def _figures(device: Device) -> Iterator[tuple[str, str]]:
    if device.trip_amps is not None:
        after = f" after {device.trip_seconds * 1000:.0f} ms" if device.trip_seconds is not None else ""
        yield "Opens at", f"{print_current(device.trip_amps)}{after}"
    if device.recovery_seconds is not None:
        yield "Tries again", f"after {device.recovery_seconds:g} s"


def _alone(layout: Layout, device_id: str, device: Device) -> str:
    """How a device is tried by itself, before old wiring is cut."""
    if device.kind in SOURCES or device.kind in ("supply", "step-down"):
        volts = print_volts(source_volts(layout, device_id))
        return (
            f"Alone, nothing on its output: about {volts}. Then a lamp on it: the volts stay. Before old wiring is "
            "cut. Nothing inside a supply is touched; mains is for whoever is licensed for it."
        )
    if device.kind == "breaker":
        return (
            "Alone, on a source with a lamp behind it: the lamp burns. A short touched across its output: it opens, "
            "and the source does not. A touch only. Before old wiring is cut."
        )
    if device.kind == "reversing switch":
        return (
            "Alone, power off: ohms from each input to each output, as it lies and thrown. Straight through one way, "
            "crossed the other, and no input ever to the other. Before old wiring is cut."
        )
    if device.kind == "reverser":
        return (
            "Alone, two metres of track behind it: a wheelset over one gap, then over the other. It turns over each "
            "time, and what stands above it does not open. Before old wiring is cut."
        )
    return "Alone: it does what its leaflet says, before old wiring is cut."


def _sockets(board_id: str, plate: Driver) -> Task:
    """A plate of sockets that hand controllers are plugged into: it has no number."""
    rows = (("Mount", f"{plate.name}, where a driver stands. {LOOSE}"), ("Set", plate.settings or NOT_WRITTEN))
    meter = (
        f"A hand controller in each of its {plate.outputs} sockets in turn, those before it on the line plugged too: "
        "it wakes, and drives an engine; pulled out and in again, the engine goes on."
    )
    return Task(f"board:{board_id}", "device", plate.name, None, rows, meter)


def _board(layout: Layout, board_id: str, board: DetectorBoard | Driver) -> Task:
    if isinstance(board, Driver) and board.drives == "hand controllers":
        return _sockets(board_id, board)
    channels = board.channels if isinstance(board, DetectorBoard) else board.outputs
    last = board.address + channels - 1
    what = "detector board" if isinstance(board, DetectorBoard) else f"driver board for {board.drives}"
    module = module_words(board, layout.brief.detecting) if isinstance(board, DetectorBoard) else ""
    rows = (
        ("Mount", f"{board.name}, {what}. {LOOSE}"),
        ("Set", board.settings or NOT_WRITTEN),
        ("Number", f"{ALONE}: {module or board.address}, so that it answers as {board.address} to {last}."),
    )
    if isinstance(board, DetectorBoard):
        meter = f"{ALONE}: an engine on each of its sections shows that number and no other; empty, none."
    elif board.drives == "lamps":
        meter = f"A short test lamp on each output in turn, {board.address} to {last}: it lights, and no other."
    elif board.drives == "turnouts":
        meter = f"Each turnout thrown by its number, {board.address} to {last}: it lies as told, both ways."
    else:
        meter = f"Each input closed by a wire in turn, {board.address} to {last}: its number comes, and no other."
    numbers = _reported(layout, board_id, board) if isinstance(board, DetectorBoard) else ()
    return Task(f"board:{board_id}", "device", board.name, None, rows, meter, numbers)


def _reported(layout: Layout, board_id: str, board: DetectorBoard) -> tuple[tuple[int, str], ...]:
    """The numbers of a detector board that something is wired to, with the names of their sections."""
    names: dict[str, list[str]] = defaultdict(list)
    for section in layout.sections.values():
        names[section.circuit].append(section.name)
    return tuple(
        sorted(
            (board.address + d.channel - 1, ", ".join(sorted(names[d.output], key=natural)) or d.name)
            for d in layout.devices.values()
            if d.board == board_id and d.channel is not None
        )
    )


def _lamps(layout: Layout, signal_id: str, signal: Signal) -> Task:
    driver = layout.drivers[signal.driver or ""]
    first = signal.output or 1
    rows = tuple(
        (f"Output {first + k}, number {driver.address + first + k - 1}", f"{lamp_words(signal, lamp)}")
        for k, lamp in enumerate(lamps_of(signal))
    )
    meter = (
        f"Before the cable is tied at {driver.name}: each lamp's wire to the common, {print_ohms(OPEN_OHMS)} or a lit "
        "lamp on the meter's diode range, never closed. Then each output on by itself: that lamp, and no other."
    )
    return Task(f"lamps:{signal_id}", "device", signal.name, None, rows, meter)


def _head(signal_id: str, signal: Signal) -> Task:
    rows = tuple((aspect.capitalize(), " over ".join(shows(signal, aspect))) for aspect in can_show(signal))
    meter = "Each aspect called up once, and looked at from where a driver sits."
    return Task(f"aspects:{signal_id}", "check", signal.name, None, rows, meter)


def settings_chapter(layout: Layout) -> Chapter | None:
    """What every device is set to, as somebody typed it; None where nothing is written."""
    every: list[tuple[str, str, str]] = [
        (d.name, d.kind, d.settings) for d in layout.devices.values() if d.board is None
    ]
    every += [(b.name, "detector board", b.settings) for b in layout.detectors.values()]
    every += [(b.name, f"driver board, {b.drives}", b.settings) for b in layout.drivers.values()]
    rows = tuple(sorted((r for r in every if r[2]), key=lambda r: natural(r[0])))
    if not rows:
        return None
    columns = (Column("Device", 1.2), Column("What", 1.2), Column("Set, and what its leaflet has wrong", 4))
    return Chapter("settings", "Settings", (Table("As typed from the leaflets", columns, rows),), short=True)
