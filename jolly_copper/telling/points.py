"""One place of the track in words: what a train meets there, where the volts go, and what might be done about it."""

from __future__ import annotations

import math
from collections.abc import Callable

from jolly_copper.core.circuits.facts import Facts
from jolly_copper.core.circuits.lengths import point_on_track
from jolly_copper.core.circuits.protection import goes_dark, opening_at
from jolly_copper.core.circuits.staircase import PointAnswer, Standing, explain
from jolly_copper.core.layout.document import Layout
from jolly_copper.core.proposals.whatif import what_if
from jolly_copper.core.quantities import print_current, print_length, print_long_length, print_ohms, print_volts
from jolly_copper.telling import shapes


def _opens(facts: Facts, circuit: str, coin: float) -> str:
    """What opens first on a short, in a sentence."""
    layout, opening = facts.layout, opening_at(facts, circuit, coin)
    if opening is None or opening.device is None:
        return "Nothing opens: the wiring carries it for as long as nobody notices."
    after = f" after {opening.seconds * 1000:.0f} ms" if opening.seconds else ""
    dark = print_long_length(goes_dark(layout, facts.rails, opening.device).track, layout.brief.units)
    wrong = (
        ""
        if opening.right or opening.nearest is None
        else f", before {layout.devices[opening.nearest].name}, which should"
    )
    return f"{layout.devices[opening.device].name} opens first{after}{wrong}; {dark} of track goes dark."


def _as_read(found: PointAnswer) -> dict[str, str | None]:
    """What breakers that read the mean or the peak would see, where it differs from the effective value by 3 % or
    more."""
    read = found.reading
    if read is None or read.mean > 0.97 * read.effective:
        return {"coin_mean_text": None, "coin_peak_text": None}
    most = found.limit.amps if found.limit else math.inf
    return {
        "coin_mean_text": print_current(min(read.mean, most)),
        "coin_peak_text": print_current(min(read.peak, most)),
    }


def _limit(layout: Layout, found: PointAnswer) -> str | None:
    limit = found.limit
    if limit is None or limit.by is None or found.coin < limit.amps - 1e-9:
        return None
    name = layout.devices[limit.by].name
    return f"{name} is guessed to give no more, from its label" if limit.guess else f"{name} gives no more"


def point(facts: Facts, track: str, at: float) -> shapes.PointShape:
    layout, units = facts.layout, facts.layout.brief.units
    found = explain(facts, track, at)
    x, y = point_on_track(layout, found.track, found.at)
    lost = 1 - found.volts / found.source_volts if found.source_volts else 0.0

    def train(placed: Standing) -> shapes.TrainShape:
        name = layout.trains[placed.train].name if placed.train else "Test train"
        px, py = point_on_track(layout, placed.track, placed.at)
        return shapes.TrainShape(
            name=name,
            amps_text=print_current(placed.amps),
            where=layout.tracks[placed.track].name,
            x=px,
            y=py,
        )

    return shapes.PointShape(
        track=found.track,
        track_name=layout.tracks[found.track].name,
        at=found.at,
        at_text=print_length(found.at, units),
        x=x,
        y=y,
        section=layout.sections[found.section].name if found.section else None,
        circuit=found.circuit,
        circuit_name=layout.circuits[found.circuit].name if found.circuit else None,
        live=found.live,
        volts=found.volts,
        volts_text=print_volts(found.volts),
        least_text=print_volts(found.least_volts),
        exact_text=print_volts(found.exact_volts),
        lost_text=f"{lost * 100:.0f} %",
        source_text=print_volts(found.source_volts),
        source_volts=found.source_volts,
        loop_text=print_ohms(found.loop_ohms),
        coin_text=print_current(found.coin),
        coin_exact_text=print_current(found.coin_exact),
        **_as_read(found),
        limit_text=_limit(layout, found),
        trip_text=print_current(found.trip) if found.trip else None,
        trips=found.coin >= found.trip if found.trip and found.live else None,
        ratio=found.coin / found.trip if found.trip and found.live else None,
        trip_device=layout.devices[found.trip_device].name if found.trip_device else None,
        opens_text=_opens(facts, found.circuit, found.coin) if found.live and found.circuit else None,
        trains=[train(t) for t in found.trains],
        steps=[
            shapes.StepShape(
                kind=s.kind,
                title=s.title,
                detail=s.detail,
                volts=s.volts,
                text=f"−{s.volts:.2f} V" if s.volts >= 0.01 else f"−{s.volts * 1000:.0f} mV",
                estimate=s.estimate,
                owners=list(s.owners),
            )
            for s in found.steps
        ],
    )


def what_ifs(facts: Facts, track: str, at: float, stop: Callable[[], bool]) -> list[shapes.WhatIfShape]:
    return [
        shapes.WhatIfShape(
            label=w.label,
            reason=w.reason,
            patch=w.patch,
            before_text=print_volts(w.volts_before),
            after_text=print_volts(w.volts_after),
            lowest_before_text=print_volts(w.lowest_before),
            lowest_after_text=print_volts(w.lowest_after),
            coin_before_text=print_current(w.coin_before),
            coin_after_text=print_current(w.coin_after),
            coin_gain=w.coin_after - w.coin_before,
        )
        for w in what_if(facts, track, at, stop)
    ]
