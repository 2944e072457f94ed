"""How selectors may lie: what each circuit may get then, against every lie tried, and what is not settled."""

from __future__ import annotations

import itertools

import networkx as nx
from hypothesis import given, settings
from hypothesis import strategies as st

from jolly_copper.core.circuits.facts import derive
from jolly_copper.core.findings.check import check
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.layout.levers import MOST_WAYS, all_followed, lies_in_words, thrown, ways_of, where_they_differ
from jolly_copper.core.layout.power_tree import SOURCES, grow_tree
from tests.core.cab_layouts import selector, two_blocks


@st.composite
def trees(draw: st.DrawFn) -> Layout:
    """Sources, selectors over them and over each other, some ganged: never a loop."""
    d = two_blocks()
    d.data["feeders"].clear()
    count = draw(st.integers(1, 4))
    circuits = ["a", "b", "one", "two"]
    for k in range(count):
        ways = draw(st.lists(st.sampled_from(circuits), min_size=1, max_size=3, unique=True))
        made = "toggle, two poles" if len(ways) <= 2 else "rotary, two poles"
        selector(d, f"x{k}", ways, draw(st.sampled_from([None, *ways])), made=made)
        circuits.append(f"x{k}")
    lever = draw(st.sampled_from(["one", "two"]))
    on_with = draw(st.lists(st.sampled_from(["a", "b"]), min_size=0, max_size=2, unique=True))
    lies = d.data["devices"][f"sel-{lever}"]["input"]
    selector(d, "rider", ["a"], "a" if lies in on_with else None, gang=f"sel-{lever}", on_with=on_with)
    return d.plain()


def every_lie(layout: Layout) -> list[dict[str, str | None]]:
    free = [(i, d) for i, d in layout.devices.items() if d.kind == "selector" and d.gang is None]
    return [
        dict(zip((i for i, _ in free), choice, strict=True))
        for choice in itertools.product(*[(None, *d.inputs) for _, d in free])
    ]


@settings(max_examples=40, deadline=None)
@given(trees())
def test_ways_and_meetings_agree_with_trying_every_lie(layout: Layout) -> None:
    """Brute force over all settings: the sources a circuit may have, and whether two circuits can differ."""
    tree = grow_tree(layout)
    seen: dict[str, set[str]] = {c: set() for c in layout.circuits}
    differ: set[tuple[str, str]] = set()
    for lies in every_lie(layout):
        now = grow_tree(thrown(layout, lies))
        got = {c: s[0] for c in layout.circuits if (s := now.source(c)) is not None}
        for c, s in got.items():
            seen[c].add(s)
        differ |= {(c, k) for c, k in itertools.combinations(sorted(got), 2) if got[c] != got[k]}
    for c in layout.circuits:
        assert {w.source for w in ways_of(tree, c)} == seen[c]
    for c, k in itertools.combinations(sorted(layout.circuits), 2):
        found = where_they_differ(tree, c, k)
        assert (found is not None) == ((c, k) in differ)
        if found is not None:
            now = grow_tree(thrown(layout, {**found[0].lies, **found[1].lies}))
            assert now.source(c) is not None and now.source(k) is not None
            assert now.source(c)[0] == found[0].source and now.source(k)[0] == found[1].source  # type: ignore[index]


@settings(max_examples=30, deadline=None)
@given(trees())
def test_what_is_live_is_what_networkx_joins(layout: Layout) -> None:
    """networkx: a circuit has power exactly where a path of devices, as they lie, leads to a source."""
    graph = nx.DiGraph()
    graph.add_nodes_from(layout.circuits)
    graph.add_edges_from((d.input, d.output) for d in layout.devices.values() if d.input and d.kind not in SOURCES)
    starts = [d.output for d in layout.devices.values() if d.kind in SOURCES]
    live = set(starts).union(*(nx.descendants(graph, s) for s in starts))
    tree = grow_tree(layout)
    assert {c for c in layout.circuits if tree.source(c) is not None} == live


def tower(levels: int, sources: list[str]) -> Layout:
    """Four selectors on each level, each over all four of the level below: 4^levels ways up."""
    d = two_blocks()
    d.data["feeders"].clear()
    below = sources
    for level in range(levels):
        here = [f"l{level}x{k}" for k in range(4)]
        for key in here:
            selector(d, key, below, None, made="rotary, two poles")
        below = here
    return d.plain()


def test_more_ways_than_are_followed_are_not_settled_and_never_a_yes_or_no() -> None:
    low, high = tower(3, ["a", "b"]), tower(5, ["a", "b"])
    for layout, whole in ((low, True), (high, False)):
        tree = grow_tree(layout)
        top = "l2x0" if whole else "l4x0"
        assert all_followed(tree, top) == whole
        assert len(ways_of(tree, top)) == (2 * 4**2 if whole else MOST_WAYS)
        said = {f.rule for f in check(derive(layout))}
        assert ("too many ways to try" in said) == (not whole)


def test_a_tower_of_selectors_that_reaches_nothing_ends_and_is_not_called_dead() -> None:
    d = two_blocks()
    d.data["circuits"]["none"] = {"name": "Nothing", "colour_a": "red", "colour_b": "black"}
    d.data["circuits"]["nil"] = {"name": "Nothing else", "colour_a": "red", "colour_b": "black"}
    below = ["none", "nil"]
    for level in range(12):
        here = [f"l{level:02}x{k}" for k in range(4)]
        for key in here:
            selector(d, key, below, None, made="rotary, two poles")
        below = here
    layout = d.plain()
    tree = grow_tree(layout)
    assert ways_of(tree, below[0]) == [] and not all_followed(tree, below[0])
    keys = {f.key for f in check(derive(layout))}
    assert f"ways-unsettled:sel-{below[0]}" in keys and f"selector-dead:sel-{below[0]}" not in keys
    assert "selector-dead:sel-l00x0" in keys, "what was followed to its end is known"


def test_the_proof_throws_as_little_as_it_can() -> None:
    tree = grow_tree(two_blocks(lies=("a", "b")).plain())
    found = where_they_differ(tree, "one", "two")
    assert found is not None and found[0].lies == {"sel-one": "a"} and found[1].lies == {"sel-two": "b"}
    assert lies_in_words(tree.layout, *found) == "Selector ONE at A and Selector TWO at B"
