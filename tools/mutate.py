"""Change the core in small ways and see whether the tests notice: `python -m tools.mutate [how many] [seed]`.

Each mutant alters one comparison, number, sign, boolean or step of arithmetic in `rails`, `circuits` or `findings`. The
tests that import the changed module are run, those of its own room first; a mutant that no test notices is told with
its line, for somebody to say whether it matters.
"""

from __future__ import annotations

import ast
import random
import re
import subprocess
import sys
import tempfile
from collections import Counter
from pathlib import Path
from shutil import copytree, ignore_patterns

ROOT = Path(__file__).resolve().parents[1]
ROOMS = ("rails", "circuits", "findings")
SECONDS = 240

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


def tests_of(module: Path, copy: Path) -> list[str]:
    """Tests that name the module first, then the ones of its room, then those that go through all of it."""
    name, room = module.stem, module.parent.name
    direct, near = [], []
    for test in sorted((copy / "tests" / "core").glob("test_*.py")):
        text = test.read_text("utf-8")
        if re.search(rf"core\.{room}(\.{name}\b|\s+import\s+.*\b{name}\b)", text):
            direct.append(str(test))
        elif f"core.{room}" in text or "findings.check" in text:
            near.append(str(test))
    return [*direct, *near]


def main(count: int, seed: int) -> int:
    """Try so many mutants and print what became of each. Exit code 1 where fewer than 85 % are noticed."""
    rng = random.Random(seed)
    files = [
        f
        for room in ROOMS
        for f in sorted((ROOT / "jolly_copper" / "core" / room).glob("*.py"))
        if f.stem != "__init__"
    ]
    everywhere = [(f, n) for f in files for n in range(len(places(ast.parse(f.read_text("utf-8")))))]
    verdicts: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "copy"
        copytree(ROOT, copy, ignore=ignore_patterns(".git", ".venv", ".tools", "node_modules", "dist", "__pycache__"))
        for file, number in rng.sample(everywhere, min(count, len(everywhere))):
            target = copy / file.relative_to(ROOT)
            sound = target.read_text("utf-8")
            tree = ast.parse(sound)
            node = places(tree)[number]
            what = change(node)
            target.write_text(ast.unparse(tree), "utf-8")
            try:
                verdict = _noticed(tests_of(file, copy), copy)
            finally:
                target.write_text(sound, "utf-8")
            verdicts[verdict] += 1
            print(f"{verdict:9} {file.relative_to(ROOT)}:{getattr(node, 'lineno', 0)}  {what}", flush=True)
    noticed = verdicts["noticed"] + verdicts["hung"]
    share = noticed / max(sum(verdicts.values()), 1)
    print(f"{noticed} of {sum(verdicts.values())} noticed: {share:.0%}")
    return int(share < 0.85)


def _noticed(tests: list[str], copy: Path) -> str:
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:randomly", "--no-header", *tests]
    try:
        done = subprocess.run(
            command,
            cwd=copy,
            capture_output=True,
            timeout=SECONDS,
            check=False,
            env={"PYTHONPATH": str(copy), "PATH": "/usr/bin:/bin"},
        )
    except subprocess.TimeoutExpired:
        return "hung"
    return "survived" if done.returncode == 0 else "noticed"


if __name__ == "__main__":
    numbers = [int(a) for a in sys.argv[1:]]
    sys.exit(main(*(numbers + [200, 1][len(numbers) :])))
