"""A small pen for SVG: escaped, with presentation attributes so that a saved drawing looks the same.

Classes let the page's own style (day, night, print) override the attributes.
"""

from __future__ import annotations

import math
from xml.etree import ElementTree

from django.utils.safestring import SafeString, mark_safe

from workbench.markup import text_escaped

__all__ = ["ACT", "INK", "PAPER", "QUIET", "RULE", "Drawing", "wire_paint"]

INK, QUIET, RULE, PAPER, ACT = "#1B1F22", "#5A564D", "#A89F8C", "#FCFAF4", "#0B5563"

#: Wire colours by the two-letter codes of colours.toml, as printed.
WIRE_PAINT = {
    "BK": "#1B1F22",
    "BN": "#7A4A21",
    "RD": "#C1271B",
    "OG": "#E0761B",
    "YE": "#E0B400",
    "GN": "#2E7D46",
    "BU": "#2F6FB5",
    "VT": "#7B4B8E",
    "GY": "#8A8F94",
    "WH": "#FFFFFF",
    "PK": "#E79AAE",
    "TQ": "#2BA39B",
    "LB": "#8DC3EE",
    "DB": "#1F3F78",
    "LG": "#8FD19B",
    "DG": "#174D2B",
    "TN": "#C9A77C",
}


def wire_paint(code: str) -> str:
    """The paint of a colour code; grey for a wire whose colour is not known."""
    return WIRE_PAINT.get(code.upper(), "#8A8F94")


class Drawing:
    """An SVG drawing of ``width`` by ``height`` units, described by ``title`` for those who cannot see it."""

    def __init__(
        self,
        width: float,
        height: float,
        title: str,
        css: str = "drawing",
        *,
        holds_links: bool = False,
        left: float = 0,
        top: float = 0,
    ) -> None:
        self.root = ElementTree.Element(
            "svg",
            {
                "xmlns": "http://www.w3.org/2000/svg",
                "viewBox": f"{left:g} {top:g} {width:g} {height:g}",
                "class": css,
                "role": "group" if holds_links else "img",
                "aria-label": title,
                "font-family": "Atkinson Hyperlegible Next, DejaVu Sans, sans-serif",
                "font-size": "13",
            },
        )
        self._at = self.root
        self._outer: list[ElementTree.Element] = []
        self._put("title", {}).text = title

    def line(
        self,
        x1: float,
        y1: float,
        x2: float,
        y2: float,
        *,
        stroke: str = INK,
        width: float = 1.5,
        css: str = "ink",
        dash: str = "",
    ) -> None:
        attrs = {
            "x1": x1,
            "y1": y1,
            "x2": x2,
            "y2": y2,
            "stroke": stroke,
            "stroke-width": width,
            "class": css,
        }
        self._put("line", attrs | ({"stroke-dasharray": dash} if dash else {}))

    def rect(
        self,
        x: float,
        y: float,
        w: float,
        h: float,
        *,
        fill: str = PAPER,
        stroke: str = INK,
        width: float = 1.5,
        css: str = "box",
        round_: float = 0,
        dash: str = "",
    ) -> None:
        attrs = {
            "x": x,
            "y": y,
            "width": w,
            "height": h,
            "fill": fill,
            "stroke": stroke,
            "stroke-width": width,
            "class": css,
        }
        self._put(
            "rect", attrs | ({"rx": round_} if round_ else {}) | ({"stroke-dasharray": dash} if dash else {})
        )

    def path(
        self,
        points: list[tuple[float, float]],
        *,
        stroke: str = INK,
        width: float = 1.5,
        css: str = "ink",
        dash: str = "",
        fill: str = "none",
    ) -> None:
        steps = " ".join(f"{'M' if i == 0 else 'L'}{x:.1f} {y:.1f}" for i, (x, y) in enumerate(points))
        attrs = {
            "d": steps,
            "stroke": stroke,
            "stroke-width": width,
            "fill": fill,
            "class": css,
            "stroke-linejoin": "round",
        }
        self._put("path", attrs | ({"stroke-dasharray": dash} if dash else {}))

    def area(
        self,
        rings: list[list[tuple[float, float]]],
        *,
        fill: str = PAPER,
        stroke: str = "none",
        width: float = 1.0,
        css: str = "box",
    ) -> None:
        """What several closed rings go round; a ring in a ring is a hole."""
        steps = " ".join(
            "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in ring) + "Z" for ring in rings if len(ring) > 2
        )
        self._put(
            "path",
            {
                "d": steps,
                "fill": fill,
                "fill-rule": "evenodd",
                "stroke": stroke,
                "stroke-width": width,
                "class": css,
            },
        )

    def circle(
        self,
        x: float,
        y: float,
        r: float,
        *,
        fill: str = PAPER,
        stroke: str = INK,
        width: float = 1.5,
        css: str = "box",
    ) -> None:
        self._put(
            "circle",
            {"cx": x, "cy": y, "r": r, "fill": fill, "stroke": stroke, "stroke-width": width, "class": css},
        )

    def text(
        self,
        x: float,
        y: float,
        words: str,
        *,
        size: float = 13,
        fill: str = INK,
        anchor: str = "start",
        bold: bool = False,
        mono: bool = False,
        css: str = "words",
    ) -> None:
        attrs = {"x": x, "y": y, "font-size": size, "fill": fill, "text-anchor": anchor, "class": css}
        if bold:
            attrs["font-weight"] = "650"
        if mono:
            attrs["font-family"] = "Atkinson Hyperlegible Mono, DejaVu Sans Mono, monospace"
        self._put("text", attrs).text = words

    def wire(
        self, points: list[tuple[float, float]], code: str, width: float = 3.5, stripe: str = ""
    ) -> None:
        """A wire in its real colour, with a dark edge so that light ones are seen, and its stripe."""
        self.path(points, stroke=INK, width=width + 1.6, css="wire-edge")
        self.path(points, stroke=wire_paint(code), width=width, css="wire")
        if stripe:
            self.path(points, stroke=wire_paint(stripe), width=width / 2.5, css="wire", dash="7 7")

    def hatch(
        self, name: str, back: str, line: str, *, angle: float = 45, step: float = 7, css: str = "hatch"
    ) -> str:
        """A hatching by its name in this page; returns the fill that draws with it."""
        defs = self._at if self._at.tag == "defs" else ElementTree.SubElement(self.root, "defs")
        pattern = ElementTree.SubElement(
            defs,
            "pattern",
            {
                "id": name,
                "width": f"{step:g}",
                "height": f"{step:g}",
                "patternUnits": "userSpaceOnUse",
                "patternTransform": f"rotate({angle:g})",
            },
        )
        ElementTree.SubElement(
            pattern,
            "rect",
            {"width": f"{step:g}", "height": f"{step:g}", "fill": back, "class": f"{css}-back"},
        )
        ElementTree.SubElement(
            pattern,
            "path",
            {"d": f"M0 0V{step:g}", "stroke": line, "stroke-width": "1.3", "class": f"{css}-line"},
        )
        return f"url(#{name})"

    def group(self, **attrs: object) -> None:
        """Everything up to ``end`` stands in a group with these attributes (``data_pin`` is data-pin)."""
        self._outer.append(self._at)
        self._at = self._put("g", {key.rstrip("_").replace("_", "-"): value for key, value in attrs.items()})

    def arc(self, x: float, y: float, r: float, large_to: tuple[float, float], *, css: str = "ink") -> None:
        """Most of a circle about (x, y), from its top round to a point."""
        self._put(
            "path",
            {
                "d": f"M{x:.1f} {y - r:.1f}A{r:g} {r:g} 0 1 1 {large_to[0]:.1f} {large_to[1]:.1f}",
                "fill": "none",
                "stroke": INK,
                "stroke-width": 1.8,
                "class": css,
            },
        )

    def dimension(self, x1: float, y1: float, x2: float, y2: float) -> None:
        """A dimension line with an arrow head at both ends."""
        self.line(x1, y1, x2, y2, width=1.1)
        length = math.hypot(x2 - x1, y2 - y1)
        if length < 1:
            return
        ux, uy = (x2 - x1) / length, (y2 - y1) / length
        for x, y, way in ((x1, y1, 1), (x2, y2, -1)):
            tip = min(7.0, length / 2) * way
            for side in (0.32, -0.32):
                self.line(x, y, x + tip * (ux - side * uy), y + tip * (uy + side * ux), width=1.1)

    def link(self, href: str, **data: object) -> None:
        """Everything up to ``end`` leads to ``href``; ``data_row`` becomes data-row."""
        self._outer.append(self._at)
        self._at = self._put(
            "a", {"href": href} | {key.replace("_", "-"): value for key, value in data.items()}
        )

    def end(self) -> None:
        """Out of all groups and links."""
        self._at = self.root
        self._outer.clear()

    def end_group(self) -> None:
        """Out of the innermost group or link."""
        self._at = self._outer.pop() if self._outer else self.root

    def cut(self, left: float, top: float, width: float, height: float) -> None:
        """Show only this part of it."""
        self.root.set("viewBox", f"{left:g} {top:g} {width:g} {height:g}")

    def __str__(self) -> str:
        return _written(self.root)

    def safe(self) -> SafeString:
        """For a template: every text and attribute was escaped on the way in."""
        return mark_safe(str(self))

    def _put(self, tag: str, attrs: dict[str, object]) -> ElementTree.Element:
        plain = {
            key: f"{value:g}" if isinstance(value, float) else str(value) for key, value in attrs.items()
        }
        return ElementTree.SubElement(self._at, tag, plain)


def _written(element: ElementTree.Element) -> str:
    """The element as markup. No tag here has a namespace of its own; looking for them takes ``ElementTree`` longer than writing."""
    attrs = "".join([f' {key}="{text_escaped(value)}"' for key, value in element.items()])
    inside = text_escaped(element.text or "") + "".join([_written(part) for part in element])
    return f"<{element.tag}{attrs}>{inside}</{element.tag}>" if inside else f"<{element.tag}{attrs}/>"
