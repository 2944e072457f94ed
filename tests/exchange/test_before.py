"""Drawings are counted before they are unfolded: bombs are refused at once, honest drawings come through whole."""

from __future__ import annotations

import io
import random
import subprocess
import sys

import pytest
from ezdxf.filemanagement import new
from hypothesis import given
from hypothesis import strategies as st

from jolly_copper.core.drawing.sheet import Sheet
from jolly_copper.core.drawing.taking_in import Line, take_in
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.fields import Bend
from jolly_copper.exchange.cells import FileRefused, printable, safe, unsafe
from jolly_copper.exchange.dxf import read_dxf
from jolly_copper.exchange.svg import read_svg
from tests.long import either
from tools.soak.files import NAMESPACE, _block, _insert, dxf, dxf_files, svg

LINE = "  0\nLINE\n  8\n0\n 10\n0\n 20\n0\n 30\n0\n 11\n900\n 21\n5\n 31\n0\n"

READ_ALL = """
import random, resource, sys
from jolly_copper.exchange.cells import FileRefused
from jolly_copper.exchange.dxf import read_dxf
from jolly_copper.exchange.svg import read_svg
from tools.soak.files import dxf_files, svg_files

resource.setrlimit(resource.RLIMIT_AS, (1_500_000_000, 1_500_000_000))
for reader, files in ((read_dxf, dxf_files), (read_svg, svg_files)):
    for name, data in files(random.Random(int(sys.argv[1]))):
        print(name, flush=True)
        try:
            reader(data[:20_000_000])
        except FileRefused as refused:
            assert str(refused).endswith("."), refused
"""


@pytest.mark.parametrize("seed", either([3], [1, 2, 3]))
def test_no_hostile_drawing_hangs_or_fills_the_memory(seed: int) -> None:
    done = subprocess.run(
        [sys.executable, "-c", READ_ALL, str(seed)], capture_output=True, text=True, timeout=120, check=False
    )
    assert done.returncode == 0, done.stdout.splitlines()[-1:] + done.stderr.splitlines()[-3:]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (
            dxf(
                _insert("B0"), "".join(_block(f"B{k}", _insert(f"B{k + 1}") * 40 if k < 3 else LINE) for k in range(4))
            ),
            "20000 things",
        ),
        (
            dxf(_insert("B0"), "".join(_block(f"B{k}", _insert(f"B{k + 1}") if k < 30 else LINE) for k in range(31))),
            "deep",
        ),
        (dxf(_insert("B"), _block("B", _insert("B"))), "holds itself"),
        (dxf(LINE * 30_000, lead=""), "20000 things"),
        (dxf("  0\nTEXT\n  1\n" + "x" * 9000 + "\n"), "letters"),
    ],
)
def test_bombs_of_blocks_are_told_apart(data: bytes, says: str) -> None:
    with pytest.raises(FileRefused, match=says):
        read_dxf(data)


@pytest.mark.parametrize(
    ("inside", "says"),
    [
        ("<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/></g>", "uses itself"),
        ("<g>" * 200 + "</g>" * 200, "deep"),
        (f"<path d='M0 0{'L1 1' * 200_000}'/>", "points"),
        (f"<g transform='{'scale(2)' * 4000}'/>", "letters"),
    ],
)
def test_bombs_of_groups_are_told_apart(inside: str, says: str) -> None:
    with pytest.raises(FileRefused, match=says):
        read_svg(svg(inside))


def test_a_circle_without_end_is_left_out_and_the_rest_is_taken() -> None:
    far = "  0\nCIRCLE\n  8\n0\n 10\n0\n 20\n0\n 40\n1e15\n"
    found = read_dxf(dxf(far + LINE))
    assert len(found.lines) == 1 and found.left_out == {"circle with no usable points": 1}
    found = read_svg(svg("<circle r='1e15'/><path d='M0 0L900 5'/>"))
    assert len(found.lines) == 1


def test_group_codes_may_stand_with_or_without_spaces() -> None:
    for lead in ("  ", "", " "):
        assert len(read_dxf(dxf(LINE * 3, lead=lead)).lines) == 3


def test_honest_blocks_are_opened_as_before() -> None:
    """Written by the library itself: two blocks, one in the other, put down four times, and a bulge and a spline."""
    document = new("R2010", units=4)
    inner, outer = document.blocks.new("INNER"), document.blocks.new("OUTER")
    inner.add_line((0, 0), (300, 0))
    outer.add_blockref("INNER", (0, 0))
    outer.add_blockref("INNER", (300, 0), dxfattribs={"rotation": 15})
    space = document.modelspace()
    for k in range(4):
        space.add_blockref("OUTER", (0, 200 * k))
    space.add_lwpolyline([(0, 900, 0, 0, 0.5), (400, 900, 0, 0, 0)])
    space.add_spline([(0, 1200), (300, 1300), (600, 1200)])
    stream = io.StringIO()
    document.write(stream)
    found = read_dxf(stream.getvalue().encode())
    assert len(found.lines) == 10 and not found.left_out


def test_an_svg_in_another_encoding_and_one_with_uses_is_read() -> None:
    twice = "<defs><path id='p' d='M0 0L90 0'/></defs><use href='#p'/><use href='#p' y='40'/>"
    text = f"<svg xmlns='{NAMESPACE}'>{twice}</svg>"
    assert len(read_svg(text.encode("utf-16")).lines) == 2
    with pytest.raises(FileRefused):
        read_svg(b"<?xml version='1.0' encoding='klingon'?><svg/>")


def test_curves_are_drawn_out_as_finely_as_before() -> None:
    """A quarter of a circle of 500 mm, its length against the arc's own to a fifth of a per cent."""
    found = read_svg(svg("<path d='M0 0A500 500 0 0 1 500 500'/><path d='M0 0C0 276 224 500 500 500'/>"), mm_per_unit=1)
    for line in found.lines:
        length = sum(
            ((b.x - a.x) ** 2 + (b.y - a.y) ** 2) ** 0.5 for a, b in zip(line.path, line.path[1:], strict=False)
        )
        assert length == pytest.approx(785.4, rel=2e-3) and len(line.path) >= 12


def row(count: int) -> list[Line]:
    return [Line((Bend(x=k * 200, y=0), Bend(x=k * 200 + 200, y=0))) for k in range(count)]


def test_four_thousand_lines_and_two_thousand_ends_on_one_are_joined() -> None:
    """Not timed: what it takes is counted as the paths it draws, which grow with the lines alone."""
    like = {"use": "main", "code": 83}
    sheet = Sheet(Layout(name="Long"))
    report = take_in(sheet, row(4000), 5.0, like)
    assert report.joints == 3999 and report.loose_ends == 2 and len(sheet._drawn) <= 8000
    comb = [Line((Bend(x=0, y=0), Bend(x=40_000, y=0)))]
    comb += [Line((Bend(x=k * 20 + 10, y=0), Bend(x=k * 20 + 200, y=150))) for k in range(1990)]
    sheet = Sheet(Layout(name="Comb"))
    report = take_in(sheet, comb, 5.0, like)
    assert report.turnouts > 1950 and len(sheet._drawn) < 12_000
    layout = sheet.layout()
    assert len({t.name for t in layout.tracks.values()}) == len(layout.tracks) == len(sheet["tracks"])


def test_ends_are_joined_as_before_whatever_the_cells() -> None:
    """Random ends near random lines: the turnouts are those a look at every line finds."""
    rng = random.Random(7)
    lines = [Line((Bend(x=0, y=k * 400), Bend(x=5000, y=k * 400 + rng.randint(-50, 50)))) for k in range(6)]
    ends = []
    for _ in range(30):
        base = rng.choice(lines)
        share = rng.uniform(0.1, 0.9)
        x, y = 5000 * share, base.path[0].y + (base.path[1].y - base.path[0].y) * share
        ends.append(Line((Bend(x=x, y=y + rng.choice([0, 3, 30])), Bend(x=x + 90, y=y + 60))))
    sheet = Sheet(Layout(name="Ends"))
    report = take_in(sheet, [*lines, *ends], 5.0, {"use": "main", "code": 83})
    near = 0
    for end in ends:
        x, y = end.path[0].x, end.path[0].y
        near += any(abs(a.path[0].y + (a.path[1].y - a.path[0].y) * x / 5000 - y) <= 5 for a in lines)
    assert report.turnouts == near


@given(st.text(alphabet="=+-@;,\t\r\n'ab 1", max_size=12))
def test_no_part_of_a_cell_begins_like_a_formula_and_all_comes_back(text: str) -> None:
    made = safe(text)
    for part in made.replace("\t", ";").replace("\r", ";").replace("\n", ";").split(";"):
        assert part.strip()[:1] not in ("=", "+", "-", "@"), made
    if "'" not in text:
        assert unsafe(made) == text


def test_control_characters_are_left_out() -> None:
    assert printable("a\x00b\x1bc\ufffed\ne") == "abcd\ne" and safe("\x00=1") == "'=1"


def test_the_files_of_the_attack_are_made_anew_from_their_seed() -> None:
    assert [d for _, d in dxf_files(random.Random(5))] == [d for _, d in dxf_files(random.Random(5))]
