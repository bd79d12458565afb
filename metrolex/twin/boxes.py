"""What the boxes of a job make of their inputs: the volts there, read by the law of the sender, given on by the law of the output."""

from __future__ import annotations

import functools
import math
from collections.abc import Callable, Mapping, Sequence

import numpy as np

from metrolex.circuit import Element
from metrolex.circuit.elements import Name
from metrolex.job import Display, Input, Job, MeasuringChain, Scaling, Sender
from metrolex.quantities import in_unit
from metrolex.scaling.inputs import x_unit_of
from metrolex.scaling.reading import faces_of_thermocouple, faces_of_volts
from metrolex.senders import is_monotonic, x_at, x_range, y_range
from metrolex.senders.thermocouple import COLD_DEGC
from metrolex.topology import at_pin, topology_of
from metrolex.twin import addresses
from metrolex.twin.pulses import pulses_arrive

__all__ = ["outputs_of_boxes", "same_outputs"]

ROWS = 257  # a sender's law as its box knows it
SAME = 1e-6  # of an output's range: the solution stands still

Across = Callable[[Name, Name], float]


def outputs_of_boxes(
    job: Job,
    elements: Sequence[Element],
    across: Across,
    powered: frozenset[str],
    true: Mapping[str, float],
) -> dict[str, float]:
    """What each output of a box awake gives, in the unit of its law, by the id it is heard by.

    Only of boxes with a sender wired to one of their inputs: of all others the true value is what they give.
    """
    found: dict[str, float] = {}
    for chain in job.measured:
        if chain.box is None or chain.box not in powered or true.get(chain.channel) is None:
            continue
        sender, heard = job.sender(chain.sender), job.heard(chain)
        box, stage = job.sender_wired_to(chain)
        if sender is None or heard is None or box is None or stage is None or not is_monotonic(sender.curve):
            continue
        ground = box.pin_for("ground")
        if stage.pin is None or ground is None:
            continue
        if not topology_of(job).wired(at_pin(box, stage.pin), measured=True):
            continue
        if stage.kind == "pulse":
            arrive = pulses_arrive(elements, across, sender, box, stage)
            value = true[chain.channel] if arrive else math.nan
        else:
            volts = across(addresses.pin_node(box, stage.pin), addresses.pin_node(box, ground.id))
            value = _read(box, stage, chain, sender, volts)
        found[heard.id] = _given(box, chain.unit, heard, chain.output, value)
        if math.isnan(value):
            found |= _beside(job, box, chain)
    return found


def _beside(job: Job, box: Display, chain: MeasuringChain) -> dict[str, float]:
    """What a box gives of the other readings of a sensor it does not hear any more."""
    others = (
        c for c in job.measured if c.box == box.id and c.box_input is None and c.channel != chain.channel
    )
    return {
        heard.id: _given(box, other.unit, heard, other.output, math.nan)
        for other in others
        if (heard := job.heard(other)) is not None
    }


def same_outputs(job: Job, one: Mapping[str, float], other: Mapping[str, float]) -> bool:
    """Whether two sets of outputs are the same but for what no circuit notices."""
    spans = {chain.id: heard for chain in job.measured if (heard := job.heard(chain)) is not None}
    for heard in spans.values():
        if heard.id in one or heard.id in other:
            low, high = x_range(heard.curve)
            a, b = one.get(heard.id), other.get(heard.id)
            if a is None or b is None or abs(a - b) > SAME * (high - low):
                return False
    return True


def _read(box: Display, stage: Input, chain: MeasuringChain, sender: Sender, volts: float) -> float:
    """What a box takes its sender to measure, in the channel's unit; NaN where it finds its input open or shorted."""
    if math.isnan(volts):
        return math.nan
    if stage.kind == "thermocouple":
        return float(faces_of_thermocouple([volts], stage, chain, box.behaviour, COLD_DEGC).value.item())
    scaling = Scaling(table=_law(sender), x_unit=x_unit_of(sender))
    faces = faces_of_volts([volts], stage, scaling, box.behaviour)
    if faces.state.item() in ("open", "short"):
        return math.nan
    return float(in_unit(faces.value.item(), sender.curve.y_unit, chain.unit))


@functools.lru_cache(maxsize=64)
def _law(sender: Sender) -> tuple[tuple[float, float], ...]:
    """The curve of a sender as rows close enough to be the curve itself."""
    y = np.linspace(*y_range(sender.curve), ROWS)
    rows = sorted(zip(map(float, x_at(sender.curve, y)), map(float, y), strict=True))
    return tuple(rows)


def _given(box: Display, unit: str, heard: Sender, key: str | None, value: float) -> float:
    output = box.output_called(key)
    if math.isnan(value):
        unready = output.unready_x if output else None
        return x_range(heard.curve)[0] if unready is None else unready
    low, high = y_range(heard.curve)
    y = in_unit(value, unit, heard.curve.y_unit)
    return float(x_at(heard.curve, min(max(y, low), high)))
