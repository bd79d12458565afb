"""Points as they are typed or pasted: a line each, any decimal mark, units in the head or behind the figures."""

from __future__ import annotations

import re

from metrolex.errors import BadInput
from metrolex.quantities import dimension_of, parse, parse_in, typed

__all__ = ["points_text", "read_points"]

Points = tuple[tuple[float, float], ...]
_MOST = 5000
_HEAD_UNIT = re.compile(r"[\[(,/]\s*([^\])]+?)\s*[\])]?$")


def read_points(text: str, x_unit: str = "ohm", y_unit: str = "degC") -> Points:
    """Points in ``x_unit`` and ``y_unit``, 'x y' a line. Raises BadInput (field ``points``) naming the line.

    Columns are parted by tab, semicolon, comma or spaces. A first line of words is a heading; units in it ('R (kohm); T [F]')
    turn the figures below.

    >>> read_points('577 60')
    ((577.0, 60.0),)
    >>> read_points('ohm;degC|2,5;40'.replace('|', chr(10)))
    ((2.5, 40.0),)
    >>> read_points('R [kohm]; T [degF]|0,577; 140'.replace('|', chr(10)))[0][0]
    577.0
    """
    found: list[tuple[float, float]] = []
    units = (x_unit, y_unit)
    lines = text.lstrip("\ufeff").splitlines()
    headed = sum(bool(line.strip()) for line in lines) > 1
    for number, line in enumerate(lines, 1):
        cells = _cells(line)
        if not cells:
            continue
        if headed and number == 1 and not any(re.match(r"\s*[-+−.,]?\d", cell) for cell in cells):
            units = _head(cells, x_unit, y_unit)
            continue
        if len(cells) != 2:
            raise _refused(
                line, number, f"expected two numbers, like '577 60', but got '{line.strip()[:40]}'."
            )
        try:
            x, y = (
                _value(cell, unit, wanted)
                for cell, unit, wanted in zip(cells, units, (x_unit, y_unit), strict=True)
            )
        except BadInput as fault:
            raise _refused(line, number, fault.message) from None
        found.append((x, y))
        if len(found) > _MOST:
            raise _refused(line, number, f"more than {_MOST} points.")
    return tuple(found)


def points_text(points: Points) -> str:
    """Points as they are typed."""
    return "\n".join(f"{typed(x)}  {typed(y)}" for x, y in points)


def _refused(line: str, number: int, words: str) -> BadInput:
    return BadInput("points", line[:60], "two numbers a line", f"Line {number}: {words}")


def _cells(line: str) -> list[str]:
    for mark in ("\t", ";"):
        if mark in line:
            return [cell.strip() for cell in line.split(mark) if cell.strip()]
    if line.count(",") == 1 and not re.search(r"\d,\d+\s+\S|\S\s+[-+−]?\d+,\d", line):
        return [cell.strip() for cell in line.split(",") if cell.strip()]
    # '2.2 kohm  40 degC' has its units behind the figures: two or more spaces part columns there.
    wide = [cell for cell in re.split(r"\s{2,}", line.replace(", ", "  ").strip()) if cell]
    return wide if len(wide) == 2 else line.replace(", ", " ").split()


def _head(cells: list[str], x_unit: str, y_unit: str) -> tuple[str, str]:
    """The units a heading names, else the ones expected."""
    units = [x_unit, y_unit]
    for i, cell in enumerate(cells[:2]):
        match = _HEAD_UNIT.search(cell)
        for word in filter(None, (match and match.group(1), cell)):
            if dimension_of(units[i]) is not None and dimension_of(units[i]) is dimension_of(word):
                units[i] = word
                break
    return units[0], units[1]


def _value(text: str, unit: str, wanted: str) -> float:
    dimension = dimension_of(wanted)
    return parse_in(text, wanted) if dimension is None else parse(text, dimension, unit, wanted)
