"""The pair of a CAN bus: its resistance with the power off, its branches, and which signal brings which channel.

120 ohm at each end, 60 across the pair: ISO 11898-2. Branch lengths: common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.findings import Finding
from metrolex.job import Bus, BusSignal, Job, MeasuringChain
from metrolex.tables import load_table
from metrolex.topology import at_pin, topology_of

__all__ = ["PairVerdict", "bus_findings", "judge_pair", "longest_stub_m", "signals_for"]

ON_TOLERANCE = 0.1


@dataclass(frozen=True, slots=True)
class PairVerdict:
    """What the resistance across the pair says, and whether the display's own 120 ohm belongs in."""

    words: str
    healthy: bool
    terminate: bool


def judge_pair(ohm: float) -> PairVerdict:
    """Read across the pair, power off. Thresholds: a tenth about 60, 120 and 40 ohm."""
    if ohm < 5:
        return PairVerdict("The pair is shorted.", False, False)
    if abs(ohm - 60) <= 60 * ON_TOLERANCE:
        return PairVerdict("Both ends are there: leave the display's own resistor off.", True, False)
    if abs(ohm - 120) <= 120 * ON_TOLERANCE:
        return PairVerdict(
            "One end is missing: the display's resistor belongs in, if it is at that end.", False, True
        )
    if ohm < 54:
        return PairVerdict("Too many resistors sit on the bus: take the display's out first.", False, False)
    if ohm > 1000:
        return PairVerdict("No end resistor is seen: a broken pair, or the wrong two wires.", False, False)
    return PairVerdict("Neither one end nor two: a poor joint or water in a plug.", False, False)


def longest_stub_m(bitrate_kbit: float) -> float:
    """How long a branch may be, in metres: 0.3 m at 1 Mbit/s, in proportion below it (common practice, no source)."""
    return 0.3 * 1000 / bitrate_kbit


def signals_for(channel: MeasuringChain, bus: Bus) -> tuple[BusSignal, ...]:
    """Signals whose name speaks of what a channel shows, the likeliest first."""
    words = load_table("bus_words").get(channel.measurand, [])
    scored = []
    for signal in bus.signals:
        name = f"{signal.name} {signal.message}".lower().replace("_", "")
        score = sum(word in name for word in words)
        if score:
            scored.append((-score, signal))
    return tuple(signal for _, signal in sorted(scored, key=lambda pair: pair[0]))


def bus_findings(job: Job) -> Iterator[Finding]:
    """The pair, the branch, and channels fed by data no signal brings."""
    pins = [(d, p) for d in job.displays for p in d.pins if p.role == "can_high"]
    joined = [display for display, pin in pins if topology_of(job).wired(at_pin(display, pin))]
    if joined and job.bus.pair_ohm is None:
        yield Finding(
            "caution",
            "pair_not_measured",
            "Data bus",
            "Nobody read the pair with the power off.",
            "60 Ω wanted",
            "Battery off, meter across high and low.",
            "harness",
        )
    if job.bus.pair_ohm is not None:
        verdict = judge_pair(job.bus.pair_ohm)
        ends = any(d.can_termination for d in joined)
        if not verdict.healthy and not (verdict.terminate and ends):
            yield Finding(
                "caution",
                "pair_unhealthy",
                "Data bus",
                verdict.words,
                f"{job.bus.pair_ohm:g} Ω, 60 wanted",
                "Put the pair right before the display is blamed.",
                "harness",
            )
        elif verdict.healthy and ends:
            yield Finding(
                "caution",
                "one_resistor_too_many",
                "Data bus",
                "Both ends are there already, and a display adds its own.",
                "40 Ω",
                "Switch the display's resistor off.",
                "harness",
            )
    most = longest_stub_m(job.bus.bitrate_kbit)
    if job.bus.stub_m is not None and job.bus.stub_m > most:
        yield Finding(
            "caution",
            "stub_long",
            "Data bus",
            "The branch to the display is too long for this speed: echoes spoil frames.",
            f"{job.bus.stub_m:g} m, {most:.2f} m at the most",
            "Bring the bus itself to the display and on.",
            "harness",
        )
    yield from _signals(job)
    yield from _antenna(job)


def _antenna(job: Job) -> Iterator[Finding]:
    """What lies above the antenna of a GPS."""
    channel = next((c for c in job.measured if c.source == "gps"), None)
    if channel is None:
        return
    antenna = job.bus.antenna
    if antenna is None or not antenna.above:
        yield Finding(
            "note",
            "antenna_open",
            channel.name,
            "Nobody has said where the antenna sits and what is above it.",
            remedy="Roof first, then under plain glass; say it on Ports.",
            place="ports",
            channel=channel.id,
            about=f"channel {channel.id}",
        )
    elif antenna.above == "metal or carbon":
        yield Finding(
            "stop",
            "antenna_blind",
            channel.name,
            "Under metal or carbon an antenna hears no satellite.",
            antenna.where,
            "Put it on the roof, or under plain glass or plastic.",
            "ports",
            channel.id,
            about=f"channel {channel.id}",
        )
    elif antenna.above == "coated glass":
        yield Finding(
            "caution",
            "antenna_behind_coating",
            channel.name,
            "Coated or heated glass lets little through: fixes come late and break off.",
            antenna.where,
            "Find the clear field many screens have near the mirror, or put it on the roof.",
            "ports",
            channel.id,
            about=f"channel {channel.id}",
        )


def _signals(job: Job) -> Iterator[Finding]:
    """Channels fed by data no signal brings."""
    names = {signal.name for signal in job.bus.signals}
    for channel in job.measured:
        if channel.source == "ecu" and channel.signal and names and channel.signal not in names:
            yield Finding(
                "caution",
                "signal_unknown",
                channel.name,
                f"The bus lists no signal '{channel.signal}'.",
                remedy="Choose one of its signals.",
                place="harness",
                channel=channel.id,
                about=f"channel {channel.id}",
            )
        elif channel.source == "ecu" and names and not channel.signal:
            yield Finding(
                "note",
                "signal_open",
                channel.name,
                "It comes from the bus, but no signal is chosen.",
                remedy="Choose one of its signals.",
                place="harness",
                channel=channel.id,
                about=f"channel {channel.id}",
            )
