"""Runs and wires."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Literal

from metrolex.errors import BadInput
from metrolex.harness.conductors import max_fuse_a
from metrolex.harness.cut_list import cut_list as cuts_of
from metrolex.harness.cut_list import end_words
from metrolex.harness.heat import guarded_where_it_lies
from metrolex.harness.loads import load_of_wire
from metrolex.harness.plan import plan_wires
from metrolex.job import Conductor, End, Job, Opening, Run, Segment
from workbench.jobs.services import Look, free_id, replaced, with_fields

__all__ = [
    "add_run",
    "add_wire",
    "cut_list",
    "end_choices",
    "lay_wires",
    "remove_opening",
    "remove_run",
    "remove_wire",
    "set_opening",
    "set_run",
    "set_wire",
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
    return replace(
        job,
        runs=tuple(run for run in job.runs if run.id != key),
        conductors=tuple(replace(w, run=None) if w.run == key else w for w in job.conductors),
        channels=tuple(replace(c, run=None) if c.run == key else c for c in job.channels),
        openings=tuple(replace(o, runs=tuple(r for r in o.runs if r != key)) for o in job.openings),
    )


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
    return replace(job, openings=tuple(opening for opening in job.openings if opening.id != key))


def lay_wires(job: Job) -> tuple[Job, int, tuple[str, ...]]:
    """The job with every missing wire laid by rule, how many, and what could not be laid."""
    plan = plan_wires(job)
    return plan.job, plan.added, plan.missing


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
        job, conductors=(*job.conductors, Conductor(key, a, b, size, system, length_m, run, colour))
    )


def remove_wire(job: Job, key: str) -> Job:
    """Take a wire out."""
    return replace(job, conductors=tuple(wire for wire in job.conductors if wire.id != key))


def end_choices(job: Job) -> list[tuple[str, str, End]]:
    """Every place a wire can end: value for a form, words, end."""
    found = [End("tap", tap.id) for tap in job.taps]
    found += [End("ground", point.id) for point in job.grounds]
    found += [End("splice", splice.id) for splice in job.splices]
    found += [End("display", d.id, pin.id) for d in job.displays for pin in d.pins]
    found += [End("sender", s.id, terminal) for s in job.senders for terminal in s.terminals]
    found += [End("plug", plug.id, cavity.pin) for plug in job.connectors for cavity in plug.cavities]
    found += [End("port", port.id) for port in job.ports if not port.grounded]
    found += [End("battery", "positive"), End("battery", "negative")]
    return [(f"{e.kind}|{e.id}|{e.terminal}", end_words(job, e), e) for e in found]


def cut_list(look: Look) -> list[dict[str, Any]]:
    """Every wire with its ends in words, its length, its current and drop in the present state."""
    rows = []
    for cut in cuts_of(look.job):
        name = f"wire {cut.wire.id}"
        amps = look.solved.solution.currents.get(name)
        element = next((e for e in look.solved.elements if e.name == name), None)
        drop = abs(amps) * element.ohm if amps is not None and element is not None else None  # type: ignore[union-attr]
        load, guard_a = load_of_wire(look.job, cut.wire), guarded_where_it_lies(look.job, cut.wire)
        rows.append(
            {"wire": cut.wire, "from": cut.a, "to": cut.b, "cut": cut, "length": cut.length_m, "amps": abs(amps) if amps is not None else None,
             "drop": drop, "load": load, "guard_a": guard_a if load.steady_a and guard_a < max_fuse_a(cut.wire.size, cut.wire.system) else None}
        )  # fmt: skip
    return rows
