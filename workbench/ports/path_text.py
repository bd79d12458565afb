"""A flow path's parts and stretches as lines a fitter types, and back."""

from __future__ import annotations

import re
from typing import Any

from metrolex.errors import BadInput
from metrolex.job.place import FlowPath
from metrolex.quantities import LENGTH, TEMPERATURE, parse

__all__ = ["parts_text", "read_parts", "read_stretches", "stretches_text"]

_QUANTITY = r"\d+(?:[.,]\d+)?(?:\s+\d+/\d+|/\d+)?\s*(?:mm|cm|m|in|ft|\")?(?=\s|$)"


def parts_text(path: FlowPath) -> str:
    """Parts, one a line, lengths in millimetres."""
    rows = []
    for part in sorted(path.parts, key=lambda p: p.at_m):
        words = f"{part.kind} {1000 * part.at_m:g} mm"
        words += f" {1000 * part.length_m:g} mm" if part.length_m or part.name else ""
        rows.append(words + (f" {part.name}" if part.name else ""))
    return "\n".join(rows)


def stretches_text(path: FlowPath) -> str:
    """Stretches, one a line; '-' where something is not known."""
    rows = []
    for s in path.stretches:
        wall, bore = (f"{v:g} mm" if v is not None else "-" for v in (s.wall_mm, s.bore_mm))
        hot = f"{s.peak_degc:g} C" if s.peak_degc is not None else "-"
        rows.append(
            f"{1000 * s.from_m:g} mm {1000 * s.to_m:g} mm {s.material or '-'} {wall} {bore} {hot} {'straight' if s.straight else 'bend'} {s.name}".rstrip()
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
            r"(?P<hot>-?\d+(?:[.,]\d+)?\s*[CF]?|-)\s+(?P<way>straight|bend)\s*(?P<name>.*)", line,
        )  # fmt: skip
        if match is None:
            raise BadInput("stretches", line, "from, to, material, wall, bore, hottest, straight or bend, name",
                           f"Line {number}, '{line[:50]}': expected from, to, material, wall, bore, hottest, straight or bend, name; '-' for what is not known.")  # fmt: skip
        row: dict[str, Any] = {
            "from_m": _metres(match["a"], "stretches", number), "to_m": _metres(match["b"], "stretches", number), "straight": match["way"] == "straight",
            "name": match["name"].strip(),
        }  # fmt: skip
        if match["material"] != "-":
            row["material"] = match["material"]
        for key, field in (("wall", "wall_mm"), ("bore", "bore_mm")):
            if match[key].strip() != "-":
                row[field] = round(1000 * _metres(match[key], "stretches", number), 3)
        if match["hot"].strip() != "-":
            row["peak_degc"] = round(parse(match["hot"], TEMPERATURE, "C"), 1)
        found.append(row)
    return found


def _lines(text: str) -> list[tuple[int, str]]:
    return [(i, line.strip()) for i, line in enumerate(text.splitlines(), 1) if line.strip()]


def _metres(text: str, field: str, line: int) -> float:
    try:
        return round(parse(text, LENGTH, "mm"), 5)
    except BadInput as fault:
        raise BadInput(field, text, fault.allowed, f"Line {line}: {fault.message}") from None
