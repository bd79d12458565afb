"""Numbers that boxes send over their data pins: whether they arrive, and what they say."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from metrolex.circuit import Element
from metrolex.job import Display, Job, MeasuringChain
from metrolex.quantities import in_unit
from metrolex.senders import x_range, y_at
from metrolex.topology import hears_data
from metrolex.twin.boxes import Across, outputs_of_boxes

__all__ = ["no_data", "sent"]


def no_data(job: Job, channel: MeasuringChain, display: Display, awake: frozenset[str]) -> str:
    """Why what a box sends as data does not arrive, in words; '' where it does, or where no box sends it."""
    box = job.display(channel.box)
    if box is None or not box.by_data(box.output_called(channel.output)):
        return ""
    return "" if hears_data(job, box, display, awake) else f"no data wire from {box.name} yet"


def sent(
    job: Job,
    channel: MeasuringChain,
    elements: Sequence[Element],
    across: Across,
    awake: frozenset[str],
    true: Mapping[str, float],
) -> float | None:
    """The number a box sends of a chain in the channel's unit, NaN where it has none; None where no box reads it, or reads what is there."""
    box, heard = job.display(channel.box), job.heard(channel)
    output = box.output_called(channel.output) if box else None
    if box is None or output is None or heard is None:
        return None
    if box.id not in awake:
        return math.nan
    x = outputs_of_boxes(job, elements, across, awake, true).get(heard.id)
    if x is None:
        return None
    if x <= x_range(heard.curve)[0] and output.unready_x is None:
        return math.nan
    return float(in_unit(float(y_at(heard.curve, x)), heard.curve.y_unit, channel.unit))
