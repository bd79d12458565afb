"""The probe sheet: its rows, what each says, what was read, its columns."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from metrolex.acts.edit import replaced, with_fields
from metrolex.acts.feeds import add_circuit, circuit_called
from metrolex.errors import BadInput
from metrolex.feeds.panel_lines import MOST_IN_LINE, next_slot
from metrolex.feeds.probe import columns_of, read_probe
from metrolex.intake import dump, read
from metrolex.job import Circuit, Job, Survey
from metrolex.job.within import placed
from metrolex.quantities import CURRENT, parse

__all__ = ["add_column", "add_row", "prove_circuit", "remove_column", "set_fact", "set_reading"]

#: So many columns of readings at the most; so many slots in the first row of a panel nobody has laid out.
MOST_COLUMNS, IN_A_ROW = 16, 8


def set_reading(job: Job, key: str, state: str, text: str) -> Job:
    """What the probe found at one circuit in one state. Raises BadInput (field ``reading``)."""
    circuit = circuit_called(job, key)
    if state not in columns_of(job):
        raise BadInput("state", state, " | ".join(columns_of(job)))
    readings = circuit.readings.with_reading(state, read_probe(text))
    return replace(job, circuits=replaced(job.circuits, replace(circuit, readings=readings)))


def add_column(job: Job, column: str) -> Job:
    """One more column on the probe sheet ('turn left', 'after 20 min'). Raises BadInput (field ``column``)."""
    column = " ".join(column.split()).lower()
    if column in columns_of(job):
        raise BadInput("column", column, "a column that is not there yet")
    if len(columns_of(job)) >= MOST_COLUMNS:
        raise BadInput("column", column, f"at most {MOST_COLUMNS} columns: take one off first")
    survey = replace(job.survey, probed_also=(*job.survey.probed_also, column))
    return replace(job, survey=read(Survey, dump(survey), "survey"))


def remove_column(job: Job, column: str) -> Job:
    """The sheet without one of the fitter's own columns; one with readings stays. Raises BadInput (field ``column``)."""
    used = [circuit.id for circuit in job.circuits if circuit.readings.at(column) is not None]
    if used:
        raise BadInput("column", column, "a column without readings", f"{used[0]} was read in '{column}'.")
    left = tuple(word for word in job.survey.probed_also if word != column)
    return replace(job, survey=replace(job.survey, probed_also=left))


#: What of a circuit stands in its row of the sheet beside what was read.
ROW_FACTS = ("purpose", "rating_a", "fed")


def set_fact(job: Job, key: str, fact: str, text: str) -> Job:
    """What its row of the sheet says of a slot: its name, its fuse in ampere, its fed side. Raises BadInput (field ``fact``)."""
    if fact not in ROW_FACTS:
        raise BadInput("fact", fact, " | ".join(ROW_FACTS))
    plain = text.strip()
    value: Any = plain
    if fact == "rating_a":
        value = parse(plain, CURRENT, "A") if plain else None
    try:
        return replace(
            job, circuits=with_fields(job.circuits, Circuit, circuit_called(job, key).id, {fact: value})
        )
    except BadInput as fault:
        raise BadInput("fact", plain[:40], fault.allowed) from None


def add_row(job: Job, name: str, purpose: str, fuse: str, kind: str = "fuse") -> Job:
    """One more circuit at the foot of the sheet; a slot lies beside the last one of its panel, below where the row is full.

    A slot without a name of its own takes the next number. Raises BadInput.
    """
    rating = parse(fuse, CURRENT, "A") if fuse.strip() else None
    key = name.strip()
    if not key and kind == "fuse" and (purpose.strip() or rating):
        key = next_slot([circuit.id for circuit in job.circuits if circuit.kind == "fuse"])
    if not key:
        raise BadInput("id", name, "a slot, like F22, or what its place is called")
    data: dict[str, Any] = {"id": key, "purpose": purpose.strip(), "rating_a": rating, "kind": kind}
    if kind == "fuse":
        data |= _next_place(job)
    return add_circuit(job, read(Circuit, placed(Circuit, data)))


def _next_place(job: Job) -> dict[str, Any]:
    """Panel, row and column of the slot after the last one."""
    slots = [circuit.slot for circuit in job.circuits if circuit.kind == "fuse"]
    if not slots:
        return {"panel": job.panels[-1].id if job.panels else None, "row": 1, "column": 1}
    last = slots[-1]
    mine = [slot for slot in slots if slot.panel == last.panel]
    row = max(slot.row for slot in mine)
    column = max(slot.column for slot in mine if slot.row == row) + 1
    above = max((slot.column for slot in mine if slot.row < row), default=IN_A_ROW)
    if column > above:
        row, column = row + 1, 1
    return {"panel": last.panel, "row": min(row, MOST_IN_LINE), "column": column}


def prove_circuit(job: Job, key: str, answer: str) -> Job:
    """Whether it was proved, the way that suits it: 'yes', 'no', or '' for not tried."""
    words: dict[str, bool | None] = {"yes": True, "no": False, "": None}
    if answer not in words:
        raise BadInput("proved", answer, "yes, no or nothing")
    circuit = replace(circuit_called(job, key), fuse_pulled_dead=words[answer])
    return replace(job, circuits=replaced(job.circuits, circuit))
