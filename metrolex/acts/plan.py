"""The plan of the vehicle and the runs along it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from metrolex.acts.edit import free_id, replaced, with_fields
from metrolex.errors import BadInput
from metrolex.job import Job, Run, Way, Zone
from metrolex.job.references import without
from metrolex.layout.routes import find_route
from metrolex.layout.templates import layout_called

__all__ = [
    "lay_run",
    "let_pass",
    "let_pass_no_more",
    "remove_way",
    "remove_zone",
    "set_way",
    "set_zone",
    "start_plan",
    "suggest_layout",
]


def suggest_layout(job: Job) -> str:
    """The layout that suits the vehicle's words, the commonest where nothing speaks."""
    words = f"{job.vehicle.name} {job.vehicle.identity.model} {job.vehicle.engine.layout} {job.vehicle.identity.notes}".lower()
    for word, key in (
        ("outfit", "outfit"),
        ("sidecar", "outfit"),
        ("motorcycle", "motorcycle"),
        ("single-seater", "mid engine"),
        ("van", "van"),
        ("truck", "truck"),
        ("tender", "truck"),
        ("lorry", "truck"),
    ):
        if word in words:
            return key
    return "front engine"


def start_plan(job: Job, key: str) -> Job:
    """The job with a layout's zones, ways and openings, where it has none of that name yet. Raises BadInput."""
    layout = layout_called(key)
    return replace(
        job,
        zones=_joined(job.zones, layout.zones),
        openings=_joined(job.openings, layout.openings),
        ways=_joined(job.ways, layout.ways),
    )


def _joined(kept: tuple[Any, ...], more: tuple[Any, ...]) -> tuple[Any, ...]:
    ids = {part.id for part in kept}
    return (*kept, *(part for part in more if part.id not in ids))


def lay_run(job: Job, key: str, data: dict[str, Any]) -> Job:
    """Where a run begins and ends on the plan, and what belongs to the whole of it. Raises BadInput."""
    run = _run(job, key)
    for field in ("start", "finish"):
        if data.get(field) and job.zone(data[field]) is None:
            raise BadInput(field, data[field], ", ".join(zone.id for zone in job.zones))
    moved = (data.get("start"), data.get("finish")) != (run.start, run.finish)
    run = replace(run, **data)
    if moved:
        run = replace(run, via=())
    if run.start and run.finish:
        run = replace(run, segments=())
    return replace(job, runs=replaced(job.runs, run))


def let_pass(job: Job, key: str, zone: str) -> Job:
    """The run through one more zone, put in where it costs least; taken out again if it was chosen before. Raises BadInput."""
    run = _run(job, key)
    if job.zone(zone) is None:
        raise BadInput("zone", zone, ", ".join(z.id for z in job.zones))
    if run.start is None or run.finish is None:
        raise BadInput(
            "run", key, "a run with both ends on the plan", f"Say first where {run.name} begins and ends."
        )
    if zone in (run.start, run.finish):
        return job
    if zone in run.via:
        return let_pass_no_more(job, key, zone)
    best: tuple[float, tuple[str, ...]] | None = None
    for i in range(len(run.via) + 1):
        via = (*run.via[:i], zone, *run.via[i:])
        route = find_route(job, run.start, run.finish, via)
        if route is not None and (best is None or route.cost_m < best[0]):
            best = route.cost_m, via
    if best is None:
        named = job.zone(zone)
        raise BadInput(
            "zone", zone, "a zone a way leads to", f"No way leads through {named.name if named else zone}."
        )
    return replace(job, runs=replaced(job.runs, replace(run, via=best[1])))


def let_pass_no_more(job: Job, key: str, zone: str) -> Job:
    """The run without a zone it was led through; '' frees it of all of them."""
    run = _run(job, key)
    via = tuple(z for z in run.via if z != zone) if zone else ()
    return replace(job, runs=replaced(job.runs, replace(run, via=via)))


def set_way(job: Job, key: str, data: dict[str, Any]) -> Job:
    """A way as measured; '' for its key makes a new one. Raises BadInput."""
    key = key or free_id("w1", (way.id for way in job.ways))
    if data.get("a") == data.get("b"):
        raise BadInput("b", data.get("b"), "another zone than the first")
    return replace(job, ways=with_fields(job.ways, Way, key, data))


def remove_way(job: Job, key: str) -> Job:
    """The job without a way."""
    return without(job, "ways", key)


def set_zone(job: Job, key: str, data: dict[str, Any]) -> Job:
    """A zone; '' for its key makes a new one. Raises BadInput."""
    key = key or free_id(str(data["name"])[:50].strip().lower(), (zone.id for zone in job.zones))
    return replace(job, zones=with_fields(job.zones, Zone, key, data))


def remove_zone(job: Job, key: str) -> Job:
    """The job without a zone and its ways. Raises BadInput while a run begins or ends there."""
    held = next((run for run in job.runs if key in (run.start, run.finish, run.plug)), None)
    if held is not None:
        raise BadInput("zone", key, "a zone no run ends in", f"{held.name} ends there: move it first.")
    return without(job, "zones", key)


def _run(job: Job, key: str) -> Run:
    run = job.run(key)
    if run is None:
        raise BadInput("run", key, ", ".join(r.id for r in job.runs))
    return run
