"""Ways of signals on random plans, against a walk of our own over ports: everywhere a train may come to from a signal,
and nowhere else."""

from __future__ import annotations

import random
from collections.abc import Iterator

import pytest

from jolly_copper.core.layout.document import Layout
from jolly_copper.core.signals.aspects import signalling
from jolly_copper.demo.drafting import Draft
from tests.long import either
from tests.signalled import signal
from tests.track_plans import grow, power

OTHER_SIDE = {"points": ("through", "diverging"), "through": ("points",), "diverging": ("points",)}
"""Where a train may leave a turnout that it came into by a port."""


def plan(seed: int) -> Layout:
    """Random track with signals here and there, facing either way."""
    rng = random.Random(seed)
    d = power(Draft(f"Signals {seed}"))
    grow(d, rng, 9, lambda: "live", gaps=0.3)
    for n, track in enumerate(sorted(d.data["tracks"])):
        if rng.random() < 0.6:
            signal(d, f"S{n}", track, round(rng.uniform(0.2, 0.8) * d.length(track), 1), rng.choice("ab"))
    return d.plain()


def beyond(layout: Layout, node: str, port: str) -> list[str]:
    kind = layout.nodes[node].kind
    if kind == "turnout":
        return list(OTHER_SIDE[port])
    return ["2" if port == "1" else "1"] if kind == "joint" else []


def walked(layout: Layout, start: str) -> Iterator[tuple[str | None, tuple[str, ...]]]:
    """Every way from a signal: the signal it ends at or None, and the tracks run over."""
    at = {(p.node, p.port): (i, end) for i, t in layout.tracks.items() for end, p in (("a", t.a), ("b", t.b))}
    first = layout.signals[start]
    stack = [(first.track, first.towards, first.at, (first.track,), dict[str, str]())]
    while stack:
        track, towards, here, over, lies = stack.pop()
        ahead = [
            (s.at, i)
            for i, s in layout.signals.items()
            if s.track == track
            and s.towards == towards
            and (s.at > here + 0.5 if towards == "b" else s.at < here - 0.5)
        ]
        if ahead:
            yield (min(ahead) if towards == "b" else max(ahead))[1], over
            continue
        end = layout.tracks[track].b if towards == "b" else layout.tracks[track].a
        on = [(p, at[end.node, p]) for p in beyond(layout, end.node, end.port) if (end.node, p) in at]
        if not on:
            yield None, over
        for port, (then, entered) in on:
            leg = port if end.port == "points" else end.port
            turned = layout.nodes[end.node].kind == "turnout"
            if then in over[1:] or (turned and lies.get(end.node, leg) != leg):
                continue
            kept = {**lies, end.node: leg} if turned else lies
            far = "b" if entered == "a" else "a"
            stack.append((then, far, -1.0 if far == "b" else 1e9, (*over, then), kept))


@pytest.mark.parametrize("seed", range(either(40, 400)))
def test_every_way_of_a_signal_is_one_that_can_be_walked(seed: int) -> None:
    layout = plan(seed)
    known = signalling(layout)
    for name, routes in known.routes.items():
        found = sorted((r.exit or "", tuple(leg.track for leg in r.legs)) for r in routes)
        assert found == sorted((leads or "", over) for leads, over in walked(layout, name)), name


@pytest.mark.parametrize("seed", range(either(20, 200)))
def test_a_way_names_each_turnout_it_runs_over_and_how_it_must_lie(seed: int) -> None:
    layout = plan(seed)
    for routes in signalling(layout).routes.values():
        for route in routes:
            met = [n for n in route.nodes if layout.nodes[n].kind == "turnout"]
            assert [s.node for s in route.needs] == list(dict.fromkeys(met))
            assert route.turns is any(s.lies == "diverging" for s in route.needs)
            assert route.lies_so(route.settings)
            ends = "signal" if route.exit else route.ends
            assert route.ends == ends and (route.exit is None) is (route.ends != "signal")
            assert all(leg.high > leg.low for leg in route.legs[1:])
