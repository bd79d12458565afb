"""A display's set-up menu as an ordered sheet: what the job wants in each entry, what was typed, and the usual slips.

The menu is described entry by entry (``MenuEntry``); what the job knows fills it. Common practice, no source.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.intake import read
from metrolex.job import Display, Input, Job, MeasuringChain, MenuEntry
from metrolex.quantities import in_unit, parse_number, unit_words
from metrolex.scaling.counting import calibration_of, face_step_kmh, setting_by_tyre
from metrolex.scaling.reading import ends
from metrolex.senders import y_range
from metrolex.tables import load_table

__all__ = ["Line", "generic_menu", "menu_findings", "sheet_of"]

_ON = {"on", "yes", "enabled", "1", "true"}


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the sheet: where it is entered, what the job wants there (None: the fitter's own choice), what was typed.

    ``stage`` is the input it belongs to ('' for the whole display), ``name`` the key under which the setting is kept.
    """

    name: str
    entry: MenuEntry
    stage: str
    channel: MeasuringChain | None
    wanted: str | None
    typed: str
    done: bool

    @property
    def differs(self) -> bool:
        """Whether what was typed is not what the job wants."""
        return bool(self.typed) and self.wanted is not None and not _same(self.typed, self.wanted)


@functools.cache
def generic_menu(key: str) -> tuple[MenuEntry, ...]:
    """A generic menu, 'gauge' or 'dash'. Raises BadInput."""
    table = load_table("menus")
    if key not in table:
        raise BadInput("menu", key, " | ".join(table))
    return tuple(read(MenuEntry, row) for row in table[key])


def menu_of(display: Display) -> tuple[MenuEntry, ...]:
    """Its own menu, else the generic one of its kind."""
    return display.menu or generic_menu("dash" if len(display.inputs) > 1 else "gauge")


def entry_name(display: Display, input_id: str, entry: str) -> str:
    """What an entry of an input is called on the sheet: with the input before it where there are several."""
    return f"{input_id}: {entry}" if len(display.inputs) > 1 else entry


def entry_named(display: Display, name: str) -> tuple[str, str] | None:
    """The input and the entry a line of the sheet belongs to; None where it is the display's own, or no input's."""
    if len(display.inputs) > 1:
        return next(
            ((s.id, name.removeprefix(f"{s.id}: ")) for s in display.inputs if name.startswith(f"{s.id}: ")),
            None,
        )
    own = {entry.name for entry in menu_of(display) if entry.each == "display"}
    return (display.inputs[0].id, name) if display.inputs and name not in own else None


def sheet_of(job: Job, display: Display) -> tuple[Line, ...]:
    """The lines of a display's sheet in the order they are typed in: the display's own, then input by input."""
    typed = {setting.name: setting for setting in job.settings if setting.display == display.id}
    by_input: dict[str, MeasuringChain] = {
        c.input: c for c in reversed(job.chains) if c.display == display.id and c.input
    }
    lines = []
    for entry in menu_of(display):
        if entry.each == "display":
            setting = typed.get(entry.name)
            lines.append(
                Line(
                    entry.name,
                    entry,
                    "",
                    None,
                    _wanted(job, entry, None, None),
                    setting.value if setting else "",
                    bool(setting and setting.done),
                )
            )
    for stage in display.inputs:
        channel = by_input.get(stage.id)
        for entry in menu_of(display):
            if entry.each != "input" or (entry.kinds and stage.kind not in entry.kinds):
                continue
            if channel is None and entry.asks != "enabled":
                continue
            name = entry_name(display, stage.id, entry.name)
            setting = typed.get(name)
            wanted = _wanted(job, entry, channel, stage)
            if wanted is None and setting is None and entry.asks not in ("backlight", "note"):
                continue
            lines.append(
                Line(
                    name,
                    entry,
                    stage.id,
                    channel,
                    wanted,
                    setting.value if setting else "",
                    bool(setting and setting.done),
                )
            )
    return tuple(lines)


def _wanted(job: Job, entry: MenuEntry, channel: MeasuringChain | None, stage: Input | None) -> str | None:
    """What the job wants in an entry, in words; None where it has no say."""
    if entry.asks == "enabled":
        return "on" if channel is not None else "off"
    if entry.asks == "fuel":
        return job.vehicle.fuel.burns or None
    if channel is None:
        return None
    if entry.asks == "sender":
        return "own table" if channel.scaling.table else None
    if entry.asks == "pulses":
        return _pulses(job, channel)
    if entry.asks in ("function", "unit"):
        words = channel.name if entry.asks == "function" else unit_words(channel.unit)
        return next((c for c in entry.choices if c.lower() == words.lower()), words)
    if entry.asks == "table":
        rows = channel.scaling.table
        return f"{len(rows)} rows, sum {sum(y for _, y in rows):g}" if rows else None
    if entry.asks == "decimals":
        return str(channel.scaling.decimals)
    if entry.asks == "delay":
        return f"{channel.behaviour.delay_s:g}" if channel.behaviour.delay_s else None
    low, high = ends(channel.scaling)
    number = {
        "low": low,
        "high": high,
        "bar_low": low,
        "bar_high": high,
        "warn_low": channel.warn_low,
        "warn_high": channel.warn_high,
    }.get(entry.asks)
    return None if number is None else f"{number:g}"


def _pulses(job: Job, channel: MeasuringChain) -> str | None:
    if channel.road is not None:
        if channel.road.setting is not None:
            return f"{channel.road.setting:g}"
        found = calibration_of(channel.road, face_step_kmh(channel))
        try:
            return f"{found.setting if found else setting_by_tyre(job, channel.road):.6g}"
        except BadInput:
            return None
    return (
        f"{channel.engine.setting:g}"
        if channel.engine is not None and channel.engine.setting is not None
        else None
    )


def _same(typed: str, wanted: str) -> bool:
    if typed.strip().lower() == wanted.strip().lower():
        return True
    try:
        return math.isclose(parse_number(typed), parse_number(wanted), rel_tol=1e-9, abs_tol=1e-12)
    except BadInput:
        return bool({typed.strip().lower(), wanted.strip().lower()} <= _ON)


def menu_findings(job: Job) -> Iterator[Finding]:
    """The usual slips, over all displays of a job."""
    for display in job.displays:
        yield from _shared_inputs(job, display)
        for line in sheet_of(job, display):
            if line.differs:
                yield _slip(display, line)
            elif line.entry.digits is not None and _digits(line.wanted) > line.entry.digits:
                yield _say(
                    display,
                    line,
                    "note",
                    "menu_digits",
                    f"'{line.entry.name}' takes {line.entry.digits} digits after the point; the job wants {line.wanted}.",
                    line.wanted or "",
                    "Round it to the safe side.",
                )
        yield from _bars(job, display)
    for channel in job.chains:
        yield from _range(job, channel)


def _slip(display: Display, line: Line) -> Finding:
    """What is wrong with a typed entry, by the kind of difference."""
    if line.entry.asks == "enabled" and line.channel is None:
        return _say(
            display,
            line,
            "caution",
            "enabled_without_sensor",
            f"Input {line.stage} of {display.name} is on, but nothing is fitted to it: it will show a false reading or alarm.",
            line.typed,
            "Switch it off in the menu.",
        )
    try:
        typed, wanted = parse_number(line.typed), parse_number(line.wanted or "")
    except BadInput:
        typed = wanted = 0.0
    if typed and wanted and typed * wanted > 0:
        power = math.log10(typed / wanted)
        if abs(power) > 0.5 and abs(power - round(power)) < 1e-6:
            return _say(
                display,
                line,
                "stop",
                "wrong_decimal_point",
                f"'{line.name}' of {display.name} holds {line.typed} where {line.wanted} is meant: the decimal point is off.",
                line.typed,
                f"Type {line.wanted}.",
            )
    return _say(
        display,
        line,
        "caution",
        "menu_differs",
        f"'{line.name}' of {display.name} holds {line.typed}; the job wants {line.wanted}.",
        line.typed,
        "Type it again, or change the job if the menu is right.",
    )


def _shared_inputs(job: Job, display: Display) -> Iterator[Finding]:
    held: dict[str, MeasuringChain] = {}
    for channel in job.chains:
        stage, sender = job.input_of(channel), job.heard(channel)
        if sender is not None and sender.rides:
            continue  # it has no line of its own: it is read off another's pulses
        if channel.display != display.id or stage is None or stage.kind in ("data", "supply"):
            continue
        if stage.id in held and not job.by_turns(channel, held[stage.id]):
            yield Finding(
                "stop",
                "two_on_one_pin",
                channel.name,
                f"{held[stage.id].name} and {channel.name} are both set to input {stage.id} of {display.name}: one pin carries one reading.",
                f"pin {stage.pin}",
                "Give one of them an input of its own.",
                "scaling",
                channel.id,
                about=f"channel {channel.id}",
            )
        held[stage.id] = channel


def _bars(job: Job, display: Display) -> Iterator[Finding]:
    """Bar limits outside the range of their input, as typed or else as wanted: most menus cut them off silently."""
    held: dict[tuple[str, str], tuple[float, Line]] = {}
    for line in sheet_of(job, display):
        if line.entry.asks in ("low", "high", "bar_low", "bar_high"):
            try:
                held[line.stage, line.entry.asks] = (parse_number(line.typed or line.wanted or ""), line)
            except BadInput:
                continue
    for (stage, asks), (value, line) in held.items():
        low, high = held.get((stage, "low")), held.get((stage, "high"))
        if asks.startswith("bar") and low is not None and high is not None and not low[0] <= value <= high[0]:
            yield _say(
                display,
                line,
                "caution",
                "bar_outside_range",
                f"The bar's limit {value:g} lies outside the range typed, {low[0]:g} to {high[0]:g}: set the range first, then the bar.",
                f"{value:g}",
                "Type the range again, then the bar.",
            )


def _range(job: Job, channel: MeasuringChain) -> Iterator[Finding]:
    """A warning that can never come: outside of what the face or the sender reaches."""
    low, high = ends(channel.scaling)
    sender = job.heard(channel)
    if sender is None and channel.scaling.assumed:
        return  # its range follows the sender
    if sender is not None:
        reach = sorted(in_unit(y, sender.curve.y_unit, channel.unit) for y in y_range(sender.curve))
        low = reach[0] if low is None else max(low, reach[0])
        high = reach[1] if high is None else min(high, reach[1])
    if low is None or high is None:
        return
    for word, level in (("below", channel.warn_low), ("above", channel.warn_high)):
        if level is not None and not low < level < high:
            yield Finding(
                "caution",
                "warning_out_of_reach",
                channel.name,
                f"The warning {word} {level:g} {unit_words(channel.unit)} can never come right: the reading only goes from {low:g} to {high:g}.",
                f"{level:g} {unit_words(channel.unit)}",
                "Set the level within the range, or widen the range.",
                "scaling",
                channel.id,
                about=f"channel {channel.id}",
            )


def _digits(number: str | None) -> int:
    return len(number.partition(".")[2]) if number else 0


def _say(
    display: Display, line: Line, grade: str, code: str, reason: str, figure: str, remedy: str
) -> Finding:
    channel = line.channel.id if line.channel else ""
    return Finding(
        grade,  # type: ignore[arg-type]
        code,
        f"{display.name}, {line.name}",
        reason,
        figure,
        remedy,
        "scaling",
        channel,
        about=f"entry {display.id} {line.name}",
    )
