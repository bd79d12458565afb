"""What is known of a place: its own facts, and where it is silent those of the path under it."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.fittings.fitting import End
from metrolex.fittings.joints import Service
from metrolex.fittings.stack import Stack, end_called, make_up
from metrolex.job import Job, MeasuringChain, Port, Sender
from metrolex.job.place import Entry, FlowPath, Material
from metrolex.ports.places import place_of

__all__ = [
    "Facts",
    "facts_of",
    "hanging_on",
    "mouth_of",
    "mouths_of",
    "sender_end",
    "senders_in",
    "service_of",
    "spare_mouths",
    "stack_of",
]

_SERVICES: dict[str, Service] = {
    "exhaust": "exhaust",
    "fuel": "fuel",
    "coolant": "coolant",
    "engine_oil": "oil",
    "gearbox_oil": "oil",
    "intake": "air",
    "water": "water",
}


@dataclass(frozen=True, slots=True)
class Facts:
    """Facts of a place, in millimetres and degC; None is not known yet."""

    path: FlowPath | None
    at_m: float | None
    entry: Entry
    material: Material
    wall_mm: float | None
    bore_mm: float | None
    straight: bool
    straight_mm: float | None
    peak_degc: float | None
    access: int
    stretch: str


def facts_of(job: Job, channel: MeasuringChain, port: Port) -> Facts:
    """The facts of a place of a job."""
    place, path = place_of(channel.measurand, port), job.path(port.spot.path)
    under = path.stretch_at(port.spot.at_m) if path and port.spot.at_m is not None else None
    entry = port.spot.entry or (place.entry if place else "existing")
    # A mouth that is there has a boss of its own: the wall of the pipe says nothing of it.
    pipe_wall_mm = under.wall_mm if under and entry not in ("existing", "replaces") else None
    return Facts(
        path,
        port.spot.at_m,
        entry,
        port.spot.wall.material or (under.material if under else ""),
        port.spot.wall.wall_mm or pipe_wall_mm,
        port.spot.wall.bore_mm or (under.bore_mm if under else None),
        under.straight if under else True,
        port.spot.wall.straight_mm,
        port.spot.wall.peak_degc
        if port.spot.wall.peak_degc is not None
        else (under.peak_degc if under else None),
        port.spot.access if port.spot.access is not None else (place.marks["access"] if place else 2),
        under.name if under else "",
    )


def service_of(job: Job, channel: MeasuringChain, port: Port) -> Service:
    """What flows behind a place."""
    path, place = job.path(port.spot.path), place_of(channel.measurand, port)
    kind = path.kind if path else (place.path if place else "")
    return _SERVICES.get(kind, "")


def spare_mouths(job: Job, port: Port) -> int:
    """Mouths of its fittings that no channel of the job uses."""
    sharing = len(senders_in(job, port))
    return max(0, sum(fitting.spare_ports for fitting in port.stack) - max(0, sharing - 1))


def mouths_of(port: Port) -> int:
    """How many senders a place takes: its own mouth, and those of a plate, a block or a tee in it."""
    return 1 + sum(fitting.spare_ports + (fitting.sort == "tee") for fitting in port.stack)


def senders_in(job: Job, port: Port) -> tuple[MeasuringChain, ...]:
    """The channels whose sender sits at a place, those that ride on another's or sit in its body left out; one for each sender."""
    found = {
        channel.sender: channel
        for channel in reversed(job.measured)
        if channel.port == port.id and (sender := job.sender(channel.sender)) and sender.screwed_in
    }
    return tuple(reversed(found.values()))


def hanging_on(job: Job, path: FlowPath, but: MeasuringChain | None = None) -> tuple[tuple[str, float], ...]:
    """The channels whose chosen places are on a path, each with its metres along it; places shared with ``but`` are left out."""
    found = {}
    for channel in job.measured:
        port = job.port(channel.port)
        if port is None or port.spot.path != path.id or port.spot.at_m is None:
            continue
        if but is None or (channel.channel != but.channel and port.id != but.port):
            found[channel.name] = port.spot.at_m
    return tuple(sorted(found.items(), key=lambda spot: spot[1]))


def mouth_of(port: Port) -> End:
    """The open end at a place: the thread named there, female unless it says male. Raises BadInput (``thread``)."""
    return end_called(port.thread, "thread", "female")


def sender_end(sender: Sender) -> End:
    """The end of a sender, male unless it says female. Raises BadInput (``thread``) for a sender with no thread."""
    return end_called(sender.body.thread, "thread", "male")


def stack_of(port: Port, sender: Sender) -> Stack:
    """The fittings chosen at a place with the sender on top. Raises BadInput where a thread has no name."""
    return make_up(mouth_of(port), port.stack, sender_end(sender))
