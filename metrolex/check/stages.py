"""The stages of a job in working order, with what is open in each."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from metrolex.check.board import Row
from metrolex.dash.check import open_pages
from metrolex.feeds.check import loads_by_need
from metrolex.findings import Finding
from metrolex.job import Job
from metrolex.mount.check import open_mountings
from metrolex.places import LINKS, PLACES, Place
from metrolex.topology import topology_of

__all__ = ["Stage", "next_action", "stages_of"]

_PLACE_OF = {link.key: place for link, place in LINKS}


@dataclass(frozen=True, slots=True)
class Stage:
    """One stage: how many things are open in it, the gravest of them, and a word for where it stands."""

    key: str
    name: str
    words: str
    count: int = 0
    grade: Literal["", "stop", "caution"] = ""

    @property
    def letter(self) -> str:
        """The key that goes there after 'g'."""
        return next(place.letter for place in PLACES if place.key == self.key)


def stages_of(job: Job, rows: Sequence[Row], findings: Sequence[Finding]) -> tuple[Stage, ...]:
    """Where the job stands, place by place; ``findings`` are those still standing."""
    return tuple(_stage(place, job, rows, findings) for place in PLACES)


def _stage(place: Place, job: Job, rows: Sequence[Row], findings: Sequence[Finding]) -> Stage:
    stops = sum(f.grade == "stop" for f in findings if f.place == place.key)
    cautions = sum(f.grade == "caution" for f in findings if f.place == place.key)
    if stops:
        return Stage(place.key, place.name, f"{stops} stop{'s' * (stops > 1)}", stops, "stop")
    if cautions:
        return Stage(place.key, place.name, f"{cautions} caution{'s' * (cautions > 1)}", cautions, "caution")
    count, words = _STANDS.get(place.key, _open_links)(place, job, rows)
    return Stage(place.key, place.name, words, count)


Stands = tuple[int, str]


def _open_links(place: Place, _job: Job, rows: Sequence[Row]) -> Stands:
    count = sum(row.cell(link.key).state == "open" for row in rows for link in place.links)
    return count, f"{count} open" if count else _settled(rows)


def _brief(_place: Place, _job: Job, rows: Sequence[Row]) -> Stands:
    return (0, "settled") if rows else (1, "nothing to show yet")


def _mount(_place: Place, job: Job, _rows: Sequence[Row]) -> Stands:
    count = open_mountings(job)
    if count:
        return count, f"{count} to place"
    return 0, "settled" if job.mountings else "not begun"


def _dash(_place: Place, job: Job, rows: Sequence[Row]) -> Stands:
    count = open_pages(job)
    if count:
        return count, f"{count} to lay out"
    return 0, _settled(rows)


def _feeds(_place: Place, job: Job, rows: Sequence[Row]) -> Stands:
    fed = {tap.need for tap in job.taps if tap.circuit}
    count = sum(need not in fed for need in loads_by_need(job))
    return count, f"{count} to find" if count else _settled(rows)


def _harness(place: Place, job: Job, rows: Sequence[Row]) -> Stands:
    """Open leads, and lengths of what is laid already: without them nothing behind is worked out."""
    count, words = _open_links(place, job, rows)
    known, asked = topology_of(job).lengths_m, {row.channel.run for row in rows}
    unmeasured = {w.run or w.id for w in job.conductors if w.id not in known} - asked
    if not unmeasured:
        return count, words
    return count + len(unmeasured), f"{count + len(unmeasured)} to measure"


def _proving(_place: Place, _job: Job, rows: Sequence[Row]) -> Stands:
    count = sum(row.cell("proof").state != "proved" for row in rows)
    return count, f"{len(rows) - count} of {len(rows)} proved" if rows else "not begun"


def _work(_place: Place, job: Job, _rows: Sequence[Row]) -> Stands:
    done, stuck = (sum(one.state == state for one in job.work) for state in ("done", "could not"))
    if stuck:
        return stuck, f"{done} done, {stuck} could not"
    return 0, f"{done} done" if done else "not begun"


def _faults(_place: Place, job: Job, _rows: Sequence[Row]) -> Stands:
    count = sum(not search.ended for search in job.searches)
    if count:
        return count, f"{count} looked for"
    return 0, f"{len(job.searches)} found" if job.searches else "none looked for"


def _handover(_place: Place, _job: Job, rows: Sequence[Row]) -> Stands:
    return 0, "ready" if rows and all(row.cell("proof").state == "proved" for row in rows) else "draft"


#: Places that tell how they stand in another way than by the links worked on there.
_STANDS: dict[str, Callable[[Place, Job, Sequence[Row]], Stands]] = {
    "brief": _brief,
    "mount": _mount,
    "dash": _dash,
    "feeds": _feeds,
    "harness": _harness,
    "work": _work,
    "proving": _proving,
    "faults": _faults,
    "handover": _handover,
}


def _settled(rows: Sequence[Row]) -> str:
    return "settled" if rows else "not begun"


def next_action(job: Job, rows: Sequence[Row], findings: Sequence[Finding]) -> tuple[str, str]:
    """What to do next, as (words, stage key): the worst finding first, then the first open link."""
    for finding in findings:
        if finding.grade == "stop":
            return f"{finding.subject}: {finding.remedy or finding.reason}", finding.place or "brief"
    if not rows:
        return "Say what the driver should see.", "brief"
    for row in rows:
        for cell in row.cells:
            if cell.state == "open" and cell.link != "proof":
                return f"{row.channel.name}: {cell.fact[0].lower()}{cell.fact[1:]}", _PLACE_OF[cell.link]
    for finding in findings:
        if finding.grade == "caution":
            return f"{finding.subject}: {finding.remedy or finding.reason}", finding.place or "brief"
    for row in rows:
        if row.cell("proof").state != "proved":
            return f"{row.channel.name}: prove it", "proving"
    return "Hand over the book.", "handover"
