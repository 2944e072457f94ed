"""The back of a panel drawn: every switch as it looks from behind, pins numbered, wires in their colours."""

from __future__ import annotations

from jolly_copper.core.materials.wire_inks import inks_of
from jolly_copper.core.wirebook.sketch import FAINT, INK, MUTED, Point, Sketch, Stroke, Words
from jolly_copper.core.wirebook.switch_backs import PINS_SEEN, PanelBack, SwitchBack

CARD_WIDE, STEP, TOP = 58.0, 7.5, 13.0
PIN_R = 1.5
ACROSS = 3


def back_sketch(back: PanelBack, name: str) -> Sketch:
    """A card for each switch, three across, in the order of their numbers. mm."""
    strokes: list[Stroke] = []
    words: list[Words] = []
    y = 0.0
    switches = list(back.switches)
    for start in range(0, len(switches), ACROSS):
        row = switches[start : start + ACROSS]
        tall = max(_tall(s) for s in row)
        for k, s in enumerate(row):
            _card(s, k * (CARD_WIDE + 3), y, tall, strokes, words)
        y += tall + 3
    wide = ACROSS * (CARD_WIDE + 3) - 3
    title = f"{name} from behind: {len(switches)} sets of pins"
    return Sketch(title, wide, max(y - 3, 10.0), tuple(strokes), tuple(words), PINS_SEEN)


def _tall(s: SwitchBack) -> float:
    return TOP + STEP * (1 + max((p.row for p in s.pins), default=0)) + 2.5


def _card(s: SwitchBack, x: float, y: float, tall: float, strokes: list[Stroke], words: list[Words]) -> None:
    strokes.append(Stroke(_box(x, y, CARD_WIDE, tall), FAINT, 0.25, None, True, "#fffdf8"))
    words.append(Words(x + 2, y + 4.2, f"{s.number}", 9, INK, "start", True))
    words.append(Words(x + 8, y + 4.2, _short(s.name, 30), 6.6, INK, "start", True))
    words.append(Words(x + 8, y + 7.6, _short(s.part, 44), 5, MUTED))
    columns = max((p.column for p in s.pins), default=0) + 1
    at: dict[str, Point] = {}
    for p in s.pins:
        # From behind the first pole stands on the right.
        px = x + (CARD_WIDE / 2 + 3.4 if p.column == 0 else CARD_WIDE / 2 - 3.4) if columns > 1 else x + CARD_WIDE / 2
        at[p.number] = (px, y + TOP + STEP * p.row)
    rows = [p.row for p in s.pins]
    if rows:
        low, high = min(rows), max(rows)
        half = 6.6 if columns > 1 else 3.2
        edge = _box(x + CARD_WIDE / 2 - half, y + TOP + STEP * low - 3.2, 2 * half, STEP * (high - low) + 6.4)
        strokes.append(Stroke(edge, INK, 0.35, None, True, "#ece7da"))
    for a, b in s.links:
        if a in at and b in at:
            strokes.append(Stroke((at[a], at[b]), INK, 0.5))
    for p in s.pins:
        px, py = at[p.number]
        right = p.column == 0
        end = x + (CARD_WIDE - 2 if right else 2)
        ink, stripe = inks_of(p.colour)
        edge_x = px + (PIN_R if right else -PIN_R)
        strokes.append(Stroke(((edge_x, py), (end, py)), INK, 1.1))
        strokes.append(Stroke(((edge_x, py), (end, py)), ink, 0.8))
        if stripe:
            strokes.append(Stroke(((edge_x, py), (end, py)), stripe, 0.8, 1.4))
        strokes.append(Stroke(_box(px - PIN_R, py - PIN_R, 2 * PIN_R, 2 * PIN_R), INK, 0.3, None, True, "#ffffff"))
        words.append(Words(px, py + 0.8, p.number, 5, INK, "middle", True))
        words.append(
            Words(end, py - 1.1, _short(p.label, 19 if columns > 1 else 24), 4.6, INK, "end" if right else "start")
        )


def _short(text: str, most: int) -> str:
    return text if len(text) <= most else f"{text[: most - 1]}…"


def _box(x: float, y: float, wide: float, tall: float) -> tuple[Point, ...]:
    return ((x, y), (x + wide, y), (x + wide, y + tall), (x, y + tall))
