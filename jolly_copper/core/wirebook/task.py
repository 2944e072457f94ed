"""One thing to do, and all that is to do in one place."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Literal

TaskKind = Literal["gap", "terminal", "run", "feeder", "control", "plug", "switch", "device", "check"]


@dataclass(frozen=True)
class Task:
    """One thing to do, told so that nobody needs the plan for it.

    key: stable while the thing stands: `gap:G9`, `run:R3/2`, `check:b6/coin`. colours: of the two wires, None where
    there are none. rows: heading and words. meter: what to do before the next one; empty where there is nothing.
    numbers: those the railroad should report while it is done, each with what it tells of.
    """

    key: str
    kind: TaskKind
    label: str
    colours: tuple[str, ...] | None
    rows: tuple[tuple[str, str], ...]
    meter: str
    numbers: tuple[tuple[int, str], ...] = ()

    @property
    def told(self) -> str:
        """A mark of all it says; another one means that the work changed since."""
        return hashlib.sha256(repr((self.label, self.colours, self.rows)).encode()).hexdigest()[:16]


@dataclass(frozen=True)
class BoardTasks:
    """A board's work from first to last. after: names of the boards whose wiring brings power here. panel: of a control
    panel that is wired at the bench."""

    board: str | None
    name: str
    after: tuple[str, ...]
    tasks: tuple[Task, ...]
    panel: str | None = None

    @property
    def key(self) -> str:
        """What it goes by on a phone."""
        return f"panel-{self.panel}" if self.panel is not None else self.board or "off"
