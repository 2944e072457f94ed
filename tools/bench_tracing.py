"""Pictures of plans traced: how much track is found and true, turnouts found and false, the same railroad or not, time.

Draws its own pictures from the demos and a few small plans: `python -m tools.bench_tracing`.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from statistics import median

from jolly_copper.core.layout.document import Layout
from jolly_copper.demo import gannet_bay, harbour_arm, millbeck
from tests.pictures import Hand
from tests.small_plans import SMALL_PLANS
from tests.traced import found_and_true, ground, kinds, laid, same_topology, traced, wrong_hands

WITHIN_MM = 12.0
HANDS: tuple[tuple[Hand, int], ...] = (
    ("one line", 1800),
    ("thin line", 1800),
    ("coloured", 1800),
    ("two rails", 2800),
    ("by hand", 1800),
    ("sleepers", 1800),
    ("rails and sleepers", 2800),
    ("bold", 1800),
    ("roadbed", 2800),
)
CONDITIONS = ("exported", "scanned", "photographed")


def _one(plan: Callable[[], Layout], hand: Hand, wide: int, condition: str = "exported") -> tuple[float, ...]:
    layout = plan()
    begun = time.perf_counter()
    found, placed = traced(layout, hand, wide, condition == "scanned", photo=condition == "photographed")
    seconds = time.perf_counter() - begun
    proposed = any(not x.why for x in found.lines)
    out = laid(found, placed)[0] if proposed else Layout(name="Nothing proposed")
    there, true = found_and_true(layout, out, WITHIN_MM)
    have, want = kinds(out)["turnout"], kinds(layout)["turnout"]
    places = [n.at for n in layout.nodes.values() if n.kind == "turnout"]
    off = [
        min((math.dist((p.x, p.y), (n.at.x, n.at.y)) for p in places), default=0.0)
        for n in out.nodes.values()
        if n.kind == "turnout"
    ]
    return (
        there,
        true,
        float(min(have, want)),
        float(want),
        float(max(have - want, 0)),
        float(same_topology(layout, out)),
        float(len(wrong_hands(out))),
        median(off) if off else 0.0,
        seconds,
        abs(ground(out) / ground(layout) - 1),
        float(_acts_left(layout, out)),
    )


def _acts_left(layout: Layout, out: Layout) -> int:
    """Corrections left, at least: junctions of each kind too many or too few, and hands that are wrong."""
    want, have = kinds(layout), kinds(out)
    return sum(abs(have[k] - want[k]) for k in want | have) + len(wrong_hands(out))


def main() -> None:
    """Print a line for each way of drawing, exported, scanned and photographed."""
    plans: list[Callable[[], Layout]] = [harbour_arm, millbeck, *SMALL_PLANS]
    print(f"{len(plans)} plans a row; found and true within {WITHIN_MM:g} mm")
    for hand, wide in HANDS:
        for condition in CONDITIONS:
            rows = [_one(p, hand, wide, condition) for p in plans]
            n = len(rows)
            there, true = (sum(r[k] for r in rows) / n for k in (0, 1))
            print(
                f"{hand:18} {condition:12} {there:.3f} / {true:.3f}, turnouts "
                f"{sum(r[2] for r in rows):.0f} of {sum(r[3] for r in rows):.0f}, {sum(r[4] for r in rows):.0f} false, "
                f"same railroad {sum(r[5] for r in rows):.0f} of {n}, wrong hands {sum(r[6] for r in rows):.0f}, "
                f"place {median(r[7] for r in rows):.0f} mm, "
                f"length within {max(r[9] for r in rows):.1%}, {sum(r[10] for r in rows):.0f} acts left, "
                f"{median(r[8] for r in rows):.1f} s"
            )
    for hand in ("one line", "coloured", "by hand"):
        row = _one(gannet_bay, hand, 3000)
        print(
            f"the demo, {hand}: {row[0]:.3f} / {row[1]:.3f}, turnouts {row[2]:.0f} of {row[3]:.0f}, same railroad "
            f"{row[5]:.0f}, {row[8]:.1f} s"
        )


if __name__ == "__main__":
    main()
