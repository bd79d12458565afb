"""The openings leads pass: which wires go through, packed, and whether bundle and plugs fit the hole and its edge."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

from metrolex.findings import Finding
from metrolex.harness.bundle import ROOM, Connector, Passage, Wires, pass_through, passes_surely
from metrolex.harness.conductors import find_gauge
from metrolex.job import Conductor, Job, Opening, Run
from metrolex.layout.routes import route_of
from metrolex.tables import load_table

__all__ = ["Crossing", "Offer", "crossing_of", "offers_for", "opening_findings", "wires_through"]


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
    """The wires whose run goes through an opening: named there, or by its path along the plan."""
    passing = {*opening.runs, *(run.id for run in job.runs if opening.id in _holes_of(job, run))}
    return tuple(wire for wire in job.conductors if wire.run in passing)


def _holes_of(job: Job, run: Run) -> tuple[str, ...]:
    route = route_of(job, run)
    return route.openings if route else ()


def crossing_of(job: Job, opening: Opening) -> Crossing:
    """An opening worked out."""
    wires = wires_through(job, opening)
    diameters = _diameters_mm(opening, wires)
    if not diameters:
        return Crossing(opening, wires, None)
    return Crossing(
        opening, wires, pass_through([Wires(od, 1) for od in diameters], _plugs(opening), opening.hole_mm)
    )


def _diameters_mm(opening: Opening, wires: Sequence[Conductor]) -> list[float]:
    there = [opening.there_mm] if opening.there_mm else []
    return [find_gauge(wire.size, wire.system).od_mm for wire in wires] + there


def _plugs(opening: Opening) -> tuple[Connector, ...]:
    return tuple(Connector(plug.w_mm, plug.h_mm) for plug in opening.plugs)


@dataclass(frozen=True, slots=True)
class Offer:
    """A way through where an opening as it is will not do; ``figure`` is the number that decides."""

    words: str
    figure: str
    works: bool


def offers_for(job: Job, crossing: Crossing) -> tuple[Offer, ...]:
    """Ways through an opening that does not pass its wires and plugs, those that work first."""
    passage, opening = crossing.passage, crossing.opening
    if passage is None or passage.passes:
        return ()
    bare_mm = passage.bundle_mm * ROOM
    found = []
    if opening.plugs:
        found.append(
            Offer(
                "Take the terminals out and pass the wires alone: photograph their order first.",
                f"{bare_mm:.1f} mm of {opening.hole_mm:g} mm",
                bare_mm <= opening.hole_mm,
            )
        )
    if opening.edge == "grommet":
        sheet = _sheet_hole_mm(opening.hole_mm)
        found.append(
            Offer(
                "Slit the grommet, pass the plugs through the bare hole, close it round the leads and seal the slit.",
                f"{passage.hole_needed_mm:.1f} mm of {sheet:g} mm",
                bare_mm <= opening.hole_mm and passage.hole_needed_mm <= sheet,
            )
        )
    for other in job.openings:
        if other.id != opening.id:
            found.append(_through_other(job, crossing, other))
    size = next((pair for pair in load_table("grommets")["sizes"] if pair[0] >= passage.hole_needed_mm), None)
    if size is not None:
        keep = load_table("grommets")["edge_ratio"] * size[1]
        found.append(
            Offer(
                f"A new hole of {size[1]:g} mm with a grommet of {size[0]:g} mm bore, {keep:g} mm from any edge, bend or hole; a plate that can be replaced before the bulkhead.",
                f"{size[1]:g} mm",
                True,
            )
        )
    return tuple(sorted(found, key=lambda offer: not offer.works))


def _through_other(job: Job, crossing: Crossing, other: Opening) -> Offer:
    both = [find_gauge(w.size, w.system).od_mm for w in (*crossing.wires, *wires_through(job, other))]
    both += [there for there in (other.there_mm,) if there]
    plugs = (*_plugs(crossing.opening), *_plugs(other))
    passage = pass_through([Wires(od, 1) for od in both], plugs, other.hole_mm)
    return Offer(
        f"Through {other.name} as well as what passes there.",
        f"{passage.hole_needed_mm:.1f} mm of {other.hole_mm:g} mm",
        bool(passage.passes),
    )


def _sheet_hole_mm(bore_mm: float) -> float:
    """The hole in the sheet a grommet of a bore sits in, from the size at or below it."""
    sizes = load_table("grommets")["sizes"]
    below = [sheet for bore, sheet in sizes if bore <= bore_mm]
    return float(max(below, default=sizes[0][1]))


def opening_findings(job: Job) -> Iterator[Finding]:
    """What does not go through, and edges that would cut."""
    for opening in job.openings:
        wires = wires_through(job, opening)
        diameters = _diameters_mm(opening, wires)
        if not diameters:
            continue
        if not passes_surely(diameters, _plugs(opening), opening.hole_mm):
            for finding in pass_through(
                [Wires(od, 1) for od in diameters], _plugs(opening), opening.hole_mm
            ).findings:
                yield replace(finding, subject=opening.name)
        if opening.edge == "bare":
            yield Finding(
                "stop",
                "bare_edge",
                opening.name,
                "A bare edge of sheet cuts through insulation.",
                f"{opening.hole_mm:g} mm hole",
                "Fit a grommet before the first wire goes through.",
                "harness",
            )
        thinnest = min((find_gauge(w.size, w.system).od_mm for w in wires), default=None)
        if thinnest is not None and opening.hole_mm < thinnest:
            yield Finding(
                "stop",
                "opening_too_small",
                opening.name,
                "Not even the thinnest wire goes through.",
                f"{opening.hole_mm:g} mm, wire {thinnest:g} mm",
                "Measure the opening again, or take another.",
                "harness",
            )
