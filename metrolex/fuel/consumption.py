"""What an engine burns, by how long its injectors stand open.

Each opening delivers the injector's flow for as long as it is open, less the time it takes to open (arithmetic). Flow goes with the square
root of the pressure across the injector (Bernoulli, for a fixed orifice). A litre per 100 km is litres an hour over km/h, times 100 (definition).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from metrolex.errors import BadInput
from metrolex.findings import Finding

__all__ = ["Consumption", "consumption_of"]

STATIC_DUTY = 0.85  # above this an injector hardly closes between two openings (common practice, no source)


@dataclass(frozen=True, slots=True)
class Consumption:
    """Litres an hour and over 100 km (None at a standstill), and the share of the time an injector is open."""

    litre_per_h: float
    litre_per_100km: float | None
    duty: float
    findings: tuple[Finding, ...] = ()


def consumption_of(
    open_ms: float,
    rpm: float,
    injectors: int,
    flow_cc_min: float,
    *,
    dead_ms: float = 0.0,
    strokes: Literal[2, 4] = 4,
    openings: int = 1,
    rated_bar: float | None = None,
    rail_bar: float | None = None,
    kmh: float | None = None,
) -> Consumption:
    """Consumption of ``injectors`` that each stand open ``open_ms``, ``openings`` times a cycle, at an engine speed.

    ``flow_cc_min`` is an injector's flow held open, at ``rated_bar`` across it; at ``rail_bar`` it flows as the root of the pressures. ``dead_ms`` is the
    time it takes to open. Raises BadInput for nothing or less, and for an injector open longer than the cycle lasts.

    >>> round(consumption_of(3.0, 3000, 4, 250, kmh=100).litre_per_h, 3)
    4.5
    """
    for name, value in (
        ("open_ms", open_ms),
        ("rpm", rpm),
        ("injectors", injectors),
        ("flow_cc_min", flow_cc_min),
    ):
        if not value > 0:
            raise BadInput(name, value, "a number above 0")
    if not 0 <= dead_ms <= open_ms:
        raise BadInput("dead_ms", dead_ms, f"0 to {open_ms:g} ms: no longer than it stands open")
    if (rated_bar is None) != (rail_bar is None):
        raise BadInput("rail_bar", rail_bar, "both pressures or none")
    if rated_bar is not None and rail_bar is not None and not (rated_bar > 0 and rail_bar > 0):
        raise BadInput("rail_bar", rail_bar, "pressures above 0")
    cycle_ms = 60_000.0 / rpm * (2 if strokes == 4 else 1)
    duty = open_ms * openings / cycle_ms
    if duty > 1:
        raise BadInput(
            "open_ms",
            open_ms,
            f"up to {cycle_ms / openings:.3g} ms at {rpm:g} rpm",
            f"At {rpm:g} rpm a cycle lasts {cycle_ms:.3g} ms: an injector cannot stand open for {open_ms * openings:.3g}.",
        )
    flows = flow_cc_min * (math.sqrt(rail_bar / rated_bar) if rated_bar and rail_bar else 1.0)
    litre_per_h = flows * 60 / 1000 * injectors * (open_ms - dead_ms) * openings / cycle_ms
    per_100 = litre_per_h / kmh * 100 if kmh else None
    return Consumption(litre_per_h, per_100, duty, tuple(_findings(duty)))


def _findings(duty: float) -> Iterator[Finding]:
    if duty > STATIC_DUTY:
        yield Finding(
            "caution",
            "injectors_nearly_static",
            "injectors",
            "They hardly close between two openings: the flow no longer follows the time.",
            f"{duty:.0%} of the time open",
            "Read at less load, or take larger injectors for the engine's sake.",
        )
