"""Runs and wires."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Literal

from metrolex.acts.edit import free_id, in_old_order, replaced, with_fields
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


def set_run(job: Job, key: str, segments: tuple[Segment, ...], data: dict[str, Any]) -> Job:
    """The way of a lead, as measured, and the named facts of the run. Raises BadInput."""
    kept = job.run(key)
    if kept is None:
        raise BadInput("run", key, ", ".join(run.id for run in job.runs))
    changed = next(run for run in with_fields(job.runs, Run, key, data) if run.id == key)
    if segments:  # measured by hand: the plan no longer says its way
        ordered = tuple(_in_old_order(old, new) for old, new in zip(kept.segments, segments, strict=False))
        segments = (*ordered, *segments[len(ordered) :])
        changed = replace(changed, start=None, finish=None, via=())
    return replace(job, runs=replaced(job.runs, replace(changed, segments=segments)))


def _in_old_order(old: Segment, new: Segment) -> Segment:
    """A stretch with its words in the order they stood in."""
    beside = replace(new.beside, passes=tuple(in_old_order(old.beside.passes, new.beside.passes)))
    return replace(new, tied_to=tuple(in_old_order(old.tied_to, new.tied_to)), beside=beside)


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
