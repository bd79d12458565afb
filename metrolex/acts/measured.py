"""Points measured in the bay, and the curve taken from them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from metrolex.acts.edit import replaced
from metrolex.errors import BadInput
from metrolex.job import Job, Measured, Sender
from metrolex.senders.fit import FIT_KINDS, fit_curve
from metrolex.senders.pasted import read_points

__all__ = ["add_points", "remove_point", "take_law", "take_library_curve", "thousandfold"]


def add_points(job: Job, channel_id: str, text: str, how: str) -> Job:
    """Points more, as written: what the sender gave, then what was true. Raises BadInput (``points``)."""
    sender = _sender(job, channel_id)
    fresh = read_points(text, sender.curve.x_unit, sender.curve.y_unit)
    if not fresh:
        raise BadInput("points", "", "one point or more")
    have = {point.x for point in sender.measured}
    for x, y in fresh:
        if x in have:
            raise BadInput("points", x, "each meter reading once", f"{x:g} stands among the points already.")
        if sender.curve.x_unit == "ohm" and x < 0:
            raise BadInput("points", x, "ohms of 0 or more")
        have.add(x)
        sender = replace(sender, measured=(*sender.measured, Measured(x, y, how)))
    return _with(job, sender)


def remove_point(job: Job, channel_id: str, number: int) -> Job:
    """A point less, by its place in the list from 0. Raises BadInput for one that is not there."""
    sender = _sender(job, channel_id)
    if not 0 <= number < len(sender.measured):
        raise BadInput("number", number, f"0 to {len(sender.measured) - 1}")
    left = tuple(point for i, point in enumerate(sender.measured) if i != number)
    return _with(job, replace(sender, measured=left))


def thousandfold(job: Job, channel_id: str) -> Job:
    """The points were read in kilo-ohms: a thousand times as much each. Raises BadInput where they are no ohms."""
    sender = _sender(job, channel_id)
    if sender.curve.x_unit != "ohm" or not sender.measured:
        raise BadInput("points", None, "points in ohms")
    return _with(job, replace(sender, measured=tuple(replace(p, x=1000 * p.x) for p in sender.measured)))


def take_law(job: Job, channel_id: str, law: str) -> Job:
    """The law fitted to the points as the sender's own. Raises BadInput for an unknown law or points that give none.

    A sender that was measured is as good as its fit: the band of its points takes the place of the maker's tolerance.
    """
    sender = _sender(job, channel_id)
    if law not in FIT_KINDS:
        raise BadInput("law", law, " | ".join(FIT_KINDS))
    points = tuple((point.x, point.y) for point in sender.measured)
    fit = fit_curve(law, points, sender.curve.x_unit, sender.curve.y_unit)
    tolerance = sender.tolerance
    if fit.band is not None:
        tolerance = replace(tolerance, x_pct=0.0, y=float(f"{2 * fit.rms_residual:.2g}"))
    return _with(job, replace(sender, curve=fit.curve, tolerance=tolerance))


def take_library_curve(job: Job, channel_id: str, name: str, library: Mapping[str, Sender]) -> Job:
    """A library sender's curve as this sender's. Raises BadInput for one the library does not have."""
    sender = _sender(job, channel_id)
    if name not in library:
        raise BadInput("sender", name, "a sender of the library")
    return _with(job, replace(sender, curve=library[name].curve))


def _with(job: Job, sender: Sender) -> Job:
    return replace(job, senders=replaced(job.senders, sender))


def _sender(job: Job, channel_id: str) -> Sender:
    channel = job.chain(channel_id)
    sender = job.sender(channel.sender) if channel else None
    if sender is None:
        raise BadInput(
            "channel", channel_id, "a channel with a sender", "Choose a sender on the Ports page first."
        )
    return sender
