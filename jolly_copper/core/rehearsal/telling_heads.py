"""Heads of an evening: what is promised and kept goes into the rule, what changes is told."""

from __future__ import annotations

from jolly_copper.core.rehearsal.evening import Evening
from jolly_copper.core.rehearsal.trace import Head
from jolly_copper.core.signals.heads import ASPECTS


def tell_heads(evening: Evening) -> None:
    """Ask the heads again, and tell those that changed."""
    if not evening.heads.ids:
        return
    if evening.quiet:
        evening.stale_heads = True
        return
    ask_heads(evening)


def ask_heads(evening: Evening) -> None:
    """What the heads show now."""
    heads = evening.heads
    evening.stale_heads = False
    kept = 0
    promised: dict[int, int] = {}
    for train in evening.trains.values():
        kept |= train.kept
        for _, signal, number in train.promised:
            promised[heads.ids.index(signal)] = number
    now = heads.show(evening.lit | evening.stuck_lit_extents, kept, promised)
    if now == evening.shown:
        return
    for n, (was, is_now) in enumerate(zip(evening.shown, now, strict=True)):
        if was != is_now:
            evening.told.append(Head(evening.t, heads.ids[n], ASPECTS[is_now]))
    evening.shown = now
