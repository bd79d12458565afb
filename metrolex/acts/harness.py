"""Runs and wires."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Literal

from metrolex.acts.edit import free_id, replaced, with_fields
from metrolex.errors import BadInput
from metrolex.harness.plan import Lengths, plan_wires
from metrolex.job import Conductor, End, Job, Opening, Run, Segment, WireLook
from metrolex.job.references import without
from metrolex.layout.routes import laid

__all__ = [
    "add_run",
    "add_wire",
    "lay_wires",
    "move_end",
    "remove_opening",
    "remove_run",
    "remove_wire",
    "set_opening",
    "set_run",
    "set_wire",
    "unmeasured_runs",
]


def set_run(
    job: Job,
    key: str,
    name: str,
    segments: tuple[Segment, ...],
    slack_pct: float,
    ends_m: float,
    supplied_m: float | None,
) -> Job:
    """The way of a lead, as measured."""
    kept = job.run(key)
    if kept is None:
        raise BadInput("run", key, ", ".join(run.id for run in job.runs))
    changed = replace(
        kept, name=name, segments=segments, slack_pct=slack_pct, ends_m=ends_m, supplied_m=supplied_m
    )
    if segments:  # measured by hand: the plan no longer says its way
        changed = replace(changed, start=None, finish=None, via=())
    return replace(job, runs=replaced(job.runs, changed))


def add_run(job: Job, name: str) -> Job:
    """One more run. Raises BadInput without a name."""
    if not name.strip():
        raise BadInput("name", name, "from where to where", "Say from where to where the run goes.")
    return replace(job, runs=(*job.runs, Run(free_id(name[:50].strip(), (r.id for r in job.runs)), name)))


def remove_run(job: Job, key: str) -> Job:
    """Take a run out; wires along it lose their length until they are measured."""
    return without(job, "runs", key)


def set_opening(job: Job, key: str, data: dict[str, Any]) -> Job:
    """An opening as measured; '' for its key makes a new one. Raises BadInput."""
    if key and all(opening.id != key for opening in job.openings):
        raise BadInput("name", key, "an opening of this job", "This opening is gone: load the page again.")
    key = key or free_id(str(data["name"])[:50].strip().lower(), (opening.id for opening in job.openings))
    return replace(job, openings=with_fields(job.openings, Opening, key, data))


def remove_opening(job: Job, key: str) -> Job:
    """The job without an opening."""
    if all(opening.id != key for opening in job.openings):
        raise BadInput("opening", key, ", ".join(opening.id for opening in job.openings))
    return without(job, "openings", key)


def lay_wires(job: Job, lengths: Lengths | None = None) -> Job:
    """The job with every missing wire laid by rule, by the lengths measured; a run that has a way already keeps it."""
    lengths = lengths or Lengths()
    for way in lengths.runs:
        run = job.run(way.run)
        if run is None:
            raise BadInput("runs", way.run, ", ".join(one.id for one in job.runs))
        if not laid(job, run).segments:
            measured = replace(run, segments=(Segment("the way", way.length_m),))
            job = replace(job, runs=replaced(job.runs, measured))
    return plan_wires(job, lengths).job


def unmeasured_runs(job: Job) -> tuple[Run, ...]:
    """The runs nobody has measured or laid on the plan."""
    return tuple(run for run in job.runs if not laid(job, run).segments)


def move_end(job: Job, key: str, which: str, to: End) -> Job:
    """A wire led to another place: its end 'a' or 'b'. Raises BadInput for one that is not there."""
    wire = job.wire(key)
    if wire is None:
        raise BadInput("wire", key, ", ".join(one.id for one in job.conductors))
    if which not in ("a", "b"):
        raise BadInput("end", which, "a | b")
    moved = replace(wire, a=to) if which == "a" else replace(wire, b=to)
    if moved.a == moved.b:
        raise BadInput(
            "to", to.id, "another place than its other end", f"{key} would begin and end at the same place."
        )
    return replace(job, conductors=replaced(job.conductors, moved))


def set_wire(job: Job, key: str, data: dict[str, Any]) -> Job:
    """A wire's size, colour, length or run. Raises BadInput."""
    if job.wire(key) is None:
        raise BadInput("wire", key, ", ".join(wire.id for wire in job.conductors))
    return replace(job, conductors=with_fields(job.conductors, Conductor, key, data))


def add_wire(
    job: Job,
    a: End,
    b: End,
    size: float,
    colour: str,
    length_m: float | None,
    run: str | None,
    system: Literal["mm2", "awg"] = "mm2",
) -> Job:
    """One more wire between two places."""
    key = free_id("W1", (wire.id for wire in job.conductors))
    return replace(
        job, conductors=(*job.conductors, Conductor(key, a, b, size, system, length_m, run, WireLook(colour)))
    )


def remove_wire(job: Job, key: str) -> Job:
    """Take a wire out."""
    return without(job, "conductors", key)
