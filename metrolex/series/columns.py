"""A recording from columns of text: CSV, or what a spreadsheet or a logger puts between its columns."""

from __future__ import annotations

import csv
import io

import numpy as np

from metrolex.errors import BadInput
from metrolex.series.bounds import few_enough, longest_stretch, short_enough
from metrolex.series.series import Series

__all__ = ["read_columns"]


def read_columns(text: str, name: str, unit: str, field: str) -> Series:
    """Seconds and one column called ``name``, with or without a heading; comma, semicolon or tab between.

    A decimal comma is read where the columns are not parted by commas. Raises BadInput at ``field``.
    """
    wanted = f"two columns: seconds and {unit}"
    lines = [line for line in few_enough(text, field).lstrip("\ufeff").splitlines() if line.strip()]
    if not lines:
        raise BadInput(field, "", wanted, f"The recording of the {field} {name} is empty.")
    mark = next((m for m in ("\t", ";", ",") if m in lines[-1]), " ")
    rows: list[tuple[float, float]] = []
    for number, cells in enumerate(
        csv.reader(io.StringIO("\n".join(lines)), delimiter=mark, skipinitialspace=True), 1
    ):
        values = _values([cell for cell in cells if cell.strip()][:2], mark)
        if values:
            rows.append(values)
        elif number > 1:
            line = lines[number - 1]
            raise BadInput(
                field, line[:60], wanted, f"Line {number}: '{line:.40}' is not seconds and {unit}."
            )
    if len(rows) < 2:
        raise BadInput(field, len(rows), "two rows or more")
    seconds, column = np.array(rows).T
    part, leaps = longest_stretch(seconds)
    seconds, column = short_enough(seconds[part], field), column[part]
    try:
        return Series(seconds - seconds[0], {name: column}, {name: unit}, leaps)
    except BadInput as fault:
        raise BadInput(field, fault.value, fault.allowed) from None


def _values(cells: list[str], mark: str) -> tuple[float, float] | None:
    if not all(cell.isascii() for cell in cells):
        return None
    try:
        values = [float(cell.replace(",", ".") if mark != "," else cell) for cell in cells]
    except ValueError:
        return None
    return (values[0], values[1]) if len(values) == 2 and all(np.isfinite(values)) else None
