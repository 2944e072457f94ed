"""What readings may put into the document: one change that somebody looks at and accepts."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from jolly_copper.core.circuits.rail_work import rail_ohms_per_mm
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.ids import next_id
from jolly_copper.core.proving.learn import Learned
from jolly_copper.core.proving.listed_power import supply_amps
from jolly_copper.core.quantities import print_ohms, print_volts

SURE = 0.1
"""Of the ohms of all rail of a kind: offered once readings leave half of the doubt of the tables, or less."""
LEAST_OHMS = 0.001


@dataclass(frozen=True)
class Offer:
    """A JSON Patch with what it does, a line each."""

    lines: tuple[str, ...]
    patch: tuple[dict[str, Any], ...]


def offered(layout: Layout, latest: Mapping[str, float], learned: Learned) -> Offer:
    """Measured values in place of those of the tables.

    Args:
        layout: the document.
        latest: by test, the reading that counts, in its unit.
        learned: from the loaded readings.
    """
    lines: list[str] = []
    patch: list[dict[str, Any]] = []
    ids = dict.fromkeys(layout.measured)
    for test, value in latest.items():
        kind, _, thing = test.partition(":")
        owner, _, conductor = thing.rpartition("/")
        if kind == "feeder" and owner in layout.feeders and conductor in ("A", "B"):
            known = next(
                (i for i, m in layout.measured.items() if (m.what, m.of, m.side) == ("wire", owner, conductor)), None
            )
            if known is not None and layout.measured[known].ohms == value:
                continue
            key = known or next_id(ids, "m")
            entry = {"what": "wire", "of": owner, "side": conductor, "ohms": max(round(value, 4), LEAST_OHMS)}
            ids[key] = None
            patch.append({"op": "replace" if known else "add", "path": f"/measured/{key}", "value": entry})
            lines.append(f"Feeder {layout.feeders[owner].label or owner}, wire {conductor}: {print_ohms(value)}")
        elif kind == "supply" and thing in layout.devices and layout.devices[thing].measured_volts != round(value, 2):
            device = layout.devices[thing]
            amps = supply_amps(layout, thing)
            patch.append({"op": "add", "path": f"/devices/{thing}/measured_volts", "value": round(value, 2)})
            patch.append({"op": "add", "path": f"/devices/{thing}/measured_at_amps", "value": round(amps, 2)})
            lines.append(f"{device.name}: {print_volts(value)} with {amps:g} A drawn")
    for name, factor, spread in learned.shared:
        if not name.startswith("rail of code ") or spread > SURE:
            continue
        code, _, metal = name.removeprefix("rail of code ").partition(", ")
        ours = [i for i, t in layout.tracks.items() if str(t.code) == code and t.metal == metal]
        change = 1 + factor
        if not ours or abs(change - 1) < 0.03:
            continue
        for i in ours:
            ohms = round(rail_ohms_per_mm(layout.tracks[i]) * 1000 * change, 5)
            patch.append({"op": "add", "path": f"/tracks/{i}/ohms_per_metre", "value": ohms})
        lines.append(f"Rail of code {code}, {metal}: {100 * (change - 1):+.0f} %, on {len(ours)} tracks")
    return Offer(tuple(lines), tuple(patch))
