"""What a wire may carry where it lies: the heat along its run, the loaded wires in one bundle with it, what its insulation stands.

The derating is that of IEC 60364-5-52; wires with little to carry are not counted in a bundle by its clause 523.5 (from memory).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from metrolex.findings import Finding
from metrolex.harness.conductors import Surroundings, derating, guarded_by_a, max_fuse_a
from metrolex.harness.loads import loads_of_wires
from metrolex.harness.runs import insulation_class, insulation_degc
from metrolex.job import Conductor, Job, Run
from metrolex.job.once import once_per_job
from metrolex.topology import topology_of

__all__ = ["along", "guarded_where_it_lies", "heat_findings", "may_carry", "surroundings_of", "where_it_lies"]

THIN_WALL_DEGC = 105.0  # what plain thin-wall insulation stands (common practice, no source)
#: Of its rating in the bundle: a wire that carries no more warms nobody (IEC 60364-5-52, 523.5).
IDLE_RATIO = 0.3


@once_per_job
def surroundings_of(job: Job, wire: Conductor) -> Surroundings:
    """Where a wire of the job lies: the hottest stretch of its run, its bundle, its insulation; the reference where no run is known."""
    return _among(job, wire, _bundled(job, wire))


def _among(job: Job, wire: Conductor, bundled: int) -> Surroundings:
    run = job.run(wire.run)
    around = along(topology_of(job).ways[run.id] if run else None, bundled)
    return (
        replace(around, insulation_degc=insulation_degc(wire.sheath.insulation))
        if wire.sheath.insulation
        else around
    )


def along(way: Run | None, bundled: int = 1) -> Surroundings:
    """What a wire meets along a way with its stretches, in the insulation the way asks for; the reference without any."""
    plain = Surroundings(bundled=bundled, insulation_degc=THIN_WALL_DEGC)
    if way is None or not way.segments:
        return plain
    peak = max(segment.peak_degc for segment in way.segments)
    name = insulation_class(peak)
    stands = max(THIN_WALL_DEGC, insulation_degc(name)) if name else THIN_WALL_DEGC
    return Surroundings(max(peak, plain.ambient_degc), bundled, stands)


def guarded_where_it_lies(job: Job, wire: Conductor) -> float:
    """Largest standard fuse that guards a wire of the job, in ampere; 0 where it may carry nothing. Raises BadInput for its size."""
    around = surroundings_of(job, wire)
    return guarded_by_a(wire.size, wire.system, around) if may_carry(around) else 0.0


def may_carry(around: Surroundings) -> bool:
    """Whether a wire there has any room to warm itself."""
    return around.ambient_degc < around.insulation_degc


def where_it_lies(around: Surroundings) -> str:
    """Why it may carry less than by itself in cool air, as a clause."""
    bundle = f" among {around.bundled} loaded wires in one bundle" if around.bundled > 1 else ""
    return (
        f" at {around.ambient_degc:g} °C beside it{bundle}, with insulation for {around.insulation_degc:g} °C"
    )


def heat_findings(job: Job) -> Iterator[Finding]:
    """Wires whose own insulation does not stand what lies beside their run."""
    for wire in job.conductors:
        around = surroundings_of(job, wire)
        if wire.sheath.insulation and around.ambient_degc > around.insulation_degc:
            yield Finding(
                "stop",
                "insulation_too_low",
                wire.id,
                f"Its insulation, class {wire.sheath.insulation}, does not stand the heat along its run.",
                f"{around.ambient_degc:g} °C beside it, class {wire.sheath.insulation} stands {around.insulation_degc:g} °C",
                "Take a wire of a higher class, or a cooler way.",
                "harness",
            )


def _bundled(job: Job, wire: Conductor) -> int:
    """How many wires that warm it lie in one bundle with it, itself counted; all are rated by the heat it lies in."""
    loads = loads_of_wires(job)
    near = _loaded_beside(job, wire.run) if wire.run is not None else ()
    around = _among(job, wire, len(near))
    if not may_carry(around):
        return 1
    idle = IDLE_RATIO * derating(around)
    warm = [
        one
        for one in near
        if one.id != wire.id and loads[one.id].steady_a > idle * max_fuse_a(one.size, one.system)
    ]
    return 1 + len(warm)


@once_per_job
def _loaded_beside(job: Job, run: str) -> tuple[Conductor, ...]:
    """The wires with a load whose runs share a stretch with this one, in the order of the job; those of the run itself among them."""
    loads = loads_of_wires(job)
    beside = {other.id for other in job.runs if _together(job, run, other.id)}
    return tuple(wire for wire in job.conductors if wire.run in beside and loads.get(wire.id))


def _together(job: Job, first: str, second: str) -> bool:
    """Whether two runs are one, or share a stretch of the plan they are laid along."""
    if first == second:
        return True
    ways = topology_of(job).ways
    runs = [job.run(first), job.run(second)]
    if any(run is None or run.start is None for run in runs):
        return False
    stretches = [{segment.name for segment in ways[run.id].segments} for run in runs if run]
    return bool(stretches[0] & stretches[1])
