"""Routes of the wire book: what is in it, and its files."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

from fastapi import APIRouter, Depends, HTTPException, Query, Response
from fastapi.responses import HTMLResponse

from jolly_copper.api.files import download
from jolly_copper.api.remembering import remembered
from jolly_copper.api.used import Scene, StoreUsed, WorkedUsed, known_scene
from jolly_copper.api.worked import Worked as FactsKept
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.proving.book_page import proving_chapter
from jolly_copper.core.quantities import print_long_length
from jolly_copper.core.wirebook.board_plan import board_plan
from jolly_copper.core.wirebook.book import Book, footer
from jolly_copper.core.wirebook.compose import compose_from
from jolly_copper.core.wirebook.labels import SHEETS, Label, PerPair, labels
from jolly_copper.core.wirebook.pieces import pieces
from jolly_copper.core.wirebook.read_me import keeping_chapters, read_me
from jolly_copper.exchange.book_csv import book_csv, labels_csv
from jolly_copper.exchange.book_html import book_html
from jolly_copper.exchange.book_pdf import PageSize, book_pdf, labels_pdf
from jolly_copper.exchange.book_xlsx import book_xlsx
from jolly_copper.exchange.sketch_svg import sketch_svg
from jolly_copper.store import Revision, Store
from jolly_copper.store.bench import readings_of
from jolly_copper.telling.book import BookShape, ChapterShape, ItemShape, SheetShape, WireNeedShape
from jolly_copper.telling.proving import log_line

router = APIRouter(prefix="/api/layouts/{layout_id}")


Chapters = Annotated[str, Query(max_length=2000, description="Keys of chapters, parted by commas; all when empty.")]


At = Annotated[int | None, Query(description="The change it is of; the newest when not given.")]


XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def compose_whole(store: Store, revision: Revision, worked: FactsKept, scene: str | None) -> Book:
    """The book of a revision: Read me first, the pages to build by, what was metered, where there is wire to meter, and
    what its makers knew."""
    named = known_scene(revision, scene)
    made = compose_from(worked.wirebook(revision, named), revision.number, revision.made[:10])
    facts = worked.facts(revision, named)
    bench = worked.bench(revision, named) if revision.layout.feeders else None
    known = remembered(store, revision, {t.key: t.title for t in bench.tests} if bench is not None else {})
    chapters = [read_me(facts, known), *made.chapters]
    if bench is not None:
        log = [log_line(r) for r in readings_of(store, revision.layout_id)]
        chapters.append(proving_chapter(bench, log))
    return replace(made, chapters=(*chapters, *keeping_chapters(facts, known)))


@router.get("/book")
def book(layout_id: str, store: StoreUsed, worked: WorkedUsed, scene: Scene = None, revision: At = None) -> BookShape:
    """What the book holds, and what it all costs as far as prices are typed."""
    found = store.get(layout_id, revision)
    made = compose_whole(store, found, worked, scene)
    parts = worked.wirebook(found, known_scene(found, scene))
    units = found.layout.brief.units
    costs = [n.cost for n in parts.needs] + [i.cost for i in parts.items]
    known = [c for c in costs if c is not None]
    return BookShape(
        revision=made.revision,
        made=made.made,
        chapters=[ChapterShape(key=c.key, title=c.title) for c in made.chapters],
        boards=[
            ChapterShape(key=w.board, title=board_name(found.layout, w.board))
            for w in parts.order
            if w.board is not None
        ],
        sheets=[SheetShape(key=k, name=s.name, each=s.columns * s.rows) for k, s in SHEETS.items()],
        pieces=len(parts.pieces),
        items=[
            ItemShape(key=i.key, name=i.name, count=i.count, reason=i.reason, price=i.price, cost=i.cost)
            for i in parts.items
        ],
        wire=[
            WireNeedShape(
                gauge=n.gauge,
                strands=n.strands,
                colour=n.colour,
                needed_text=print_long_length(n.needed, units),
                new_spools=n.plan.new_spools,
                spool_text=print_long_length(n.spool, units),
                left_text=print_long_length(sum(c.left for c in n.plan.cuts), units),
                exact=n.plan.exact,
                cost=n.cost,
            )
            for n in parts.needs
        ],
        total=sum(known) if known else None,
        unpriced=len(costs) - len(known),
    )


def _chosen(
    layout_id: str,
    store: StoreUsed,
    worked: WorkedUsed,
    chapters: Chapters = "",
    scene: Scene = None,
    revision: At = None,
) -> Book:
    """The book, or the chapters of it that were asked for."""
    found = store.get(layout_id, revision)
    return compose_whole(store, found, worked, scene).only([k for k in chapters.split(",") if k])


Chosen = Annotated[Book, Depends(_chosen)]


@router.get("/files/book.pdf")
def pdf(layout_id: str, made: Chosen, page: PageSize = "A4") -> Response:
    """The book, or some of its chapters, as PDF."""
    return download(book_pdf(made, page), "application/pdf", f"{layout_id}-book-{made.revision}.pdf")


@router.get("/files/book.xlsx")
def xlsx(layout_id: str, made: Chosen) -> Response:
    return download(book_xlsx(made), XLSX, f"{layout_id}-book-{made.revision}.xlsx")


@router.get("/files/book.csv")
def csv_file(layout_id: str, made: Chosen) -> Response:
    return download(book_csv(made), "text/csv; charset=utf-8", f"{layout_id}-book-{made.revision}.csv")


@router.get("/files/book.html", response_class=HTMLResponse)
def page_file(layout_id: str, made: Chosen) -> HTMLResponse:
    """The book as a page to read and print; no script in it, and none would run."""
    policy = {"Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'"}
    return HTMLResponse(book_html(made), headers=policy)


Each = Annotated[Literal["wire", "pair"], Query(description="A label for every wire, or one for every pair.")]


def _labels(revision: Revision, each: str, board: str | None) -> list[Label]:
    per: PerPair = "every pair" if each == "pair" else "every wire"
    return labels([p for p in pieces(revision.layout) if board is None or p.board == board], per)


@router.get("/files/labels.pdf")
def labels_file(
    layout_id: str,
    store: StoreUsed,
    worked: WorkedUsed,
    sheet: str = "a4-65",
    each: Each = "wire",
    skip: Annotated[int, Query(ge=0, le=200)] = 0,
    board: str | None = None,
    revision: At = None,
) -> Response:
    """Labels for both ends of every wire, on sheets of a size chosen, of one board or all."""
    if sheet not in SHEETS:
        raise HTTPException(404, f"There is no sheet {sheet}; there are {', '.join(SHEETS)}.")
    found, paper = store.get(layout_id, revision), SHEETS[sheet]
    if skip >= paper.columns * paper.rows:
        raise HTTPException(422, f"This sheet has {paper.columns * paper.rows} labels; so many cannot be used already.")
    made = compose_whole(store, found, worked, None)
    return download(
        labels_pdf(_labels(found, each, board), paper, made, skip),
        "application/pdf",
        f"{layout_id}-labels-{found.number}.pdf",
    )


@router.get("/files/labels.csv")
def labels_table(
    layout_id: str, store: StoreUsed, each: Each = "wire", board: str | None = None, revision: At = None
) -> Response:
    found = store.get(layout_id, revision)
    return download(
        labels_csv(_labels(found, each, board)), "text/csv; charset=utf-8", f"{layout_id}-labels-{found.number}.csv"
    )


@router.get("/files/board.svg")
def board_file(layout_id: str, board: str, store: StoreUsed, revision: At = None) -> Response:
    """One board's plan with its wires."""
    found = store.get(layout_id, revision)
    if board not in found.layout.boards:
        raise HTTPException(404, f"There is no board {board}.")
    plan = board_plan(found.layout, board, pieces(found.layout))
    drawn = sketch_svg(plan, footer=footer(found.layout.name, found.number, found.made[:10]))
    return download(drawn, "image/svg+xml", f"{layout_id}-board-{board}-{found.number}.svg")
