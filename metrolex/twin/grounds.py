"""Grounds: what stands between each sender's return and its display's ground, and what star or chain would make of it.

One point for all displays, each by its own wire (star), or from display to display (chain): practitioners disagree. The
twin says what each does on this job, in volts of offset and in the reading.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from metrolex.findings import Finding
from metrolex.job import Conductor, End, Job, MeasuringChain, State, Straps
from metrolex.quantities import unit_words
from metrolex.scaling.reading import ends
from metrolex.topology import at_port, at_terminal, returns_at, topology_of
from metrolex.twin import addresses
from metrolex.twin.build import Network, build
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.run import Solved, readings, solve

__all__ = ["GroundLayout", "SenderGround", "ground_findings", "ground_layouts", "sender_grounds"]

BUSY = State("run", "head", "running")
OFFSET_V = 0.02  # worth saying (common practice, no source)
CAUTION_RATIO = 0.03  # of the scale (common practice, no source)
STAR_M, CHAIN_M = 0.5, 0.3  # to the point, from display to display, where nothing is laid yet


@dataclass(frozen=True, slots=True)
class SenderGround:
    """Where one sender returns, and its ground above the display's ground with everything on, in volts."""

    channel: MeasuringChain
    returns: str
    offset_v: float | None
    shift: float | None
    """what the offset does to the reading, in the channel's unit"""


@dataclass(frozen=True, slots=True)
class GroundLayout:
    """One practice tried on this job: the ground of each display above battery negative, each sender's offset."""

    key: str
    words: str
    rises_v: dict[str, float]
    senders: tuple[SenderGround, ...]

    @property
    def worst_v(self) -> float:
        return max((abs(s.offset_v) for s in self.senders if s.offset_v is not None), default=0.0)


@once_per_circuit
def sender_grounds(network: Network) -> tuple[SenderGround, ...]:
    """The ground plan of the senders at the busiest state: engine running, headlamps on."""
    return _senders(network, _shown_without_offset(network))


def _senders(network: Network, ideal: dict[str, float]) -> tuple[SenderGround, ...]:
    solved = solve(network, BUSY)
    return tuple(
        _sender_ground(network.job, channel, solved, ideal)
        for channel in network.job.chains
        if network.job.heard(channel) is not None
    )


@once_per_circuit
def ground_layouts(network: Network) -> tuple[GroundLayout, ...]:
    """As laid, as a star and as a chain."""
    job = network.job
    found = [_layout("laid", "As laid now", network, sender_grounds(network))]
    if _can_be_laid(job):
        ideal = _shown_without_offset(network)
        for key, words, other in (
            ("star", "Star: each display by its own wire to the point", build(_star(job))),
            ("chain", "Chain: from display to display, the first to the point", build(_chain(job))),
        ):
            found.append(_layout(key, words, other, _senders(other, ideal)))
    return tuple(found)


def _can_be_laid(job: Job) -> bool:
    return bool(job.grounds) and any(display.pin_for("ground") for display in job.displays)


def _layout(key: str, words: str, network: Network, senders: tuple[SenderGround, ...]) -> GroundLayout:
    solved = solve(network, BUSY)
    rises = {}
    for display in network.job.displays:
        ground = display.pin_for("ground")
        volts = solved.volts(addresses.pin_node(display, ground.id)) if ground else None
        if volts is not None:
            rises[display.id] = volts
    return GroundLayout(key, words, rises, senders)


def _sender_ground(
    job: Job, channel: MeasuringChain, solved: Solved, ideal: dict[str, float]
) -> SenderGround:
    display, back = job.display(channel.display), returns_at(job, channel)
    pin = display.pin_for("ground") if display else None
    offset = (
        solved.across(addresses.end_node(job, back, ""), addresses.pin_node(display, pin.id))
        if display and pin and back
        else None
    )
    face = readings(solved).get(channel.id)
    value = face.value if face is not None else None
    shift = value - ideal[channel.id] if value is not None and channel.id in ideal else None
    return SenderGround(channel, _returns(job, channel), offset, shift)


def _returns(job: Job, channel: MeasuringChain) -> str:
    sender, port = job.sender(channel.sender), job.port(channel.port)
    if channel.box is not None:
        box = job.display(channel.box)
        points = topology_of(job).grounds_of(box) if box else ()
        return f"by its box, at {' and '.join(points)}" if points else "by its box, which has no ground yet"
    assert sender is not None
    if sender.wires > 1:
        wire = next(iter(topology_of(job).wires_at(at_terminal(sender, "return"))), None)
        return f"by its own wire {wire.id}" if wire else "by its own wire, not laid yet"
    if port is None:
        return "by its body; no port chosen yet"
    lead = next(iter(topology_of(job).wires_at(at_port(port))), None)
    if lead is not None:
        return f"by its body and the ground lead {lead.id}"
    if port.ground.grounded:
        return f"by its thread into the {'engine' if port.ground.ground_at == 'engine' else 'body'}"
    return "by its body, which joins no metal"


@once_per_circuit
def _shown_without_offset(network: Network) -> dict[str, float]:
    """What each channel would show if every ground were there and perfect: straps, points and ground wires without resistance."""
    job, tiny = _star(network.job) if _can_be_laid(network.job) else network.job, 1e-7
    lengths_m = topology_of(job).lengths_m
    straps = Straps(tiny, tiny, tiny, job.vehicle.electrics.straps.strap_tolerance_pct)
    short = tuple(
        replace(w, length_m=1e-6, joint_ohm=0.0, run=None) if _is_ground(job, w) and w.id in lengths_m else w
        for w in job.conductors
    )
    perfect = replace(
        job,
        vehicle=replace(job.vehicle, electrics=replace(job.vehicle.electrics, straps=straps)),
        conductors=short,
        grounds=tuple(replace(g, contact_ohm=tiny, drop_v=None, drop_load_a=None) for g in job.grounds),
        ports=tuple(replace(p, ground=replace(p.ground, thread_ohm=tiny)) for p in job.ports),
    )
    solved = solve(build(perfect), BUSY)
    return {key: shown.value for key, shown in readings(solved).items() if shown.value is not None}


def _is_ground(job: Job, wire: Conductor) -> bool:
    return any(
        end.kind in ("ground", "port")
        or (
            end.kind == "display"
            and (d := job.display(end.id)) is not None
            and any(p.id == end.terminal and p.role == "ground" for p in d.pins)
        )
        for end in (wire.a, wire.b)
    )


def _bare(job: Job) -> tuple[Job, list[tuple[str, str]]]:
    """The job without the wires of its displays' grounds, and the ground pins. What returns a sender stays as it is laid."""
    pins = [(d.id, pin.id) for d in job.displays if (pin := d.pin_for("ground"))]
    kept = tuple(w for w in job.conductors if not _grounds_a_display(w, pins))
    return replace(job, conductors=kept), pins


def _grounds_a_display(wire: Conductor, pins: list[tuple[str, str]]) -> bool:
    ends = (wire.a, wire.b)
    return any(end.kind == "display" and (end.id, end.terminal) in pins for end in ends) and not any(
        end.kind in ("sender", "port") for end in ends
    )


def _star(job: Job) -> Job:
    bare, pins = _bare(job)
    point = job.grounds[0].id
    wires = [
        Conductor(f"star {i}", End("ground", point), End("display", d, p), 0.75, length_m=STAR_M)
        for i, (d, p) in enumerate(pins)
    ]
    return replace(bare, conductors=(*bare.conductors, *wires))


def _chain(job: Job) -> Job:
    bare, pins = _bare(job)
    wires = []
    before = End("ground", job.grounds[0].id)
    for i, (d, p) in enumerate(pins):
        here = End("display", d, p)
        wires.append(Conductor(f"chain {i}", before, here, 0.75, length_m=STAR_M if i == 0 else CHAIN_M))
        before = here
    return replace(bare, conductors=(*bare.conductors, *wires))


def _span(channel: MeasuringChain) -> float:
    low, high = ends(channel.scaling)
    return high - low if low is not None and high is not None else float("inf")


def ground_findings(network: Network) -> Iterator[Finding]:
    """Senders whose return stands too far above their display's ground to be believed."""
    for found in sender_grounds(network):
        if found.offset_v is None or found.shift is None or abs(found.offset_v) < OFFSET_V:
            continue
        if abs(found.shift) < 10**-found.channel.scaling.decimals:
            continue
        yield Finding(
            "caution" if abs(found.shift) > CAUTION_RATIO * _span(found.channel) else "note",
            "ground_offset",
            found.channel.name,
            f"Its sender returns {found.returns}, {abs(found.offset_v) * 1000:.0f} mV {'above' if found.offset_v > 0 else 'below'} the display's ground with the engine running and headlamps on.",
            f"reads {abs(found.shift):.{found.channel.scaling.decimals}f} {unit_words(found.channel.unit)} {'high' if found.shift > 0 else 'low'}",
            "Give it a return of its own, or ground the display beside the sender's metal.",
            "feeds",
            found.channel.id,
            about=f"channel {found.channel.id}",
        )
