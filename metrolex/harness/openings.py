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

SENDER_MM2 = 0.5  # what a sender's wires are taken for before they are laid (common practice, no source)

__all__ = ["Crossing", "Lead", "Offer", "crossing_of", "offers_for", "opening_findings", "wires_through"]


@dataclass(frozen=True, slots=True)
class Lead:
    """One circle of a bundle: a wire, a cable that holds several (its first wire), or what is there or to come."""

    od_mm: float
    wire: Conductor | None
    words: str = ""


@dataclass(frozen=True, slots=True)
class Crossing:
    """An opening with its wires, and its leads in the order of the circles; ``passage`` None where nothing passes yet."""

    opening: Opening
    wires: tuple[Conductor, ...]
    leads: tuple[Lead, ...]
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
    """An opening worked out; before its wires are laid with those its senders will want."""
    wires = wires_through(job, opening)
    leads = _leads(job, opening, wires)
    if not leads and not opening.plugs:
        return Crossing(opening, wires, leads, None)
    return Crossing(
        opening,
        wires,
        leads,
        pass_through([Wires(lead.od_mm, 1) for lead in leads], _plugs(opening), opening.hole_mm),
    )


def _leads(job: Job, opening: Opening, wires: Sequence[Conductor]) -> tuple[Lead, ...]:
    """What goes through, circle by circle: wires, cables as thick as they are, leads to come, what is there already."""
    found: list[Lead] = []
    for run in job.runs:
        mine = [wire for wire in wires if wire.run == run.id]
        if mine and run.cable_mm is not None:
            found.append(Lead(run.cable_mm, mine[0], f"cable of {run.name}"))
        else:
            found += [Lead(find_gauge(wire.size, wire.system).od_mm, wire) for wire in mine]
    if not wires:
        found += _to_come(job, opening)
    return (*found, *([Lead(opening.there_mm, None, "there already")] if opening.there_mm else []))


def _to_come(job: Job, opening: Opening) -> list[Lead]:
    """The leads of the senders whose ways pass here, while nothing is laid yet."""
    od_mm = find_gauge(SENDER_MM2, "mm2").od_mm
    found: list[Lead] = []
    for channel in job.measured:
        run, sender = job.run(channel.run), job.sender(channel.sender)
        if run is None or sender is None or not _passes(job, opening, run):
            continue
        count = 1 if run.cable_mm is not None else sender.wires
        found += [Lead(run.cable_mm or od_mm, None, f"to come, {channel.name}")] * count
    return found


def _passes(job: Job, opening: Opening, run: Run) -> bool:
    return run.id in opening.runs or opening.id in _holes_of(job, run)


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
        wider = next(
            (pair for pair in load_table("grommets")["sizes"] if pair[0] >= passage.hole_needed_mm), None
        )
        if wider is not None:
            found.append(
                Offer(
                    f"The factory hole made wider to {wider[1]:g} mm, burr and rust seen to, a grommet of {wider[0]:g} mm bore in place of its own.",
                    f"{passage.hole_needed_mm:.1f} mm of {wider[0]:g} mm",
                    True,
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
    there = crossing_of(job, other).leads
    leads = [Wires(lead.od_mm, 1) for lead in (*crossing.leads, *there) if lead.words != "there already"]
    leads += [Wires(other.there_mm, 1)] if other.there_mm else []
    passage = pass_through(leads, (*_plugs(crossing.opening), *_plugs(other)), other.hole_mm)
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
        crossing = crossing_of(job, opening)
        leads, wires = crossing.leads, crossing.wires
        if not leads and not opening.plugs:
            continue
        ods = [lead.od_mm for lead in leads]
        if not passes_surely(ods, _plugs(opening), opening.hole_mm):
            for finding in pass_through(
                [Wires(od, 1) for od in ods], _plugs(opening), opening.hole_mm
            ).findings:
                yield replace(finding, subject=opening.name)
        if not leads:
            continue
        if opening.edge == "bare":
            yield Finding(
                "stop",
                "bare_edge",
                opening.name,
                "A bare edge of sheet cuts through insulation.",
                f"{opening.hole_mm:g} mm hole",
                "Fit a grommet before the first wire goes through.",
                "harness",
                about=f"opening {opening.id}",
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
                about=f"opening {opening.id}",
            )
