"""Measure how long every test takes, and write it down for the next runs. Run by `make test-times`.

`python -m tools.time_tests tests/web` measures those alone, and leaves what is known of the others.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path
from xml.etree import ElementTree

import pytest

from tests.times import FILE, LEAST, times


def measured(report: Path) -> dict[str, float]:
    """Seconds of every test of a report in the usual XML, what was made ready for it included."""
    found: dict[str, float] = {}
    for case in ElementTree.parse(report).getroot().iter("testcase"):
        module = case.attrib["classname"]
        if module.startswith("tests."):
            found[f"{module.replace('.', '/')}.py::{case.attrib['name']}"] = float(case.attrib["time"])
    return found


def written(times: dict[str, float]) -> str:
    """The tests that take some time, longest first."""
    some = sorted(((s, name) for name, s in times.items() if s >= LEAST), key=lambda x: (-x[0], x[1]))
    return "".join(f"{seconds:.1f} {name}\n" for seconds, name in some)


def main(more: list[str]) -> int:
    with tempfile.TemporaryDirectory() as folder:
        report = Path(folder) / "times.xml"
        ended = pytest.main(["-n", "auto", "--dist", "worksteal", f"--junitxml={report}", *more])
        if ended == 0:
            known = times() if more else {}
            FILE.write_text(written(known | measured(report)), "utf-8")
    return int(ended)


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
