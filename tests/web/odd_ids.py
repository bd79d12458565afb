"""Ids as odd as the gate lets through, for a job whose pages and forms must stand them."""

from __future__ import annotations

import json

from metrolex.job import Job
from metrolex.jobfile import example_job_data, job_from_data

__all__ = ["ODD", "with_odd_ids"]

ODD = "%s%d {x} <b> \"'&#/?|"


def with_odd_ids(name: str) -> Job:
    """An example whose parts have odd ids, each still its own; names stay."""
    data = example_job_data(name)
    parts = [
        part for kind in data.values() if isinstance(kind, list) for part in kind if isinstance(part, dict)
    ]
    ids = {part["id"] for part in parts if "id" in part}
    pins = {pin["id"] for display in data["displays"] for pin in display.get("pins", ())}
    assert len(ids) > 20

    def odd(value, key=""):
        if isinstance(value, dict):
            return {word: odd(inner, word) for word, inner in value.items()}
        if isinstance(value, list):
            return [odd(inner, key) for inner in value]
        stays = key in ("name", "kind", "role", "measurand", "unit", "note", "colour", "word", "what", "side")
        stays = stays or key.endswith("unit")
        known = value in ids or (key in ("pin", "terminal", "id") and value in pins)
        return f"{value}{ODD}" if isinstance(value, str) and known and not stays else value

    return job_from_data(odd(json.loads(json.dumps(data))))
