"""The openings leads pass: which wires go through, packed, and whether bundle and plugs fit the hole and its edge."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from metrolex.findings import Finding
from metrolex.harness.bundle import Connector, Passage, Wires, pass_through
from metrolex.harness.conductors import find_gauge
from metrolex.job import Conductor, Job, Opening

__all__ = ["Crossing", "crossing_of", "opening_findings", "wires_through"]


@dataclass(frozen=True, slots=True)
class Crossing:
    """An opening with its wires in the order of the circles; ``passage`` None where nothing passes yet.

    A circle beyond the last wire stands for what passes there already.
    """

    opening: Opening
    wires: tuple[Conductor, ...]
    passage: Passage | None

    @property
    def fill_ratio(self) -> float | None:
        """Bundle over hole, as diameters."""
        return None if self.passage is None else self.passage.bundle_mm / self.opening.hole_mm


def wires_through(job: Job, opening: Opening) -> tuple[Conductor, ...]:
    """The wires whose run goes through an opening."""
    return tuple(wire for wire in job.conductors if wire.run in opening.runs)


def crossing_of(job: Job, opening: Opening) -> Crossing:
    """An opening worked out."""
    wires = wires_through(job, opening)
    diameters = [find_gauge(wire.size, wire.system).od_mm for wire in wires]
    if opening.there_mm:
        diameters.append(opening.there_mm)
    if not diameters:
        return Crossing(opening, wires, None)
    plugs = tuple(Connector(plug.w_mm, plug.h_mm) for plug in opening.plugs)
    return Crossing(opening, wires, pass_through([Wires(od, 1) for od in diameters], plugs, opening.hole_mm))


def opening_findings(job: Job) -> Iterator[Finding]:
    """What does not go through, and edges that would cut."""
    for opening in job.openings:
        crossing = crossing_of(job, opening)
        if crossing.passage is None:
            continue
        for finding in crossing.passage.findings:
            yield replace(finding, subject=opening.name)
        if opening.edge == "bare":
            yield Finding(
                "stop", "bare_edge", opening.name, "A bare edge of sheet cuts through insulation.", f"{opening.hole_mm:g} mm hole",
                "Fit a grommet before the first wire goes through.", "harness",
            )  # fmt: skip
        thinnest = min((find_gauge(w.size, w.system).od_mm for w in crossing.wires), default=None)
        if thinnest is not None and opening.hole_mm < thinnest:
            yield Finding(
                "stop", "opening_too_small", opening.name, "Not even the thinnest wire goes through.", f"{opening.hole_mm:g} mm, wire {thinnest:g} mm",
                "Measure the opening again, or take another.", "harness",
            )  # fmt: skip
