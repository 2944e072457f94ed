"""Routes of change orders: the work between any two changes of a layout."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Query, Response
from fastapi.responses import HTMLResponse
from pydantic import BaseModel

from jolly_copper.api.book import XLSX
from jolly_copper.api.files import download
from jolly_copper.api.streaming import streamed
from jolly_copper.api.used import StoreUsed
from jolly_copper.core.layout.benchwork import board_name
from jolly_copper.core.wirebook.book import Book
from jolly_copper.core.wirebook.change_pages import change_book, dark_words, share_words
from jolly_copper.core.wirebook.evenings import EVENING_MINUTES, ChangeOrder, Told, order_work
from jolly_copper.exchange.book_csv import book_csv
from jolly_copper.exchange.book_html import book_html
from jolly_copper.exchange.book_pdf import PageSize, book_pdf
from jolly_copper.exchange.book_xlsx import book_xlsx
from jolly_copper.store import Store
from jolly_copper.telling.change_orders import ChangeOrderShape, EveningShape, JobShape

router = APIRouter(prefix="/api/layouts/{layout_id}")


Change = Annotated[int, Query(ge=1)]


Minutes = Annotated[float, Query(ge=30, le=1440, allow_inf_nan=False, description="What one evening holds.")]


def _order(
    store: Store, layout_id: str, before: int, after: int, minutes: float, told: Told = lambda _done, _total: None
) -> ChangeOrder:
    old, new = store.get(layout_id, before), store.get(layout_id, after)
    return order_work(old.layout, new.layout, minutes, told)


def _book(store: Store, layout_id: str, before: int, after: int, minutes: float) -> Book:
    new = store.get(layout_id, after)
    return change_book(_order(store, layout_id, before, after, minutes), new.layout, before, after, new.made[:10])


@router.get("/change-order", response_model=ChangeOrderShape)
def change_order(
    layout_id: str, before: Change, after: Change, store: StoreUsed, minutes: Minutes = EVENING_MINUTES
) -> Response:
    """The work from one change to another, evening by evening, with progress while it is put in order."""
    store.get(layout_id, before)
    layout = store.get(layout_id, after).layout

    def work(tell: Callable[[dict[str, Any]], None]) -> BaseModel:
        order = _order(
            store, layout_id, before, after, minutes, lambda done, total: tell({"done": done, "total": total})
        )
        return ChangeOrderShape(
            before=before,
            after=after,
            running_before_text=share_words(order.running_before),
            evenings=[
                EveningShape(
                    number=e.number,
                    hours_text=f"{e.minutes / 60:.1f} h",
                    running=e.running,
                    running_text=share_words(e.running),
                    dark_text=dark_words(e),
                    jobs=[
                        JobShape(
                            key=j.key,
                            kind=j.kind,
                            thing=j.thing,
                            label=j.label,
                            words=j.words,
                            board=board_name(layout, j.board) if j.board else "",
                        )
                        for j in e.jobs
                    ],
                )
                for e in order.evenings
            ],
        )

    return streamed(work, "The order of work")


def _name(layout_id: str, before: int, after: int) -> str:
    return f"{layout_id}-change-order-{before}-to-{after}"


@router.get("/files/change-order.pdf")
def pdf(
    layout_id: str,
    before: Change,
    after: Change,
    store: StoreUsed,
    minutes: Minutes = EVENING_MINUTES,
    page: PageSize = "A4",
) -> Response:
    made = _book(store, layout_id, before, after, minutes)
    return download(book_pdf(made, page), "application/pdf", f"{_name(layout_id, before, after)}.pdf")


@router.get("/files/change-order.html", response_class=HTMLResponse)
def page_file(
    layout_id: str, before: Change, after: Change, store: StoreUsed, minutes: Minutes = EVENING_MINUTES
) -> HTMLResponse:
    policy = {"Content-Security-Policy": "default-src 'none'; style-src 'unsafe-inline'"}
    return HTMLResponse(book_html(_book(store, layout_id, before, after, minutes)), headers=policy)


@router.get("/files/change-order.csv")
def csv_file(
    layout_id: str, before: Change, after: Change, store: StoreUsed, minutes: Minutes = EVENING_MINUTES
) -> Response:
    made = _book(store, layout_id, before, after, minutes)
    return download(book_csv(made), "text/csv; charset=utf-8", f"{_name(layout_id, before, after)}.csv")


@router.get("/files/change-order.xlsx")
def xlsx(
    layout_id: str, before: Change, after: Change, store: StoreUsed, minutes: Minutes = EVENING_MINUTES
) -> Response:
    made = _book(store, layout_id, before, after, minutes)
    return download(book_xlsx(made), XLSX, f"{_name(layout_id, before, after)}.xlsx")
