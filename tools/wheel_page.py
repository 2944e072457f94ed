"""Puts the built page into the wheel. An editable install serves it from where it is built."""

from pathlib import Path
from typing import Any

from hatchling.builders.hooks.plugin.interface import BuildHookInterface


class PageInside(BuildHookInterface):  # type: ignore[type-arg]
    """The hook that the build asks."""

    def initialize(self, version: str, build_data: dict[str, Any]) -> None:
        """Add the page, or refuse to make a wheel without one."""
        if version == "editable":
            return
        page = Path(self.root) / "web" / "dist"
        if not (page / "index.html").exists():
            raise RuntimeError("The page is not built yet: run `make wheel`, which builds it first.")
        build_data["force_include"][str(page)] = "jolly_copper/built_page"
