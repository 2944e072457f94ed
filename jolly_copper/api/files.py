"""How a file goes out."""

from __future__ import annotations

from fastapi import Response


def download(content: str | bytes, media: str, name: str) -> Response:
    """A file to keep, under a name of its own."""
    return Response(content, media_type=media, headers={"Content-Disposition": f'attachment; filename="{name}"'})
