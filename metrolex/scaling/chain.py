"""One chain as plain numbers: a sender's curve, the wire, the input stage and the table, from true value to shown.

The ``display``, ``budget`` and ``table`` calculations and the error strip of a job all go through here.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from metrolex.inputs.converter import quantised
from metrolex.inputs.loop import ohm_from_volts, volts_from_ohm
from metrolex.scaling.table import look_up
from metrolex.senders import Curve, x_at
from metrolex.senders.curves import Point

__all__ = ["Chain"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Chain:
    """What stands between a true value and the number on the face.

    ``table`` rows are (x, y in the curve's unit); x is volts behind an input of its own, ohms where ``table_in_ohm`` (the
    display works the ohms out), the curve's own x where there is no input. ``wire_ohm`` is the whole loop, ``ground_offset_v``
    the sender's ground above the input's. ``ratiometric``: the converter counts against the reference that feeds pull-up or
    sender. ``dissipation_mw_per_k`` is the sender's dissipation constant, None where its own warmth is not counted.
    """

    curve: Curve
    table: tuple[Point, ...] = ()
    pull_up_ohm: float | None = None
    reference_v: float | None = None
    adc_bits: int | None = None
    wire_ohm: float = 0.0
    ground_offset_v: float = 0.0
    table_in_ohm: bool = False
    ratiometric: bool = False
    dissipation_mw_per_k: float | None = None

    @property
    def reads_volts(self) -> bool:
        return self.pull_up_ohm is not None or self.reference_v is not None

    @property
    def x_unit(self) -> str:
        """Unit of the table's x."""
        if self.pull_up_ohm is not None:
            return "ohm" if self.table_in_ohm else "volt"
        return "volt" if self.reference_v is not None else self.curve.x_unit

    def ideal(self, y: ArrayLike) -> Array:
        """The table's x for true values by nominal parts, without wire, offset or converter; NaN outside the curve."""
        return self.seen(x_at(self.curve, y), wired=False, converted=False)

    def seen(
        self,
        x: ArrayLike,
        *,
        pull_up: float = 1.0,
        reference: float = 1.0,
        wired: bool = True,
        offset: bool | None = None,
        converted: bool = True,
    ) -> Array:
        """The table's x for sender outputs ``x``; ``pull_up`` and ``reference`` are the real parts over the nominal ones.

        The pull-up is fed from the real reference; the display counts against the nominal one, or by the real one where it is
        ratiometric. ``wired`` and ``offset``
        (as ``wired`` by default) take the loop and the ground in, ``converted`` the steps of the converter.
        """
        wire = self.wire_ohm if wired else 0.0
        lift = self.ground_offset_v if (wired if offset is None else offset) else 0.0
        given = np.asarray(x, dtype=np.float64)
        if self.pull_up_ohm is not None and self.reference_v is not None:
            # The input's ground is where volts are counted from, so only the supply and the offset stand above it.
            volts = volts_from_ohm(
                given, self.pull_up_ohm * pull_up, self.reference_v * reference, wire, lift
            ) / (reference if self.ratiometric else 1.0)
        elif self.curve.x_unit == "ohm" and not self.reads_volts:
            return given + wire
        elif not self.reads_volts:
            volts = given + lift
        else:
            volts = given + lift / reference if self.ratiometric else (given + lift) / reference
        if converted and self.adc_bits is not None and self.reference_v is not None:
            volts = quantised(volts, self.reference_v, self.adc_bits)
        if self.table_in_ohm and self.pull_up_ohm is not None and self.reference_v is not None:
            return ohm_from_volts(volts, self.pull_up_ohm, self.reference_v)
        return volts

    def shown(self, y: ArrayLike) -> Array:
        """What stands on the face before rounding, for true values; NaN outside the curve."""
        return look_up(self.table, self.seen(x_at(self.curve, y)))
