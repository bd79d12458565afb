"""The fuse of every tap against what hangs on it and against its thinnest wire where it lies."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.feeds.check import loads_by_need
from metrolex.feeds.fuses import FuseChoice, choose_fuse
from metrolex.feeds.relay import relay_for
from metrolex.findings import Finding
from metrolex.harness.conductors import find_gauge, max_fuse_a
from metrolex.harness.heat import guarded_where_it_lies, surroundings_of, where_it_lies
from metrolex.harness.loads import Load, load_of_tap, wires_after
from metrolex.job import Job, Tap
from metrolex.topology import topology_of

__all__ = ["fuse_for_tap", "load_findings"]

SMALLEST_FED_MM2 = 0.5


def fuse_for_tap(job: Job, tap: Tap) -> FuseChoice:
    """The fuse a tap wants: by its load and peaks, within its thinnest wire and its own limit."""
    load = load_of_tap(job, tap)
    allowed = min(
        (guarded_where_it_lies(job, wire) for wire in wires_after(job, tap)),
        default=max_fuse_a(SMALLEST_FED_MM2, "mm2"),
    )
    return choose_fuse(load.steady_a, allowed, tap.limit_a, tap.id, load.peak_a, load.peak_s)


def load_findings(job: Job) -> Iterator[Finding]:
    """Loads that are too much for tap, fuse or wire; splices in a loop."""
    for tap in job.taps:
        if tap.circuit is None:
            continue
        load = load_of_tap(job, tap)
        relay = relay_for(load.steady_a, tap.limit_a, load.peak_a, load.peak_s)
        if relay is not None:
            yield Finding(
                "caution",
                "relay_advised",
                tap.id,
                f"The load is too near what the tap carries, {tap.limit_a:g} A.",
                f"{load.steady_a:.3g} A, {load.peak_a:.3g} A at start-up",
                relay.words(),
                "feeds",
            )
        yield from _fuse_against_load(job, tap, load)
        yield from _fuse_against_wires(job, tap, load)
    for wire in topology_of(job).loops():
        yield Finding(
            "caution",
            "splices_in_a_loop",
            wire.id,
            "Its splices are joined already by another way: no one can tell which wire carries what.",
            remedy="Take this wire out, or end it elsewhere.",
            place="harness",
        )
    for need in loads_by_need(job):
        taps = [tap for tap in job.taps if tap.need == need and tap.circuit]
        if len({tap.circuit for tap in taps}) < len(taps):
            yield Finding(
                "caution",
                "two_taps_one_slot",
                taps[0].circuit or "",
                f"Two taps of {need.replace('_', ' ')} sit on one circuit.",
                remedy="Join them in one tap, or move one.",
                place="feeds",
            )


def _fuse_against_load(job: Job, tap: Tap, load: Load) -> Iterator[Finding]:
    if tap.fuse_a is None:
        return
    wanted = choose_fuse(load.steady_a, 1e9, None, tap.id, load.peak_a, load.peak_s).fuse_a
    if wanted is None or wanted > tap.fuse_a:
        yield Finding(
            "caution",
            "fuse_under_load",
            tap.id,
            "Its fuse is too small for what hangs on it: it blows sooner or later.",
            f"{tap.fuse_a:g} A fuse, {load.steady_a:.3g} A for good, {load.peak_a:.3g} A for {load.peak_s:g} s",
            f"Fit {wanted:g} A if the wire allows it, or a relay."
            if wanted
            else "Split the load, or a relay.",
            "feeds",
        )


def _fuse_against_wires(job: Job, tap: Tap, load: Load) -> Iterator[Finding]:
    """The fuse fitted, or while there is none the one the load calls for, against the weakest wire behind it."""
    wires = wires_after(job, tap)
    fuse_a = tap.fuse_a or choose_fuse(load.steady_a, 1e9, None, tap.id, load.peak_a, load.peak_s).fuse_a
    if fuse_a is None or not wires:
        return
    weakest = min(wires, key=lambda wire: guarded_where_it_lies(job, wire))
    allowed, gauge = guarded_where_it_lies(job, weakest), find_gauge(weakest.size, weakest.system)
    if fuse_a <= allowed:
        return
    derated = allowed < gauge.max_fuse_a
    why = where_it_lies(surroundings_of(job, weakest)) if derated else ""
    guarded = f"is guarded by {allowed:g} A at the most" if allowed else "may carry nothing"
    other_way = ", a cooler way or better insulation" if derated else ""
    smaller = f"Fit {allowed:g} A or less, or a" if allowed and tap.fuse_a else "A"
    burns = (
        f"the fuse of {tap.id} would let it burn"
        if tap.fuse_a
        else f"no fuse that guards it carries what hangs on {tap.id}"
    )
    yield Finding(
        "stop",
        "fuse_over_wire",
        weakest.id,
        f"{gauge.words} {guarded}{why}; {burns}.",
        f"{fuse_a:g} A on {gauge.words}",
        f"{smaller} thicker wire{other_way}.",
        "harness",
    )
