"""The range and the table of a gauge that was made for its sender: what is assumed of a generic one until somebody reads it off."""

from __future__ import annotations

from dataclasses import replace

from metrolex.errors import BadInput
from metrolex.job import Job, MeasuringChain, Scaling, Sender
from metrolex.quantities import in_unit, rounded
from metrolex.scaling.inputs import x_unit_of
from metrolex.scaling.reading import ends
from metrolex.scaling.suggest import suggest_rows
from metrolex.senders import is_monotonic, y_range

__all__ = ["fitted", "refitted"]

ROWS = 12  # as many as such gauges commonly hold (common practice, no source)


def refitted(job: Job, channel_id: str) -> Job:
    """The job with the table of a channel after its sender, where nobody has said yet what is in the display."""
    channel = job.chain(channel_id)
    sender, stage = (job.heard(channel), job.input_of(channel)) if channel else (None, None)
    if channel is None or sender is None or stage is None or not channel.scaling.assumed:
        return job
    scaling = fitted(job, channel, sender)
    return job if scaling is None else job.with_chain(replace(channel, scaling=scaling))


def fitted(job: Job, channel: MeasuringChain, sender: Sender) -> Scaling | None:
    """Range, digits as they are, and rows that follow the sender; None for a curve no table follows.

    The range is what face and sender share, and as much more of the sender's as the warnings and the true values ask for.
    """
    stage = job.input_of(channel)
    if stage is None or not is_monotonic(sender.curve) or stage.kind not in ("pull_up", "volts", "loop"):
        return None
    low, high = _range(channel, sender)
    unit = channel.scaling.x_unit if sender.curve.x_unit == "ohm" else x_unit_of(sender)
    wide = replace(channel.scaling, low=None, high=None, table=(), x_unit=unit)
    at = replace(channel, scaling=replace(wide, low=low, high=high))
    try:
        rows = suggest_rows(at, sender, stage, ROWS).rows
    except BadInput:
        return None
    table = tuple((float(f"{x:.5g}"), rounded(y, channel.scaling.decimals + 1)) for x, y in rows)
    return replace(at.scaling, table=table, assumed=True)


def _range(channel: MeasuringChain, sender: Sender) -> tuple[float, float]:
    reach = sorted(in_unit(y, sender.curve.y_unit, channel.unit) for y in y_range(sender.curve))
    face = ends(channel.scaling)
    wanted = [
        value
        for value in (channel.warn_low, channel.warn_high, channel.true_running)
        if value is not None and reach[0] <= value <= reach[1]
    ]
    low = reach[0] if face[0] is None or any(value < face[0] for value in wanted) else max(face[0], reach[0])
    high = reach[1] if face[1] is None or any(value > face[1] for value in wanted) else min(face[1], reach[1])
    return (low, high) if low < high else (reach[0], reach[1])
