"""Rules of scaling: does the sender reach as far as the gauge, is anything entered at all."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.findings import Finding
from metrolex.job import Input, Job, MeasuringChain, Sender
from metrolex.quantities import in_unit, unit_words
from metrolex.scaling.by_turns import by_turns_findings
from metrolex.scaling.counting import carrier_of
from metrolex.scaling.error import table_error
from metrolex.scaling.mistaken import PRESSURES, mistake_in
from metrolex.scaling.reading import ends
from metrolex.scaling.second_reader import second_reader_findings
from metrolex.senders import ThermocoupleCurve, is_monotonic, y_range

__all__ = ["MAX_ERROR_RATIO", "counts_from_unsaid", "scaling_findings"]

#: Kinds of input that read what a sender gives.
INPUT_FOR = {
    "ohm": ("pull_up",),
    "volt": ("volts",),
    "millivolt": ("thermocouple",),
    "milliampere": ("loop",),
    "hertz": ("pulse",),
    "millisecond": ("pulse",),
}
_INPUT_WORDS = {
    "pull_up": "a resistance",
    "volts": "volts",
    "pulse": "pulses",
    "thermocouple": "a thermocouple",
    "loop": "a current loop",
    "data": "data",
    "supply": "its own supply",
    "own_lead": "a sensor on its own lead",
}
NO_VACUUM_BAR = (
    -0.2
)  # a manifold pulls more than this at idle: a curve above it has no vacuum (common practice, no source)
MAX_ERROR_RATIO = 0.03  # of the face's range (common practice, no source)


def scaling_findings(job: Job) -> Iterator[Finding]:
    """Findings of every channel that has a sender and a display, and of dials that are shared."""
    yield from by_turns_findings(job)
    yield from second_reader_findings(job)
    for channel in job.chains:
        sender = job.heard(channel)
        stage = job.input_of(channel)
        if stage is None or stage.kind == "supply" or sender is None:
            continue
        if stage.kind == "data":
            continue  # a number comes ready-made
        takes = INPUT_FOR.get(sender.curve.x_unit)
        if takes is not None and stage.kind not in takes:
            yield Finding(
                "stop",
                "input_does_not_take_it",
                channel.name,
                f"The sender gives {unit_words(sender.curve.x_unit)}, input {stage.id} of its display is made for {_INPUT_WORDS[stage.kind]}.",
                figure=unit_words(sender.curve.x_unit),
                remedy="Take another input (Set-up sheets), another sender, or a converter between them.",
                place="scaling",
                channel=channel.id,
                about=f"channel {channel.id}",
            )
        elif (
            stage.kind == "thermocouple"
            and isinstance(sender.curve, ThermocoupleCurve)
            and stage.thermocouple_type != sender.curve.type
        ):
            yield Finding(
                "stop",
                "wrong_thermocouple",
                channel.name,
                f"A type {sender.curve.type} thermocouple is read as type {stage.thermocouple_type}: the reading is wrong by tens of degrees when hot.",
                figure=f"{sender.curve.type} as {stage.thermocouple_type}",
                remedy="Set the input to the type of the thermocouple fitted.",
                place="scaling",
                channel=channel.id,
                about=f"channel {channel.id}",
            )
        elif sender.rides and carrier_of(job, channel) is None:
            yield Finding(
                "stop",
                "no_carrier",
                channel.name,
                "It is read off how long the pulses of another sender are low, and none sends pulses to this input.",
                figure=f"input {stage.id}",
                remedy="Put it on the input of the content sensor (Set-up sheets).",
                place="scaling",
                channel=channel.id,
                about=f"channel {channel.id}",
            )
        if not channel.scaling.table and stage.kind != "thermocouple":
            yield Finding(
                "note",
                "nothing_entered",
                channel.name,
                "No table is entered in the display for this sender yet.",
                remedy="Enter the gauge's table, or take the sender's curve.",
                place="scaling",
                channel=channel.id,
                about=f"channel {channel.id}",
            )
        if not is_monotonic(sender.curve):
            yield Finding(
                "stop",
                "curve_turns_back",
                channel.name,
                "The sender's curve turns back, so one sender value stands for several readings.",
                remedy="Check the measured points.",
                place="scaling",
                channel=channel.id,
                about=f"channel {channel.id}",
            )
        if counts_from_unsaid(channel, sender):
            yield Finding(
                "caution",
                "absolute_or_gauge",
                channel.name,
                f"Its curve begins at {y_range(sender.curve)[0]:.3g} {unit_words(sender.curve.y_unit)} and knows no vacuum: is it absolute? Most manifold sensors count from a vacuum.",
                remedy="Say on Scaling what its curve counts from.",
                place="scaling",
                channel=channel.id,
                about=f"channel {channel.id}",
            )
        if not channel.scaling.assumed:  # of what nobody entered there is nothing to find
            yield from _table_findings(job, channel, sender, stage)
            yield from _range_findings(channel, *y_range(sender.curve), sender.curve.y_unit)
        yield from _warning_findings(channel)


def counts_from_unsaid(channel: MeasuringChain, sender: Sender) -> bool:
    """Whether a curve of boost may be one of absolute pressure, and nobody has said."""
    if (
        channel.measurand != "boost"
        or channel.box
        or sender.counts_from
        or sender.curve.y_unit not in PRESSURES
    ):
        return False
    return in_unit(y_range(sender.curve)[0], sender.curve.y_unit, "bar") > NO_VACUUM_BAR


def _table_findings(job: Job, channel: MeasuringChain, sender: Sender, stage: Input) -> Iterator[Finding]:
    strip, (low, high) = table_error(channel, sender, stage), ends(channel.scaling)
    if strip is None or not strip.true.size or low is None or high is None:
        return
    # The last digit rounds however good the table is.
    digit = 0.51 * 10.0**-channel.scaling.decimals
    allowed = max(MAX_ERROR_RATIO * (high - low), digit)
    if strip.largest > allowed:
        at = strip.true[abs(strip.error).argmax()]
        meant = mistake_in(strip, channel.unit, allowed, digit, job.vehicle.identity.altitude_m or 0.0)
        yield Finding(
            "caution",
            "table_off_curve",
            channel.name,
            meant.words
            if meant
            else f"What is entered in the display does not follow this sender: worst near {at:.3g} {unit_words(channel.unit)}.",
            figure=f"{strip.largest:.3g} {unit_words(channel.unit)} off",
            remedy=meant.remedy if meant else "Take the table's points from the sender's curve.",
            place="scaling",
            channel=channel.id,
            about=f"channel {channel.id}",
        )


def _range_findings(
    channel: MeasuringChain, sender_low: float, sender_high: float, unit: str
) -> Iterator[Finding]:
    low, high = ends(channel.scaling)
    reach_low, reach_high = in_unit(sender_low, unit, channel.unit), in_unit(sender_high, unit, channel.unit)
    if low is None or high is None:
        return
    slack = 1e-6 * max(abs(low), abs(high), 1.0)
    missing = []
    if reach_high < high - slack:
        missing.append(f"above {reach_high:g} {unit_words(channel.unit)}")
    if reach_low > low + slack:
        missing.append(f"below {reach_low:g} {unit_words(channel.unit)}")
    if missing:
        yield Finding(
            "caution",
            "sender_range_short",
            channel.name,
            f"The gauge goes from {low:g} to {high:g} {unit_words(channel.unit)}, but the sender's curve says nothing "
            + " or ".join(missing)
            + ".",
            figure=f"{reach_low:g} to {reach_high:g} {unit_words(channel.unit)}",
            remedy="Get more points of the curve, or set the gauge's range to what the sender covers.",
            place="scaling",
            channel=channel.id,
            about=f"channel {channel.id}",
        )


def _warning_findings(channel: MeasuringChain) -> Iterator[Finding]:
    if channel.warn_low is None and channel.warn_high is None:
        yield Finding(
            "note",
            "no_warning_point",
            channel.name,
            "No warning point is set for this reading.",
            remedy="Set the value the driver must act at.",
            place="scaling",
            channel=channel.id,
            about=f"channel {channel.id}",
        )
