"""Quantities at the edge: read what a fitter writes, show what a fitter reads; SI inside.

``parse('3/8 in', LENGTH)`` gives metres, ``parse('210 F', TEMPERATURE)`` degrees Celsius,
``parse('2k2', RESISTANCE)`` ohms. Conversion factors come from pint (exact definitions of the
inch, pound-force and so on, NIST SP 811 appendix B); only the fitter's spelling is ours.
"""

from __future__ import annotations

import functools
import math
import re
from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from metrolex.errors import BadInput

if TYPE_CHECKING:
    import pint

__all__ = [
    "CURRENT",
    "DIMENSIONS",
    "LENGTH",
    "PRESSURE",
    "RESISTANCE",
    "SPEED",
    "TEMPERATURE",
    "VOLTAGE",
    "VOLUME",
    "Dimension",
    "convert",
    "in_unit",
    "inch_fraction",
    "parse",
    "parse_number",
    "rounded",
    "show",
    "show_both",
    "unit_words",
]


@dataclass(frozen=True, slots=True)
class Dimension:
    """A kind of quantity: its inner unit and the spellings accepted, each with its pint name."""

    name: str
    inner: str
    spellings: tuple[tuple[str, str], ...]

    def unit(self, word: str) -> str | None:
        """The pint name of a spelling, None when it is not one of this kind."""
        exact = dict(self.spellings)
        if word in exact:
            return exact[word]
        folded = {spelling.lower(): name for spelling, name in self.spellings}
        return folded.get(word.lower())

    def words(self) -> str:
        return ", ".join(dict.fromkeys(spelling for spelling, _ in self.spellings))


LENGTH = Dimension(
    "length",
    "meter",
    (
        ("mm", "millimeter"),
        ("cm", "centimeter"),
        ("m", "meter"),
        ("in", "inch"),
        ('"', "inch"),
        ("ft", "foot"),
        ("'", "foot"),
    ),
)
PRESSURE = Dimension(
    "pressure",
    "pascal",
    (("psi", "psi"), ("bar", "bar"), ("kPa", "kilopascal"), ("mbar", "millibar"), ("Pa", "pascal")),
)
TEMPERATURE = Dimension(
    "temperature",
    "degree_Celsius",
    (
        ("degC", "degree_Celsius"),
        ("C", "degree_Celsius"),
        ("°C", "degree_Celsius"),
        ("degF", "degree_Fahrenheit"),
        ("F", "degree_Fahrenheit"),
        ("°F", "degree_Fahrenheit"),
        ("K", "kelvin"),
    ),
)
RESISTANCE = Dimension(
    "resistance",
    "ohm",
    (
        ("ohm", "ohm"),
        ("Ω", "ohm"),
        ("Ohm", "ohm"),
        ("R", "ohm"),
        ("mohm", "milliohm"),
        ("mΩ", "milliohm"),
        ("k", "kiloohm"),
        ("kohm", "kiloohm"),
        ("kΩ", "kiloohm"),
        ("M", "megaohm"),
        ("Mohm", "megaohm"),
        ("MΩ", "megaohm"),
    ),
)
VOLTAGE = Dimension(
    "voltage", "volt", (("V", "volt"), ("mV", "millivolt"), ("volt", "volt"), ("volts", "volt"))
)
CURRENT = Dimension("current", "ampere", (("A", "ampere"), ("mA", "milliampere"), ("amp", "ampere")))
VOLUME = Dimension("volume", "liter", (("L", "liter"), ("ml", "milliliter"), ("gal", "gallon")))
SPEED = Dimension(
    "speed", "kilometer/hour", (("km/h", "kilometer/hour"), ("mph", "mile/hour"), ("m/s", "meter/second"))
)
DIMENSIONS = {d.name: d for d in (LENGTH, PRESSURE, TEMPERATURE, RESISTANCE, VOLTAGE, CURRENT, VOLUME, SPEED)}

_NUMBER = re.compile(
    r"""^\s*(?P<sign>[-+−])?\s*(?:
        (?P<whole>\d+)[\s-]+(?P<top>\d+)\s*/\s*(?P<bottom>\d+)
      | (?P<top1>\d+)\s*/\s*(?P<bottom1>\d+)
      | (?P<plain>\d+(?:[.,]\d*)?|[.,]\d+)(?P<exp>[eE][-+]?\d{1,3})?
    )\s*(?P<unit>.*?)\s*$""",
    re.VERBOSE,
)
# '2k2', '4R7', '1M5': the letter stands where the decimal point would.
_LETTER_POINT = re.compile(r"^\s*(?P<whole>\d+)(?P<letter>[RkKM])(?P<part>\d+)\s*(?:ohm|Ω)?\s*$")


def parse(text: str, dimension: Dimension, default_unit: str = "") -> float:
    """Read a quantity as a fitter writes it.

    Returns the value in ``dimension.inner`` (metre, pascal, degC, ohm, volt, ampere, litre, km/h).
    A bare number takes ``default_unit``. A comma is a decimal comma.

    Raises BadInput (field '') when the number or unit cannot be read.

    >>> round(parse('3/8 in', LENGTH) * 1000, 3)
    9.525
    >>> parse('2k2', RESISTANCE)
    2200.0
    >>> round(parse('210 F', TEMPERATURE), 2)
    98.89
    >>> parse('12,4', VOLTAGE, 'V')
    12.4
    """
    letter = _LETTER_POINT.match(text)
    if dimension is RESISTANCE and letter:
        scale = {"R": 1.0, "k": 1e3, "K": 1e3, "M": 1e6}[letter["letter"]]
        return float(f"{letter['whole']}.{letter['part']}") * scale
    number, word = _split(text, f"a {dimension.name}, like {_example(dimension)}")
    word = word or default_unit
    if not word:
        raise BadInput(
            "", text, f"a unit: {dimension.words()}", f"'{text}' has no unit: use {dimension.words()}."
        )
    unit = dimension.unit(word)
    if unit is None:
        raise BadInput(
            "",
            text,
            dimension.words(),
            f"'{word:.20}' is not a unit of {dimension.name}: use {dimension.words()}.",
        )
    return convert(number, unit, dimension.inner)


def parse_number(text: str) -> float:
    """A bare number; a comma counts as the decimal point. Raises BadInput (field '').

    >>> parse_number('12,4')
    12.4
    """
    number, word = _split(text, "a number")
    if word:
        raise BadInput("", text, "a number", f"'{text:.40}' is not a number.")
    return number


def convert(value: float, from_unit: str, to_unit: str) -> float:
    """Convert between two units by their pint names, temperatures with their offset."""
    if from_unit == to_unit:
        return value
    return float(_registry().Quantity(value, from_unit).to(to_unit).magnitude)


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
    for dimension in DIMENSIONS.values():
        start, end = dimension.unit(from_unit), dimension.unit(to_unit)
        if start and end:
            return convert(value, start, end)
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


def _split(text: str, allowed: str) -> tuple[float, str]:
    match = _NUMBER.match(text) if len(text) <= 60 else None
    if not match:
        raise BadInput("", text[:60], allowed, f"'{text[:40]}' is not {allowed}.")
    sign = -1.0 if match["sign"] in ("-", "−") else 1.0
    if match["plain"]:
        plain = match["plain"]
        if re.fullmatch(r"[1-9]\d{0,2},\d{3}", plain):
            raise BadInput(
                "",
                text,
                allowed,
                f"'{plain}' can be read two ways: write {plain.replace(',', '')} or {plain.replace(',', '.')}.",
            )
        number = float(plain.replace(",", ".") + (match["exp"] or ""))
    else:
        bottom = int(match["bottom"] or match["bottom1"])
        if bottom == 0:
            raise BadInput("", text, allowed, f"'{text[:40]}' divides by zero.")
        number = int(match["whole"] or 0) + int(match["top"] or match["top1"]) / bottom
    if not math.isfinite(number):
        raise BadInput("", text, allowed, f"'{text[:40]}' is too large to be meant.")
    return sign * number, match["unit"]


def _example(dimension: Dimension) -> str:
    examples = {
        "length": "3/8 in or 9.5 mm",
        "pressure": "60 psi or 4.1 bar",
        "temperature": "210 F or 99 C",
        "resistance": "2k2 or 450 ohm",
        "voltage": "12.4 V",
        "current": "0.5 A",
        "volume": "4 L",
        "speed": "60 mph",
    }
    return examples[dimension.name]


@functools.cache
def _registry() -> pint.UnitRegistry[Any]:
    # Imported late: building the registry costs more than most of our calculations.
    import pint

    return pint.UnitRegistry()
