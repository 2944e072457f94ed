"""Times and durations of an evening, as people say them."""

from __future__ import annotations


def clock(t: float) -> str:
    """A time of the evening, s from its start.

    >>> clock(4325)
    '1:12:05'
    """
    return f"{int(t) // 3600}:{int(t) // 60 % 60:02d}:{int(t) % 60:02d}"


def spoken(seconds: float) -> str:
    """A duration, s, in the unit people would choose.

    >>> spoken(90), spoken(300), spoken(10800), spoken(9000)
    ('90 s', '5 min', '3 h', '2.5 h')
    """
    if seconds < 120:
        return f"{seconds:.0f} s"
    if seconds < 7200:
        return f"{seconds / 60:.0f} min"
    hours = seconds / 3600
    return f"{hours:.0f} h" if abs(hours - round(hours)) < 0.05 else f"{hours:.1f} h"
