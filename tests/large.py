"""Railroads far larger or far longer than the demo, as plain data."""

from __future__ import annotations

from typing import Any


def row_of_tracks(count: int, length: float, feeder_every: int, joiner_every: float | None = 914.4) -> dict[str, Any]:
    """So many tracks of so many mm in one straight row, one district, a bus beside it and a feeder every few tracks."""
    total = count * length
    nodes = {f"n{k}": {"kind": "joint", "at": {"x": k * length, "y": 0}} for k in range(count + 1)}
    nodes["n0"]["kind"] = nodes[f"n{count}"]["kind"] = "bumper"
    fed = range(0, count, feeder_every)
    return {
        "name": "Long",
        "nodes": nodes,
        "tracks": {
            f"t{k}": {
                "name": f"T{k}",
                "a": {"node": f"n{k}", "port": "2" if k else "1"},
                "b": {"node": f"n{k + 1}", "port": "1"},
                "path": [{"x": k * length, "y": 0}, {"x": (k + 1) * length, "y": 0}],
                "joiner_every": joiner_every,
            }
            for k in range(count)
        },
        "circuits": {"main": {"name": "Main"}},
        "sections": {"S": {"name": "S", "track": "t0", "at": 1, "circuit": "main"}},
        "devices": {
            "B": {
                "kind": "booster",
                "name": "B",
                "at": {"x": 0, "y": 0},
                "output": "main",
                "label_amps": 5,
                "trip_amps": 5,
            }
        },
        "runs": {
            "R": {
                "label": "R",
                "circuit": "main",
                "gauge": "12 AWG",
                "path": [{"x": 0, "y": 50}, {"x": total, "y": 50}],
                "fed": {"device": "B", "along": 0},
            }
        },
        "terminals": {f"T{k}": {"run": "R", "along": k * length, "kind": "tap"} for k in fed},
        "feeders": {f"F{k}": {"label": f"F{k}", "terminal": f"T{k}", "track": f"t{k}", "at": length / 2} for k in fed},
    }
