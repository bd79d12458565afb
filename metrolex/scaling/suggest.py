"""Rows for a display's table, taken from a sender's curve."""

from __future__ import annotations

import numpy as np

from metrolex.errors import BadInput
from metrolex.job import Channel, Sender
from metrolex.quantities import in_unit, rounded
from metrolex.scaling.reading import ends
from metrolex.senders import x_at, y_range

__all__ = ["rows_from_curve"]


def rows_from_curve(channel: Channel, sender: Sender, count: int) -> tuple[tuple[float, float], ...]:
    """``count`` rows evenly spaced in the reading, over the range that face and sender share.

    x in ohm or volt as the sender gives it, to 4 significant digits; y in the channel's unit. Raises BadInput
    when fewer than two rows are asked for or the two ranges do not meet.
    """
    if count < 2:
        raise BadInput("count", count, "2 rows or more")
    reach = sorted(in_unit(y, sender.curve.y_unit, channel.unit) for y in y_range(sender.curve))
    low, high = ends(channel.scaling)
    start = max(reach[0], low if low is not None else reach[0])
    stop = min(reach[1], high if high is not None else reach[1])
    if start >= stop:
        raise BadInput(
            "count",
            count,
            "a range that sender and face share",
            "The sender's curve and the gauge's range do not meet.",
        )
    rows = []
    for shown in np.linspace(start, stop, count).tolist():
        inner = min(
            max(in_unit(shown, channel.unit, sender.curve.y_unit), y_range(sender.curve)[0]),
            y_range(sender.curve)[1],
        )
        rows.append(
            (
                float(f"{float(x_at(sender.curve, inner)):.4g}"),
                rounded(shown, max(channel.scaling.decimals, 1)),
            )
        )
    return tuple(sorted(rows))
