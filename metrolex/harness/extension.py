"""When the supplied lead is short: how much to add, of what, and where the splice may lie.

Same size or larger, colours matched or marked, joints staggered, never in heat, water or where it moves; thermocouple leads only
by their own metals. Common practice, no source; the copper error by ITS-90.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.findings import Finding
from metrolex.harness.runs import plan_run
from metrolex.job import Conductor, Job, Run, Segment
from metrolex.layout.lengths import CUT_DECIMALS
from metrolex.quantities import TEMPERATURE, dimension_of, in_unit, rounded
from metrolex.senders.thermocouple import copper_error_degc
from metrolex.topology import topology_of

__all__ = ["STAGGER_M", "Extension", "extension_findings", "extension_of", "good_for_splice"]

STAGGER_M = 0.03
SPLICE_DEGC = (
    85.0  # what glued shrink sleeve and solder stand for good with room (common practice, no source)
)
OVERLAP_M = 0.1  # kept for cutting back
COLD_END_DEGC = 25.0


@dataclass(frozen=True, slots=True)
class Extension:
    """What a short lead needs: ``length_m`` is what is missing, ``short_m``, and ``back_m`` back to the splice and for its joints.

    ``splice_in`` is the stretch the splice lies in, ``splice_at_m`` its place from the start of the run; both None where no
    stretch within reach of the lead is cool, dry and still. ``copper_error_degc`` is what copper would add to a thermocouple's reading.
    """

    run: Run
    short_m: float
    length_m: float
    wires: tuple[Conductor, ...]
    splice_in: Segment | None
    splice_at_m: float | None
    copper_error_degc: float | None = None

    @property
    def back_m(self) -> float:
        """Metres to add besides what is missing."""
        return rounded(self.length_m - self.short_m, CUT_DECIMALS)

    def joints_m(self) -> tuple[tuple[str, float], ...]:
        """Wire and place of each joint, staggered towards the start of the run."""
        if self.splice_at_m is None:
            return ()
        return tuple((w.id, max(0.0, self.splice_at_m - i * STAGGER_M)) for i, w in enumerate(self.wires))


def good_for_splice(segment: Segment) -> bool:
    """Whether a joint may lie in a stretch."""
    return not (segment.moving or segment.wet or segment.peak_degc > SPLICE_DEGC)


def extension_of(job: Job, run: Run) -> Extension | None:
    """The extension a run needs; None where no lead is supplied or it reaches.

    The lead is the sender's: it begins where the run begins.
    """
    way = topology_of(job).ways[run.id]
    if run.supplied_m is None or not way.segments:
        return None
    plan = plan_run(way)
    if plan.extension_m <= 0:
        return None
    reach = run.supplied_m - run.ends_m / 2 - OVERLAP_M
    stretch, at = _splice_place(way, reach)
    length = rounded(
        plan.length_m - (at if at is not None else reach) - run.ends_m / 2 + OVERLAP_M, CUT_DECIMALS
    )
    wires = topology_of(job).along(run)
    return Extension(
        run,
        plan.extension_m,
        length,
        wires,
        stretch,
        at,
        _copper_error(job, run, way, at) if run.thermocouple_type else None,
    )


def _splice_place(way: Run, reach: float) -> tuple[Segment | None, float | None]:
    """The farthest good place the supplied lead gets to."""
    best: tuple[Segment | None, float | None] = (None, None)
    begun = 0.0
    for segment in way.segments:
        length = segment.length_m * (1 + way.slack_pct / 100)
        if begun > reach:
            break
        if good_for_splice(segment) and min(begun + length, reach) > 0:
            best = segment, min(begun + length, reach)
        begun += length
    return best


def _copper_error(job: Job, run: Run, way: Run, at: float | None) -> float | None:
    # What is no temperature has no hot end: a thermocouple lead laid for it by mistake is judged as one at its usual heat.
    channel = next((c for c in job.measured if c.run == run.id and dimension_of(c.unit) is TEMPERATURE), None)
    hot = (
        in_unit(channel.true_running, channel.unit, "degC")
        if channel and channel.true_running is not None
        else 700.0
    )
    joint = max((s.peak_degc for s in way.segments), default=60.0) if at is None else _peak_at(way, at)
    return copper_error_degc(run.thermocouple_type, hot, joint, COLD_END_DEGC)


def _peak_at(way: Run, at: float) -> float:
    begun = 0.0
    for segment in way.segments:
        begun += segment.length_m * (1 + way.slack_pct / 100)
        if at <= begun + 1e-9:
            return segment.peak_degc
    return way.segments[-1].peak_degc


def extension_findings(job: Job) -> Iterator[Finding]:
    """Splices without a good place, thermocouples that would be extended, pairs that are not twisted."""
    for run in job.runs:
        extension = extension_of(job, run)
        if extension is None:
            continue
        channel = next((c.id for c in job.measured if c.run == run.id), "")
        if extension.splice_in is None:
            yield Finding(
                "caution",
                "no_place_for_splice",
                run.name,
                "As far as the supplied lead reaches there is no cool, dry, still stretch for the splice.",
                f"{extension.length_m:.2f} m to add",
                "Replace the lead in one piece, or join it by a sealed plug where it can be reached.",
                "harness",
                channel,
                about=f"run {run.id}",
            )
        if extension.copper_error_degc is not None:
            yield Finding(
                "caution",
                "thermocouple_extended",
                run.name,
                f"A type {run.thermocouple_type} lead is extended only by its own metals and plugs, plus to plus; copper would shift the reading.",
                f"{extension.copper_error_degc:+.0f} °C by copper",
                f"Type {run.thermocouple_type} extension lead, {extension.length_m:.2f} m.",
                "harness",
                channel,
                about=f"run {run.id}",
            )
    yield from _pairs(job)


def _pairs(job: Job) -> Iterator[Finding]:
    data = {
        (d.id, pin.id): pin for d in job.displays for pin in d.pins if pin.role in ("can_high", "can_low")
    }
    for wire in job.conductors:
        pin = next(
            (
                data[e.id, e.terminal]
                for e in (wire.a, wire.b)
                if e.kind == "display" and (e.id, e.terminal) in data
            ),
            None,
        )
        if pin is None:
            continue
        mates = [
            other
            for other in job.conductors
            if wire.sheath.twist and other.sheath.twist == wire.sheath.twist and other is not wire
        ]
        if not mates:
            yield Finding(
                "caution",
                "pair_not_twisted",
                wire.id,
                f"It carries {pin.name}: both data wires run twisted together, all the way.",
                remedy="Give both the same pair name once they are twisted, about 30 turns a metre.",
                place="harness",
            )
