"""Pressure at a place on the fuel path: which side of the high-pressure pump it is on, and what its sender must stand.

Pressures by system: ``data/fuel_systems.toml`` (common practice, no source; the vehicle maker's figure comes first).
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from metrolex.errors import BadInput
from metrolex.findings import Finding, Grade
from metrolex.fuel.systems import may_be_high_pressure, system_of
from metrolex.job import Job, MeasuringChain, Port, Sender, Vehicle
from metrolex.job.place import FlowPath
from metrolex.ports.places import Place, place_of
from metrolex.ports.voice import Voice
from metrolex.quantities import in_unit, unit_words
from metrolex.senders import y_range

__all__ = ["fuel_findings", "line_bar", "proof_bar", "side_of"]

Side = Literal["low", "high", "not known"]
PROOF_RATIO = 1.5  # of a sender's range, where its maker does not say (common practice, no source)
NEAR_M = 0.3  # from the lift pump: no high-pressure pump fits between (common practice, no source)
LEAST_SHARE = 0.15  # of a sender's range that the line should reach (common practice, no source)


def side_of(vehicle: Vehicle, path: FlowPath | None, at_m: float | None, place: Place | None) -> Side:
    """Which side of the high-pressure pump a place on the fuel path is on; what cannot be told is not the low side."""
    if not may_be_high_pressure(vehicle.fuel.burns, vehicle.fuel.fuel_feed):
        return "low"
    known = system_of(vehicle.fuel.fuel_feed) is not None or vehicle.fuel.burns == "diesel"
    pump = path.first("high_pressure_pump") if path else None
    rail = path.first("rail") if path else None
    back = path.last("regulator") if path else None
    if path is not None and at_m is not None:
        if back is not None and at_m >= back.end_m:
            return "low"
        if pump is not None:
            return "high" if at_m > pump.at_m else "low"
        if rail is not None and at_m >= rail.at_m:
            return "high" if known else "not known"
        lift = path.last("lift_pump")
        if lift is not None and at_m <= lift.end_m + NEAR_M:
            return "low"
        return "not known"
    if place is not None and "rail" in place.anchors and place.side == "at":
        return "high" if known else "not known"
    return "low" if place is not None and place.anchors[:1] == ("lift_pump",) else "not known"


def line_bar(vehicle: Vehicle) -> tuple[float, float] | None:
    """What stands in the low-pressure line, low to high in bar: as measured, else as its system has it; None if neither is known."""
    if vehicle.fuel.fuel_line_bar is not None:
        return vehicle.fuel.fuel_line_bar, vehicle.fuel.fuel_line_bar
    system = system_of(vehicle.fuel.fuel_feed)
    return system.supply_bar if system else None


def proof_bar(sender: Sender) -> float | None:
    """The pressure a sender survives, in bar; None for one that measures no pressure."""
    if sender.body.proof_bar is not None:
        return sender.body.proof_bar
    try:
        return PROOF_RATIO * in_unit(y_range(sender.curve)[1], sender.curve.y_unit, "bar")
    except BadInput:
        return None


def _side_unknown(say: Voice, vehicle: Vehicle, place: Place | None) -> Finding:
    """A place that may be behind the high-pressure pump for all that was said."""
    at_rail = place is not None and "rail" in place.anchors and place.side == "at"
    grade: Grade = "stop" if at_rail or vehicle.fuel.burns == "diesel" else "caution"
    system = system_of(vehicle.fuel.fuel_feed)
    if system is not None and system.high_bar is not None:
        return say(
            grade,
            "fuel_side_unknown",
            "Nobody has said on which side of the high-pressure pump this is: behind it there are hundreds of bar.",
            f"up to {system.high_bar[1]:g} bar",
            "Start the flow paths and put the place before the high-pressure pump.",
        )
    return say(
        grade,
        "fuel_system_unknown",
        "Nobody has said how the fuel is injected: behind a high-pressure pump there are hundreds of bar.",
        "up to 2500 bar",
        "Say on Brief how the fuel is fed; on the path, where the high-pressure pump sits.",
    )


def fuel_findings(
    say: Voice, job: Job, channel: MeasuringChain, port: Port, sender: Sender | None
) -> Iterator[Finding]:
    """Findings of a place in the fuel line: high pressure, an unknown system, a sender too weak or too coarse for it."""
    vehicle, place, path = job.vehicle, place_of(channel.measurand, port), job.path(port.spot.path)
    if not (path is not None and path.kind == "fuel") and not (place is not None and place.path == "fuel"):
        return
    if channel.measurand == "fuel_level":
        return
    system, side = system_of(vehicle.fuel.fuel_feed), side_of(vehicle, path, port.spot.at_m, place)
    if side == "high":
        high = system.high_bar if system and system.high_bar else (100.0, 2500.0)
        yield say(
            "stop",
            "high_pressure_side",
            "These lines are never opened for a gauge: a jet from them goes through skin, and the sender bursts.",
            f"{high[0]:g} to {high[1]:g} bar here",
            "Take the low-pressure supply, before the high-pressure pump; the rail's own reading comes from the data stream.",
        )
        return
    if side == "not known":
        yield _side_unknown(say, vehicle, place)
    line = line_bar(vehicle)
    if channel.measurand != "fuel_pressure" or sender is None:
        return
    yield from _borne(say, channel, sender, line)


def _borne(
    say: Voice, channel: MeasuringChain, sender: Sender, line: tuple[float, float] | None
) -> Iterator[Finding]:
    """Whether the sender bears the line and reads it finely enough, and whether its warning may ever end."""
    proof = proof_bar(sender)
    if line is None:
        yield say(
            "caution",
            "line_pressure_unknown",
            "What stands in this line is not known, so nobody knows whether the sender bears it.",
            "",
            "Say on Brief how the fuel is fed, or measure the line and write it there.",
        )
    elif proof is not None and line[1] > proof:
        yield say(
            "stop",
            "over_proof_pressure",
            "The line carries more than the sender survives.",
            f"{line[1]:g} bar, sender up to {proof:g} bar",
            "Take a sender made for it, or another place.",
        )
    elif proof is not None:
        top = in_unit(y_range(sender.curve)[1], sender.curve.y_unit, "bar")
        if line[1] > top:
            yield say(
                "caution",
                "over_range",
                "The line goes beyond what the sender reads.",
                f"{line[1]:g} bar, reads to {top:g} bar",
                "Take a sender with more range.",
            )
        elif line[1] < LEAST_SHARE * top:
            yield say(
                "caution",
                "sender_too_coarse",
                f"All this line ever gives is the first {100 * line[1] / top:.0f} % of the sender's range.",
                f"{line[0]:g} to {line[1]:g} bar of {top:g} bar",
                "Take a sender with less range, or its own error is the reading.",
            )
    if line is not None and channel.warn_low is not None:
        warn_bar = in_unit(channel.warn_low, channel.unit, "bar")
        if warn_bar >= line[0]:
            yield Finding(
                "caution",
                "warns_for_good",
                channel.name,
                "It warns below a pressure this fuel system need not reach.",
                f"below {channel.warn_low:g} {unit_words(channel.unit)}, line {line[0]:g} to {line[1]:g} bar",
                "Set the warning under the lowest the system gives.",
                "scaling",
                channel.id,
                about=f"channel {channel.id}",
            )
