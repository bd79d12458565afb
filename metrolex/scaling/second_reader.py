"""A display beside somebody who reads a sender already: what it does to the first reader, by the loop law, before a wire is joined."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from metrolex.findings import Finding
from metrolex.inputs.loop import Thevenin, loop_volts, ohm_from_volts, thevenin_of
from metrolex.job import Input, Job, MeasuringChain, Reader, Sender
from metrolex.quantities import in_unit, unit_words
from metrolex.senders import is_monotonic, x_at, x_range, y_at, y_range

__all__ = ["ALLOWED", "Disturbed", "disturbance", "said_of", "second_reader_findings"]

ALLOWED = 0.01  # of the sender's range: below what an engine control notices (common practice, no source)
SAMPLES = 61


@dataclass(frozen=True, slots=True)
class Disturbed:
    """Where the first reader is led astray most: what is there, what it takes it for; ``share`` of the sender's range. In the channel's unit.

    ``taken`` None: beyond all its sender can give.
    """

    reader: Reader
    there: float
    taken: float | None
    share: float


def disturbance(channel: MeasuringChain, sender: Sender, stage: Input, reader: Reader) -> Disturbed | None:
    """What the display's input on the same line does to a reader; None for a sender that is no resistance, or an input without a wire."""
    ours = thevenin_of(stage)
    if sender.curve.x_unit != "ohm" or not is_monotonic(sender.curve) or ours is None:
        return None
    low, high = y_range(sender.curve)
    y = np.linspace(low, high, SAMPLES)
    first = Thevenin(reader.reference_v, reader.pull_up_ohm)
    volts = loop_volts(x_at(sender.curve, y), [first, ours])
    below = volts < reader.reference_v
    seen = np.where(below, volts, 0.0)
    ohm = np.where(below, ohm_from_volts(seen, reader.pull_up_ohm, reader.reference_v), np.inf)
    ends = x_range(sender.curve)
    held = y_at(sender.curve, np.clip(ohm, *ends))
    off = np.abs(held - y)
    at = int(np.argmax(off))
    beyond = not ends[0] * (1 - 1e-6) <= ohm[at] <= ends[1] * (1 + 1e-6)
    return Disturbed(
        reader,
        in_unit(float(y[at]), sender.curve.y_unit, channel.unit),
        None if beyond else in_unit(float(held[at]), sender.curve.y_unit, channel.unit),
        float(off[at] / (high - low)),
    )


def second_reader_findings(job: Job) -> Iterator[Finding]:
    """Displays that disturb whoever read the sender before them."""
    for channel in job.measured:
        sender, (_, stage) = job.sender(channel.sender), job.sender_wired_to(channel)
        if sender is None or stage is None:
            continue
        for reader in sender.readers:
            found = disturbance(channel, sender, stage, reader)
            if found is not None and found.share > ALLOWED:
                yield said_of(channel, stage, found)


def said_of(channel: MeasuringChain, stage: Input, found: Disturbed) -> Finding:
    """The finding of a first reader led astray."""
    unit = unit_words(channel.unit)
    taken = "nothing it knows" if found.taken is None else f"{found.taken:.3g} {unit}"
    pulls = stage.kind == "pull_up"
    return Finding(
        "stop" if found.reader.control else "caution",
        "first_reader_disturbed",
        channel.name,
        f"{found.reader.name} reads this sender already, and this input {'feeds its line too' if pulls else 'draws on its line'}: "
        f"it takes {found.there:.3g} {unit} for {taken}.",
        f"{found.share:.0%} of its range",
        "Read volts only, by an input of 100 kΩ or more; or fit a sender of its own."
        if found.reader.control
        else "An input that reads volts only; or take the old gauge off.",
        "scaling",
        channel.id,
        about=f"channel {channel.id}",
    )
