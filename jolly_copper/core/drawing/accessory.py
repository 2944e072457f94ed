"""Drawing what accessory power feeds: loads counted, or standing on the plan at a terminal of their bus."""

from __future__ import annotations

from jolly_copper.core.circuits.lengths import nearest_terminal_to
from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.materials.accessories import USUAL


def add_load(
    sheet: Sheet, kind: str, name: str, circuit: str, count: int = 1, at: tuple[float, float] | None = None
) -> str:
    """So many of a kind of load on a circuit, with what such things usually draw. Answers its id."""
    sheet.thing("circuits", circuit)
    usual = USUAL[kind]
    i = sheet.add(
        "loads",
        "A",
        {
            "kind": kind,
            "name": name,
            "circuit": circuit,
            "terminal": None,
            "at": None,
            "count": count,
            "at_once": min(count, 2),
            "amps": usual.amps,
            "working_amps": usual.working_amps,
            "least_volts": usual.least_volts,
            "most_volts": usual.most_volts,
            "throws": usual.throws,
            "measured": False,
        },
    )
    if at is not None:
        stand(sheet, i, *at)
    return i


def stand(sheet: Sheet, load: str, x: float, y: float) -> None:
    """Put a load at a place of the plan, tied to the nearest terminal of its circuit; to none where it has none."""
    value = sheet.thing("loads", load)
    near = nearest_terminal_to(sheet.layout(), value["circuit"], (x, y))
    value.update(at={"x": round(x, 1), "y": round(y, 1)}, terminal=near)
