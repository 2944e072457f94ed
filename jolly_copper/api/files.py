"""How a file comes in and goes out."""

from __future__ import annotations

from typing import Annotated

from fastapi import Depends, HTTPException, Request, Response


def download(content: str | bytes, media: str, name: str) -> Response:
    """A file to keep, under a name of its own."""
    return Response(content, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def csv_file(text: str, name: str) -> Response:
    """A table to keep, marked as UTF-8 so that every spreadsheet reads it."""
    return download("\ufeff" + text, "text/csv; charset=utf-8", name)


async def _content(request: Request) -> bytes:
    data = await request.body()
    if not data:
        raise HTTPException(422, "The file is empty.")
    return data


Content = Annotated[bytes, Depends(_content)]
"""The body of a request, as it came."""
