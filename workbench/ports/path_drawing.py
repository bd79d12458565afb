"""A flow path as a straight measured line: its parts, where the reading is good, and the pins of the places."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from django.utils.safestring import SafeString

from metrolex.job.place import FlowPath, PathPart
from metrolex.ports.compare import Candidate
from metrolex.ports.zones import Zone, clear_stretches
from workbench.axes import round_step
from workbench.drawing import ACT, INK, QUIET, Drawing

__all__ = ["path_drawing"]

#: From metres along the path to x on the sheet.
Across = Callable[[float], float]

WIDTH, HEIGHT, LEFT, RIGHT = 794.0, 208.0, 16.0, 20.0
PIPE, HALF = 96.0, 11.0
BAND, SCALE = 116.0, 178.0
PART_NAMES = {
    "head_port": "head",
    "open_end": "open",
    "test_port": "test port",
    "high_point": "high point",
    "lift_pump": "pump",
    "high_pressure_pump": "high-pressure pump",
    "sensor": "factory sensor",
}


def path_drawing(
    path: FlowPath,
    zones: Sequence[Zone],
    candidates: Sequence[Candidate],
    selected: str,
    draggable: bool = True,
    beside: str = "",
    others: Sequence[tuple[str, float]] = (),
) -> SafeString:
    """The path with pins; ``others`` are senders of other channels that hang on it, by name and place, ``beside`` what it joins. Without a length it is drawn without a scale, its parts in order, and pins stay where they are."""
    sheet = Drawing(WIDTH, HEIGHT, f"{path.name}, in the direction of flow", "drawing path", holds_links=True)
    length = path.length_m
    reach = WIDTH - LEFT - RIGHT
    span = length or max([p.end_m for p in path.parts] + [1.0])

    def across(at_m: float) -> float:
        return LEFT + at_m / span * reach

    sheet.root.set("data-path", path.id)
    if length is not None:
        sheet.root.set("data-x0", f"{LEFT:g}")
        sheet.root.set("data-per-m", f"{reach / span:.6g}")
        sheet.root.set("data-length", f"{length:g}")
    words = (
        f"{path.name}, to scale along the flow (mm)"
        if length
        else f"{path.name}, no scale: measure its length"
    )
    if length and not path.measured:
        words += ", lengths of a template"
    if beside:
        words += f"; {beside}"
    top = 0.0 if candidates else 38.0  # nothing stands above the pipe without pins
    sheet.root.set("viewBox", f"0 {top:g} {WIDTH:g} {HEIGHT - top:g}")
    sheet.text(0, top + 11, words, size=12.5, fill=QUIET, css="quiet")
    if length:
        _zones(sheet, path, zones, across)
    _pipe(sheet, path, across, span)
    if length:
        _scale(sheet, length, across)
    _others(sheet, others, across, span)
    _pins(sheet, path, candidates, across, selected, draggable)
    return sheet.safe()


def _zones(sheet: Drawing, path: FlowPath, zones: Sequence[Zone], across: Across) -> None:
    tag = path.id.replace(" ", "-").replace(",", "")
    good = sheet.hatch(f"good-{tag}", "#DDEBDD", "#7FAE8A", css="good")
    stop = sheet.hatch(f"bad-{tag}", "#F7E3DF", "#A3211B", angle=-45, step=5, css="bad")
    wary = sheet.hatch(f"wary-{tag}", "#F8EBCF", "#B98A3A", angle=90, step=6, css="wary")
    if zones:
        for start, end in clear_stretches(zones, path.length_m or 0.0):
            sheet.rect(across(start), BAND, across(end) - across(start), 11, fill=good, width=0, css="zone")
    for grade, fill in (("caution", wary), ("stop", stop)):
        for zone in zones:
            if zone.grade == grade:
                sheet.rect(
                    across(zone.from_m),
                    BAND,
                    across(zone.to_m) - across(zone.from_m),
                    11,
                    fill=fill,
                    width=0,
                    css="zone",
                )
    x = WIDTH - RIGHT
    for fill, word in ((stop, "stop"), (wary, "caution"), (good, "good")) if zones else ():
        x -= 7 * len(word) + 30
        sheet.rect(x, 1, 16, 11, fill=fill, width=0.8, css="zone-key")
        sheet.text(x + 21, 11, word, size=12.5, fill=QUIET, css="quiet")


def _pipe(sheet: Drawing, path: FlowPath, across: Across, span: float) -> None:
    end = across(path.length_m or span)
    for y in (PIPE - HALF, PIPE + HALF):
        sheet.line(across(0), y, end, y, width=1.6)
    arrow = end + 4
    sheet.path([(arrow, PIPE - 5), (arrow + 9, PIPE), (arrow, PIPE + 5)], width=1.6)
    labels: list[tuple[float, int, float]] = []  # middle, row, half the width of those written already
    for part in sorted(path.parts, key=lambda p: p.at_m):
        _part(sheet, part, across)
        name = part.name or PART_NAMES.get(part.kind, part.kind.replace("_", " "))
        half = 3.1 * len(name)
        middle = min(max((across(part.at_m) + across(part.end_m)) / 2, half), WIDTH - half)
        row = _free_row(labels, middle, half)
        labels.append((middle, row, half))
        sheet.text(middle, BAND + 25 + 13 * row, name, size=12, anchor="middle", fill=QUIET, css="quiet")


def _free_row(labels: Sequence[tuple[float, int, float]], middle: float, half: float) -> int:
    clear = (
        row
        for row in (0, 1)
        if all(row != other or abs(middle - x) > half + wide + 3 for x, other, wide in labels)
    )
    return next(clear, 2)


def _part(sheet: Drawing, part: PathPart, across: Across) -> None:
    start, end = across(part.at_m), across(part.end_m)
    draw = _SYMBOLS.get(part.kind, _stub)
    draw(sheet, part.kind, start, end)


def _wheel(sheet: Drawing, kind: str, start: float, end: float) -> None:
    middle, radius = (start + end) / 2, max(15.0, min(22.0, (end - start) / 2))
    sheet.circle(middle, PIPE, radius, width=2)
    if kind in ("pump", "lift_pump", "high_pressure_pump"):
        sheet.path(
            [(middle - 6, PIPE - 8), (middle + 9, PIPE), (middle - 6, PIPE + 8), (middle - 6, PIPE - 8)],
            width=1.6,
        )
    else:
        sheet.arc(middle, PIPE, radius - 5, (middle - (radius - 5) * 0.8, PIPE + (radius - 5) * 0.6))


def _box(sheet: Drawing, kind: str, start: float, end: float) -> None:
    wide = max(end - start, 16.0)
    left = min((start + end - wide) / 2, start)
    sheet.rect(left, PIPE - 19, wide, 38, width=1.8, round_=3)
    if kind in ("catalyst", "filter"):
        count = max(2, int(wide // 9))
        for k in range(1, count):
            x = left + wide * k / count
            sheet.line(
                x,
                PIPE - 19,
                x,
                PIPE + 19,
                width=0.8,
                css="rule",
                stroke="#A89F8C",
                dash="3 3" if kind == "filter" else "",
            )
    elif kind in ("cooler", "radiator"):
        count = max(3, int(wide // 8))
        sheet.path(
            [(left + wide * k / count, PIPE + (12 if k % 2 else -12)) for k in range(count + 1)], width=1.2
        )


def _wall(sheet: Drawing, kind: str, start: float, end: float) -> None:
    sheet.line(start, PIPE, end, PIPE, width=2.6)


def _merge(sheet: Drawing, kind: str, start: float, end: float) -> None:
    sheet.path([(start - 9, PIPE - HALF), (start, PIPE), (start - 9, PIPE + HALF)], width=1.6)


def _valve(sheet: Drawing, kind: str, start: float, end: float) -> None:
    top, floor = PIPE - HALF, PIPE + HALF
    if kind == "throttle":
        sheet.line((start + end) / 2 - 4, top, (start + end) / 2 + 4, floor, width=3)
    else:
        sheet.path(
            [(start - 5, top), (end + 5, floor), (end + 5, top), (start - 5, floor), (start - 5, top)],
            width=1.6,
        )


def _peak(sheet: Drawing, kind: str, start: float, end: float) -> None:
    top = PIPE - HALF
    sheet.path([(start - 6, top - 3), (start, top - 11), (start + 6, top - 3)], width=1.6)


def _mouth(sheet: Drawing, kind: str, start: float, end: float) -> None:
    sheet.line(start, PIPE - HALF - 5, start, PIPE + HALF + 5, width=1.6, dash="3 3")


def _stub(sheet: Drawing, kind: str, start: float, end: float) -> None:
    middle, top = (start + end) / 2, PIPE - HALF
    sheet.line(middle, top - 6, middle, top + 5, width=3)
    sheet.line(middle - 5, top - 6, middle + 5, top - 6, width=2)


_SYMBOLS: dict[str, Callable[[Drawing, str, float, float], None]] = {
    **dict.fromkeys(
        ("turbine", "compressor", "pump", "lift_pump", "high_pressure_pump", "converter"), _wheel
    ),
    **dict.fromkeys(
        (
            "catalyst",
            "silencer",
            "cooler",
            "radiator",
            "filter",
            "plenum",
            "rail",
            "tank",
            "sump",
            "pan",
            "head",
            "gallery",
            "carburettor",
        ),
        _box,
    ),
    "divider": _wall,
    "collector": _merge,
    "thermostat": _valve,
    "throttle": _valve,
    "regulator": _valve,
    "high_point": _peak,
    "open_end": _mouth,
}


def _scale(sheet: Drawing, length: float, across: Across) -> None:
    step = max(round_step(length, 12), 0.05)
    sheet.line(across(0), SCALE, across(length), SCALE, width=1.2)
    count = int(length / step + 1e-9)
    for k in range(2 * count + 1):
        at = k * step / 2
        if at > length + 1e-9:
            break
        sheet.line(across(at), SCALE, across(at), SCALE + (9 if k % 2 == 0 else 5), width=1)
        if k % 2 == 0:
            sheet.text(
                across(at),
                SCALE + 23,
                f"{1000 * at:g}",
                size=12,
                anchor="middle" if k else "start",
                mono=True,
            )


def _others(sheet: Drawing, others: Sequence[tuple[str, float]], across: Across, span: float) -> None:
    """What other channels have chosen on this path: a square on the pipe, its name above."""
    for i, (name, at_m) in enumerate(others):
        x = across(min(at_m, span))
        half = 3.3 * len(name)
        sheet.rect(x - 5, PIPE - 5, 10, 10, fill=QUIET, width=0, css="other-sender")
        sheet.text(
            min(max(x, half), WIDTH - half),
            PIPE - HALF - 5 - 13 * (i % 2),
            name,
            size=12,
            anchor="middle",
            fill=QUIET,
            css="quiet",
        )


def _pins(
    sheet: Drawing,
    path: FlowPath,
    candidates: Sequence[Candidate],
    across: Across,
    selected: str,
    draggable: bool,
) -> None:
    placed: list[tuple[float, int]] = []
    pins = sorted(
        (c for c in candidates if c.port.spot.path == path.id and c.port.spot.at_m is not None),
        key=lambda c: c.port.spot.at_m or 0.0,
    )
    for candidate in pins:
        at = candidate.port.spot.at_m or 0.0
        x = across(min(at, path.length_m or at))
        row = next(
            (r for r in (0, 1) if all(r != other or abs(x - there) > 27 for there, other in placed)), 1
        )
        placed.append((x, row))
        _pin(sheet, candidate, x, row, at, path, candidate.port.id == selected, draggable)


def _pin(
    sheet: Drawing,
    candidate: Candidate,
    x: float,
    row: int,
    at: float,
    path: FlowPath,
    selected: bool,
    draggable: bool,
) -> None:
    y = 33 if row else 62
    grade = candidate.grade
    attrs = {
        "class_": f"pin {grade}{' on' if selected else ''}",
        "data_pin": candidate.port.id,
        "data_at": f"{at:.4g}",
        "transform": f"translate({x:.2f} 0)",
        "role": "slider",
        "tabindex": "0",
        "aria_label": f"{candidate.letter}, {candidate.port.name}",
        "aria_valuemin": "0",
        "aria_valuemax": f"{1000 * (path.length_m or at):.0f}",
        "aria_valuenow": f"{1000 * at:.0f}",
        "aria_valuetext": f"{1000 * at:.0f} mm, {grade}",
    }
    if not draggable:
        attrs = {"class_": attrs["class_"]}
    sheet.group(**attrs)
    colour = {"good": ACT, "caution": "#8A5300", "stop": "#A3211B"}[grade]
    sheet.line(0, y + 11, 0, PIPE - HALF + 3, stroke=colour, width=3, css=f"pin-line {grade}")
    sheet.circle(
        0,
        y,
        12,
        fill=colour if selected else "#FCFAF4",
        stroke=colour,
        width=2.6,
        css=f"pin-head {grade}{' on' if selected else ''}",
    )
    sheet.text(
        0,
        y + 5,
        candidate.letter,
        size=14,
        bold=True,
        anchor="middle",
        fill="#FFFFFF" if selected else INK,
        css="pin-letter on" if selected else "pin-letter",
    )
    if candidate.chosen:
        sheet.rect(8, y - 15, 9, 9, fill=colour, stroke=colour, width=1, css=f"pin-chosen {grade}")
    sheet.end()
