"""A flow path's parts and stretches as lines a fitter types, and back."""

from __future__ import annotations

import re
import zlib
from typing import Any

from metrolex.errors import BadInput
from metrolex.job.place import FlowPath
from metrolex.quantities import LENGTH, TEMPERATURE, in_unit, parse
from workbench.jobs.fields import as_typed

__all__ = ["parts_text", "read_parts", "read_stretches", "stretches_text", "sum_of"]

_QUANTITY = (
    r"\d+(?:[.,]\d+)?(?:e-?\d+)?(?:\s+\d+/\d+|/\d+)?\s*(?:mm|cm|metres?|m|inch(?:es)?|in|ft|\")?(?=\s|$)"
)


def parts_text(path: FlowPath) -> str:
    """Parts, one a line, lengths in millimetres."""
    rows = []
    for part in sorted(path.parts, key=lambda p: p.at_m):
        words = f"{part.kind} {_mm(part.at_m)}"
        words += f" {_mm(part.length_m)}" if part.length_m or part.name else ""
        rows.append(words + (f" {part.name}" if part.name else ""))
    return "\n".join(rows)


def sum_of(parts: str, stretches: str) -> str:
    """A sum of the lines as they stand in the form, by which lines nobody touched are known."""
    return f"{zlib.crc32(f'{parts}|{stretches}'.replace(chr(13), '').encode()):08x}"


def stretches_text(path: FlowPath) -> str:
    """Stretches, one a line; '-' where something is not known."""
    rows = []
    for s in path.stretches:
        wall, bore = (as_typed(v, "mm") if v is not None else "-" for v in (s.wall_mm, s.bore_mm))
        hot = as_typed(s.peak_degc, "C") if s.peak_degc is not None else "-"
        rows.append(
            f"{_mm(s.from_m)} {_mm(s.to_m)} {s.material or '-'} {wall} {bore} {hot} {'straight' if s.straight else 'bend'} {s.name}".rstrip()
        )
    return "\n".join(rows)


def read_parts(text: str) -> list[dict[str, Any]]:
    """Plain data of the parts. Raises BadInput (``parts``) naming the line."""
    found = []
    for number, line in _lines(text):
        match = re.fullmatch(
            rf"(?P<kind>[a-z_]+)\s+(?P<at>{_QUANTITY})(?:\s*(?P<length>{_QUANTITY}))?\s*(?P<name>.*)", line
        )
        if match is None:
            raise BadInput(
                "parts",
                line,
                "part, where it begins, how long it is",
                f"Line {number}, '{line[:50]}': expected a part and where it begins, like 'turbine 380 mm 80 mm'.",
            )
        row: dict[str, Any] = {"kind": match["kind"], "at_m": _metres(match["at"], "parts", number)}
        if match["length"]:
            row["length_m"] = _metres(match["length"], "parts", number)
        if match["name"]:
            row["name"] = match["name"].strip()
        found.append(row)
    return found


def read_stretches(text: str) -> list[dict[str, Any]]:
    """Plain data of the stretches. Raises BadInput (``stretches``) naming the line."""
    found = []
    maybe = rf"(?:{_QUANTITY}|-)"
    for number, line in _lines(text):
        match = re.fullmatch(
            rf"(?P<a>{_QUANTITY})\s*(?P<b>{_QUANTITY})\s*(?P<material>[a-z_]+|-)\s+(?P<wall>{maybe})\s*(?P<bore>{maybe})\s*"
            r"(?P<hot>-?\d+(?:[.,]\d+)?\s*[CF]?|-)\s+(?P<way>straight|bend)\s*(?P<name>.*)",
            line,
        )
        if match is None:
            raise BadInput(
                "stretches",
                line,
                "from, to, material, wall, bore, hottest, straight or bend, name",
                f"Line {number}, '{line[:50]}': expected from, to, material, wall, bore, hottest, straight or bend, name; '-' for what is not known.",
            )
        row: dict[str, Any] = {
            "from_m": _metres(match["a"], "stretches", number),
            "to_m": _metres(match["b"], "stretches", number),
            "straight": match["way"] == "straight",
            "name": match["name"].strip(),
        }
        if match["material"] != "-":
            row["material"] = match["material"]
        for key, field in (("wall", "wall_mm"), ("bore", "bore_mm")):
            if match[key].strip() != "-":
                row[field] = _length(match[key], "stretches", number, "mm")
        if match["hot"].strip() != "-":
            row["peak_degc"] = parse(match["hot"], TEMPERATURE, "C")
        found.append(row)
    return found


def _lines(text: str) -> list[tuple[int, str]]:
    return [(i, line.strip()) for i, line in enumerate(text.splitlines(), 1) if line.strip()]


def _mm(length_m: float) -> str:
    return as_typed(in_unit(length_m, "m", "mm"), "mm")


def _metres(text: str, field: str, line: int) -> float:
    return _length(text, field, line, "m")


def _length(text: str, field: str, line: int, into: str) -> float:
    try:
        return parse(text, LENGTH, "mm", into)
    except BadInput as fault:
        raise BadInput(field, text, fault.allowed, f"Line {line}: {fault.message}") from None
