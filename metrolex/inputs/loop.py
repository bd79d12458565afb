"""The loop law: what a sender and the inputs that hear it make of each other.

An input is a source behind a resistance (Thevenin); a sender is a resistance, or a source behind one. Where they meet stands the
mean of all sources, each weighed by its conductance (Millman). Everything that needs the volts at an input without a whole circuit comes here.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.job import Input

__all__ = [
    "Thevenin",
    "loop_volts",
    "ohm_from_volts",
    "ohm_per_volt",
    "sender_watt",
    "thevenin_of",
    "volts_from_ohm",
]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Thevenin:
    """A source of ``volt`` behind ``ohm``, against the input's own ground."""

    volt: float
    ohm: float


def thevenin_of(stage: Input) -> Thevenin | None:
    """An input as its wire sees it, awake; None for one that has no wire of its own, or does not say its pull-up."""
    if stage.kind in ("pull_up", "pulse"):
        known = stage.circuit.reference_v is not None and stage.circuit.pull_up_ohm is not None
        return Thevenin(stage.circuit.reference_v or 0.0, stage.circuit.pull_up_ohm or 0.0) if known else None
    if stage.kind in ("volts", "thermocouple", "loop"):
        return Thevenin(0.0, stage.circuit.input_ohm)
    return None


def loop_volts(
    ohm: ArrayLike, inputs: Iterable[Thevenin], wire_ohm: float = 0.0, ground_offset_v: float = 0.0
) -> Array:
    """Volts where a sender of ``ohm`` (its wire's loop added) meets one input or several, against their ground. Shape as ``ohm``.

    ``ground_offset_v`` is the sender's ground above the inputs'.

    >>> loop_volts(1000.0, [Thevenin(5.0, 1000.0)]).item()
    2.5
    """
    loop = np.asarray(ohm, dtype=np.float64) + wire_ohm
    heard = tuple(inputs)
    # Written in the loop's resistance, so that a shorted sender is no division by nothing.
    pull = sum(one.volt / one.ohm for one in heard)
    hold = sum(1 / one.ohm for one in heard)
    return np.asarray((ground_offset_v + loop * pull) / (1 + loop * hold))


def volts_from_ohm(
    ohm: ArrayLike,
    pull_up_ohm: float,
    reference_v: float,
    wire_ohm: float = 0.0,
    ground_offset_v: float = 0.0,
) -> Array:
    """Volts at one pull-up input, against the input's own ground: V = Vo + (Vref - Vo)(R + wire)/(R + wire + R0).

    >>> volts_from_ohm(1000.0, 1000.0, 5.0).item()
    2.5
    """
    return loop_volts(ohm, (Thevenin(reference_v, pull_up_ohm),), wire_ohm, ground_offset_v)


def ohm_from_volts(volts: ArrayLike, pull_up_ohm: float, reference_v: float) -> Array:
    """The resistance a pull-up input takes ``volts`` for: R = R0 V/(Vref - V); infinite at Vref.

    >>> ohm_from_volts(2.5, 1000.0, 5.0).item()
    1000.0
    """
    given = np.asarray(volts, dtype=np.float64)
    with np.errstate(divide="ignore"):
        return np.where(
            given < reference_v, pull_up_ohm * given / np.maximum(reference_v - given, 1e-300), np.inf
        )


def ohm_per_volt(ohm: ArrayLike, pull_up_ohm: float, reference_v: float) -> Array:
    """How many ohms a volt at the input stands for, at a sender of ``ohm``: the loop law's slope, turned over.

    >>> ohm_per_volt(1000.0, 1000.0, 5.0).item()
    800.0
    """
    given = np.asarray(ohm, dtype=np.float64)
    return np.asarray((given + pull_up_ohm) ** 2 / (pull_up_ohm * reference_v))


def sender_watt(ohm: ArrayLike, pull_up_ohm: float, reference_v: float) -> Array:
    """The heat a pull-up puts into a sender of ``ohm``, in watt.

    >>> sender_watt(1000.0, 1000.0, 5.0).item()
    0.00625
    """
    given = np.asarray(ohm, dtype=np.float64)
    return np.asarray(given * (reference_v / (given + pull_up_ohm)) ** 2)
