"""Quiet in the memory of a program that is loaded."""

from __future__ import annotations

import gc


def calm_collector() -> None:
    """Make the garbage collector sweep seldom.

    What is loaded by now stays for good, and a layout is many small objects that die by themselves; sweeping them
    again and again cost every other edit some 60 ms.
    """
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)
