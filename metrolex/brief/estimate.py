"""What the job costs: parts by their price, hours by what there is to do, and the alternatives beside it.

Hours are usual ones (hours.toml: common practice, no source). Prices are the workshop's own.
"""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.brief.planner import sources_for
from metrolex.brief.shopping import shopping_list
from metrolex.harness.runs import plan_run
from metrolex.job import Job
from metrolex.job.once import once_per_job
from metrolex.tables import load_table
from metrolex.topology import topology_of

__all__ = ["Estimate", "Line", "Way", "estimate", "hours_of", "looms", "ways"]

DEFAULT_LOOM = "bare"


@dataclass(frozen=True, slots=True)
class Line:
    """One kind of work: how many, how long in all."""

    words: str
    count: float
    unit: str
    hours: float


@dataclass(frozen=True, slots=True)
class Estimate:
    """Parts still to get at their prices, hours at the rate; ``unpriced`` are things to get that have no price yet.

    ``labour`` and ``total`` are None while no rate is said.
    """

    parts: float
    unpriced: tuple[str, ...]
    lines: tuple[Line, ...]
    hours: float
    labour: float | None

    @property
    def total(self) -> float | None:
        return None if self.labour is None else self.parts + self.labour


@dataclass(frozen=True, slots=True)
class Way:
    """One way to do the job: as planned, with another loom, or one of the fitter's own. ``total`` None while no rate is said."""

    words: str
    parts: float
    hours: float
    total: float | None
    chosen: bool = False


def looms() -> dict[str, str]:
    """The levels a loom is bought at, in words."""
    return {key: str(row["words"]) for key, row in load_table("hours")["looms"].items()}


def hours_of(job: Job, loom: str = "") -> tuple[Line, ...]:
    """What there is to do, kind by kind; ``loom`` '' as the brief says."""
    hours, wiring = load_table("hours"), topology_of(job)
    level = hours["looms"][loom or job.brief.loom or DEFAULT_LOOM]
    faces = sum(display.face for display in job.displays)
    metres = sum(plan_run(way).length_m for way in wiring.ways.values() if way.segments)
    new = sum(opening.made == "new" for opening in job.openings)
    senders = _sender_hours(job)
    found = (
        Line("Battery off and on, trim, clean up", 1, "", float(hours["per_job"])),
        Line("Displays mounted", faces, "", faces * float(hours["display"])),
        Line(
            "Boxes mounted", len(job.displays) - faces, "", (len(job.displays) - faces) * float(hours["box"])
        ),
        Line("Senders fitted", len(senders), "", sum(senders)),
        Line("Feeds tapped", len(job.taps), "", len(job.taps) * float(hours["tap"])),
        Line("Grounds made", len(job.grounds), "", len(job.grounds) * float(hours["ground"])),
        Line("Switches fitted", len(job.switches), "", len(job.switches) * float(hours["switch"])),
        Line("Leads laid", round(metres, 1), "m", metres * float(hours["run_m"])),
        Line("Wires ended", len(job.conductors), "", len(job.conductors) * float(level["wire"])),
        Line("Holes made", new, "", new * float(hours["opening_new"])),
        Line(
            "Openings passed",
            len(job.openings) - new,
            "",
            (len(job.openings) - new) * float(hours["opening_there"]),
        ),
        Line("Readings set up", len(job.chains), "", len(job.chains) * float(hours["channel_set_up"])),
        Line("Readings proved", len(job.chains), "", len(job.chains) * float(hours["channel_proved"])),
    )
    return tuple(line for line in found if line.count)


def _sender_hours(job: Job) -> list[float]:
    """One entry for each sender that is fitted: as its source says, else the usual."""
    usual, found = float(load_table("hours")["sender"]), []
    for channel in job.measured:
        sender = job.sender(channel.sender)
        if sender is None or sender.rides or sender.readers:
            continue
        source = next((s for s in sources_for(job, channel.measurand) if s.key == channel.source), None)
        found.append(source.hours if source else usual)
    return found


@once_per_job
def estimate(job: Job) -> Estimate:
    """The job as it is planned."""
    to_get = [item for item in shopping_list(job) if item.buy]
    lines = hours_of(job)
    hours = sum(line.hours for line in lines)
    rate = job.brief.rate_per_h
    return Estimate(
        sum(item.buy * item.price for item in to_get if item.price is not None),
        tuple(item.name for item in to_get if item.price is None),
        lines,
        hours,
        None if rate is None else rate * hours,
    )


def ways(job: Job) -> tuple[Way, ...]:
    """As planned, the same by other looms, and the fitter's own alternatives, each with parts, hours and sum."""
    planned, rate = estimate(job), job.brief.rate_per_h
    now = job.brief.loom or DEFAULT_LOOM

    def way(words: str, parts: float, hours: float, *, chosen: bool = False) -> Way:
        return Way(words, parts, hours, None if rate is None else parts + rate * hours, chosen)

    found = [
        way(
            f"As planned, {words}" if key == now else f"The same, {words}",
            planned.parts,
            sum(line.hours for line in hours_of(job, key)),
            chosen=key == now,
        )
        for key, words in looms().items()
    ]
    return (*found, *(way(one.name, one.parts, one.hours) for one in job.brief.alternatives))
