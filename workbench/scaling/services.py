"""The sender's curve and what is entered in the display."""

from __future__ import annotations

from dataclasses import replace

from metrolex.errors import BadInput
from metrolex.job import Channel, Job, Scaling, Setting
from metrolex.quantities import parse_number
from metrolex.scaling.suggest import rows_from_curve
from metrolex.senders import Curve
from metrolex.twin import build, readings, solve
from metrolex.twin.run import Solved
from workbench.jobs.services import replaced

__all__ = [
    "add_setting",
    "points_text",
    "read_points",
    "remove_setting",
    "set_curve",
    "set_scaling",
    "take_rows",
    "what_if",
]


MOST_ROWS = 60


def read_points(text: str) -> tuple[tuple[float, float], ...]:
    """Points typed a line each, 'x y' or 'x; y'. Raises BadInput (field ``points``) naming the line."""
    found = []
    for number, line in enumerate(text.splitlines(), 1):
        parts = [
            part for part in line.replace(";", " ").replace("\t", " ").replace(", ", " ").split(" ") if part
        ]
        if not parts:
            continue
        if len(parts) != 2:
            raise BadInput(
                "points",
                line[:60],
                "two numbers a line",
                f"Line {number}: expected two numbers, like '577 60', but got '{line[:40]}'.",
            )
        try:
            found.append((parse_number(parts[0]), parse_number(parts[1])))
        except BadInput as fault:
            raise BadInput(
                "points", line[:60], "two numbers a line", f"Line {number}: {fault.message}"
            ) from None
    return tuple(found)


def points_text(points: tuple[tuple[float, float], ...]) -> str:
    """Points as they are typed."""
    return "\n".join(f"{x:g}  {y:g}" for x, y in points)


def set_curve(job: Job, channel_id: str, curve: Curve, tolerance_pct: float) -> Job:
    """A sender's law."""
    channel = _channel(job, channel_id)
    sender = job.sender(channel.sender)
    if sender is None:
        raise BadInput("points", None, "a chosen sender", "Choose a sender on the Ports page first.")
    sender = replace(sender, curve=curve, tolerance=replace(sender.tolerance, x_pct=tolerance_pct))
    return replace(job, senders=replaced(job.senders, sender))


def set_scaling(job: Job, channel: Channel) -> Job:
    """What is entered in the display, the warning points, the true values."""
    _channel(job, channel.id)
    return job.with_channel(channel)


def add_setting(job: Job, display: str, name: str, value: str) -> Job:
    """One more entry of a display's set-up menu, in place of one of the same name."""
    if not name.strip():
        raise BadInput("name", name, "the menu's own word", "Which entry of the menu is it?")
    rest = tuple(s for s in job.settings if (s.display, s.name) != (display, name.strip()))
    return replace(job, settings=(*rest, Setting(display, name.strip(), value.strip())))


def remove_setting(job: Job, display: str, name: str) -> Job:
    """An entry less."""
    return replace(job, settings=tuple(s for s in job.settings if (s.display, s.name) != (display, name)))


def take_rows(job: Job, channel_id: str, typed: str) -> Job:
    """The display's table taken from the sender's curve, with as many rows as typed."""
    count = parse_number(typed)
    if count != int(count) or not 2 <= count <= MOST_ROWS:
        raise BadInput("count", typed, f"2 to {MOST_ROWS} rows")
    channel = _channel(job, channel_id)
    sender, stage = job.sender(channel.sender), job.input_of(channel)
    if sender is None or stage is None:
        raise BadInput(
            "count", count, "a chosen sender and display", "Choose the sender and the display first."
        )
    x_unit: str = sender.curve.x_unit
    rows = rows_from_curve(channel, sender, int(count))
    scaling = Scaling(
        rows,
        "volt" if x_unit == "volt" else "ohm",
        channel.scaling.decimals,
        channel.scaling.low,
        channel.scaling.high,
    )
    return job.with_channel(replace(channel, scaling=scaling))


def what_if(solved: Solved, channel: Channel, true: float) -> tuple[Solved, str, str]:
    """The circuit with another true value at one channel: solved, the face, why."""
    again = solve(build(solved.network.job), solved.state, true={**solved.true, channel.id: true})
    face = readings(again)[channel.id]
    return again, face.text, face.reason


def _channel(job: Job, key: str) -> Channel:
    channel = job.channel(key)
    if channel is None:
        raise BadInput("channel", key, ", ".join(c.id for c in job.channels))
    return channel
