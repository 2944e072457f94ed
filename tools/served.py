"""The real program in a process of its own, for what needs its ports, its processes or its end."""

from __future__ import annotations

import os
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from types import TracebackType

import httpx2 as httpx


class Served:
    """A started program. `url` is where it is, `said` what it printed."""

    def __init__(self, db: Path, *more: str, command: str = "serve", launcher: Path | None = None) -> None:
        copies = [] if command == "demo" or "--copies" in more else ["--copies", "0"]
        self.process = subprocess.Popen(
            [
                sys.executable,
                *([str(launcher)] if launcher else ["-m", "jolly_copper.cli"]),
                command,
                "--port",
                "0",
                "--db",
                str(db),
                *copies,
                *more,
            ],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            env={**os.environ, "PYTHONUNBUFFERED": "1"},
        )
        assert self.process.stdout is not None
        first = self.process.stdout.readline()
        found = re.search(r"https?://127\.0\.0\.1:\d+", first)
        if found is None:
            raise RuntimeError(first + (self.process.stderr.read() if self.process.stderr else ""))
        self.url = found[0]
        self.port = int(self.url.rsplit(":", 1)[1])
        self.said = first

    def more(self, lines: int) -> str:
        """So many more lines it prints."""
        assert self.process.stdout is not None
        self.said += "".join(self.process.stdout.readline() for _ in range(lines))
        return self.said

    def client(self, **more: object) -> httpx.Client:
        return httpx.Client(base_url=self.url, timeout=60, **more)  # type: ignore[arg-type]

    def memory(self) -> float:
        """MB of the program and all it started, shared pages counted once (proportional set size)."""
        return sum(self.memories().values())

    def memories(self) -> dict[int, float]:
        """The same by process."""
        pids = [self.process.pid]
        for pid in pids:
            with open(f"/proc/{pid}/task/{pid}/children", encoding="ascii") as kids:
                pids += [int(k) for k in kids.read().split()]
        found: dict[int, float] = {}
        for pid in pids:
            try:
                with open(f"/proc/{pid}/smaps_rollup", encoding="ascii") as rolled:
                    found[pid] = next(int(x.split()[1]) for x in rolled if x.startswith("Pss:")) / 1000
            except OSError:
                continue  # it has just ended
        return found

    def stop(self, how: int = signal.SIGINT) -> str:
        """Ends it; answers what it said last."""
        if self.process.poll() is None:
            self.process.send_signal(how)
        out, err = self.process.communicate(timeout=30)
        return str(out) + str(err)

    def __enter__(self) -> Served:
        return self

    def __exit__(self, *_: TracebackType | type[BaseException] | BaseException | None) -> None:
        self.stop(signal.SIGKILL)


@contextmanager
def served(db: Path, *more: str, command: str = "serve") -> Iterator[Served]:
    with Served(db, *more, command=command) as program:
        yield program
