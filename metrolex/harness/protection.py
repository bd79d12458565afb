"""What protects a lead stretch by stretch: loom by the bundle's size, sleeve by heat, insulation class, clips.

Sleeves, loom sizes and clip spacing are common practice, no source; insulation classes ISO 6722.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.findings import Finding
from metrolex.harness.bundle import bundle_diameter_mm, pack_circles
from metrolex.harness.conductors import find_gauge
from metrolex.harness.runs import insulation_class
from metrolex.job import Job, Run, Segment
from metrolex.job.once import once_per_job
from metrolex.tables import load_table
from metrolex.topology import topology_of

__all__ = ["Cover", "bundle_of", "cover_run", "cover_words", "covers_it", "loom_for", "protection_findings"]

GUESSED_DEGC = (
    100.0  # above this it matters whether a temperature was read or guessed (common practice, no source)
)
LOOM_DEGC = 125.0  # what nylon loom stands for good (common practice, no source)


@dataclass(frozen=True, slots=True)
class Cover:
    """What one stretch wants. ``cover`` '' and ``insulation`` None: nothing on sale stands the heat."""

    segment: Segment
    cover: str
    insulation: str | None
    loom_mm: float | None
    clip_mm: float


def loom_for(bundle_mm: float) -> float | None:
    """The smallest split loom, by inside diameter, that takes a bundle with room; None above the largest."""
    facts = load_table("protection")["loom"]
    return next((float(size) for size in facts["sizes_mm"] if size >= facts["room"] * bundle_mm), None)


@once_per_job
def bundle_of(job: Job, run: Run) -> float | None:
    """Diameter of the wires along a run, in millimetres, that of its cable where they lie in one; None while there is none."""
    if run.cable_mm is not None:
        return run.cable_mm
    diameters = [find_gauge(wire.size, wire.system).od_mm for wire in topology_of(job).along(run)]
    return bundle_diameter_mm(pack_circles(diameters)) if diameters else None


@once_per_job
def cover_run(job: Job, run: Run) -> tuple[Cover, ...]:
    """The protection of a run, in the order of its segments."""
    bundle = bundle_of(job, run)
    loom = None if bundle is None else loom_for(bundle)
    return tuple(
        Cover(s, _cover(s.peak_degc), insulation_class(s.peak_degc), loom, _clip_mm(s))
        for s in topology_of(job).ways[run.id].segments
    )


def _cover(peak_degc: float) -> str:
    return next(
        (str(row["name"]) for row in load_table("protection")["covers"] if peak_degc <= row["up_to_degc"]), ""
    )


def _clip_mm(segment: Segment) -> float:
    facts = load_table("protection")["clips"]
    if segment.moving:
        return float(facts["moving_mm"])
    return float(facts["hot_mm"] if segment.peak_degc > facts["hot_above_degc"] else facts["still_mm"])


def protection_findings(job: Job) -> Iterator[Finding]:
    """Stretches that want more than loom."""
    for run in job.runs:
        channel = next((c.id for c in job.measured if c.run == run.id), "")
        for segment in topology_of(job).ways[run.id].segments:
            cover = _cover(segment.peak_degc)
            if segment.peak_degc > GUESSED_DEGC and not segment.beside.heat_measured:
                yield Finding(
                    "note",
                    "heat_guessed",
                    run.name,
                    f"How hot it gets beside '{segment.name or 'a stretch'}' is a guess.",
                    f"{segment.peak_degc:g} °C",
                    "Hold a temperature strip or a thermocouple there, warm, after a drive; then say it was read.",
                    "harness",
                    channel,
                    about=f"run {run.id}, {segment.name}",
                )
            if segment.peak_degc > LOOM_DEGC and not (cover and covers_it(segment)):
                yield Finding(
                    "caution" if cover else "stop",
                    "sleeve_needed",
                    run.name,
                    f"'{segment.name or 'a segment'}' runs past heat that melts loom.",
                    f"{segment.peak_degc:g} °C",
                    f"Over it: {cover}." if cover else "Another way: no sleeve stands this.",
                    "harness",
                    channel,
                    about=f"run {run.id}, {segment.name}",
                )


def covers_it(segment: Segment) -> bool:
    """Whether what is over a stretch stands the heat beside it."""
    stands = {row["name"]: float(row["up_to_degc"]) for row in load_table("protection")["covers"]}
    return stands.get(segment.beside.over, -1e9) >= segment.peak_degc


def cover_words() -> tuple[str, ...]:
    """What goes over a lead, the plainest first."""
    return tuple(str(row["name"]) for row in load_table("protection")["covers"])
