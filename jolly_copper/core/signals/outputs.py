"""Which output works what: lamps and turnout motors on their driver boards, with amps and resistors."""

from __future__ import annotations

from dataclasses import dataclass

from jolly_copper.core.circuits.quick_sums import ResistorSum, led_resistor
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import natural
from jolly_copper.core.layout.signalling import Driver, Signal
from jolly_copper.core.signals.heads import Lamp, lamps_of


@dataclass(frozen=True)
class Output:
    """One output of a driver board, or input of a board for buttons and reports. what: in words. kind, id: whose it is.
    colour: of its wire. amps: at most, A."""

    driver: str
    number: int
    address: int
    kind: str
    id: str
    what: str
    colour: str
    amps: float


MOTOR_AMPS = {"stall motor": 0.02, "solenoid": 2.5, "servo": 0.25}
"""A motor at work, A. Guesses, certainty C: common practice, no source."""


def lamp_words(signal: Signal, lamp: Lamp) -> str:
    """A lamp of a signal in words: `upper red`."""
    where = ("upper ", "lower ")[lamp.head] if signal.heads == 2 else ""
    return f"{where}{lamp.what}"


def outputs_of(layout: Layout) -> list[Output]:
    """Every output that something hangs on, board by board, in order."""
    found = []
    for i, signal in layout.signals.items():
        if signal.driver is None or signal.output is None:
            continue
        board = layout.drivers[signal.driver]
        for k, lamp in enumerate(lamps_of(signal)):
            number = signal.output + k
            amps = MOTOR_AMPS["servo"] if lamp.what == "arm" else signal.lamp_amps
            found.append(
                Output(
                    signal.driver,
                    number,
                    board.address + number - 1,
                    "signal",
                    i,
                    f"{signal.name}, {lamp_words(signal, lamp)}",
                    lamp.colour,
                    amps,
                )
            )
    for i, node in layout.nodes.items():
        for board_id, wired_to, what, colour in (
            (node.report_board, node.report_input, "closed when it lies diverging", "green"),
            (node.button_board, node.button_input, "button on the panel", "yellow"),
        ):
            if board_id is not None and wired_to is not None:
                address = layout.drivers[board_id].address + wired_to - 1
                found.append(
                    Output(board_id, wired_to, address, "node", i, f"Turnout {node.name or i}, {what}", colour, 0.0)
                )
        if node.driver is None or node.output is None:
            continue
        board = layout.drivers[node.driver]
        amps = MOTOR_AMPS.get(node.motor or "", 0.02)
        found.append(
            Output(
                node.driver,
                node.output,
                board.address + node.output - 1,
                "node",
                i,
                f"Turnout {node.name or i}",
                "white",
                amps,
            )
        )
    return sorted(found, key=lambda o: (natural(layout.drivers[o.driver].name), o.number, natural(o.id)))


def resistor_for(driver: Driver, signal: Signal) -> ResistorSum | str:
    """The resistor in each lamp's wire; in words why there is none.

    R = (V − V_lamp)/I, next E24 value up. Source: Ohm's law; E24 from IEC 60063.
    """
    if signal.kind == "semaphore":
        return "a servo needs no resistor"
    try:
        return led_resistor(driver.volts, signal.lamp_volts, signal.lamp_amps)
    except ValueError as error:
        return str(error)


def driver_amps(layout: Layout, driver_id: str) -> float:
    """What a driver board asks of its supply with one lamp of every head burning, A.

    A searchlight shows yellow with both its lamps, so both count; a solenoid draws for a moment and is not counted.
    """
    amps = layout.drivers[driver_id].amps
    for signal in layout.signals.values():
        if signal.driver == driver_id:
            at_once = 2 if signal.kind == "searchlight" else 1
            amps += signal.heads * (MOTOR_AMPS["servo"] if signal.kind == "semaphore" else at_once * signal.lamp_amps)
    for node in layout.nodes.values():
        if node.driver == driver_id and node.motor in ("stall motor", "servo"):
            amps += MOTOR_AMPS[node.motor] if node.motor == "stall motor" else 0.01
    return amps
