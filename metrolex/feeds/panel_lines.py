"""A fuse panel as it is typed or pasted: a slot a line, a row of slots parted from the next by an empty line."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.quantities import parse_number

__all__ = ["MOST_IN_LINE", "SlotLine", "next_slot", "numbered_slots", "read_panel_lines"]

MOST_IN_LINE = 40
_NUMBERED = re.compile(r"(.*?)([0-9]{1,6})")
_RATING = re.compile(r"[0-9]+([.,][0-9]+)?\s*A?", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class SlotLine:
    """One slot as its line tells it: ``rating_a`` and ``purpose`` are None where the line says nothing of them."""

    id: str
    rating_a: float | None
    purpose: str | None
    row: int
    column: int


def read_panel_lines(text: str, in_row: int | None = None) -> tuple[SlotLine, ...]:
    """Slots as 'F1 10 Radio' a line: slot, rating in ampere, what the lid says. Raises BadInput (field ``lines``) naming the line.

    The parts stand between tabs, semicolons, commas or spaces; rating and name may be left out, '-' is an empty slot.
    An empty line begins the next row, and so does a full one where ``in_row`` tells how many slots lie in a row.

    >>> [(s.id, s.rating_a, s.purpose, s.row, s.column) for s in read_panel_lines('F1 7,5A Radio||F2 Horn'.replace('|', chr(10)))]
    [('F1', 7.5, 'Radio', 1, 1), ('F2', None, 'Horn', 2, 1)]
    """
    found: list[SlotLine] = []
    row, column, seen = 1, 0, dict[str, int]()
    for number, line in enumerate(text.lstrip("\ufeff").splitlines(), 1):
        cells = _cells(line)
        if not cells:
            row, column = (row + 1, 0) if column else (row, column)
            continue
        row, column = (row + 1, 1) if column == (in_row or -1) else (row, column + 1)
        if max(row, column) > MOST_IN_LINE:
            raise _refused(line, number, f"a panel has at most {MOST_IN_LINE} rows of {MOST_IN_LINE} slots.")
        if not 0 < len(cells[0]) <= 60:
            raise _refused(line, number, "a slot has a name of at most 60 letters first, like F1.")
        if cells[0] in seen:
            raise _refused(line, number, f"{cells[0]} stands in line {seen[cells[0]]} already.")
        seen[cells[0]] = number
        found.append(SlotLine(cells[0], *_rating_and_name(cells[1:], line, number), row, column))
    if not found:
        raise BadInput(
            "lines", text[:40], "slots, one a line", "Type the slots, one a line, like 'F1 10 Radio'."
        )
    return tuple(found)


def numbered_slots(rows: int, in_row: int, first: str = "F1") -> str:
    """The lines of a panel of ``rows`` by ``in_row`` slots, numbered on from the first. Raises BadInput (field ``first``).

    >>> numbered_slots(2, 2, 'F9').splitlines()
    ['F9', 'F10', '', 'F11', 'F12']
    """
    shape = _NUMBERED.fullmatch(first.strip())
    if shape is None:
        raise BadInput("first", first, "a slot with its number, like F1")
    for field, value in (("rows", rows), ("in_row", in_row)):
        if not 1 <= value <= MOST_IN_LINE:
            raise BadInput(field, value, f"1 to {MOST_IN_LINE}")
    names = [f"{shape[1]}{int(shape[2]) + i:0{len(shape[2])}d}" for i in range(rows * in_row)]
    return "\n\n".join("\n".join(names[at : at + in_row]) for at in range(0, len(names), in_row))


def next_slot(slots: Sequence[str]) -> str:
    """The name after the highest of those numbered like the last one; F1 where none has a number.

    >>> next_slot(['F7', 'F9', 'white wire', 'K2']), next_slot(['1', '12']), next_slot([])
    ('K3', '13', 'F1')
    """
    shapes = [shape for shape in map(_NUMBERED.fullmatch, slots) if shape]
    if not shapes:
        return "F1"
    last = shapes[-1]
    highest = max(int(shape[2]) for shape in shapes if shape[1] == last[1])
    return f"{last[1]}{highest + 1:0{len(last[2])}d}"


def _cells(line: str) -> list[str]:
    """What stands on a line: parted by tabs or semicolons where there are any, else by spaces, else by commas."""
    plain = line.strip()
    if re.search(r"[\t;]", plain):
        return [cell.strip() for cell in re.split(r"[\t;]", plain)] if plain.strip("\t; ") else []
    first, _, rest = plain.partition(" ")
    if "," in first.rstrip(","):
        first, *cells = (cell.strip() for cell in plain.split(","))
        return [first, *cells]
    if not plain:
        return []
    rating = re.match(rf"{_RATING.pattern}(?=,|\s|$)(?!\s*V\b)", rest.strip(), re.IGNORECASE)
    cut = [rating[0], rest.strip()[rating.end() :]] if rating else [rest]
    return [first.rstrip(","), *(cell.strip(" ,") for cell in cut)]


def _rating_and_name(cells: list[str], line: str, number: int) -> tuple[float | None, str | None]:
    rating = None
    if cells and cells[0] in ("", "-"):
        cells = cells[1:]
    elif cells and _RATING.fullmatch(cells[0]):
        rating = parse_number(re.sub(r"\s*[aA]$", "", cells[0]))
        cells = cells[1:]
        if not 0 < rating <= 500:
            raise _refused(line, number, f"a fuse of {rating:g} A is not to be had.")
    name = " ".join(cell for cell in cells if cell).removeprefix("- ").strip()
    if len(name) > 120:
        raise _refused(line, number, "its name is longer than 120 letters.")
    return rating, name or None


def _refused(line: str, number: int, why: str) -> BadInput:
    return BadInput("lines", line[:40], "slots like 'F1 10 Radio'", f"Line {number}: {why}")
