"""The repository keeps its own promises: locks without addresses, files of a size, links that lead somewhere,
contrast."""

from __future__ import annotations

import re
import subprocess
from pathlib import Path

import pytest

from tests.times import LEAST, is_long, times
from tools.time_tests import measured, written

ROOT = Path(__file__).parents[1]


def tracked(*patterns: str) -> list[Path]:
    names = subprocess.run(
        ["git", "ls-files", *patterns], cwd=ROOT, capture_output=True, text=True, check=True
    ).stdout.split()
    return [ROOT / n for n in names]


def test_no_lock_file_names_a_host() -> None:
    for lock in tracked("*.lock"):
        assert "://" not in lock.read_text("utf-8"), lock
    assert '"resolved"' not in (ROOT / "web" / "package-lock.json").read_text("utf-8")


def test_every_python_package_is_pinned_with_hashes() -> None:
    for block in re.split(r"\n(?=[a-z])", (ROOT / "requirements.lock").read_text("utf-8").strip()):
        assert re.match(r"[a-z0-9._-]+(\[[a-z,]+\])?==\S+", block) and "--hash=sha256:" in block, block[:60]


def test_files_stay_of_a_size_one_can_read() -> None:
    for file in tracked("*.py", "*.ts", "*.tsx"):
        assert len(file.read_text("utf-8").splitlines()) <= 420, file


def test_times_are_of_tests_that_are_there_longest_first() -> None:
    """A test under another name would count as quick."""
    seconds = list(times().values())
    assert seconds == sorted(seconds, reverse=True) and seconds[-1] >= LEAST
    for name in times():
        file, _, function = name.partition("::")
        defined = re.escape(f"def {function.split('[')[0]}(")
        assert re.search(f"^{defined}", (ROOT / file).read_text("utf-8"), re.MULTILINE), name


def test_times_are_read_from_a_report_and_written_longest_first(tmp_path: Path) -> None:
    report = tmp_path / "times.xml"
    report.write_text(
        "<testsuites><testsuite>"
        '<testcase classname="tests.core.test_ring" name="test_a[1 | 2]" time="0.31"/>'
        '<testcase classname="tests.web.test_book" name="test_b" time="12.25"/>'
        '<testcase classname="tests.core.test_ring" name="test_c" time="0.02"/>'
        '<testcase classname="jolly_copper.core.quantities" name="a doctest" time="3"/>'
        "</testsuite></testsuites>"
    )
    found = measured(report)
    assert len(found) == 3
    assert written(found) == "12.2 tests/web/test_book.py::test_b\n0.3 tests/core/test_ring.py::test_a[1 | 2]\n"


def test_every_room_is_looked_into_while_people_wait() -> None:
    """The gate runs the rest as well; but whoever changes a step hears of it in minutes."""
    named = {n.partition("::")[0] for n in times()}
    short = {n.partition("::")[0] for n in times() if not is_long(n, n.startswith("tests/web/"))}
    assert named - short <= {"tests/web/test_drawing.py", "tests/web/test_unwired.py"}, "the two long ways through all"


def test_links_in_the_documents_lead_somewhere() -> None:
    for page in tracked("*.md"):
        for target in re.findall(r"\]\(([^)#:]+)\)", page.read_text("utf-8")):
            assert (page.parent / target).exists(), f"{page.name}: {target}"


def test_pictures_are_few_and_all_shown_in_the_readme() -> None:
    readme = (ROOT / "README.md").read_text("utf-8")
    pictures = tracked("docs/screenshots/*.png")
    assert 5 <= len(pictures) < 20
    assert all(f"docs/screenshots/{p.name}" in readme for p in pictures)


def test_every_constant_of_the_materials_stands_in_the_formulas() -> None:
    """Certainty and source are for people: the page must hold the figures the code uses."""
    text = (ROOT / "docs" / "formulas.md").read_text("utf-8")
    for figure in (
        "0.017241",
        "0.00393",
        "1.02",
        "1.13",
        "0.62",
        "0.56",
        "0.48",
        "1.4 µH",
        "0.27",
        "0.064",
        "0.14",
        "0.32",
        "0.8, 5, 25, 150",
        "58 µs",
    ):
        assert figure in text, figure


def _theme(block: str) -> dict[str, str]:
    css = (ROOT / "web" / "src" / "index.css").read_text("utf-8")
    body = re.search(re.escape(block) + r"\s*\{(.*?)\}", css, re.S)
    assert body
    return dict(re.findall(r"--(\w+):\s*(#[0-9a-fA-F]{6})", body[1]))


def _luminance(colour: str) -> float:
    parts = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [p / 12.92 if p <= 0.04045 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one: str, other: str) -> float:
    """WCAG 2 contrast ratio. Source: WCAG 2.1, relative luminance, from memory."""
    high, low = sorted((_luminance(one), _luminance(other)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("block", [":root", '[data-theme="dark"]'])
def test_words_can_be_read_in_both_themes(block: str) -> None:
    theme = _theme(block)
    for ground in ("paper", "card", "board"):
        for words in ("ink", "mute", "link", "verd", "oxide"):
            assert contrast(theme[words], theme[ground]) >= 4.5, f"{words} on {ground} in {block}"
    assert contrast(theme["strong"], theme["onstrong"]) >= 4.5
    for mark in ("copper", "rail"):
        assert contrast(theme[mark], theme["board"]) >= 3, f"{mark} on the boards"


def test_the_black_and_white_pair_has_the_ratio_everyone_knows() -> None:
    assert contrast("#000000", "#ffffff") == pytest.approx(21)
