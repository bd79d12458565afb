"""The fittings a workshop chooses from, and how many lie on its shelf."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from django.db import transaction

from metrolex.errors import BadInput
from metrolex.fittings.fitting import Fitting
from metrolex.fittings.library import generic_fittings
from metrolex.intake import dump, read
from metrolex.job import Sender
from workbench.accounts.models import Workshop
from workbench.library.models import ShelfFitting
from workbench.library.parts import own_senders

__all__ = [
    "Library",
    "Row",
    "add_fitting",
    "leave_out_generic",
    "library_of",
    "remove_fitting",
    "rows_of",
    "set_stock",
    "take_generic_back",
]


@dataclass(frozen=True, slots=True)
class Library:
    """The fittings the solver may use, the names of those in stock, the workshop's own senders by name."""

    fittings: tuple[Fitting, ...]
    stock: frozenset[str]
    senders: Mapping[str, Sender] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Row:
    """A fitting on the library page."""

    fitting: Fitting
    own: bool
    stock: int
    left_out: bool


def rows_of(workshop: Workshop | None) -> tuple[Row, ...]:
    """Own fittings first, then the generic ones, each with its stock."""
    kept = {row.name: row for row in ShelfFitting.objects.for_workshop(workshop)}
    own = [Row(read(Fitting, row.body), True, row.stock, False) for row in kept.values() if row.body]
    generic = [
        Row(
            fitting,
            False,
            kept[fitting.name].stock if fitting.name in kept else 0,
            fitting.name in kept and kept[fitting.name].left_out,
        )
        for fitting in generic_fittings()
        if not (fitting.name in kept and kept[fitting.name].body)
    ]
    return (*own, *generic)


def library_of(workshop: Workshop | None) -> Library:
    """What a workshop's solver chooses from."""
    rows = [row for row in rows_of(workshop) if not row.left_out]
    return Library(
        tuple(row.fitting for row in rows),
        frozenset(row.fitting.name for row in rows if row.stock),
        own_senders(workshop),
    )


@transaction.atomic
def add_fitting(workshop: Workshop, data: dict[str, object]) -> Fitting:
    """A fitting of the workshop's own; one of the same name is replaced. Raises BadInput."""
    fitting = read(Fitting, data)
    ShelfFitting.objects.update_or_create(
        workshop=workshop, name=fitting.name, defaults={"body": dump(fitting), "left_out": False}
    )
    return fitting


@transaction.atomic
def set_stock(workshop: Workshop, name: str, stock: int) -> None:
    """How many of a fitting lie on the shelf. Raises BadInput for one the library does not have."""
    if all(row.fitting.name != name for row in rows_of(workshop)):
        raise BadInput("name", name, "a fitting of the library")
    if not 0 <= stock <= 10_000:
        raise BadInput("stock", stock, "0 to 10000")
    ShelfFitting.objects.update_or_create(workshop=workshop, name=name, defaults={"stock": stock})


@transaction.atomic
def remove_fitting(workshop: Workshop, name: str) -> None:
    """An own fitting is taken out of the library, a generic one left out until it is taken back."""
    row = ShelfFitting.objects.for_workshop(workshop).filter(name=name).first()
    if row is not None and row.body:
        row.delete()
        return
    if all(fitting.name != name for fitting in generic_fittings()):
        raise BadInput("name", name, "a fitting of the library")
    ShelfFitting.objects.update_or_create(workshop=workshop, name=name, defaults={"left_out": True})


@transaction.atomic
def leave_out_generic(workshop: Workshop) -> None:
    """All generic fittings left out: the library holds the workshop's own only."""
    for fitting in generic_fittings():
        ShelfFitting.objects.update_or_create(
            workshop=workshop, name=fitting.name, defaults={"left_out": True}
        )


@transaction.atomic
def take_generic_back(workshop: Workshop) -> None:
    """All generic fittings back in the library."""
    for row in ShelfFitting.objects.for_workshop(workshop).filter(left_out=True):
        row.left_out = False
        row.save()
