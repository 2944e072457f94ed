"""A traced plan told to the page, in mm on the plan, and read back when it is taken."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, Field

from jolly_copper.core.drawing.tracing import SHORTEST_MM, LaidReport, Placed
from jolly_copper.core.layout.fields import Coordinate
from jolly_copper.core.layout.stock import TrackUse
from jolly_copper.core.layout.words import many
from jolly_copper.core.quantities import Units, print_length, print_long_length
from jolly_copper.core.tracing.fineness import fineness
from jolly_copper.core.tracing.fitting import Corner
from jolly_copper.core.tracing.lines import Crossing, Lead, Line, Stub, Table, Traced
from jolly_copper.core.tracing.turnouts import line_of

MOST_SHOWN_OUT = 400
Millimetres = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]


class CornerShape(BaseModel):
    """A corner of a line, mm; radius of its arc, mm."""

    x: Coordinate
    y: Coordinate
    radius: Annotated[float, Field(gt=0, le=1e7, allow_inf_nan=False)] | None = None


class LeadShape(BaseModel):
    """Where a line leaves another: which, how far along, mm, and whether it goes its way."""

    host: Annotated[int, Field(ge=0, le=100_000)]
    along: Millimetres
    ahead: bool


class TracedLine(BaseModel):
    """A traced line. d: as an SVG path. why: why it is left out, empty where it is proposed."""

    number: Annotated[int, Field(ge=0, le=100_000)]
    corners: Annotated[list[CornerShape], Field(min_length=2, max_length=500)]
    closed: bool = False
    starts: LeadShape | None = None
    ends: LeadShape | None = None
    ink: Annotated[int, Field(ge=0, le=100)] = 0
    why: Annotated[str, Field(max_length=80)] = ""
    d: Annotated[str, Field(max_length=200_000)] = ""
    length_text: Annotated[str, Field(max_length=40)] = ""


class TracedCrossing(BaseModel):
    """Two lines that cross, and how far along each, mm. kind: what it is; where one passes over
    the other they do not meet."""

    one: int
    one_at: Millimetres
    other: int
    other_at: Millimetres
    x: Coordinate
    y: Coordinate
    flat: bool = False
    kind: Literal["crossing", "slip", "over"] = "crossing"


class TracedStub(BaseModel):
    """An end of a line that leads to a turntable: which line, and whether it is its first end."""

    line: Annotated[int, Field(ge=0, le=100_000)]
    first: bool


class TracedTable(BaseModel):
    """A turntable: its middle and the radius of its pit, mm, and what leads to it."""

    x: Coordinate
    y: Coordinate
    radius: Annotated[float, Field(ge=10, le=5000, allow_inf_nan=False)]
    stubs: Annotated[list[TracedStub], Field(max_length=80)]


class TracedInk(BaseModel):
    """An ink that was found, as a colour of the page, and how much of the lines wears it."""

    number: int
    colour: str
    share_text: str
    chosen: bool
    pale: bool


class TracedDoubt(BaseModel):
    """A place to look at before taking."""

    kind: Literal["loose end near a line", "flat crossing", "turntable"]
    x: float
    y: float


class TracedShape(BaseModel):
    """A picture traced."""

    lines: list[TracedLine]
    crossings: list[TracedCrossing]
    turnouts: list[tuple[float, float]]
    tables: list[TracedTable]
    inks: list[TracedInk]
    doubts: list[TracedDoubt]
    two_rails: bool
    words: str
    warning: str


class TakeAsked(BaseModel):
    """What of a traced picture is taken: the lines as they were told, their crossings and turntables, and the use each
    ink is of."""

    lines: Annotated[list[TracedLine], Field(min_length=1, max_length=4000)]
    crossings: Annotated[list[TracedCrossing], Field(max_length=4000)] = []
    tables: Annotated[list[TracedTable], Field(max_length=100)] = []
    use: TrackUse = "main"
    uses: Annotated[dict[int, TrackUse], Field(max_length=20)] = {}
    code: Annotated[int, Field(ge=25, le=400)] = 83


def traced_shape(found: Traced, placed: Placed, gauge_px: float, units: Units) -> TracedShape:
    """A traced picture as the page shows it.

    Args:
        found: the proposal. placed: where its picture lies. gauge_px: of the track in it, px. units: of the layout.
    """
    drawn = {x.number: line_of(list(x.corners)) for x in found.lines}

    def place(x: float, y: float) -> tuple[float, float]:
        return round(placed.x + x * placed.mm, 1), round(placed.y + y * placed.mm, 1)

    lines = []
    out = 0
    for line in found.lines:
        out += line.why == "lettering"
        if line.why == "lettering" and out > MOST_SHOWN_OUT:
            continue
        shown = drawn[line.number]
        points = [place(x, y) for x, y in zip(shown.xs, shown.ys, strict=True)]
        lines.append(
            TracedLine(
                number=line.number,
                corners=[
                    CornerShape(
                        x=place(c.x, c.y)[0],
                        y=place(c.x, c.y)[1],
                        radius=None if c.radius is None else max(round(c.radius * placed.mm, 1), 0.1),
                    )
                    for c in line.corners
                ],
                closed=line.closed,
                starts=_lead(line.starts, placed.mm),
                ends=_lead(line.ends, placed.mm),
                ink=line.ink,
                why=line.why,
                d="M" + "L".join(f"{x:g} {y:g}" for x, y in points),
                length_text=print_length(shown.length * placed.mm, units),
            )
        )
    kept = [x for x in found.lines if not x.why]
    leads = [lead for x in kept for lead in (x.starts, x.ends) if lead is not None]
    length = sum(drawn[x.number].length for x in kept) * placed.mm
    numbers = {x.number for x in kept}
    tables = sum(sum(s.line in numbers for s in t.stubs) > 1 for t in found.tables)
    gone = sum(bool(x.why) and x.why != "lettering" for x in found.lines)
    words = (
        f"{many(len(kept), 'line')} of track, {print_long_length(length, units)}, "
        f"{_junctions(len(leads), len(found.crossings), tables)}; {many(gone, 'line')} left out."
        if kept
        else "No line here looks like track. What was left out is shown; click a line to take it."
    )
    rails = " It is drawn with both rails." if found.two_rails else ""
    poor = _poor(found)
    turned = " Light lines on dark paper: it was turned round first." if found.turned else ""
    return TracedShape(
        lines=lines,
        crossings=[
            TracedCrossing(
                one=c.one,
                one_at=round(c.one_at * placed.mm, 1),
                other=c.other,
                other_at=round(c.other_at * placed.mm, 1),
                x=place(c.x, c.y)[0],
                y=place(c.x, c.y)[1],
                flat=c.flat,
            )
            for c in found.crossings
        ],
        tables=[
            TracedTable(
                x=place(t.x, t.y)[0],
                y=place(t.x, t.y)[1],
                radius=round(t.radius * placed.mm, 1),
                stubs=[TracedStub(line=s.line, first=s.first) for s in t.stubs],
            )
            for t in found.tables
        ],
        turnouts=[place(*drawn[lead.host].point(lead.along)) for lead in leads],
        inks=[
            TracedInk(
                number=n,
                colour="#" + "".join(f"{round(255 * (1 - min(max(c, 0.0), 1.0))):02x}" for c in ink.colour),
                share_text=f"{ink.share * 100:.0f} %",
                chosen=n in found.chosen,
                pale=not ink.dark,
            )
            for n, ink in enumerate(found.inks)
        ],
        doubts=[TracedDoubt(kind=d.kind, x=place(d.x, d.y)[0], y=place(d.x, d.y)[1]) for d in found.doubts],
        two_rails=found.two_rails,
        words=words + rails + turned,
        warning=" ".join(filter(None, (poor, fineness(gauge_px, found.two_rails)))),
    )


def _poor(found: Traced) -> str:
    """What is against the way a plan is drawn; empty where nothing is."""
    if found.roadbed:
        return "The track is drawn on a filled roadbed. That traces badly: look at every line, or trace one without."
    return "It is drawn with sleepers, which trace less well: look it over." if found.sleepers else ""


def _junctions(turnouts: int, crossings: int, tables: int) -> str:
    """Turnouts and crossings, and turntables where there are any."""
    told = f"{many(turnouts, 'turnout')}, {many(crossings, 'crossing')}"
    return f"{told}, {many(tables, 'turntable')}" if tables else told


def taken_words(report: LaidReport, units: Units) -> str:
    """What was laid of a traced picture, in a sentence or two."""
    junctions = _junctions(report.turnouts, report.crossings, report.tables)
    words = f"{many(report.tracks, 'track')} laid, {junctions}; {many(report.loose_ends, 'end')} in the open."
    if not report.left_out:
        return words
    return f"{words} {many(report.left_out, 'line')} shorter than {print_length(SHORTEST_MM, units)} left out."


def _lead(lead: Lead | None, mm: float) -> LeadShape | None:
    return None if lead is None else LeadShape(host=lead.host, along=round(lead.along * mm, 1), ahead=lead.ahead)


def read_back(asked: TakeAsked) -> Traced:
    """A proposal as the page sends it back, in mm."""
    lines = tuple(
        Line(
            x.number,
            tuple(Corner(c.x, c.y, c.radius) for c in x.corners),
            x.closed,
            None if x.starts is None else Lead(x.starts.host, x.starts.along, x.starts.ahead),
            None if x.ends is None else Lead(x.ends.host, x.ends.along, x.ends.ahead),
            "",
            x.ink,
        )
        for x in asked.lines
    )
    known = {x.number for x in lines}
    crossings = tuple(
        Crossing(c.one, c.one_at, c.other, c.other_at, c.x, c.y, c.flat, c.kind)
        for c in asked.crossings
        if c.kind != "over" and {c.one, c.other} <= known
    )
    tables = tuple(
        Table(t.x, t.y, t.radius, tuple(Stub(s.line, s.first) for s in t.stubs if s.line in known))
        for t in asked.tables
    )
    return Traced(lines, crossings, (), (), (), 1.0, False, tables=tables)
