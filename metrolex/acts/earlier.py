"""A job that stands on an earlier one of the same vehicle."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from metrolex.acts.edit import free_id
from metrolex.harness.loads import load_of_tap
from metrolex.harness.openings import crossing_of
from metrolex.job import Circuit, Fixture, Job, Opening
from metrolex.mount.body import bezel_size

__all__ = ["stand_on"]


def stand_on(job: Job, earlier: Job) -> Job:
    """The job with what an earlier one found out of its vehicle: electrics, panels and probe sheet, grounds, plan, openings, flow paths, places to mount, practices.

    What the earlier job put in is there now: its taps draw on their circuits, its wires fill their openings, its displays are parts of the dash. What is said of the
    vehicle in the new job stays.
    """
    vehicle = replace(
        earlier.vehicle,
        identity=replace(
            earlier.vehicle.identity,
            **{
                name: value
                for name in ("name", "maker", "model", "year", "length_m")
                if (value := getattr(job.vehicle.identity, name))
            },
        ),
    )
    return replace(
        job,
        vehicle=vehicle,
        brief=replace(
            job.brief,
            owner=job.brief.owner or earlier.brief.owner,
            weights=earlier.brief.weights,
            practices=earlier.brief.practices,
            cluster_removed=earlier.brief.cluster_removed,
            currency=earlier.brief.currency,
            rate_per_h=earlier.brief.rate_per_h,
        ),
        survey=replace(job.survey, probed_also=earlier.survey.probed_also),
        circuits=tuple(_taken(earlier, circuit) for circuit in earlier.circuits),
        panels=earlier.panels,
        grounds=earlier.grounds,
        zones=earlier.zones,
        ways=earlier.ways,
        openings=tuple(_filled(earlier, opening) for opening in earlier.openings),
        paths=earlier.paths,
        sites=earlier.sites,
        fixtures=(*earlier.fixtures, *_mounted(earlier)),
    )


def _taken(earlier: Job, circuit: Circuit) -> Circuit:
    """A circuit with what the earlier job took from it."""
    taps = [tap for tap in earlier.taps if tap.circuit == circuit.id]
    if not taps:
        return circuit
    drawn = sum(load_of_tap(earlier, tap).steady_a for tap in taps)
    by = ", ".join(part for part in (circuit.taken_by, f"{earlier.name} {taps[0].id}") if part)
    return replace(circuit, taken_by=by[:120], taken_a=round(circuit.taken_a + drawn, 3))


def _mounted(earlier: Job) -> Iterator[Fixture]:
    """The displays of the earlier job: parts of the dash now, that must be seen."""
    taken = [part.id for part in earlier.fixtures]
    for one in earlier.mountings:
        display = earlier.display(one.display)
        if display is None:
            continue
        key = free_id(display.id, taken)
        taken.append(key)
        wide, high = bezel_size(display)
        yield Fixture(
            key,
            one.site,
            display.name,
            "instrument",
            "seen",
            one.x,
            one.y,
            wide,
            high,
            disc=display.housing.shape != "square",
        )


def _filled(earlier: Job, opening: Opening) -> Opening:
    """An opening with the wires of the earlier job as what passes there already."""
    passage = crossing_of(earlier, opening).passage
    there = round(passage.bundle_mm, 1) if passage is not None else opening.there_mm
    return replace(opening, runs=(), plugs=(), there_mm=there, made="there")
