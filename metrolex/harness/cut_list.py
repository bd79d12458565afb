"""What to cut: every wire with its ends, terminals and labels, and the reels to buy it from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from metrolex.harness.conductors import find_gauge
from metrolex.job import Conductor, End, Job
from metrolex.job.once import once_per_job
from metrolex.tables import load_table
from metrolex.topology import topology_of

__all__ = ["Cut", "Purchase", "cut_list", "end_words", "label_for", "purchases", "total_length_m"]


@dataclass(frozen=True, slots=True)
class Cut:
    """One wire of the list; ``length_m`` None while it is not known."""

    wire: Conductor
    a: str
    b: str
    a_terminal: str
    b_terminal: str
    length_m: float | None


@dataclass(frozen=True, slots=True)
class Purchase:
    """Wire of one size and colour: metres needed with what is kept in hand, reels, and which wires come off each reel."""

    size: str
    colour: str
    stripe: str
    needed_m: float
    reels_m: tuple[float, ...]
    wires: tuple[tuple[str, ...], ...]


@once_per_job
def cut_list(job: Job) -> tuple[Cut, ...]:
    """Every wire of the job in its order."""
    words, lengths_m = load_table("reels")["terminals"], topology_of(job).lengths_m
    return tuple(
        Cut(
            wire,
            end_words(job, wire.a),
            end_words(job, wire.b),
            words[wire.a.kind],
            words[wire.b.kind],
            lengths_m.get(wire.id),
        )
        for wire in job.conductors
    )


def total_length_m(job: Job) -> float:
    """All wire whose length is known, in metres."""
    return sum(topology_of(job).lengths_m.values())


def label_for(cut: Cut, end: str) -> tuple[str, str]:
    """What stands on the label at one end ('a' or 'b'): the wire, and where this end goes and where it comes from."""
    here, there = (cut.a, cut.b) if end == "a" else (cut.b, cut.a)
    code = cut.wire.look.code
    return f"{cut.wire.id} {code}".strip(), f"{here} < {there}"


@once_per_job
def purchases(job: Job) -> tuple[Purchase, ...]:
    """What to buy by size and colour: the lengths to cut laid onto reels, fewest metres bought, then fewest reels."""
    groups: dict[tuple[str, str, str], list[tuple[str, float]]] = {}
    for cut in cut_list(job):
        if cut.length_m:
            wire = cut.wire
            groups.setdefault(
                (find_gauge(wire.size, wire.system).words, wire.look.colour, wire.look.stripes), []
            ).append((wire.id, cut.length_m))
    found = []
    for (size, colour, stripe), pieces in sorted(groups.items()):
        reels = pack_reels(pieces)
        needed = sum(length for _, length in pieces) * (1 + load_table("reels")["spare_ratio"])
        found.append(
            Purchase(
                size,
                colour,
                stripe,
                needed,
                tuple(length for length, _ in reels),
                tuple(ids for _, ids in reels),
            )
        )
    return tuple(found)


def pack_reels(pieces: Sequence[tuple[str, float]]) -> list[tuple[float, tuple[str, ...]]]:
    """Pieces (name, metres) laid onto reels, longest first, each where it still fits; every piece is cut from one reel.

    Each length of reel is tried for all of them; then each reel is swapped for the shortest that holds what lies on it.
    """
    spare = 1 + load_table("reels")["spare_ratio"]
    lengths = [float(m) for m in load_table("reels")["lengths_m"]]
    best: list[tuple[float, tuple[str, ...]]] | None = None
    longest = max((length for _, length in pieces), default=0.0) * spare
    for reel in lengths:
        if reel < longest and reel != lengths[-1]:
            continue
        laid: list[tuple[float, list[str]]] = []
        for name, length in sorted(pieces, key=lambda piece: -piece[1]):
            want = length * spare
            for i, (used, names) in enumerate(laid):
                if used + want <= reel:
                    laid[i] = (used + want, [*names, name])
                    break
            else:
                laid.append((want, [name]))
        reels = [(next((m for m in lengths if m >= used), used), tuple(names)) for used, names in laid]
        if best is None or (sum(m for m, _ in reels), len(reels)) < (sum(m for m, _ in best), len(best)):
            best = reels
    return best or []


def end_words(job: Job, end: End) -> str:
    """An end as the fitter says it: 'gauge 2 pin 5 signal'."""
    if end.kind == "display":
        display = job.display(end.id)
        pin = next((p for p in display.pins if p.id == end.terminal), None) if display else None
        return f"{end.id} pin {end.terminal}" + (f" {pin.name}" if pin else "")
    if end.kind == "tap":
        tap = job.tap(end.id)
        return f"{end.id} at {tap.circuit}" if tap and tap.circuit else end.id
    if end.kind == "ground":
        point = job.ground(end.id)
        return f"{end.id} {point.name}" if point else end.id
    if end.kind == "splice":
        splice = next((s for s in job.splices if s.id == end.id), None)
        return f"splice {end.id}" + (f" {splice.name}" if splice and splice.name else "")
    if end.kind == "plug":
        plug = job.connector(end.id)
        return f"{plug.name if plug else end.id} pin {end.terminal}"
    if end.kind == "switch":
        switch = job.switch(end.id)
        return f"{switch.name if switch else end.id} {end.terminal}"
    if end.kind == "port":
        port = job.port(end.id)
        return f"{port.name if port else end.id}, body"
    return f"{end.kind if end.kind == 'battery' else ''} {end.id} {end.terminal}".strip()
