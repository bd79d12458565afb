"""A field of a job in words: 'length_m' is 'length', and 2.4 in it is '2.4 m'."""

from __future__ import annotations

from typing import Any

from metrolex.quantities import typed, unit_words

__all__ = ["field_words", "in_words"]

#: The unit a field's name ends in, as quantities spells it.
_UNITS = {
    "m": "m",
    "mm": "mm",
    "v": "V",
    "a": "A",
    "ohm": "ohm",
    "s": "s",
    "l": "l",
    "pct": "%",
    "degc": "°C",
    "bar": "bar",
    "kmh": "km/h",
    "min": "min",
    "h": "h",
    "k": "K",
    "km": "km",
    "nm": "N m",
    "deg": "°",
    "rpm": "rpm",
    "hz": "Hz",
}


def field_words(name: str) -> str:
    """The name of a field as one says it."""
    return _split(name)[0].replace("_", " ")


def in_words(name: str, value: Any) -> str:
    """What stands in a field, short: with its unit, 'nothing' where it is empty, 'a list of 5' for a list."""
    unit = _split(name)[1]
    if value is None or value in ("", []):
        return "nothing"
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, (int, float)):
        return f"{typed(float(value))} {unit_words(unit)}".strip()
    if isinstance(value, list):
        plain = all(isinstance(item, (str, int, float)) for item in value) and len(value) <= 6
        return ", ".join(f"{item}" for item in value) if plain else f"a list of {len(value)}"
    if isinstance(value, dict):
        return str(value.get("name") or value.get("id") or "an entry")
    return f"'{value:.60}'"


def _split(name: str) -> tuple[str, str]:
    stem, _, end = name.rpartition("_")
    return (stem, _UNITS[end]) if stem and end in _UNITS else (name, "")
