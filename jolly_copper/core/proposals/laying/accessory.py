"""A bus for accessories laid from its supply to what stands on the plan."""

from __future__ import annotations

from jolly_copper.core.circuits.edits import Patch
from jolly_copper.core.drawing.sheet import DrawingError, Sheet
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.materials.copper import in_units
from jolly_copper.core.proposals.laying.runs import Spot, Wire, lay

ACCESSORY_GAUGE = "16 AWG"


def lay_accessory_bus(layout: Layout, device: str) -> Patch:
    """The change that lays a bus from a supply or step-down to its loads that stand on the plan and have no terminal
    yet, and to the step-downs behind it that no wire reaches.

    Raises:
        DrawingError: the device is gone, or there is nothing to reach.
    """
    sheet = Sheet(layout)
    circuit = sheet.thing("devices", device)["output"]
    wanting = [
        (i, x) for i, x in layout.loads.items() if x.circuit == circuit and x.at is not None and x.terminal is None
    ]
    reached = {r.ends_at_device for r in layout.runs.values()}
    onwards = [
        i for i, d in layout.devices.items() if d.kind == "step-down" and d.input == circuit and i not in reached
    ]
    if not wanting and not onwards:
        raise DrawingError(
            "Nothing to lay a bus to: stand its loads on the plan first, those without a terminal are reached."
        )
    spots = [Spot(x.at.x, x.at.y) for _, x in wanting if x.at is not None]
    wire = Wire(gauge=in_units(ACCESSORY_GAUGE, layout.brief.units), make="side by side")
    for (i, _), terminal in zip(wanting, lay(sheet, device, spots, onwards, wire), strict=True):
        sheet["loads"][i]["terminal"] = terminal
    return sheet.patch()
