"""Panel, circuits, taps and ground points."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from metrolex.acts.edit import display_called, free_id, replaced, with_fields
from metrolex.errors import BadInput
from metrolex.feeds.check import recommend, sites_of, wants_of
from metrolex.feeds.choose import Candidate, candidates_for
from metrolex.feeds.classify import classify_circuits
from metrolex.feeds.fuses import nearest_rating
from metrolex.feeds.panel_lines import MOST_IN_LINE, SlotLine, numbered_slots, read_panel_lines
from metrolex.feeds.safety import standing_of_circuit
from metrolex.harness.fusing import fuse_for_tap
from metrolex.harness.loads import load_of_tap
from metrolex.intake import dump, read
from metrolex.job import Circuit, Display, GroundPoint, Job, Need, Panel, Tap
from metrolex.job.once import once_per_job
from metrolex.job.references import without
from metrolex.job.within import placed

__all__ = [
    "add_circuit",
    "add_ground",
    "choose_all",
    "choose_tap",
    "circuit_called",
    "lay_out_panel",
    "remove_circuit",
    "remove_ground",
    "remove_panel",
    "remove_tap",
    "save_circuit",
    "save_ground",
    "set_lighting",
    "set_panel",
    "set_tap",
    "turn_tap",
    "weighed",
]


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
    return without(job, "circuits", key)


@once_per_job
def weighed(job: Job, need: str, tap: Tap | None = None) -> tuple[Candidate, ...]:
    """Every circuit held against a need, with what the other taps already put on it."""
    placed = {circuit.id: circuit.taken_a for circuit in job.circuits if circuit.taken_a}
    for other in job.taps:
        if other.circuit and (tap is None or other.id != tap.id):
            load = load_of_tap(job, other)
            placed[other.circuit] = placed.get(other.circuit, 0.0) + max(load.steady_a, load.peak_a)
    want = next((max(w.load_a, w.peak_a) for w in wants_of(job) if w.need == need), 0.0)
    return candidates_for(
        need,
        want,
        job.circuits,
        classify_circuits(job.circuits),
        {},
        placed,
        sites_of(job),
        cluster_out=job.brief.cluster_removed,
    )


def choose_tap(job: Job, need: Need, circuit: str, tap_id: str = "", why: str = "") -> Job:
    """Tap a circuit for a need, with the fuse its load and thinnest wire call for.

    The fitter may choose what the rules refuse: the finding then stands until it is waived with a reason. ``why`` is
    the reason for taking it although another is better. Raises BadInput for a circuit of restraint, brakes or steering: no reason
    takes anybody to those.
    """
    wanted = circuit_called(job, circuit)
    standing = standing_of_circuit(
        wanted, classify_circuits(job.circuits)[circuit], job.brief.cluster_removed
    )
    if standing.final:
        raise BadInput(
            "circuit",
            circuit,
            "a circuit that may be tapped",
            f"{circuit} is a {standing.system} circuit: it is never tapped.",
        )
    kept = job.tap(tap_id)
    tap = replace(kept, circuit=circuit, why=why) if kept else Tap(_next_tap(job), need, circuit, why=why)
    job = replace(job, taps=replaced(job.taps, tap))
    return replace(job, taps=replaced(job.taps, replace(tap, fuse_a=fuse_for_tap(job, tap).fuse_a)))


def choose_all(job: Job) -> Job:
    """The best set of taps for all needs at once: open needs tapped, the taps that are there moved, reasons kept aside."""
    for need, circuit in recommend(job).taken.items():
        if circuit is None:
            continue
        tap = next((t for t in job.taps if t.need == need), None)
        if tap is None or (tap.circuit != circuit and not tap.why):
            job = choose_tap(job, need, circuit, tap.id if tap else "")  # type: ignore[arg-type]
    return job


def set_tap(job: Job, key: str, data: dict[str, Any]) -> Job:
    """What a tap is as fitted: its limit, its fuse, where the fuse sits, why it is there."""
    tap = job.tap(key)
    if tap is None:
        raise BadInput("tap", key, ", ".join(t.id for t in job.taps))
    if data.get("fuse_a") is not None:
        nearest_rating(data["fuse_a"])
    return replace(job, taps=replaced(job.taps, replace(tap, **data)))


def set_panel(job: Job, key: str, data: dict[str, Any]) -> Job:
    """A fuse panel as it lies; '' for its key makes a new one. Raises BadInput."""
    key = key or free_id(str(data["name"])[:50].strip().lower(), (panel.id for panel in job.panels))
    return replace(job, panels=with_fields(job.panels, Panel, key, data))


def remove_panel(job: Job, key: str) -> Job:
    """The job without a panel; a panel with slots stays."""
    if any(circuit.slot.panel == key for circuit in job.circuits):
        raise BadInput("panel", key, "a panel without slots", "Take its slots off the sheet first.")
    return without(job, "panels", key)


def lay_out_panel(
    job: Job,
    panel: str = "",
    lines: str = "",
    rows: int | None = None,
    in_row: int | None = None,
    first: str = "F1",
) -> Job:
    """Many slots of one panel at once: from lines like 'F1 10 Radio', or without lines, ``rows`` of ``in_row`` numbered slots.

    A slot that is there takes the rating and name its line tells and keeps all else. The lines of a whole panel lay it
    anew; where they leave slots of it out, those that are there stay where they lie and new ones come in rows below.
    Raises BadInput (fields ``lines``, ``rows``, ``in_row``, ``first``).
    """
    if panel and job.panel(panel) is None:
        raise BadInput("panel", panel, ", ".join(p.id for p in job.panels) or "nothing: there is no panel")
    if not lines.strip() and (rows or in_row):
        lines = numbered_slots(rows or 0, in_row or 0, first)
    slots = read_panel_lines(lines, in_row)
    lie = {c.id: c for c in job.circuits if c.kind == "fuse" and c.slot.panel == (panel or None)}
    below = 0
    if lie.keys() - {slot.id for slot in slots}:
        below = max(c.slot.row for c in lie.values())
        new = _closed_up([slot for slot in slots if slot.id not in lie])
        stay = [
            replace(s, row=lie[s.id].slot.row - below, column=lie[s.id].slot.column)
            for s in slots
            if s.id in lie
        ]
        slots = (*stay, *new)
    if below + max(slot.row for slot in slots) > MOST_IN_LINE:
        raise BadInput("lines", lines[:40], f"at most {MOST_IN_LINE} rows in a panel")
    circuits = {circuit.id: circuit for circuit in job.circuits}
    for slot in slots:
        circuits[slot.id] = _laid(job, slot, panel or None, below)
    return replace(job, circuits=tuple(circuits.values()))


def _closed_up(slots: list[SlotLine]) -> list[SlotLine]:
    """Slots in the rows they were typed in, without the gaps of those that were taken out."""
    rows = sorted({slot.row for slot in slots})
    return [
        replace(slot, row=at + 1, column=column)
        for at, row in enumerate(rows)
        for column, slot in enumerate((slot for slot in slots if slot.row == row), 1)
    ]


def _laid(job: Job, slot: SlotLine, panel: str | None, below: int) -> Circuit:
    """The circuit of a slot, as it stands or new, where its line puts it."""
    stands = job.circuit(slot.id)
    if stands is not None and (stands.kind != "fuse" or stands.slot.panel not in (None, panel)):
        home = job.panel(stands.slot.panel) if stands.kind == "fuse" else None
        where = f"in the panel '{home.name}'" if home else f"on the sheet as a {stands.kind}"
        raise BadInput(
            "lines",
            slot.id,
            "a name not used yet",
            f"{slot.id} is {where} already: call this one otherwise, like {slot.id}b.",
        )
    told = {"rating_a": slot.rating_a, "purpose": slot.purpose}
    fresh: dict[str, Any] = {name: value for name, value in told.items() if value is not None}
    fresh |= {"panel": panel, "row": slot.row + below, "column": slot.column}
    return read(Circuit, placed(Circuit, fresh, dump(stands or Circuit(slot.id), whole=True)))


def save_circuit(job: Job, data: dict[str, Any], chosen: str) -> Job:
    """One more slot or wire; or the chosen one as it is now known, all else of it kept. Raises BadInput."""
    if not chosen:
        return add_circuit(job, read(Circuit, placed(Circuit, data)))
    circuit_called(job, chosen)
    return replace(job, circuits=with_fields(job.circuits, Circuit, chosen, data))


def save_ground(job: Job, data: dict[str, Any], chosen: str) -> Job:
    """One more ground point; or the chosen one as measured. Raises BadInput."""
    if not chosen:
        return add_ground(job, read(GroundPoint, {**data, "id": "GP1"}))
    if job.ground(chosen) is None:
        raise BadInput("ground", chosen, ", ".join(g.id for g in job.grounds))
    return replace(job, grounds=with_fields(job.grounds, GroundPoint, chosen, data))


def set_lighting(job: Job, key: str, lighting: str, no_dimmer: bool) -> Job:
    """What a display's lamp wire does. Raises BadInput."""
    display = display_called(job, key)
    changed = read(Display, placed(Display, {"lighting": lighting, "no_dimmer": no_dimmer}, dump(display)))
    return replace(job, displays=replaced(job.displays, changed))


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
    return without(job, "taps", key)


def add_ground(job: Job, point: GroundPoint) -> Job:
    """One more ground point."""
    return replace(
        job, grounds=(*job.grounds, replace(point, id=free_id("GP1", (g.id for g in job.grounds))))
    )


def remove_ground(job: Job, key: str) -> Job:
    """Take a ground point out, with the wires that end on it."""
    return without(job, "grounds", key)


def circuit_called(job: Job, key: str) -> Circuit:
    """A circuit of the sheet. Raises BadInput naming those it has."""
    circuit = job.circuit(key)
    if circuit is None:
        raise BadInput("circuit", key, ", ".join(c.id for c in job.circuits) or "nothing: the sheet is empty")
    return circuit


def _next_tap(job: Job) -> str:
    return free_id("T1", (tap.id for tap in job.taps))
