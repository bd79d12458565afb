"""Command line: reader."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from metrolex.cli.calculation import Calculation, findings_out
from metrolex.cli.senders import NTC_EXAMPLE, check_units
from metrolex.errors import BadInput
from metrolex.intake import Positive
from metrolex.job import Input, InputCircuit, MeasuringChain, Reader, Sender
from metrolex.scaling.second_reader import ALLOWED, disturbance, said_of
from metrolex.senders import Curve

__all__ = ["CALCULATIONS"]


@dataclass(frozen=True, slots=True)
class ReaderSaid:
    """Who reads a sender already."""

    pull_up_ohm: Positive
    reference_v: Positive = 5.0


@dataclass(frozen=True, slots=True)
class SecondInput:
    """The display beside it: a pull-up from a reference, or volts read across ``input_ohm``."""

    pull_up_ohm: Positive | None = None
    reference_v: Positive | None = None
    input_ohm: Positive = 100_000.0


@dataclass(frozen=True, slots=True)
class ReaderInput:
    """A resistive sender, who reads it, and the display beside."""

    curve: Curve
    reader: ReaderSaid
    input: SecondInput = field(default=SecondInput())


def run_reader(asked: ReaderInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Where the first reader is led astray most."""
    check_units(asked.curve)
    if asked.curve.x_unit != "ohm":
        raise BadInput(
            "curve.x_unit", asked.curve.x_unit, "ohm: volts and pulses are not pulled by a second reader"
        )
    beside = asked.input
    kind: Literal["pull_up", "volts"] = "volts" if beside.pull_up_ohm is None else "pull_up"
    stage = Input("A", kind, "1", InputCircuit(beside.pull_up_ohm, beside.reference_v, beside.input_ohm))
    sender = Sender("sender", "sender", asked.curve)
    channel = MeasuringChain("reading", "Reading", "coolant_temperature", asked.curve.y_unit)
    reader = Reader("R1", "first reader", asked.reader.pull_up_ohm, asked.reader.reference_v)
    found = disturbance(channel, sender, stage, reader)
    if found is None:
        raise BadInput("curve", asked.curve.kind, "a curve that does not turn back")
    led_astray = found.share > ALLOWED
    return {
        "there": found.there,
        "taken_for": found.taken,
        "share_of_range": found.share,
        "unit": asked.curve.y_unit,
        "findings": findings_out([said_of(channel, stage, found)] if led_astray else []),
    }


CALCULATIONS = {
    "reader": Calculation(
        ReaderInput,
        run_reader,
        {
            "curve": NTC_EXAMPLE,
            "reader": {"pull_up_ohm": 2200, "reference_v": 5.0},
            "input": {"pull_up_ohm": 1000, "reference_v": 5.0},
        },
    ),
}
