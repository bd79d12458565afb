"""The sender's curve and what is entered in the display."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from metrolex.acts.edit import channel_called, replaced
from metrolex.air.atmosphere import pressure_kpa
from metrolex.characters import whole_number
from metrolex.errors import BadInput
from metrolex.job import Job, MeasuringChain, Scaling, Sender
from metrolex.job.readout import XUnit
from metrolex.quantities import in_unit
from metrolex.scaling.best_rows import Rows
from metrolex.scaling.fitted import refitted
from metrolex.scaling.inputs import x_unit_of
from metrolex.scaling.suggest import suggest_rows
from metrolex.scaling.task import to_step
from metrolex.scaling.trim import trim_rows
from metrolex.senders import LinearCurve, TableCurve, branches

__all__ = [
    "Asked",
    "Levels",
    "best_rows_for",
    "change_sender",
    "confirm_table",
    "count_from",
    "move_row",
    "set_scaling",
    "take_branch",
    "take_rows",
    "trim_table",
]


def change_sender(job: Job, channel_id: str, changed: Callable[[Sender], Sender]) -> Job:
    """A channel's sender, changed."""
    channel = channel_called(job, channel_id)
    sender = job.heard(channel)
    if sender is None:
        raise BadInput("points", None, "a chosen sender", "Choose a sender on the Ports page first.")
    after = changed(sender)
    if after.curve != sender.curve and after.counts_from == sender.counts_from:
        after = replace(after, counts_from="")  # of another curve nobody has said it yet
    return refitted(_with_heard(job, channel, after), channel_id)


def _with_heard(job: Job, channel: MeasuringChain, sender: Sender) -> Job:
    """What the display hears of a channel, changed where it is kept: the sender, or the law and tolerance of the box's output."""
    box = job.display(channel.box)
    if box is None:
        return replace(job, senders=replaced(job.senders, sender))
    outputs = tuple(
        replace(output, curve=sender.curve, tolerance=sender.tolerance)
        if output.id == channel.output
        else output
        for output in box.outputs
    )
    return replace(job, displays=replaced(job.displays, replace(box, outputs=outputs)))


def count_from(job: Job, channel_id: str, what: str) -> Job:
    """What the maker's curve of a pressure sender counts from: 'air' leaves it as it is, 'vacuum' takes the air at the workshop off it. Raises BadInput."""
    channel = channel_called(job, channel_id)
    sender = job.sender(channel.sender)
    if sender is None or channel.box is not None or what not in ("air", "vacuum"):
        raise BadInput("counts_from", what, "air | vacuum, for a sender that speaks by no box")
    if sender.counts_from == "vacuum":
        raise BadInput(
            "counts_from",
            what,
            "a curve not turned yet",
            "The air is taken off this curve already: enter its points anew to go back.",
        )
    if what == "air":
        return change_sender(job, channel_id, lambda one: replace(one, counts_from="air"))
    if not isinstance(sender.curve, (TableCurve, LinearCurve)):
        raise BadInput("counts_from", what, "a curve by points")
    air = in_unit(pressure_kpa(job.vehicle.identity.altitude_m or 0.0), "kPa", sender.curve.y_unit)
    points = tuple((x, round(y - air, 6)) for x, y in sender.curve.points)
    curve = replace(sender.curve, points=points)
    return change_sender(job, channel_id, lambda one: replace(one, curve=curve, counts_from="vacuum"))


def set_scaling(job: Job, channel_id: str, scaling: Scaling, levels: Levels) -> Job:
    """What is entered in the display, the warning points, the true values."""
    channel = channel_called(job, channel_id)
    untouched = replace(scaling, assumed=channel.scaling.assumed)
    return job.with_chain(
        replace(
            channel,
            scaling=untouched if untouched == channel.scaling else scaling,
            warn_low=levels.warn_low,
            warn_high=levels.warn_high,
            true_stopped=levels.true_stopped,
            true_running=levels.true_running,
        )
    )


@dataclass(frozen=True, slots=True)
class Levels:
    """Where a channel warns and what is really there with the engine stopped and running, in its unit; None: not said."""

    warn_low: float | None = None
    warn_high: float | None = None
    true_stopped: float | None = None
    true_running: float | None = None


@dataclass(frozen=True, slots=True)
class Asked:
    """What was asked of the best rows: how many, in which steps, closest about which reading."""

    count: int
    x_step: float = 0.0
    y_step: float = 0.0
    near: float | None = None


def best_rows_for(job: Job, channel_id: str, asked: Asked) -> Rows:
    """The best rows of a channel beside equally spaced ones. Raises BadInput."""
    channel = channel_called(job, channel_id)
    sender, stage = job.heard(channel), job.input_of(channel)
    if sender is None or stage is None:
        raise BadInput(
            "count", asked.count, "a chosen sender and display", "Choose the sender and the display first."
        )
    at = replace(channel, scaling=replace(channel.scaling, x_unit=table_unit(channel, sender)))
    return suggest_rows(
        at, sender, stage, asked.count, x_step=asked.x_step, y_step=asked.y_step, near=asked.near
    )


def table_unit(channel: MeasuringChain, sender: Sender) -> XUnit:
    """What the table's x is: volts where the display asks for them, else what the sender gives."""
    return channel.scaling.x_unit if sender.curve.x_unit == "ohm" else x_unit_of(sender)


def confirm_table(job: Job, channel_id: str) -> Job:
    """The table is in the display as it stands here: somebody compared it."""
    channel = channel_called(job, channel_id)
    return job.with_chain(replace(channel, scaling=replace(channel.scaling, assumed=False)))


def take_rows(job: Job, channel_id: str, asked: Asked) -> Job:
    """The display's table taken as the best rows; its limits are kept with the input."""
    rows = best_rows_for(job, channel_id, asked)
    channel = channel_called(job, channel_id)
    sender, display = job.heard(channel), job.display(channel.display)
    assert sender is not None
    assert display is not None
    scaling = replace(channel.scaling, table=rows.rows, x_unit=table_unit(channel, sender), assumed=False)
    inputs = tuple(
        replace(i, table=replace(i.table, rows=asked.count, x_step=asked.x_step, y_step=asked.y_step))
        if i.id == channel.input
        else i
        for i in display.inputs
    )
    job = replace(job, displays=replaced(job.displays, replace(display, inputs=inputs)))
    return job.with_chain(replace(channel, scaling=scaling))


def trim_table(job: Job, channel_id: str, pairs: tuple[tuple[float, float], ...]) -> Job:
    """The display's table trimmed by readings side by side: what is right, what the display showed. Raises BadInput."""
    channel = channel_called(job, channel_id)
    if len(channel.scaling.table) < 2:
        raise BadInput(
            "pairs", None, "a table to trim", "Nothing is entered in the dash yet: take its rows first."
        )
    rows = tuple((float(f"{x:.5g}"), y) for x, y in trim_rows(channel.scaling.table, pairs).rows)
    return job.with_chain(replace(channel, scaling=replace(channel.scaling, table=rows, assumed=False)))


def move_row(job: Job, channel_id: str, row: int, x: float, y: float) -> Job:
    """One row of the table moved, to the steps its display takes, never past its neighbours. Raises BadInput for a row that is not there."""
    channel = channel_called(job, channel_id)
    stage = job.input_of(channel)
    rows = list(channel.scaling.table)
    if not 0 <= row < len(rows):
        raise BadInput("row", row, f"0 to {len(rows) - 1}")
    x_step, y_step = (stage.table.x_step, stage.table.y_step) if stage else (0.0, 0.0)
    least = x_step or 1e-4 * (rows[-1][0] - rows[0][0])
    if row > 0:
        x = max(x, rows[row - 1][0] + least)
    if row < len(rows) - 1:
        x = min(x, rows[row + 1][0] - least)
    rows[row] = (_placed(x, x_step), _placed(y, y_step))
    return job.with_chain(
        replace(channel, scaling=replace(channel.scaling, table=tuple(rows), assumed=False))
    )


def _placed(value: float, step: float) -> float:
    return to_step(value, step) if step else float(f"{value:.4g}")


def take_branch(job: Job, channel_id: str, which: str) -> Job:
    """A curve that turns back cut to one stretch of it. Raises BadInput for a stretch it does not have."""
    channel = channel_called(job, channel_id)
    sender = job.heard(channel)
    if sender is None or not isinstance(sender.curve, TableCurve):
        raise BadInput("part", which, "a curve of points")
    parts = branches(sender.curve)
    part = whole_number(which)
    if part is None or part >= len(parts):
        raise BadInput("part", which, f"0 to {len(parts) - 1}")
    low, high = parts[part]
    points = tuple(point for point in sender.curve.points if low <= point[0] <= high)
    curve = replace(sender.curve, points=points, x_range=None)
    return _with_heard(job, channel, replace(sender, curve=curve))
