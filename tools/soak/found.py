"""What an attack found."""

from __future__ import annotations

from dataclasses import dataclass, field


@dataclass
class Found:
    """One attack. asked, measured: for the closing table. wrong: what should not have been, a line each."""

    attack: str
    asked: str
    measured: str = ""
    wrong: list[str] = field(default_factory=list)

    @property
    def well(self) -> bool:
        return not self.wrong


def slowest(times: list[float], share: float) -> float:
    """The time that so large a share of all stays under; 0 of none.

    >>> slowest([1.0, 2.0, 3.0, 4.0], 0.5)
    2.0
    """
    ordered = sorted(times)
    return ordered[max(0, int(len(ordered) * share + 0.5) - 1)] if ordered else 0.0


def table(found: list[Found]) -> str:
    """The closing table."""
    rows = [("attack", "asked", "measured", "")] + [
        (f.attack, f.asked, f.measured, "well" if f.well else "WRONG") for f in found
    ]
    widths = [max(len(r[k]) for r in rows) for k in range(4)]
    lines = ["  ".join(c.ljust(w) for c, w in zip(r, widths, strict=True)).rstrip() for r in rows]
    wrong = [f"{f.attack}: {w}" for f in found for w in f.wrong[:12]]
    return "\n".join([*lines, *(["", *wrong] if wrong else [])])
