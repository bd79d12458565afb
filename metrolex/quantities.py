"""Quantities at the edge: read what a fitter writes, show what a fitter reads; SI inside.

``parse('3/8 in', LENGTH)`` gives metres, ``parse('210 F', TEMPERATURE)`` degrees Celsius,
``parse('2k2', RESISTANCE)`` ohms. Conversion factors come from pint (exact definitions of the
inch, pound-force and so on, NIST SP 811 appendix B) and are kept as fractions, so that a figure written, turned and
turned back is the same figure; only the fitter's spelling is ours (``data/units.toml``).
"""

from __future__ import annotations

import functools
import math
import re
from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from metrolex.errors import BadInput
from metrolex.tables import load_table

if TYPE_CHECKING:
    import numpy as np
    import pint
    from numpy.typing import NDArray

__all__ = [
    "ANGLE",
    "CURRENT",
    "DIMENSIONS",
    "FREQUENCY",
    "LENGTH",
    "MASS",
    "PRESSURE",
    "RESISTANCE",
    "SHARE",
    "SPEED",
    "TEMPERATURE",
    "TIME",
    "TURNING",
    "VOLTAGE",
    "VOLUME",
    "Dimension",
    "convert",
    "dimension_of",
    "in_unit",
    "in_unit_array",
    "inch_fraction",
    "parse",
    "parse_in",
    "parse_number",
    "rounded",
    "show",
    "show_both",
    "typed",
    "unit_words",
]


@dataclass(frozen=True, slots=True)
class Dimension:
    """A kind of quantity: its inner unit by its pint name; spellings and limits stand in ``data/units.toml``."""

    name: str

    @property
    def inner(self) -> str:
        return str(self._table["inner"])

    @property
    def example(self) -> str:
        return str(self._table["example"])

    @property
    def lowest(self) -> float | None:
        """The least there is of it, in its inner unit; None where nothing bars it."""
        return self._table.get("lowest")

    @property
    def _table(self) -> dict[str, Any]:
        return load_table("units")[self.name]  # type: ignore[no-any-return]

    def unit(self, word: str) -> str | None:
        """The pint name of a spelling, None when it is not one of this kind.

        >>> RESISTANCE.unit('mOhm'), RESISTANCE.unit('MOhm'), PRESSURE.unit('PSI')
        ('milliohm', 'megaohm', 'psi')
        """
        exact, folded = _spellings(self.name)
        return exact.get(word) or folded.get(_fold(word))

    def words(self) -> str:
        return ", ".join(self._table["shown"])

    def two_meanings(self, word: str) -> list[str]:
        """The units a word may mean where it is no single one."""
        return list(self._table.get("ambiguous", {}).get(word.lower(), []))


def _fold(word: str) -> str:
    """A spelling without its case and spaces; a leading m or M keeps its case, being milli or mega."""
    plain = "".join(word.split())
    return plain[:1] + plain[1:].lower() if plain[:1] in "mM" else plain.lower()


@functools.cache
def _spellings(name: str) -> tuple[dict[str, str], dict[str, str]]:
    rows = [(str(spelling), str(unit)) for spelling, unit in load_table("units")[name]["units"]]
    return dict(rows), {_fold(spelling): unit for spelling, unit in rows}


LENGTH = Dimension("length")
PRESSURE = Dimension("pressure")
TEMPERATURE = Dimension("temperature")
RESISTANCE = Dimension("resistance")
VOLTAGE = Dimension("voltage")
CURRENT = Dimension("current")
VOLUME = Dimension("volume")
SPEED = Dimension("speed")
FREQUENCY = Dimension("frequency")
TIME = Dimension("time")
MASS = Dimension("mass")
TURNING = Dimension("turning")
SHARE = Dimension("share")
ANGLE = Dimension("angle")
DIMENSIONS = {
    d.name: d
    for d in (
        LENGTH,
        PRESSURE,
        TEMPERATURE,
        RESISTANCE,
        VOLTAGE,
        CURRENT,
        VOLUME,
        SPEED,
        FREQUENCY,
        TIME,
        MASS,
        TURNING,
        SHARE,
        ANGLE,
    )
}

#: The longest text that is read as a number.
LONGEST = 60

_NUMBER = re.compile(
    r"""^\s*(?P<sign>[-+−])?\s*(?:
        (?P<whole>[0-9]+)[\s-]+(?P<top>[0-9]+)\s*/\s*(?P<bottom>[0-9]+)
      | (?P<top1>[0-9]+)\s*/\s*(?P<bottom1>[0-9]+)
      | (?P<plain>[0-9]+(?:[.,][0-9]*)?|[.,][0-9]+)(?P<exp>[eE][-+]?[0-9]{1,3})?
    )\s*(?P<unit>.*?)\s*$""",
    re.VERBOSE,
)
# '2k2', '4R7', '1M5', 'R47': the letter stands where the decimal point would.
_LETTER_POINT = re.compile(
    r"^\s*(?P<whole>[0-9]*)(?P<letter>[RkKM])(?P<part>[0-9]+)\s*(?:ohms?|Ohms?|[Ω\u2126])?\s*$"
)


def parse(text: str, dimension: Dimension, default_unit: str = "", into: str = "") -> float:
    """Read a quantity as a fitter writes it.

    Returns the value in ``into`` (a spelling), else in ``dimension.inner`` (metre, pascal, degC, ohm, volt, ampere,
    litre, km/h and so on), to the last digit written: 12.7 mm read into mm is 12.7. A bare number takes
    ``default_unit``. A comma is a decimal comma.

    Raises BadInput (field '') when the number or unit cannot be read, may mean two units, or lies below absolute zero.

    >>> round(parse('3/8 in', LENGTH) * 1000, 3)
    9.525
    >>> parse('2k2', RESISTANCE), parse('R47', RESISTANCE), parse('5 mOhm', RESISTANCE)
    (2200.0, 0.47, 0.005)
    >>> round(parse('210 F', TEMPERATURE), 2)
    98.89
    >>> parse('12,4', VOLTAGE, 'V')
    12.4
    """
    letter = _LETTER_POINT.match(text) if len(text) <= LONGEST else None
    if dimension is RESISTANCE and letter:
        scale = {"R": 1, "k": 1000, "K": 1000, "M": 1000000}[letter["letter"]]
        number, unit = Fraction(f"{letter['whole'] or 0}.{letter['part']}") * scale, "ohm"
    else:
        number, word = _split(text, f"a {dimension.name}, like {dimension.example}")
        unit = _unit_meant(text, word or default_unit, dimension)
    wanted = dimension.unit(into) if into else dimension.inner
    if wanted is None:
        raise BadInput("unit", into, dimension.words())
    least = dimension.lowest
    if least is not None and _exactly(number, unit, dimension.inner) < Fraction(repr(least)):
        raise BadInput(
            "",
            text,
            f"{least:g} {dimension.words()[0]} or more",
            f"'{text.strip():.40}' is below absolute zero.",
        )
    return _finite(_exactly(number, unit, wanted), text)


def _unit_meant(text: str, word: str, dimension: Dimension) -> str:
    if not word:
        raise BadInput(
            "", text, f"a unit: {dimension.words()}", f"'{text}' has no unit: use {dimension.words()}."
        )
    unit = dimension.unit(word)
    if unit is not None:
        return unit
    either = dimension.two_meanings(word)
    if either:
        raise BadInput(
            "", text, " or ".join(either), f"'{word}' may mean two sizes: write {' or '.join(either)}."
        )
    raise BadInput(
        "",
        text,
        dimension.words(),
        f"'{word:.20}' is not a unit of {dimension.name}: use {dimension.words()}.",
    )


def parse_number(text: str) -> float:
    """A bare number; a comma counts as the decimal point. Raises BadInput (field '').

    >>> parse_number('12,4')
    12.4
    """
    number, word = _split(text, "a number")
    if word:
        raise BadInput("", text, "a number", f"'{text:.40}' is not a number.")
    return _finite(number, text)


def dimension_of(unit: str) -> Dimension | None:
    """The kind of quantity a unit measures, None for words of no kind we turn ('lambda', 'gear')."""
    return next((d for d in DIMENSIONS.values() if d.unit(unit)), None)


def parse_in(text: str, unit: str) -> float:
    """Read a value meant in ``unit``: bare, or with any unit of its kind behind it. Raises BadInput (field '').

    >>> parse_in('90', 'bar'), round(parse_in('90 psi', 'bar'), 2), parse_in('257 F', 'degC')
    (90.0, 6.21, 125.0)
    """
    dimension = dimension_of(unit)
    if dimension is not None:
        return parse(text, dimension, unit, unit)
    bare = text.strip()
    return parse_number(bare[: -len(unit)] if unit and bare.lower().endswith(unit.lower()) else bare)


def typed(value: float | None, unit: str = "") -> str:
    """A number as it is typed into a field, with its unit; '' for none. Reading it back gives the same number.

    >>> typed(0.6, 'm'), typed(40.0), typed(1 / 3), typed(None, 'V')
    ('0.6 m', '40', '0.3333333333333333', '')
    """
    if value is None:
        return ""
    text = f"{value:.15g}"
    words = text if float(text) == value else repr(value)
    return f"{words} {unit}" if unit else words


def convert(value: float, from_unit: str, to_unit: str) -> float:
    """Convert between two units by their pint names, temperatures with their offset; exact but for the last rounding.

    >>> convert(12.7, 'millimeter', 'meter')
    0.0127
    """
    if from_unit == to_unit or not math.isfinite(value):
        return value
    return float(_exactly(Fraction(repr(float(value))), from_unit, to_unit))


def show(value: float, dimension: Dimension, unit: str, digits: int) -> str:
    """``value`` (inner unit) in ``unit`` with ``digits`` decimals and the unit after it.

    >>> show(0.009525, LENGTH, 'mm', 1)
    '9.5 mm'
    """
    name = dimension.unit(unit)
    if name is None:
        raise BadInput("unit", unit, dimension.words())
    return f"{rounded(convert(value, dimension.inner, name), digits):.{digits}f} {unit}"


def show_both(length_m: float, digits: int = 1) -> str:
    """A length in both systems, for tools sold in both.

    >>> show_both(0.009525)
    '9.5 mm (3/8 in)'
    """
    return f"{show(length_m, LENGTH, 'mm', digits)} ({inch_fraction(length_m)} in)"


def in_unit(value: float, from_unit: str, to_unit: str) -> float:
    """``value`` in another unit of the same kind.

    Raises BadInput (field ``unit``) when the two do not measure the same thing.

    >>> round(in_unit(1.0, 'bar', 'psi'), 3)
    14.504
    """
    if from_unit == to_unit:
        return value
    start, end = _same_kind(from_unit, to_unit)
    return convert(value, start, end)


def in_unit_array(values: NDArray[np.float64], from_unit: str, to_unit: str) -> NDArray[np.float64]:
    """Values in another unit of the same kind, to the last digits of a float. Raises BadInput as ``in_unit`` does."""
    if from_unit == to_unit:
        return values
    nought, one = in_unit(0.0, from_unit, to_unit), in_unit(1.0, from_unit, to_unit)
    return nought + (one - nought) * values


@functools.cache
def _same_kind(from_unit: str, to_unit: str) -> tuple[str, str]:
    for dimension in DIMENSIONS.values():
        start, end = dimension.unit(from_unit), dimension.unit(to_unit)
        if start and end:
            return start, end
    raise BadInput("unit", to_unit, f"a unit of the same kind as {from_unit}")


def inch_fraction(length_m: float, smallest: int = 64) -> str:
    """The nearest inch fraction with a denominator up to ``smallest`` (a power of two).

    >>> inch_fraction(0.022225), inch_fraction(0.0254 * 1.875)
    ('7/8', '1 7/8')
    """
    nearest = Fraction(round(length_m / 0.0254 * smallest), smallest)
    whole, rest = divmod(nearest, 1)
    if not rest:
        return str(whole)
    return f"{whole} {rest}" if whole else str(rest)


def rounded(value: float, decimals: int) -> float:
    """Round half away from zero, as a display does (Python's round goes to the even digit).

    >>> rounded(0.5, 0), rounded(-2.5, 0), rounded(1.005, 2)
    (1.0, -3.0, 1.01)
    """
    scale = 10.0**decimals
    nudged = abs(value) * scale * (1 + 4e-16)
    return math.copysign(math.floor(nudged + 0.5) / scale, value) + 0.0


def unit_words(unit: str) -> str:
    """A unit as it is printed: '°C' for 'degC'."""
    return {
        "degC": "°C",
        "degF": "°F",
        "ohm": "Ω",
        "pct": "%",
        "volt": "V",
        "millivolt": "mV",
        "milliampere": "mA",
        "hertz": "Hz",
        "millisecond": "ms",
    }.get(unit, unit)


def _split(text: str, allowed: str) -> tuple[Fraction, str]:
    match = _NUMBER.match(text) if len(text) <= LONGEST else None
    if not match:
        raise BadInput("", text[:LONGEST], allowed, f"'{text[:40]}' is not {allowed}.")
    sign = -1 if match["sign"] in ("-", "−") else 1
    if match["plain"]:
        plain = match["plain"]
        if re.fullmatch(r"[1-9][0-9]{0,2},[0-9]{3}", plain):
            raise BadInput(
                "",
                text,
                allowed,
                f"'{plain}' can be read two ways: write {plain.replace(',', '')} or {plain.replace(',', '.')}.",
            )
        number = Fraction(plain.replace(",", ".").removesuffix(".") + (match["exp"] or ""))
    else:
        bottom = int(match["bottom"] or match["bottom1"])
        if bottom == 0:
            raise BadInput("", text, allowed, f"'{text[:40]}' divides by zero.")
        number = int(match["whole"] or 0) + Fraction(int(match["top"] or match["top1"]), bottom)
    return sign * number, match["unit"]


def _finite(number: Fraction, text: str) -> float:
    try:
        return float(number)
    except OverflowError:
        raise BadInput("", text, "a number", f"'{text[:40]}' is too large to be meant.") from None


def _exactly(number: Fraction, from_unit: str, to_unit: str) -> Fraction:
    if from_unit == to_unit:
        return number
    factor, offset = _line(from_unit, to_unit)
    return number * factor + offset


@functools.cache
def _line(from_unit: str, to_unit: str) -> tuple[Fraction, Fraction]:
    """Every conversion is a straight line: its slope and where it starts, as exact fractions."""
    for kind in load_table("unit_lines").values():
        if from_unit in kind and to_unit in kind:
            (slope, start), (other_slope, other_start) = (
                (Fraction(word) for word in kind[unit]) for unit in (from_unit, to_unit)
            )
            return slope / other_slope, (start - other_start) / other_slope
    zero, one = (_registry().Quantity(Fraction(n), from_unit).to(to_unit).magnitude for n in (0, 1))
    return Fraction(one) - Fraction(zero), Fraction(zero)


@functools.cache
def _registry() -> pint.UnitRegistry[Any]:
    # Imported late: building the registry costs more than most of our calculations.
    import pint

    return pint.UnitRegistry(non_int_type=Fraction)
