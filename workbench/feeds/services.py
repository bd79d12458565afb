"""Panel, probe sheet, taps and ground points."""

from __future__ import annotations

from dataclasses import replace

from metrolex.errors import BadInput
from metrolex.feeds.check import loads_by_need
from metrolex.feeds.choose import Candidate, candidates_for
from metrolex.feeds.classify import classify_circuits
from metrolex.feeds.fuses import choose_fuse
from metrolex.feeds.probe import read_probe
from metrolex.harness.check import wires_after
from metrolex.harness.conductors import max_fuse_a
from metrolex.harness.plan import SMALLEST_MM2
from metrolex.job import PROBE_STATES, Circuit, Conductor, GroundPoint, Job, Need, Tap
from workbench.jobs.services import free_id, replaced

__all__ = [
    "add_circuit",
    "add_ground",
    "choose_tap",
    "prove_circuit",
    "remove_circuit",
    "remove_ground",
    "remove_tap",
    "set_reading",
    "tap_load_a",
    "turn_tap",
    "weighed",
]  # fmt: skip


def add_circuit(job: Job, circuit: Circuit) -> Job:
    """One more slot or wire on the sheet."""
    if job.circuit(circuit.id):
        raise BadInput("id", circuit.id, "a name not used yet", f"'{circuit.id}' is on the sheet already.")
    return replace(job, circuits=(*job.circuits, circuit))


def remove_circuit(job: Job, key: str) -> Job:
    """One less, if nothing is tapped there."""
    tapped = [tap.id for tap in job.taps if tap.circuit == key]
    if tapped:
        raise BadInput(
            "circuit", key, "a circuit without a tap", f"{tapped[0]} sits on {key}: move it first."
        )
    return replace(job, circuits=tuple(c for c in job.circuits if c.id != key))


def set_reading(job: Job, key: str, state: str, text: str) -> Job:
    """What the probe found at one circuit in one state. Raises BadInput (field ``reading``)."""
    circuit = _circuit(job, key)
    if state not in PROBE_STATES:
        raise BadInput("state", state, " | ".join(PROBE_STATES))
    readings = replace(circuit.readings, **{state: read_probe(text)})
    return replace(job, circuits=replaced(job.circuits, replace(circuit, readings=readings)))


def prove_circuit(job: Job, key: str, answer: str) -> Job:
    """Whether the reading died with the fuse pulled: 'yes', 'no', or '' for not tried."""
    words: dict[str, bool | None] = {"yes": True, "no": False, "": None}
    if answer not in words:
        raise BadInput("proved", answer, "yes, no or nothing")
    circuit = replace(_circuit(job, key), fuse_pulled_dead=words[answer])
    return replace(job, circuits=replaced(job.circuits, circuit))


def weighed(job: Job, need: str, tap: Tap | None = None) -> tuple[Candidate, ...]:
    """Every circuit held against a need, with what the other taps already put on it."""
    placed: dict[str, float] = {}
    for other in job.taps:
        if other.circuit and (tap is None or other.id != tap.id):
            placed[other.circuit] = placed.get(other.circuit, 0.0) + tap_load_a(job, other)
    load = loads_by_need(job).get(need, 0.0)
    return candidates_for(need, load, job.circuits, classify_circuits(job.circuits), {}, placed)


def choose_tap(job: Job, need: Need, circuit: str, tap_id: str = "") -> Job:
    """Tap a circuit for a need, with the fuse its load and thinnest wire call for.

    The fitter may choose what the rules refuse: the finding then stands until it is gone past in writing.
    """
    _circuit(job, circuit)
    kept = next((tap for tap in job.taps if tap.id == tap_id), None)
    tap = replace(kept, circuit=circuit) if kept else Tap(_next_tap(job), need, circuit)
    job = replace(job, taps=replaced(job.taps, tap))
    allowed = min(
        (max_fuse_a(w.size, w.system) for w in wires_after(job, tap)), default=max_fuse_a(SMALLEST_MM2, "mm2")
    )
    fuse = choose_fuse(tap_load_a(job, tap), allowed, tap.limit_a).fuse_a
    return replace(job, taps=replaced(job.taps, replace(tap, fuse_a=fuse)))


def tap_load_a(job: Job, tap: Tap) -> float:
    """What hangs on a tap in ampere: the pins its wires reach, or the whole need while none is wired."""
    reached = {
        (end.id, end.terminal)
        for wire in wires_after(job, tap)
        for end in (wire.a, wire.b)
        if end.kind == "display"
    }
    wired = sum(pin.load_a for d in job.displays for pin in d.pins if (d.id, pin.id) in reached)
    return wired if reached else loads_by_need(job).get(tap.need, 0.0)


def turn_tap(job: Job, key: str) -> Job:
    """Turn a tap round: its feed leg to the other side of the slot."""
    return replace(
        job,
        taps=tuple(
            replace(t, side="load" if t.side == "feed" else "feed") if t.id == key else t for t in job.taps
        ),
    )


def remove_tap(job: Job, key: str) -> Job:
    """Take a tap out, with the wires that end on it."""
    return replace(
        job,
        taps=tuple(tap for tap in job.taps if tap.id != key),
        conductors=_wires_off(job, "tap", key),
    )


def add_ground(job: Job, point: GroundPoint) -> Job:
    """One more ground point."""
    return replace(
        job, grounds=(*job.grounds, replace(point, id=free_id("GP1", (g.id for g in job.grounds))))
    )


def remove_ground(job: Job, key: str) -> Job:
    """Take a ground point out, with the wires that end on it."""
    return replace(
        job,
        grounds=tuple(point for point in job.grounds if point.id != key),
        conductors=_wires_off(job, "ground", key),
    )


def _wires_off(job: Job, kind: str, key: str) -> tuple[Conductor, ...]:
    return tuple(w for w in job.conductors if (kind, key) not in {(w.a.kind, w.a.id), (w.b.kind, w.b.id)})


def _circuit(job: Job, key: str) -> Circuit:
    circuit = job.circuit(key)
    if circuit is None:
        raise BadInput("circuit", key, ", ".join(c.id for c in job.circuits) or "nothing: the sheet is empty")
    return circuit


def _next_tap(job: Job) -> str:
    return free_id("T1", (tap.id for tap in job.taps))
