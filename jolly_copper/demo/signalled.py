"""The demo railroad blocked and signalled by the program itself, as a newcomer would have it after an evening."""

from __future__ import annotations

from functools import lru_cache

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.proposals.blocking.make import make_blocks, propose_blocks
from jolly_copper.core.proposals.signalling import make_signals, propose_signals
from jolly_copper.demo.gannet_bay import gannet_bay
from jolly_copper.demo.rehearsed import with_evenings


@lru_cache
def signalled_bay() -> Layout:
    """Gannet Bay with block detection and signals, three aspects and diverging speed."""
    demo = gannet_bay()
    signalling = demo.brief.signalling.model_copy(update={"school": "three aspects and diverging"})
    layout = demo.model_copy(
        update={
            "name": "Gannet Bay, signalled",
            "notes": "The demo railroad with blocks, detectors and signals. Steps Detect and Signal; Rehearse has its "
            "open day.",
            "brief": demo.brief.model_copy(update={"signalling": signalling}),
        }
    )
    blocked = apply_patch(layout, make_blocks(layout, propose_blocks(layout)))
    patch, _ = make_signals(blocked, propose_signals(blocked))
    return with_evenings(apply_patch(blocked, patch))
