"""What flows where: the load of every tap and every wire, for good and while things start up."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from metrolex.feeds.check import loads_by_need, wants_of
from metrolex.feeds.fuses import FuseChoice, choose_fuse
from metrolex.feeds.relay import relay_for
from metrolex.findings import Finding
from metrolex.harness.conductors import find_gauge, max_fuse_a
from metrolex.job import Conductor, End, Job, Pin, Tap

__all__ = [
    "Load",
    "fuse_for_tap",
    "load_findings",
    "load_of_tap",
    "load_of_wire",
    "splice_loops",
    "wires_after",
]

SMALLEST_FED_MM2 = 0.5


@dataclass(frozen=True, slots=True)
class Load:
    """Amperes for good, and the most at start-up with how many seconds it lasts."""

    steady_a: float = 0.0
    peak_a: float = 0.0
    peak_s: float = 0.0


def wires_after(job: Job, tap: Tap) -> list[Conductor]:
    """The wires fed by a tap, through splices, up to the pins they end at."""
    return _beyond(job, ("tap", tap.id, ""), None)


def load_of_tap(job: Job, tap: Tap) -> Load:
    """What hangs on a tap: the pins its wires reach, or the whole need while none is wired."""
    pins = _pins(job, wires_after(job, tap))
    if pins:
        return _sum(pins)
    want = next((want for want in wants_of(job) if want.need == tap.need), None)
    return Load(want.load_a, want.peak_a, want.peak_s) if want else Load()


def load_of_wire(job: Job, wire: Conductor) -> Load:
    """What a feed wire carries: the pins beyond it, seen from its tap; nothing for a signal or a ground."""
    for tap in job.taps:
        fed = wires_after(job, tap)
        if wire not in fed:
            continue
        before = _beyond(job, ("tap", tap.id, ""), wire)
        return _sum(_pins(job, [w for w in fed if w not in before]))
    return Load()


def fuse_for_tap(job: Job, tap: Tap) -> FuseChoice:
    """The fuse a tap wants: by its load and peaks, within its thinnest wire and its own limit."""
    load = load_of_tap(job, tap)
    allowed = min(
        (max_fuse_a(wire.size, wire.system) for wire in wires_after(job, tap)),
        default=max_fuse_a(SMALLEST_FED_MM2, "mm2"),
    )
    return choose_fuse(load.steady_a, allowed, tap.limit_a, tap.id, load.peak_a, load.peak_s)


def splice_loops(job: Job) -> list[Conductor]:
    """Wires between splices that close a loop."""
    joined: dict[str, str] = {}

    def root(key: str) -> str:
        while key in joined:
            key = joined[key]
        return key

    closing = []
    for wire in job.conductors:
        if wire.a.kind == wire.b.kind == "splice":
            a, b = root(wire.a.id), root(wire.b.id)
            if a == b:
                closing.append(wire)
            else:
                joined[a] = b
    return closing


def load_findings(job: Job) -> Iterator[Finding]:
    """Loads that are too much for tap, fuse or wire; splices in a loop."""
    for tap in job.taps:
        if tap.circuit is None:
            continue
        load = load_of_tap(job, tap)
        relay = relay_for(load.steady_a, tap.limit_a, load.peak_a, load.peak_s)
        if relay is not None:
            yield Finding(
                "caution", "relay_advised", tap.id, f"The load is too near what the tap carries, {tap.limit_a:g} A.",
                f"{load.steady_a:.3g} A, {load.peak_a:.3g} A at start-up", relay.words(), "feeds",
            )  # fmt: skip
        yield from _fuse_against_load(job, tap, load)
        yield from _fuse_against_wires(job, tap)
    for wire in splice_loops(job):
        yield Finding(
            "caution", "splices_in_a_loop", wire.id, "Its splices are joined already by another way: no one can tell which wire carries what.",
            remedy="Take this wire out, or end it elsewhere.", place="harness",
        )  # fmt: skip
    for need in loads_by_need(job):
        taps = [tap for tap in job.taps if tap.need == need and tap.circuit]
        if len({tap.circuit for tap in taps}) < len(taps):
            yield Finding(
                "caution", "two_taps_one_slot", taps[0].circuit or "", f"Two taps of {need.replace('_', ' ')} sit on one circuit.",
                remedy="Join them in one tap, or move one.", place="feeds",
            )  # fmt: skip


def _fuse_against_load(job: Job, tap: Tap, load: Load) -> Iterator[Finding]:
    if tap.fuse_a is None:
        return
    wanted = choose_fuse(load.steady_a, 1e9, None, tap.id, load.peak_a, load.peak_s).fuse_a
    if wanted is None or wanted > tap.fuse_a:
        yield Finding(
            "caution", "fuse_under_load", tap.id, "Its fuse is too small for what hangs on it: it blows sooner or later.",
            f"{tap.fuse_a:g} A fuse, {load.steady_a:.3g} A for good, {load.peak_a:.3g} A for {load.peak_s:g} s",
            f"Fit {wanted:g} A if the wire allows it, or a relay." if wanted else "Split the load, or a relay.", "feeds",
        )  # fmt: skip


def _fuse_against_wires(job: Job, tap: Tap) -> Iterator[Finding]:
    wires = wires_after(job, tap)
    if tap.fuse_a is None or not wires:
        return
    thinnest = min(wires, key=lambda wire: find_gauge(wire.size, wire.system).max_fuse_a)
    allowed = find_gauge(thinnest.size, thinnest.system)
    if tap.fuse_a > allowed.max_fuse_a:
        yield Finding(
            "stop", "fuse_over_wire", thinnest.id,
            f"{allowed.words} is guarded by {allowed.max_fuse_a:g} A at the most; the fuse of {tap.id} would let it burn.",
            f"{tap.fuse_a:g} A on {allowed.words}", f"Fit {allowed.max_fuse_a:g} A or less, or a thicker wire.", "harness",
        )  # fmt: skip


def _beyond(job: Job, start: tuple[str, str, str], without: Conductor | None) -> list[Conductor]:
    """The wires reached from a place through splices, in order, one of them left out."""
    reached: list[Conductor] = []
    edge = [start]
    seen = set(edge)
    while edge:
        at = edge.pop(0)
        for wire in job.conductors:
            if wire is without or wire in reached:
                continue
            for near, far in ((wire.a, wire.b), (wire.b, wire.a)):
                if _key(near) == at:
                    reached.append(wire)
                    if far.kind == "splice" and _key(far) not in seen:
                        seen.add(_key(far))
                        edge.append(_key(far))
                    break
    return reached


def _key(end: End) -> tuple[str, str, str]:
    return end.kind, end.id, "" if end.kind in ("tap", "splice") else end.terminal


def _pins(job: Job, wires: list[Conductor]) -> list[Pin]:
    reached = {(end.id, end.terminal) for wire in wires for end in (wire.a, wire.b) if end.kind == "display"}
    return [pin for display in job.displays for pin in display.pins if (display.id, pin.id) in reached]


def _sum(pins: list[Pin]) -> Load:
    return Load(
        sum(pin.load_a for pin in pins),
        sum(pin.highest_a for pin in pins),
        max((pin.peak_s for pin in pins), default=0.0),
    )
