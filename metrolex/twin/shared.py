"""Two displays on one sender, and one gauge on two senders by a switch: worked out as circuits, before a wire is cut."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit import GROUND, Element, Resistor, VoltageSource, solve
from metrolex.errors import BadInput
from metrolex.job import Behaviour, Input, MeasuringChain, Sender
from metrolex.quantities import in_unit
from metrolex.scaling.reading import read_volts
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
    off = []
    for value in true.tolist():
        y = min(
            max(in_unit(value, one.channel.unit, sender.curve.y_unit), y_range(sender.curve)[0]),
            y_range(sender.curve)[1],
        )
        ohm = float(x_at(sender.curve, y)) + series_ohm
        volts = solve(_circuit(ohm, (one, *others))).across("signal", GROUND)
        face = read_volts(volts, one.stage, one.channel.scaling, one.behaviour)
        off.append(np.nan if face.value is None else face.value - value)
    return np.array(off)


def _circuit(ohm: float, heard: tuple[Listener, ...]) -> list[Element]:
    elements: list[Element] = [Resistor("sender", "signal", GROUND, max(ohm, 1e-3))]
    for i, one in enumerate(heard):
        stage = one.stage
        if stage.pull_up_ohm is not None and stage.reference_v is not None and stage.kind == "pull_up":
            elements.append(VoltageSource(f"reference {i}", f"reference {i}", GROUND, stage.reference_v))
            elements.append(Resistor(f"pull-up {i}", f"reference {i}", "signal", stage.pull_up_ohm))
        else:
            elements.append(Resistor(f"input {i}", "signal", GROUND, stage.input_ohm))
    return elements


def _worst(errors: Array) -> float:
    known = errors[np.isfinite(errors)]
    return float(np.abs(known).max()) if known.size else float("nan")
