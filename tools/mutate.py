"""Change the core in small ways and see whether the tests notice: `python -m tools.mutate [how many] [seed]`.

Each mutant alters one comparison, number, sign, boolean or step of arithmetic in `rails`, `circuits` or `findings`. The
tests of the core run once with every line they reach written down; a mutant is then tried on the tests that reach its
line, quickest first, and where those pass on all that name its module. A mutant that no test notices is told with its
line, for somebody to say whether it matters. A quick test that comes to no end has noticed too.
"""

from __future__ import annotations

import ast
import random
import re
import subprocess
import sys
import tempfile
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from shutil import copytree, ignore_patterns

from coverage import CoverageData

ROOT = Path(__file__).resolve().parents[1]
ROOMS = ("rails", "circuits", "findings")
SECONDS = 240
"""A mutant's tests are given so long, in seconds."""
ENOUGH = 40.0
"""Tests that reach a line are run until they add up to so much, in seconds: a sixth of what they are given."""

WATCH = """
import coverage, pytest

@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_protocol(item):
    coverage.Coverage.current().switch_context(item.nodeid)
    yield

def pytest_runtest_logreport(report):
    with open("took.txt", "a") as file:
        print(f"{report.duration:.3f}", report.nodeid, file=file)
"""
"""Stands beside the tests while lines are written down: which test reaches them, and how long it takes."""

SWAPS: dict[type[ast.AST], type[ast.AST]] = {
    ast.Lt: ast.GtE,
    ast.LtE: ast.Gt,
    ast.Gt: ast.LtE,
    ast.GtE: ast.Lt,
    ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq,
    ast.In: ast.NotIn,
    ast.NotIn: ast.In,
    ast.Is: ast.IsNot,
    ast.IsNot: ast.Is,
    ast.Add: ast.Sub,
    ast.Sub: ast.Add,
    ast.Mult: ast.Div,
    ast.Div: ast.Mult,
    ast.And: ast.Or,
    ast.Or: ast.And,
}


def places(tree: ast.AST) -> list[ast.AST]:
    """What can be changed, in order."""
    found: list[ast.AST] = []
    for node in ast.walk(tree):
        if (
            (isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in SWAPS)
            or (isinstance(node, ast.BinOp) and type(node.op) in SWAPS and not _of_text(node))
            or isinstance(node, ast.BoolOp)
            or (isinstance(node, ast.Constant) and isinstance(node.value, bool))
            or (isinstance(node, ast.Constant) and isinstance(node.value, int | float) and node.value not in (0, 1))
        ):
            found.append(node)
    return found


def _of_text(node: ast.BinOp) -> bool:
    return any(
        isinstance(n, ast.Constant | ast.JoinedStr) and not isinstance(getattr(n, "value", 0), int | float)
        for n in (node.left, node.right)
    )


def change(node: ast.AST) -> str:
    """Change one place; answers what was done."""
    if isinstance(node, ast.Compare):
        before, node.ops[0] = node.ops[0], SWAPS[type(node.ops[0])]()  # type: ignore[assignment]
        return f"{type(before).__name__} → {type(node.ops[0]).__name__}"
    if isinstance(node, ast.BinOp | ast.BoolOp):
        before_op, node.op = node.op, SWAPS[type(node.op)]()  # type: ignore[assignment]
        return f"{type(before_op).__name__} → {type(node.op).__name__}"
    assert isinstance(node, ast.Constant)
    old = node.value
    node.value = (not old) if isinstance(old, bool) else old * 2  # type: ignore[operator]
    return f"{old} → {node.value}"


def reach(copy: Path) -> tuple[Mapping[tuple[str, int], set[str]], Mapping[str, float]]:
    """Run the tests of the core once, in two halves: tests by (file, line) they reach, and seconds by test."""
    (copy / "watch_lines.py").write_text(WATCH, "utf-8")
    rooms = ",".join(f"jolly_copper/core/{room}/*" for room in ROOMS)
    tests = [str(t) for t in sorted((copy / "tests" / "core").glob("test_*.py")) if _is_near(t.read_text("utf-8"))]

    def half(number: int) -> None:
        around = ["-m", "coverage", "run", f"--include={rooms}", f"--data-file=lines.{number}"]
        _pytest(copy, ["-p", "watch_lines", *tests[number::2]], around, None)

    with ThreadPoolExecutor(2) as both:
        list(both.map(half, (0, 1)))
    took: dict[str, float] = defaultdict(float)
    for line in (copy / "took.txt").read_text("utf-8").splitlines():
        seconds, test = line.split(" ", 1)
        took[test] += float(seconds)
    lines: dict[tuple[str, int], set[str]] = defaultdict(set)
    for number in (0, 1):
        data = CoverageData(str(copy / f"lines.{number}"))
        data.read()
        for file in data.measured_files():
            for line_number, reaching in data.contexts_by_lineno(file).items():
                lines[str(Path(file).relative_to(copy)), line_number] |= {t for t in reaching if t in took}
    return lines, took


def _is_near(test: str) -> bool:
    """Whether a test is of the rooms that are changed, or of what rests on them at once."""
    return "core.tracing" not in test and "core.rehearsal" not in test


def naming(module: Path, copy: Path) -> list[str]:
    """Files of tests that name the module."""
    pattern = re.compile(rf"core\.{module.parent.name}(\.{module.stem}\b|\s+import\s+.*\b{module.stem}\b)")
    return [str(t) for t in sorted((copy / "tests" / "core").glob("test_*.py")) if pattern.search(t.read_text("utf-8"))]


def quickest(tests: set[str], took: Mapping[str, float]) -> list[str]:
    """Tests by how long they take, until they add up to `ENOUGH` seconds."""
    chosen, total = [], 0.0
    for test in sorted(tests, key=lambda t: (took[t], t)):
        total += took[test]
        if chosen and total > ENOUGH:
            break
        chosen.append(test)
    return chosen


def main(count: int, seed: int) -> int:
    """Try so many mutants, two at a time, and print what became of each. Exit code 1 where under 85 % are noticed."""
    files = [
        f
        for room in ROOMS
        for f in sorted((ROOT / "jolly_copper" / "core" / room).glob("*.py"))
        if f.stem != "__init__"
    ]
    everywhere = [(f, n) for f in files for n in range(len(places(ast.parse(f.read_text("utf-8")))))]
    chosen = random.Random(seed).sample(everywhere, min(count, len(everywhere)))
    with tempfile.TemporaryDirectory() as folder:
        copies = [Path(folder).resolve() / name for name in ("one", "other")]
        left_out = ignore_patterns(".git", ".venv", ".tools", "node_modules", "dist", "__pycache__")
        for copy in copies:
            copytree(ROOT, copy, ignore=left_out)
        lines, took = reach(copies[0])

        def half(number: int) -> Counter[bool]:
            return Counter(_noticed(copies[number], f, n, lines, took) for f, n in chosen[number::2])

        with ThreadPoolExecutor(2) as both:
            verdicts = sum(both.map(half, (0, 1)), Counter[bool]())
    share = verdicts[True] / max(verdicts.total(), 1)
    print(f"{verdicts[True]} of {verdicts.total()} noticed: {share:.0%}")
    return int(share < 0.85)


def _noticed(
    copy: Path, file: Path, number: int, lines: Mapping[tuple[str, int], set[str]], took: Mapping[str, float]
) -> bool:
    name = str(file.relative_to(ROOT))
    target = copy / name
    sound = target.read_text("utf-8")
    tree = ast.parse(sound)
    node = places(tree)[number]
    line = getattr(node, "lineno", 0)
    reached = next((n for n in range(line, 0, -1) if (name, n) in lines), 0)
    what = change(node)
    target.write_text(ast.unparse(tree), "utf-8")
    quick = quickest(lines.get((name, reached), set()), took)
    noticed = _fails(copy, quick, True) or _fails(copy, naming(target, copy), False)
    target.write_text(sound, "utf-8")
    print(f"{'noticed ' if noticed else 'survived'}  {name}:{line}  {what}", flush=True)
    return noticed


def _fails(copy: Path, tests: Sequence[str], without_end: bool) -> bool:
    try:
        return bool(tests) and _pytest(copy, ["-x", *tests], [], SECONDS) != 0
    except subprocess.TimeoutExpired:
        return without_end


def _pytest(copy: Path, arguments: Sequence[str], around: Sequence[str], seconds: float | None) -> int:
    command = [sys.executable, *around, "-m", "pytest", "-q", "--no-header", *arguments]
    environment = {"PYTHONPATH": str(copy), "PATH": "/usr/bin:/bin"}
    return subprocess.run(
        command, cwd=copy, capture_output=True, timeout=seconds, check=False, env=environment
    ).returncode


if __name__ == "__main__":
    numbers = [int(a) for a in sys.argv[1:]]
    sys.exit(main(*(numbers + [200, 1][len(numbers) :])))
