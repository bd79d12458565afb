"""What holds a display: what each way carries, on which material, how long it cures, whether it comes out again (``data/holds.toml``)."""

from __future__ import annotations

import functools
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal, TypeVar

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.intake import read
from metrolex.job import Display, Job, Mounting, Site
from metrolex.tables import load_table

__all__ = [
    "Hold",
    "Material",
    "cure_of",
    "glued",
    "heed_of",
    "held_findings",
    "hold_called",
    "holds",
    "material_called",
    "materials",
    "ways_of",
]


@dataclass(frozen=True, slots=True)
class Hold:
    """A way of holding; ``most_g`` and ``heat_degc`` None where its parts decide."""

    key: str
    words: str
    do: str
    undo: Literal["yes", "with care", "no"]
    most_g: float | None = None
    heat_degc: float | None = None
    cure_min: float = 0.0
    hold_min: float = 0.0
    not_on: tuple[str, ...] = ()
    plug_first: bool = False
    goods: str = ""
    grips: bool = False


@dataclass(frozen=True, slots=True)
class Material:
    """What a panel or pod is made of."""

    key: str
    words: str
    heat_degc: float
    shiny: bool = False
    cracks: bool = False
    brittle: bool = False


Row = TypeVar("Row", Hold, Material)


@functools.cache
def holds() -> tuple[Hold, ...]:
    """Every way of holding there is."""
    return tuple(read(Hold, {"key": key} | row) for key, row in load_table("holds")["holds"].items())


@functools.cache
def materials() -> tuple[Material, ...]:
    """Every material there is."""
    return tuple(read(Material, {"key": key} | row) for key, row in load_table("holds")["materials"].items())


def hold_called(key: str) -> Hold:
    """One way of holding. Raises BadInput."""
    return _called(holds(), "held_by", key)


def material_called(key: str) -> Material:
    """One material. Raises BadInput."""
    return _called(materials(), "made_of", key)


def _called(rows: tuple[Row, ...], field: str, key: str) -> Row:
    found = next((row for row in rows if row.key == key), None)
    if found is None:
        raise BadInput(field, key, ", ".join(row.key for row in rows))
    return found


def ways_of(mounting: Mounting) -> tuple[Hold, ...]:
    """The ways a display is held by, those this table knows."""
    known = {hold.key: hold for hold in holds()}
    return tuple(known[key] for key in mounting.held_by if key in known)


def heed_of(site: Site) -> str:
    """What goes wrong on the way there, in a sentence or two."""
    return str(load_table("holds")["heed"][site.kind])


def cure_of(mounting: Mounting) -> float:
    """Minutes it must rest before it may be loaded."""
    return max((hold.cure_min for hold in ways_of(mounting)), default=0.0)


def glued(mounting: Mounting) -> bool:
    """Whether the plug must be in before it is held."""
    return any(hold.plug_first for hold in ways_of(mounting))


def held_findings(job: Job, site: Site, display: Display, mounting: Mounting) -> Iterator[Finding]:
    """What is wrong with the way a display is held."""
    made_of = next((one for one in materials() if one.key == site.made_of), None)
    heat = float(load_table("holds")["heat_degc"].get(site.kind, 80))
    ways = ways_of(mounting)
    for hold in ways:
        if hold.most_g is not None and display.housing.mass_g and display.housing.mass_g > hold.most_g:
            yield _say(
                "caution",
                "too_heavy",
                display,
                f"{hold.words} is too little for its weight.",
                f"{display.housing.mass_g:g} g, good for {hold.most_g:g} g",
                "Screws or a clamp besides.",
            )
        if hold.heat_degc is not None and hold.heat_degc < heat:
            yield _say(
                "caution",
                "too_hot",
                display,
                f"{hold.words} lets go when the {_site_word(site)} stands in the sun.",
                f"{heat:g} °C there, it stands {hold.heat_degc:g} °C",
                "Something mechanical besides, or another way.",
            )
        if made_of is not None and made_of.key in hold.not_on:
            yield _say(
                "stop",
                "does_not_stick",
                display,
                f"{hold.words} does not hold on {made_of.words}.",
                "",
                "A plate screwed on, or another way.",
            )
        if hold.undo == "no":
            yield _say(
                "note",
                "for_good",
                display,
                f"{hold.words} does not come out again without breaking something.",
                "",
                "Write into the book where it is glued; keep plug and lead so that they can be got at.",
            )
    if made_of is not None and made_of.cracks and any(hold.key in ("screw", "clamp") for hold in ways):
        yield _say(
            "note",
            "no_thread_locker",
            display,
            f"No thread locker on screws in {made_of.words}: it cracks.",
            "",
            "Lock washers or self-locking nuts.",
        )


def _site_word(site: Site) -> str:
    return {"handlebar": "bar"}.get(site.kind, site.kind)


def _say(grade: str, code: str, display: Display, reason: str, figure: str, remedy: str) -> Finding:
    return Finding(grade, code, display.name, reason, figure, remedy, "mount")  # type: ignore[arg-type]
