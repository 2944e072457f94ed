"""The wire table as CSV."""

from __future__ import annotations

import csv
import io

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.wirebook.schedule import in_world, schedule
from jolly_copper.exchange.cells import safe


def wires_csv(layout: Layout) -> str:
    """The wire table, one row for each pair, with lengths in the layout's own unit world named in the heading.

    Cells that a spreadsheet would take for a formula are given a leading apostrophe.
    """
    unit = in_world(layout, 0)[1]
    out = io.StringIO()
    table = csv.writer(out, lineterminator="\r\n")
    table.writerow(
        [
            "Label",
            "Kind",
            "Circuit",
            "Wires",
            "Gauge",
            "Strands",
            "From",
            "To",
            f"Measured ({unit})",
            "Measured by",
            f"Cut each wire ({unit})",
            "Connectors",
        ]
    )
    for w in schedule(layout):
        table.writerow(
            [
                safe(c)
                for c in (
                    w.label,
                    w.kind,
                    w.circuit_name,
                    " + ".join(w.colours),
                    w.gauge,
                    w.strands,
                    w.start,
                    w.end,
                    f"{in_world(layout, w.measured)[0]:.2f}",
                    "tape" if w.by_tape else "drawing",
                    f"{in_world(layout, w.cut)[0]:.2f}",
                    w.connectors,
                )
            ]
        )
    return out.getvalue()
