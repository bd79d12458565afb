"""Two displays on one sender, and one gauge on two senders by a switch: worked out by the loop law, before a wire is cut."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.inputs.loop import Thevenin, loop_volts, thevenin_of
from metrolex.job import Behaviour, Input, MeasuringChain, Sender
from metrolex.quantities import in_unit, rounded
from metrolex.scaling.error import in_curve_unit
from metrolex.scaling.reading import faces_of_volts
from metrolex.senders import x_at, y_range

__all__ = ["Listener", "Together", "on_one_sender", "on_two_senders"]

Array = NDArray[np.float64]
SWITCH_OHM = 0.05  # a clean switch (common practice, no source)
SAMPLES = 31


@dataclass(frozen=True, slots=True)
class Listener:
    """A display's input with what is entered for it."""

    channel: MeasuringChain
    stage: Input
    behaviour: Behaviour = field(default=Behaviour())


@dataclass(frozen=True, slots=True)
class Together:
    """What a display shows less what is true, alone and together with the other; NaN where it shows no number.

    ``true`` in the channel's unit; arrays of one shape.
    """

    true: Array
    alone: Array
    together: Array

    @property
    def worst_alone(self) -> float:
        return _worst(self.alone)

    @property
    def worst_together(self) -> float:
        return _worst(self.together)


def on_one_sender(sender: Sender, first: Listener, second: Listener) -> tuple[Together, Together]:
    """Both displays' errors over the sender's range. Raises BadInput for a sender that is no resistance or an empty table."""
    if sender.curve.x_unit != "ohm":
        raise BadInput(
            "sender", sender.curve.x_unit, "a sender that is a resistance: one that gives volts can feed both"
        )
    return _heard(sender, first, (second,)), _heard(sender, second, (first,))


def on_two_senders(
    first: Sender, second: Sender, gauge: Listener, switch_ohm: float = SWITCH_OHM
) -> tuple[Together, Together]:
    """The gauge's error with each sender switched to it: directly, and through the switch. Raises BadInput as above."""
    found = []
    for sender in (first, second):
        if sender.curve.x_unit != "ohm":
            raise BadInput("sender", sender.curve.x_unit, "senders that are resistances")
        bare = _heard(sender, gauge, ())
        found.append(Together(bare.true, bare.alone, _errors(sender, gauge, (), bare.true, switch_ohm)))
    return found[0], found[1]


def _heard(sender: Sender, one: Listener, others: tuple[Listener, ...]) -> Together:
    low, high = sorted(in_unit(y, sender.curve.y_unit, one.channel.unit) for y in y_range(sender.curve))
    scaling = one.channel.scaling
    if not scaling.table:
        raise BadInput("table", None, "two rows or more", f"Nothing is entered yet for {one.channel.name}.")
    shown = [y for _, y in scaling.table]
    true = np.linspace(max(low, min(shown)), min(high, max(shown)), SAMPLES)
    return Together(true, _errors(sender, one, (), true), _errors(sender, one, others, true))


def _errors(
    sender: Sender, one: Listener, others: tuple[Listener, ...], true: Array, series_ohm: float = 0.0
) -> Array:
    inputs = [
        thevenin_of(listener.stage) or Thevenin(0.0, listener.stage.circuit.input_ohm)
        for listener in (one, *others)
    ]
    inner = np.clip(in_curve_unit(true, one.channel, sender), *y_range(sender.curve))
    volts = loop_volts(x_at(sender.curve, inner), inputs, series_ohm)
    faces = faces_of_volts(volts, one.stage, one.channel.scaling, one.behaviour).value
    decimals = one.channel.scaling.decimals
    shown = [rounded(value, decimals) if np.isfinite(value) else np.nan for value in faces.tolist()]
    return np.array(shown) - true


def _worst(errors: Array) -> float:
    known = errors[np.isfinite(errors)]
    return float(np.abs(known).max()) if known.size else float("nan")
