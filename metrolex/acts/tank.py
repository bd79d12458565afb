"""The fuel tank: what it holds, how it was dipped, its sender's curve out of that."""

from __future__ import annotations

from dataclasses import replace

from metrolex.acts.edit import channel_called, replaced
from metrolex.errors import BadInput
from metrolex.fuel.tank import Strapping, shape_curve, strapping
from metrolex.job import Job, Tank
from metrolex.job.within import replaced_within
from metrolex.senders import TableCurve

__all__ = ["curve_of", "set_tank", "take_tank_curve"]


def set_tank(job: Job, channel_id: str, tank: Tank, delay_s: float) -> Job:
    """The tank of a channel, its lamp at the reserve; what it holds is the vehicle's too. Raises BadInput."""
    channel = channel_called(job, channel_id)
    if tank.fillings:
        strapping(tuple((filling.litres, filling.ohm) for filling in tank.fillings), tank.capacity_l)
    warn = channel.warn_low
    if tank.reserve_l and channel.unit == "pct":
        warn = float(f"{100 * tank.reserve_l / tank.capacity_l:.3g}")
    elif tank.reserve_l and channel.unit == "L":
        warn = tank.reserve_l
    behaviour = replace(channel.behaviour, delay_s=delay_s)
    vehicle = replaced_within(job.vehicle, {"tank_l": tank.capacity_l})
    return replace(job, vehicle=vehicle).with_chain(
        replace(channel, tank=tank, warn_low=warn, behaviour=behaviour)
    )


def curve_of(tank: Tank) -> tuple[TableCurve, Strapping | None]:
    """Litres over ohms: as dipped, else by shape and ends. Raises BadInput while neither is known."""
    if tank.fillings:
        found = strapping(tuple((f.litres, f.ohm) for f in tank.fillings), tank.capacity_l)
        return found.curve, found
    if tank.empty_ohm is None or tank.full_ohm is None:
        raise BadInput(
            "fillings",
            None,
            "ohms empty and full, or three fillings",
            "Enter the ohms empty and full, or dip it with three known fillings.",
        )
    return shape_curve(tank.shape, tank.capacity_l, tank.empty_ohm, tank.full_ohm), None


def take_tank_curve(job: Job, channel_id: str) -> Job:
    """The sender's curve taken from the tank, in the unit of the channel (percent of what it holds, or litres). Raises BadInput."""
    channel = channel_called(job, channel_id)
    sender = job.sender(channel.sender)
    if channel.tank is None or sender is None:
        raise BadInput(
            "capacity",
            None,
            "a tank and a sender",
            "Enter the tank, and choose its sender on the Ports page first.",
        )
    litres, _ = curve_of(channel.tank)
    if sender.curve.x_unit != "ohm":
        raise BadInput("capacity", sender.curve.x_unit, "a sender that is a resistance")
    share = 100 / channel.tank.capacity_l if channel.unit == "pct" else 1.0
    points = tuple((x, float(f"{y * share:.6g}")) for x, y in litres.points)
    curve = TableCurve(points, "ohm", channel.unit, litres.interpolation)
    return replace(job, senders=replaced(job.senders, replace(sender, curve=curve)))
