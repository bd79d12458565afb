"""Wire labels on sheets one can buy: where each label stands on its page (label_sheets.toml)."""

from __future__ import annotations

import functools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from metrolex.errors import BadInput
from metrolex.tables import load_table

__all__ = ["LabelSheet", "Placed", "label_sheets", "laid_out"]

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class LabelSheet:
    """One kind of sheet, millimetres: the label, the margins, from one label to the next. ``page`` is the paper."""

    key: str
    words: str
    page: str
    columns: int
    rows: int
    width_mm: float
    height_mm: float
    left_mm: float
    top_mm: float
    step_x_mm: float
    step_y_mm: float

    @property
    def count(self) -> int:
        """Labels on a page."""
        return self.columns * self.rows


@dataclass(frozen=True, slots=True)
class Placed(Generic[T]):
    """A label and where its upper left corner stands, millimetres from that of the page."""

    label: T
    x_mm: float
    y_mm: float


@functools.cache
def label_sheets() -> dict[str, LabelSheet]:
    """All kinds of sheet by their key."""
    return {key: LabelSheet(key, **row) for key, row in load_table("label_sheets").items()}


def laid_out(sheet: LabelSheet, labels: Sequence[T], first: int = 1) -> list[list[Placed[T]]]:
    """The labels page by page, row by row, from the ``first`` place of the first page on (1: a fresh sheet). Raises BadInput (``first``)."""
    if not 1 <= first <= sheet.count:
        raise BadInput("first", first, f"1 to {sheet.count}")
    pages: list[list[Placed[T]]] = []
    for i, label in enumerate(labels, first - 1):
        page, place = divmod(i, sheet.count)
        row, column = divmod(place, sheet.columns)
        if page == len(pages):
            pages.append([])
        x, y = sheet.left_mm + column * sheet.step_x_mm, sheet.top_mm + row * sheet.step_y_mm
        pages[page].append(Placed(label, round(x, 3), round(y, 3)))
    return pages
