"""What the Feeds page is made of: panels, sheet, taps."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal, NotRequired, TypedDict

from django.utils.safestring import SafeString

from metrolex.acts import feeds as acts
from metrolex.feeds.check import Want, loads_by_need, proved_for_meter, recommend, wants_of
from metrolex.feeds.choose import Candidate
from metrolex.feeds.classify import Verdict
from metrolex.feeds.clearance import orientation
from metrolex.feeds.panel_lines import next_slot
from metrolex.feeds.probe import columns_of
from metrolex.feeds.proof import Proof, place_words, proof_of
from metrolex.feeds.relay import RelayPlan, relay_for
from metrolex.feeds.safety import Standing, standing_of_circuit
from metrolex.harness.loads import Load, load_of_tap
from metrolex.job import Circuit, GroundPoint, Job, Panel, Tap
from metrolex.job.feed import PROBED
from metrolex.quantities import typed
from metrolex.tables import load_table
from metrolex.twin import Network, addresses
from workbench.feeds.drawings import panel_drawing
from workbench.feeds.forms import SIDES, CircuitForm, LayOutForm, PanelForm, TapForm
from workbench.jobs.look import Look
from workbench.markup import id_part
from workbench.sheet_cell import SheetCell, reading_typed

__all__ = [
    "FeedsPage",
    "Refused",
    "SheetRow",
    "new_row",
    "opened_tap",
    "page_context",
    "sheet_row",
    "wrong_id",
]


class SheetRow(TypedDict):
    """A circuit on the probe sheet; ``key`` stands in the ids of its elements."""

    key: str
    circuit: Circuit
    verdict: Verdict
    place: str
    sides: list[tuple[str, str]]
    facts: dict[str, SheetCell]
    cells: list[tuple[str, SheetCell]]
    proof: Proof
    standing: Standing


class PanelRow(TypedDict):
    """A panel as drawn, and the form of its facts; None for the slots nobody gave a panel yet."""

    panel: Panel | None
    slots: int
    drawing: SafeString | str
    form: PanelForm | None


class TapRow(TypedDict):
    """A tap with what flows through it now; opened, with its form and every circuit it could move to."""

    tap: Tap
    grade: NotRequired[str]
    amps: NotRequired[float]
    limit: NotRequired[float]
    share: NotRequired[float]
    volts: NotRequired[float | None]
    load: NotRequired[Load]
    circuit: NotRequired[Circuit | None]
    orientation: NotRequired[str]
    relay: NotRequired[RelayPlan | None]
    open: NotRequired[bool]
    form: NotRequired[TapForm]
    candidates: NotRequired[Sequence[Candidate]]


class OpenNeed(TypedDict):
    """A need of the displays that has no tap yet."""

    need: str
    load: float
    candidates: Sequence[Candidate]


class FeedsPage(TypedDict):
    """All of the page inside its frame."""

    tab: str
    states: tuple[str, ...]
    own_columns: list[tuple[str, str, bool]]
    more_columns: dict[str, str]
    new_row: dict[str, Any]
    sheet: list[SheetRow]
    panels: list[PanelRow]
    taps: list[TapRow]
    open_needs: list[OpenNeed]
    best: list[tuple[Want, str | None, Circuit | None]]
    meter_grounds: list[GroundPoint]
    circuit_form: CircuitForm
    chosen: str
    new_panel: PanelForm
    lay_out: LayOutForm


@dataclass(frozen=True, slots=True)
class Refused:
    """A form as it was typed, which the page shows with what is wrong in it in place of a fresh one."""

    circuit: CircuitForm | None = None
    panel: PanelForm | None = None
    lay_out: LayOutForm | None = None
    tap: TapForm | None = None


def page_context(look: Look, chosen: str = "", opened: str = "", refused: Refused = Refused()) -> FeedsPage:
    """The page with a slot ``chosen`` to be changed and a tap ``opened``."""
    job = look.job
    best = recommend(job)
    return {
        "tab": "panel",
        "states": columns_of(job),
        "own_columns": own_columns(job),
        "new_row": new_row(job),
        "more_columns": {k: v for k, v in load_table("circuits")["also"].items() if k not in columns_of(job)},
        "sheet": [sheet_row(look.network, circuit) for circuit in job.circuits],
        "panels": _panels(look, refused.panel),
        "taps": [
            {**_tap_row(look, tap), **opened_tap(look, tap, refused.tap)}
            if tap.id == opened
            else _tap_row(look, tap)
            for tap in job.taps
        ],
        "open_needs": _open_needs(job),
        "best": [(want, best.taken[want.need], job.circuit(best.taken[want.need])) for want in wants_of(job)],
        "meter_grounds": [point for point in job.grounds if proved_for_meter(job, point)],
        "circuit_form": refused.circuit or _circuit_form(job, chosen),
        "chosen": chosen,
        "new_panel": refused.panel or PanelForm(job),
        "lay_out": refused.lay_out or LayOutForm(job, initial=_lay_out_at(job)),
    }


def sheet_row(network: Network, circuit: Circuit) -> SheetRow:
    """One row of the probe sheet: what was read, and what the circuit is by it."""
    job = network.job
    verdict = network.verdicts[circuit.id]
    return {
        "key": id_part(circuit.id),
        "circuit": circuit,
        "verdict": verdict,
        "place": place_words(circuit)["words"],
        "sides": [("", "?"), *SIDES[1:]],
        "facts": {
            "purpose": _fact(circuit, "purpose", "name", circuit.purpose, "text"),
            "rating_a": _fact(circuit, "rating_a", "fuse in ampere", typed(circuit.rating_a), "decimal"),
        },
        "cells": [(state, _cell(circuit, state)) for state in columns_of(job)],
        "proof": proof_of(circuit),
        "standing": standing_of_circuit(circuit, verdict, job.brief.cluster_removed),
    }


def wrong_id(circuit: str, column: str) -> str:
    """The id of what says what is wrong with a cell of the sheet."""
    return f"wrong-{id_part(circuit)}-{id_part('-'.join(column.split()))}"


def _fact(
    circuit: Circuit, fact: str, words: str, stands: str, keyboard: Literal["decimal", "text"]
) -> SheetCell:
    sent = (("circuit", circuit.id), ("fact", fact))
    return SheetCell(
        "value", stands, f"{circuit.id} {words}", wrong_id(circuit.id, fact), sent, keyboard, "fact"
    )


def own_columns(job: Job) -> list[tuple[str, str, bool]]:
    """The columns this sheet has beside those of every sheet: how each is read, whether nothing was read in it yet."""
    said = load_table("circuits")["also"]
    return [
        (column, said.get(column, ""), all(circuit.readings.at(column) is None for circuit in job.circuits))
        for column in columns_of(job)
        if column not in PROBED
    ]


def new_row(job: Job, kind: str = "fuse") -> dict[str, Any]:
    """What the row at the foot of the sheet starts with: the next free number, every kind of place, the kind of the row before."""
    kinds = [(key, row["words"]) for key, row in load_table("feed_places").items() if key != "empty slot"]
    return {"id": next_slot([c.id for c in job.circuits if c.kind == "fuse"]), "kinds": kinds, "kind": kind}


def _cell(circuit: Circuit, state: str) -> SheetCell:
    return SheetCell(
        "reading",
        reading_typed(circuit.readings.at(state)),
        f"{circuit.id} {state}",
        wrong_id(circuit.id, state),
        (("circuit", circuit.id), ("state", state)),
        "decimal",
    )


def _open_needs(job: Job) -> list[OpenNeed]:
    met = {tap.need for tap in job.taps}
    if "ignition_crank" in met:
        met.add("ignition")
    return [
        {"need": need, "load": load, "candidates": acts.weighed(job, need)}
        for need, load in loads_by_need(job).items()
        if need not in met
    ]


def _circuit_form(job: Job, chosen: str) -> CircuitForm:
    circuit = job.circuit(chosen)
    if circuit is not None:
        return CircuitForm(job, initial=CircuitForm.of(circuit))
    panel = job.circuits[-1].slot.panel if job.circuits else (job.panels[-1].id if job.panels else "")
    column = max((c.slot.column for c in job.circuits if c.slot.panel == panel), default=0) + 1
    return CircuitForm(job, initial={"row": 1, "column": min(column, 40), "panel": panel or ""})


def _lay_out_at(job: Job) -> dict[str, Any]:
    """The panel without slots, if there is one, and the first number that is free."""
    used = {c.slot.panel for c in job.circuits}
    empty = next((p.id for p in job.panels if p.id not in used), job.panels[-1].id if job.panels else "")
    return {"panel": empty, "first": next_slot([c.id for c in job.circuits if c.kind == "fuse"])}


def _panels(look: Look, refused: PanelForm | None) -> list[PanelRow]:
    """Each panel as drawn; first the slots nobody gave a panel yet."""
    job, verdicts = look.job, look.network.verdicts
    found: list[PanelRow] = []
    for i, panel in enumerate((None, *job.panels)):
        key = panel.id if panel else None
        slots = [c for c in job.circuits if c.kind == "fuse" and c.slot.panel == key]
        if panel or slots:
            drawing = (
                panel_drawing(
                    job.circuits,
                    verdicts,
                    job.taps,
                    key,
                    panel.name if panel else "",
                    cluster_out=job.brief.cluster_removed,
                )
                if slots
                else ""
            )
            form = None
            if panel:
                form = (
                    refused
                    if refused and refused.data.get("panel") == panel.id
                    else PanelForm(job, initial=PanelForm.of(panel), auto_id=f"panel-{i}-%s")
                )
            found.append({"panel": panel, "slots": len(slots), "drawing": drawing, "form": form})
    return found


def _tap_row(look: Look, tap: Tap) -> TapRow:
    amps = look.solved.solution.currents.get(addresses.tap(tap.id), 0.0)
    limit = min(tap.limit_a, tap.fuse_a or tap.limit_a)
    grades = {f.grade for f in look.standing if f.place == "feeds" and f.subject in (tap.circuit, tap.id)}
    circuit, load = look.job.circuit(tap.circuit), load_of_tap(look.job, tap)
    return {
        "grade": next((grade for grade in ("stop", "caution") if grade in grades), "settled"),
        "tap": tap,
        "amps": amps,
        "limit": limit,
        "share": min(1.0, abs(amps) / limit),
        "volts": look.solved.volts(addresses.tap_node(tap.id)),
        "load": load,
        "circuit": circuit,
        "orientation": orientation(circuit) if circuit else "",
        "relay": relay_for(load.steady_a, tap.limit_a, load.peak_a, load.peak_s),
    }


def opened_tap(look: Look, tap: Tap, form: TapForm | None = None) -> TapRow:
    """What a tap shows when it is opened: its form, and every circuit it could move to."""
    return {
        "open": True,
        "tap": tap,
        "form": form or TapForm(initial=TapForm.of(tap), prefix=tap.id),
        "candidates": acts.weighed(look.job, tap.need, tap),
    }
