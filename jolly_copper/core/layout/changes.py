"""What changed between two layouts, as a short JSON Patch: whole things added, removed or replaced."""

from __future__ import annotations

from typing import Any, get_origin

from jolly_copper.core.layout.document import Layout

MAPS = tuple(name for name, field in Layout.model_fields.items() if get_origin(field.annotation) is dict)
"""Fields of a layout that hold things by their ids, in the order of the document."""


def difference(old: dict[str, Any], new: dict[str, Any]) -> list[dict[str, Any]]:
    """JSON Patch operations from one layout's plain data to another's.

    Things in maps are compared one by one; of a thing that stays, only the fields that changed are named. Anything else
    at the top is replaced whole.
    """
    patch: list[dict[str, Any]] = []
    for key in new.keys() | old.keys():
        if key in MAPS:
            patch += _map(f"/{key}", old.get(key, {}), new.get(key, {}))
        elif old.get(key) != new.get(key):
            patch.append({"op": "add", "path": f"/{key}", "value": new.get(key)})
    return sorted(patch, key=lambda o: (o["path"].split("/")[1], o["path"]))


def _map(path: str, old: dict[str, Any], new: dict[str, Any]) -> list[dict[str, Any]]:
    patch: list[dict[str, Any]] = []
    for i in old.keys() | new.keys():
        here = f"{path}/{i.replace('~', '~0').replace('/', '~1')}"
        if i not in new:
            patch.append({"op": "remove", "path": here})
        elif i not in old:
            patch.append({"op": "add", "path": here, "value": new[i]})
        elif old[i] != new[i]:
            fields = [f for f in new[i] if old[i].get(f) != new[i][f]]
            if set(old[i]) <= set(new[i]):
                patch += [{"op": "add", "path": f"{here}/{f}", "value": new[i][f]} for f in fields]
            else:
                patch.append({"op": "replace", "path": here, "value": new[i]})
    return patch
