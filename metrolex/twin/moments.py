"""A heated mixture sensor through the day: what its box draws and gives, and what stands on the face, from key-on to overrun."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.job import Display, MeasuringChain, Output, State
from metrolex.scaling.reading import Shown
from metrolex.senders import x_at, y_range
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.run import reading_of, solve, true_values

__all__ = ["Moment", "moments"]

_KEY_ON, _RUNNING = State("run"), State("run", "off", "running")


@dataclass(frozen=True, slots=True)
class Moment:
    """One moment: what the box draws in ampere and gives in ``unit`` (None: its maker does not say), and the face."""

    when: str
    draws_a: float
    gives: float | None
    unit: str
    shown: Shown | None
    why: str


@once_per_circuit
def moments(network: Network, channel: MeasuringChain) -> tuple[Moment, ...]:
    """The moments of a mixture channel read by a box with its sensor on the maker's lead; none for any other.

    In air and on overrun a mixture sensor finds no fuel at all: the box gives its leanest (common practice, no source).
    """
    job = network.job
    box, stage = job.sender_wired_to(channel)
    output = box.output_called(channel.output) if box else None
    if channel.measurand != "lambda" or box is None or output is None:
        return ()
    if stage is None or stage.kind != "own_lead":
        return ()
    low, high = y_range(output.curve)
    leanest = float(x_at(output.curve, high))
    true = true_values(job, _RUNNING).get(channel.channel)
    running = x_at(output.curve, min(max(true, low), high)).item() if true is not None else None
    warming_s = max((pin.peak_s for pin in box.pins), default=0.0)
    for_s = f" for about {warming_s:g} s" if warming_s else ""
    return (
        _moment(
            network, channel, box, output, _KEY_ON, f"Key on, cold: it heats up{for_s}", output.unready_x,
            "No reading yet, whatever the face says. Start the engine soon: a hot cell in a cold, wet pipe cracks.",
            warming=True,
        ),
        _moment(
            network, channel, box, output, _KEY_ON, "Ready, engine stopped", leanest,
            "Air in the pipe. So does the sensor held in free air: the check after fitting, as the maker says how.",
        ),
        _moment(
            network, channel, box, output, _RUNNING, "Engine running, warm", running,
            "The reading. At idle with a long cam or a leak before the sensor it looks leaner than it is.",
        ),
        _moment(
            network, channel, box, output, _RUNNING, "Overrun, fuel cut", leanest,
            "Lean on purpose: no alarm should come of it.",
        ),
        _moment(
            network, channel, box, output, _RUNNING, "Sensor unplugged, or its heater dead", output.unready_x,
            "It must not pass for a mixture: know this face.",
        ),
    )  # fmt: skip


def _moment(
    network: Network,
    channel: MeasuringChain,
    box: Display,
    output: Output,
    state: State,
    when: str,
    gives: float | None,
    why: str,
    *,
    warming: bool = False,
) -> Moment:
    feeds = [pin for pin in box.pins if pin.role == "ignition"]
    draws = sum(pin.highest_a if warming else pin.load_a for pin in feeds)
    shown = None
    if gives is not None:
        heard = network.job.heard(channel)
        shown = reading_of(solve(network, state, outputs={heard.id: gives} if heard else {}), channel)
    return Moment(when, draws, gives, output.curve.x_unit, shown, why)
