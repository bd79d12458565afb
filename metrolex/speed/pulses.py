"""From the wheel to pulses: where the sensor sits, how many pulses a turn, what that is in hertz.

Pulses per km = turns per km x axle ratio (sensed before the axle) x pulses per turn. A cable turns 1000 times a mile unless it
is known better (common practice). One mile is 1609.344 m (NIST SP 811).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from metrolex.errors import BadInput
from metrolex.findings import Finding

__all__ = [
    "CABLE_TURNS_PER_MILE",
    "MILE_M",
    "Magnets",
    "Pulses",
    "Sensed",
    "gap_card",
    "input_findings",
    "pulses_per_km",
    "reluctor_volts",
]

Sensed = Literal["wheel", "driveline", "cable"]
MILE_M = 1609.344
CABLE_TURNS_PER_MILE = 1000.0
WALK_KMH = 5.0
#: A speed shown at walking pace should be renewed this often (common practice, no source).
SLOW_UPDATE_S = 0.5


@dataclass(frozen=True, slots=True)
class Pulses:
    """Pulses for a distance, and what that is in time."""

    per_km: float

    @property
    def per_mile(self) -> float:
        return self.per_km * MILE_M / 1000

    def hertz(self, kmh: float) -> float:
        return self.per_km * kmh / 3600

    def kmh(self, hertz: float) -> float:
        return hertz * 3600 / self.per_km


def pulses_per_km(
    sensed: Sensed,
    pulses_per_rev: float,
    *,
    circumference_m: float | None = None,
    axle_ratio: float | None = None,
    cable_turns_per_km: float | None = None,
) -> Pulses:
    """Pulses over a kilometre.

    Raises BadInput for no pulses, for a wheel or driveline without a circumference, a driveline without an axle ratio.

    >>> round(pulses_per_km('driveline', 4, circumference_m=2.0, axle_ratio=3.5).per_km, 6)
    7000.0
    """
    if not pulses_per_rev > 0:
        raise BadInput(
            "pulses_per_rev", pulses_per_rev, "more than 0 pulses a turn: without pulses nothing is counted"
        )
    if sensed == "cable":
        turns = cable_turns_per_km or CABLE_TURNS_PER_MILE / MILE_M * 1000
        return Pulses(turns * pulses_per_rev)
    if circumference_m is None:
        raise BadInput("circumference_m", None, "the tyre's rolling circumference or its designation")
    if not circumference_m > 0:
        raise BadInput("circumference_m", circumference_m, "metres above 0")
    turns = 1000 / circumference_m
    if sensed == "driveline":
        if axle_ratio is None:
            raise BadInput(
                "axle_ratio",
                None,
                "the axle ratio, like 3.73, for a sensor before the axle",
                "Sensed before the axle, and the axle ratio is not known: say it on Brief.",
            )
        turns *= axle_ratio
    return Pulses(turns * pulses_per_rev)


@dataclass(frozen=True, slots=True)
class Magnets:
    """Magnets or teeth on what turns: how many, the radius they sit at (m), their gap to the sensor (mm)."""

    count: int
    radius_m: float
    gap_mm: float
    steel: bool = True


def input_findings(
    pulses: Pulses,
    pulses_per_rev: float,
    *,
    top_kmh: float,
    limit_hz: float | None,
    subject: str,
    window_s: float = 0.25,
) -> Iterator[Finding]:
    """Pulses against the input: too fast for it at top speed, too slow to tell walking pace."""
    top = pulses.hertz(top_kmh)
    if limit_hz is not None and top > limit_hz:
        most = int(pulses_per_rev * limit_hz / top)
        remedy = (
            f"Take {most} or fewer pulses a turn."
            if most >= 1
            else "Sense something that turns slower, or divide the pulses."
        )
        yield Finding(
            "stop",
            "input_too_slow",
            subject,
            f"At {top_kmh:g} km/h there are {top:.0f} pulses a second; the input counts {limit_hz:g}.",
            figure=f"{top:.0f} Hz",
            remedy=remedy,
        )
    walk = pulses.hertz(WALK_KMH)
    if walk * SLOW_UPDATE_S < 1:
        need = -(-(SLOW_UPDATE_S**-1) // (walk / pulses_per_rev)) if walk else 0
        yield Finding(
            "note",
            "slow_at_walking_pace",
            subject,
            f"At {WALK_KMH:g} km/h a pulse comes every {1 / walk:.1f} s: the speed shown will lag and drop to nothing between.",
            figure=f"{1 / walk:.1f} s",
            remedy=f"{need:.0f} magnets or teeth, evenly spaced, renew it twice a second.",
        )
    counted = pulses.hertz(30.0) * window_s
    if 0 < counted < 5:
        yield Finding(
            "note",
            "coarse_count",
            subject,
            f"At 30 km/h only {counted:.1f} pulses fall into {window_s:g} s: a display that counts (and does not time) them jumps by {30 / counted:.0f} km/h.",
            figure=f"{counted:.1f} pulses",
            remedy="More pulses a turn, or a display that times the gap between pulses.",
        )


def reluctor_volts(
    volts_at: float, kmh_at: float, kmh: float, gap_mm: float = 1.0, gap_at_mm: float = 1.0
) -> float:
    """Amplitude of a reluctor at a speed, from one measured: it grows with the speed and falls with the gap (about as its
    square; common practice, no source). Raises BadInput for a speed or gap of 0.

    >>> reluctor_volts(2.0, 40, 10)
    0.5
    """
    if not kmh_at > 0:
        raise BadInput("kmh_at", kmh_at, "a speed above 0")
    if not (gap_mm > 0 and gap_at_mm > 0):
        raise BadInput("gap_mm", gap_mm, "a gap above 0 mm")
    return volts_at * kmh / kmh_at * (gap_at_mm / gap_mm) ** 2


def gap_card(
    magnets: Magnets, top_rev_per_s: float | None = None, limit_hz: float | None = None
) -> list[str]:
    """What to see to when magnets and a hall sensor are fitted, as steps (common practice, no source).

    ``top_rev_per_s`` is how fast they go round at top speed, ``limit_hz`` what the input counts; None where it is not known.
    The pull in the circle is r w^2 over 9.80665 m/s2 (kinematics).
    """
    steps = [
        f"Gap {magnets.gap_mm:g} mm, set with both nuts at the magnet's closest pass; turn the wheel a full turn and see that nothing touches.",
        "The same face of every magnet towards the sensor; try one on the bench: most hall sensors answer to one pole only.",
    ]
    if magnets.count > 1:
        apart = 360 / magnets.count
        steps.append(
            f"{magnets.count} magnets, {apart:g} degrees apart and of one weight; unequal spacing makes the speed flutter."
        )
    else:
        steps.append("One magnet on a light wheel: put its weight opposite, or balance the wheel.")
    if not magnets.steel:
        steps.append(
            "Aluminium does not hold a magnet: a steel screw with a bonded magnet in a spare hole, never in place of a brake disc's own bolt."
        )
    steps += [
        "Keep the strength of every bolt: a magnet bolt takes the place of none that holds a brake disc or a carrier.",
        "Turn the steering to both locks and work the suspension through its travel: lead, sensor and bracket clear everything.",
    ]
    if top_rev_per_s is None:
        return steps
    pull = magnets.radius_m * (2 * math.pi * top_rev_per_s) ** 2 / 9.80665
    steps.append(
        f"At top speed the magnets pull with {pull:.0f} times their weight: bond and screw, not bond alone."
    )
    if limit_hz is not None and magnets.count * top_rev_per_s > limit_hz:
        steps.append(
            f"{magnets.count * top_rev_per_s:.0f} pulses a second at top speed, the input counts {limit_hz:g}: no more than {int(limit_hz / top_rev_per_s)} of them."
        )
    return steps
