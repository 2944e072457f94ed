"""Names and numbers: every thing once, and a list read back told apart from the layout exactly where it differs."""

from __future__ import annotations

from collections import Counter

import networkx as nx
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.patching import apply_patch
from jolly_copper.core.signals.aspects import signalling
from jolly_copper.core.signals.names import COMPARED, Names, columns_of, compare_names, names_of, rows_of
from jolly_copper.demo import gannet_bay, harbour_arm, millbeck, signalled_bay, tinplate_lane
from jolly_copper.exchange.names import COLUMNS, names_csv, names_json, read_names

BAY = names_of(signalling(signalled_bay()))
ROWS = rows_of(BAY)


@pytest.mark.parametrize("make", [gannet_bay, harbour_arm, millbeck, signalled_bay, tinplate_lane])
def test_every_name_stands_once_of_its_kind_and_comes_back(make: type[Layout]) -> None:
    names = names_of(signalling(make()))
    rows = rows_of(names)
    assert max(Counter((r["what"], r["name"].casefold()) for r in rows).values()) == 1
    assert all(set(r) == {"what", "name", *columns_of(r["what"])} and set(r) <= set(COLUMNS) for r in rows)
    assert compare_names(names, rows) == ()
    assert compare_names(names, read_names(names_csv(names).encode())) == ()
    assert compare_names(names, read_names(names_json(names, 1).encode())) == ()


def test_what_a_controlling_program_wants_of_each() -> None:
    layout = signalled_bay()
    turnouts = {t.name: t for t in BAY.turnouts}
    assert len(turnouts) == sum(n.kind in ("turnout", "three-way", "slip") for n in layout.nodes.values())
    for i, node in layout.nodes.items():
        if node.driver is not None and node.output is not None:
            assert turnouts[node.name or i].number == layout.drivers[node.driver].address + node.output - 1
    heads = {s.name: s for s in BAY.signals}
    assert set(heads) == {s.name for s in layout.signals.values()}
    for signal in heads.values():
        assert [o.number for o in signal.outputs] == list(
            range(signal.number or 0, (signal.number or 0) + len(signal.outputs))
        )
    sections = {s.name for s in BAY.sections}
    assert all(set(r.sections) <= sections for r in BAY.routes)


def test_the_block_graph_is_one_piece_where_the_railroad_is() -> None:
    graph = nx.Graph([(x.start, x.end) for x in BAY.links])
    assert set(graph) <= {s.name for s in BAY.sections}
    assert nx.number_connected_components(graph) == 1, "another library counts one railroad"


def test_one_way_track_says_so() -> None:
    layout = harbour_arm()
    track = next(t for t in layout.tracks if any(g.track == t for g in layout.gaps.values()))
    after = apply_patch(layout, [{"op": "replace", "path": f"/tracks/{track}/runs", "value": "forward"}])
    name = layout.tracks[track].name
    told = {x.runs for x in names_of(signalling(after)).links if x.track == name}
    assert told == {"forward"}


def test_an_inverted_turnout_is_told() -> None:
    layout = apply_patch(harbour_arm(), [{"op": "replace", "path": "/nodes/T3/inverted", "value": True}])
    row = next(r for r in rows_of(names_of(signalling(layout))) if r["name"] == "T3")
    assert row["inverted"] == "yes"


@settings(max_examples=80, deadline=None)
@given(st.sets(st.integers(0, len(ROWS) - 1), max_size=12), st.sets(st.integers(0, len(ROWS) - 1), max_size=12))
def test_what_is_left_out_and_what_is_doubled_is_told_and_nothing_else(gone: set[int], twice: set[int]) -> None:
    listed = [r for n, r in enumerate(ROWS) if n not in gone] + [ROWS[n] for n in sorted(twice - gone)]
    wrong = compare_names(BAY, listed)
    kinds = {r["what"] for r in listed}
    missing = {(ROWS[n]["what"], ROWS[n]["name"]) for n in gone if ROWS[n]["what"] in kinds}
    assert {(w.what, w.name) for w in wrong if w.how == "missing"} == missing
    assert Counter(w.how for w in wrong)["twice"] == len(twice - gone)
    assert {w.how for w in wrong} <= {"missing", "twice"}


@settings(max_examples=80, deadline=None)
@given(st.integers(0, len(ROWS) - 1), st.data())
def test_one_cell_changed_is_one_difference(n: int, data: st.DataObject) -> None:
    row = ROWS[n]
    column = data.draw(st.sampled_from(columns_of(row["what"])))
    changed = {**row, column: f"{row[column]}9"}
    wrong = compare_names(BAY, [*ROWS[:n], changed, *ROWS[n + 1 :]])
    differs = [w for w in wrong if w.how == "differs"]
    assert [(w.what, w.name) for w in differs] == [(row["what"], row["name"])]
    assert column in differs[0].words and all(w.how == "twice" for w in wrong if w not in differs)


def test_capitals_do_not_matter_and_columns_not_listed_are_not_compared() -> None:
    listed = [{"what": r["what"], "name": r["name"].upper()} for r in ROWS]
    assert compare_names(BAY, listed) == ()


def test_an_empty_railroad_has_no_names() -> None:
    empty = names_of(signalling(Layout(name="Paper")))
    assert empty == Names("Paper", (), (), (), (), ()) and set(COMPARED) == {
        "section",
        "turnout",
        "signal",
        "route",
        "link",
    }
