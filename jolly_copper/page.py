"""Where the built page is: inside the installed package, or in the checkout it is built in."""

from __future__ import annotations

from pathlib import Path

HERE = Path(__file__).resolve().parent


def page_folder() -> Path:
    """The folder of the page. It may be empty where nobody has built it yet."""
    installed = HERE / "built_page"
    return installed if (installed / "index.html").exists() else HERE.parent / "web" / "dist"
