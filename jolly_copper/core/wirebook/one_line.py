"""The power tree on paper, each conductor pair as one line: source, breaker, reverser, with amps and trips."""

from __future__ import annotations

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.protection import in_order
from jolly_copper.core.layout.document import Device, Layout
from jolly_copper.core.quantities import print_current, print_volts
from jolly_copper.core.wirebook.sketch import GLYPH, INK, MM_PER_POINT, MUTED, Point, Sketch, Stroke, Words

WIDE, TALL, GAP_X, GAP_Y = 46.0, 13.0, 10.0, 4.0
ROOM = 180.0


def one_lines(facts: Facts) -> list[Sketch]:
    """One drawing for each source: what hangs under it, to the right."""
    layout = facts.layout
    outputs = {d.output for d in layout.devices.values()}
    roots = [i for i in in_order(layout) if layout.devices[i].input not in outputs]
    asked = {a.device: a.worst for a in facts.asked}
    return [_tree(layout, root, asked) for root in roots]


def ratings(device: Device) -> str:
    """What is on a device's label that matters in the tree: volts, amps, trip."""
    parts = [print_volts(device.volts)] if device.volts else []
    if device.label_amps:
        parts.append(print_current(device.measured_amps or device.label_amps))
    if device.trip_amps:
        parts.append(f"trips at {print_current(device.trip_amps)}")
    if device.trip_seconds:
        parts.append(f"{device.trip_seconds * 1000:.0f} ms")
    return ", ".join(parts) or device.kind


def _tree(layout: Layout, root: str, asked: dict[str, float]) -> Sketch:
    at: dict[str, Point] = {}
    row = 0.0
    deepest = 0

    def put(i: str, depth: int) -> float:
        nonlocal row, deepest
        deepest = max(deepest, depth)
        below = [
            k
            for k, d in layout.devices.items()
            if d.input == layout.devices[i].output and d.board is None and k not in at and k != i
        ]
        rows = [put(k, depth + 1) for k in below]
        y = (rows[0] + rows[-1]) / 2 if rows else row
        if not rows:
            row += TALL + GAP_Y
        at[i] = (depth * (WIDE + GAP_X), y)
        return y

    put(root, 0)
    width, height = (deepest + 1) * (WIDE + GAP_X) - GAP_X, row - GAP_Y
    scale = min(1.0, ROOM / width)
    strokes: list[Stroke] = []
    words: list[Words] = []
    for i, (x, y) in at.items():
        device = layout.devices[i]
        circuit = layout.circuits[device.output]
        for k, child in layout.devices.items():
            if k in at and k != i and child.input == device.output:
                cx, cy = at[k]
                middle = x + WIDE + GAP_X / 2
                path = ((x + WIDE, y + TALL / 2), (middle, y + TALL / 2), (middle, cy + TALL / 2), (cx, cy + TALL / 2))
                strokes.append(Stroke(_scaled(path, scale), circuit.ink, 0.6))
        box = ((x, y), (x + WIDE, y), (x + WIDE, y + TALL), (x, y + TALL))
        strokes.append(Stroke(_scaled(box, scale), INK, 0.3, None, True, "#fffdf8"))
        strokes.append(Stroke(_scaled(((x, y), (x, y + TALL)), scale), circuit.ink, 1.2))
        third = f"{circuit.name}: {circuit.colour_a} + {circuit.colour_b}"
        if i in asked:
            third = f"asked {print_current(asked[i])} at worst; {circuit.colour_a} + {circuit.colour_b}"
        for n, (text, size, bold) in enumerate(
            ((device.name, 7.5, True), (ratings(device), 6.5, False), (third, 5.8, False))
        ):
            fitted = _fit(text, (WIDE - 4) * scale, size * scale)
            words.append(
                Words(
                    (x + 2.5) * scale,
                    (y + 4 + 3.6 * n) * scale,
                    fitted,
                    size * scale,
                    INK if n < 2 else MUTED,
                    "start",
                    bold,
                )
            )
    name = layout.devices[root].name
    return Sketch(
        f"{name}: what hangs under it", width * scale + 0.5, height * scale + 0.5, tuple(strokes), tuple(words)
    )


def _scaled(points: tuple[Point, ...], scale: float) -> tuple[Point, ...]:
    return tuple((x * scale + 0.25, y * scale + 0.25) for x, y in points)


def _fit(text: str, room: float, size: float) -> str:
    most = int(room / (GLYPH * size * MM_PER_POINT))
    return text if len(text) <= most else text[: max(most - 1, 1)].rstrip() + "…"
