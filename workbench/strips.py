"""A drawing too tall for a sheet of paper, in strips one below the other: cut where it cuts through the least."""

from __future__ import annotations

import itertools
import math
import re
from xml.etree.ElementTree import Element

from django.utils.safestring import SafeString

from workbench.drawing import Drawing

__all__ = ["strips_of"]

Span = tuple[float, float]
ALL: Span = (-math.inf, math.inf)
#: Shown in both of two strips, units: a line that is cut is found again.
SHARED = 12.0
#: How far above the lowest place a cut may lie, a share of the strip.
GIVE = 0.35
STEP = 4.0


def strips_of(drawing: Drawing, most: float) -> list[SafeString]:
    """The drawing where it is no more than ``most`` times as tall as wide, else strips of it that are; each holds what can be seen in it."""
    left, top, width, height = (float(word) for word in drawing.root.get("viewBox", "0 0 1 1").split())
    if height <= most * width:
        return [drawing.safe()]
    spans = [(part, _span(part)) for part in drawing.root if part.tag != "title"]
    cuts = _cuts(_solid(drawing.root), top, top + height, most * width - 2 * SHARED)
    strips = []
    for begins, ends in itertools.pairwise(cuts):
        high, low = max(top, begins - SHARED), min(top + height, ends + SHARED)
        strip = Drawing(width, low - high, drawing.root.get("aria-label", ""), left=left, top=high)
        strip.root.attrib |= {key: drawing.root.get(key, "") for key in ("class", "font-family", "font-size")}
        strip.root.extend(part for part, (above, below) in spans if above <= low and below >= high)
        strips.append(strip.safe())
    return strips


def _cuts(solid: list[Span], top: float, bottom: float, most: float) -> list[float]:
    """Where it begins, where it is cut, where it ends."""
    cuts = [top]
    while bottom - cuts[-1] > most:
        lowest = cuts[-1] + most
        places = [lowest - i * STEP for i in range(int(GIVE * most / STEP))]
        cuts.append(min(places, key=lambda y: sum(above < y < below for above, below in solid)))
    return [*cuts, bottom]


def _solid(root: Element) -> list[Span]:
    """What should not be cut: bodies and words."""
    return [_span(part) for part in root.iter() if part.tag in ("rect", "text", "circle")]


def _span(part: Element) -> Span:
    """From where to where it reaches; everywhere where that is not plain."""
    if part.get("transform") or part.tag in ("title", "defs"):
        return ALL

    def at(key: str) -> float:
        return float(part.get(key, "0"))

    if part.tag in ("g", "a"):
        spans = [_span(inner) for inner in part] or [ALL]
        return min(above for above, _ in spans), max(below for _, below in spans)
    if part.tag == "text":
        size = float(part.get("font-size", "13"))
        return at("y") - size, at("y") + 0.4 * size
    if part.tag == "rect":
        return at("y"), at("y") + at("height")
    if part.tag == "circle":
        return at("cy") - at("r"), at("cy") + at("r")
    if part.tag == "line":
        return min(at("y1"), at("y2")), max(at("y1"), at("y2"))
    steps = part.get("d", "")
    if part.tag == "path" and set(re.findall("[A-Za-z]", steps)) <= set("MLZ"):
        ys = [float(y) for y in re.findall(r"-?[0-9.]+", steps)[1::2]]
        return (min(ys), max(ys)) if ys else ALL
    return ALL
