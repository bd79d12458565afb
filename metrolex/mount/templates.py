"""Places to begin with, each body kind's usual outline, eye and wheel. Data in ``data/sites.toml``."""

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import Any

from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Fixture, Job, Site
from metrolex.tables import load_table

__all__ = ["SiteTemplate", "site_template", "site_templates", "suggested_template"]


@dataclass(frozen=True, slots=True)
class SiteTemplate:
    """A site with the parts in it, what it is in a sentence, and the point its figures are measured from."""

    key: str
    words: str
    measured_from: str
    site: Site
    fixtures: tuple[Fixture, ...]


@functools.cache
def site_templates() -> tuple[SiteTemplate, ...]:
    """All there are."""
    return tuple(_template(row) for row in load_table("sites")["sites"])


def site_template(key: str) -> SiteTemplate:
    """One of them. Raises BadInput (field ``template``)."""
    found = next((one for one in site_templates() if one.key == key), None)
    if found is None:
        raise BadInput("template", key, ", ".join(one.key for one in site_templates()))
    return found


def suggested_template(job: Job) -> str:
    """The one that suits the vehicle's words and where its displays are said to sit; the dash where nothing speaks."""
    vehicle = job.vehicle
    words = " ".join(
        [
            vehicle.name,
            vehicle.identity.model,
            vehicle.identity.notes,
            *(display.position for display in job.displays),
        ]
    ).lower()
    for word, key in (
        ("pillar", "pillar"),
        ("column", "column"),
        ("console", "console"),
        ("handlebar", "handlebar"),
        ("sidecar", "handlebar"),
        ("outfit", "handlebar"),
        ("motorcycle", "handlebar"),
        ("single-seater", "single-seater"),
        ("van", "van"),
        ("truck", "van"),
        ("tender", "van"),
        ("lorry", "van"),
    ):
        if word in words:
            return key
    return "dash"


def _template(row: dict[str, Any]) -> SiteTemplate:
    site = {
        name: value for name, value in row.items() if name not in ("key", "words", "measured_from", "parts")
    }
    return SiteTemplate(
        row["key"],
        row["words"],
        row["measured_from"],
        read(Site, {"id": row["key"]} | site),
        tuple(_fixture(row["key"], part) for part in row["parts"]),
    )


def _fixture(site: str, row: list[Any]) -> Fixture:
    key, name, kind, rank, x, y, wide, high, *more = row
    return read(
        Fixture,
        {
            "id": key,
            "site": site,
            "name": name,
            "kind": kind,
            "rank": rank,
            "x": x,
            "y": y,
            "wide_mm": wide,
            "high_mm": high,
            "disc": "disc" in more,
            "function": more[1] if len(more) > 1 else "",
        },
    )
