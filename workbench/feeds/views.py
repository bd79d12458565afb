"""Feeds: the panels, the probe sheet, the taps."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, cast

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from metrolex.acts import feeds as acts
from metrolex.errors import BadInput
from metrolex.feeds.check import loads_by_need, proved_for_meter, recommend, wants_of
from metrolex.feeds.clearance import orientation
from metrolex.feeds.panel_lines import next_slot
from metrolex.feeds.proof import proof_of
from metrolex.feeds.relay import relay_for
from metrolex.feeds.safety import standing_of_circuit
from metrolex.harness.loads import load_of_tap
from metrolex.job import PROBE_STATES, Job, Need, Tap
from metrolex.twin import addresses
from workbench.feeds.drawings import panel_drawing
from workbench.feeds.forms import CircuitForm, LayOutForm, PanelForm, TapForm
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, carry_out, frame, kept, look_for, page_of_job, record_for, show_page
from workbench.request import Request


@require_GET
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The whole place."""
    return show_page(
        request,
        "feeds/show.html",
        record,
        look,
        "feeds",
        **_context(look, chosen=request.GET.get("slot", ""), opened=request.GET.get("tap", "")),
    )


def _context(
    look: Look,
    circuit_form: CircuitForm | None = None,
    panel_form: PanelForm | None = None,
    chosen: str = "",
    opened: str = "",
    tap_form: TapForm | None = None,
    lay_out: LayOutForm | None = None,
) -> dict[str, Any]:
    job, verdicts = look.job, look.network.verdicts
    best = recommend(job)
    return {
        "tab": "panel",
        "states": [*PROBE_STATES, "later"],
        "sheet": [
            {
                "index": i,
                "circuit": c,
                "verdict": verdicts[c.id],
                "cells": [(s, c.readings.at(s)) for s in (*PROBE_STATES, "later")],
                "live_now": look.solved.volts(addresses.feed_side(c.id)),
                "panel": job.panel(c.panel),
                "orientation": orientation(c),
                "proof": proof_of(c),
                "standing": standing_of_circuit(c, verdicts[c.id], job.brief.cluster_removed),
            }
            for i, c in enumerate(job.circuits)
        ],
        "panels": _panels(look, panel_form),
        "taps": [
            _tap_row(look, tap) | (_opened(look, tap, tap_form) if tap.id == opened else {})
            for tap in job.taps
        ],
        "open_needs": [
            {"need": need, "load": load, "candidates": acts.weighed(job, need)}
            for need, load in loads_by_need(job).items()
            if not any(
                tap.need == need or (need == "ignition" and tap.need == "ignition_crank") for tap in job.taps
            )
        ],
        "best": [(want, best.taken[want.need], job.circuit(best.taken[want.need])) for want in wants_of(job)],
        "meter_grounds": [point for point in job.grounds if proved_for_meter(job, point)],
        "circuit_form": circuit_form or _circuit_form(job, chosen),
        "chosen": chosen,
        "new_panel": panel_form or PanelForm(job),
        "lay_out": lay_out or LayOutForm(job, initial=_lay_out_at(job)),
    }


def _circuit_form(job: Job, chosen: str) -> CircuitForm:
    circuit = job.circuit(chosen)
    if circuit is not None:
        return CircuitForm(job, initial=CircuitForm.of(circuit))
    panel = job.circuits[-1].panel if job.circuits else (job.panels[-1].id if job.panels else "")
    column = max((c.column for c in job.circuits if c.panel == panel), default=0) + 1
    return CircuitForm(job, initial={"row": 1, "column": min(column, 40), "panel": panel or ""})


def _lay_out_at(job: Job) -> dict[str, Any]:
    """The panel without slots, if there is one, and the first number that is free."""
    used = {c.panel for c in job.circuits}
    empty = next((p.id for p in job.panels if p.id not in used), job.panels[-1].id if job.panels else "")
    return {"panel": empty, "first": next_slot([c.id for c in job.circuits if c.kind == "fuse"])}


def _panels(look: Look, refused: PanelForm | None) -> list[dict[str, Any]]:
    """Each panel as drawn; first the slots nobody gave a panel yet."""
    job, verdicts = look.job, look.network.verdicts
    found: list[dict[str, Any]] = []
    for panel in (None, *job.panels):
        key = panel.id if panel else None
        slots = [c for c in job.circuits if c.kind == "fuse" and c.panel == key]
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
                    else PanelForm(job, initial=PanelForm.of(panel))
                )
            found.append({"panel": panel, "slots": len(slots), "drawing": drawing, "form": form})
    return found


def _tap_row(look: Look, tap: Tap) -> dict[str, Any]:
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


def _opened(look: Look, tap: Tap, form: TapForm | None = None) -> dict[str, Any]:
    """What a tap shows when it is opened: its form, and every circuit it could move to."""
    return {
        "open": True,
        "tap": tap,
        "form": form or TapForm(initial=TapForm.of(tap), prefix=tap.id),
        "candidates": acts.weighed(look.job, tap.need, tap),
    }


@require_GET
@page_of_job
def tap_more(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """One tap opened, fetched when it is: a page of all of them is heavy."""
    tap = look.job.tap(request.GET.get("tap", ""))
    if tap is None:
        raise Http404
    return render(request, "feeds/_tap_more.html", {"record": record, "row": _opened(look, tap)})


@require_POST
def circuit_save(request: Request, job: int) -> HttpResponse:
    """A slot or wire: one more, or what is known of one that is there."""
    record = record_for(request, job)
    look, chosen = look_for(request, record), request.POST.get("chosen", "")
    stands = look.job.circuit(chosen)
    form = CircuitForm(look.job, request.POST, initial=CircuitForm.of(stands) if stands else None)
    if kept(request, record, form, lambda before: acts.save_circuit(before, form.values(), chosen)):
        return redirect("feeds:show", job)
    return show_page(
        request,
        "feeds/show.html",
        record,
        look,
        "feeds",
        422,
        **_context(look, circuit_form=form, chosen=chosen),
    )


@require_POST
def panel_lay_out(request: Request, job: int) -> HttpResponse:
    """Many slots of a panel at once."""
    record = record_for(request, job)
    look = look_for(request, record)
    form = LayOutForm(look.job, request.POST)
    if kept(request, record, form, lambda before: acts.lay_out_panel(before, **form.values())):
        return redirect("feeds:show", job)
    return show_page(request, "feeds/show.html", record, look, "feeds", 422, **_context(look, lay_out=form))


@require_POST
def panel_save(request: Request, job: int) -> HttpResponse:
    """A panel: one more, or its facts."""
    record = record_for(request, job)
    look, key = look_for(request, record), request.POST.get("panel", "")
    form = PanelForm(look.job, request.POST)
    if kept(request, record, form, lambda before: acts.set_panel(before, key, form.values())):
        return redirect("feeds:show", job)
    return show_page(
        request, "feeds/show.html", record, look, "feeds", 422, **_context(look, panel_form=form)
    )


@require_POST
def panel_remove(request: Request, job: int) -> HttpResponse:
    return act(
        request,
        job,
        lambda before: acts.remove_panel(before, request.POST.get("panel", "")),
        "feeds:show",
    )


@require_POST
def circuit_remove(request: Request, job: int) -> HttpResponse:
    return act(
        request,
        job,
        lambda before: acts.remove_circuit(before, request.POST.get("circuit", "")),
        "feeds:show",
    )


@require_POST
def probe(request: Request, job: int) -> HttpResponse:
    """One cell of the probe sheet, as it is left; the classes, taps and findings follow."""
    key, state, text = (request.POST.get(name, "") for name in ("circuit", "state", "reading"))
    return _cell(request, job, key, state, lambda before: acts.set_reading(before, key, state, text))


@require_POST
def prove(request: Request, job: int) -> HttpResponse:
    """Whether it was proved: by its fuse, or a wire by a lamp."""
    key, answer = request.POST.get("circuit", ""), request.POST.get("proved", "")
    return _cell(request, job, key, "proved", lambda before: acts.prove_circuit(before, key, answer))


def _cell(request: Request, job: int, key: str, state: str, edit: Callable[[Job], Job]) -> HttpResponse:
    record = record_for(request, job)
    error = ""
    try:
        carry_out(request, record, edit)
    except BadInput as fault:
        error = fault.message
    if not request.htmx:
        if error:
            messages.error(request, f"{key}, {state}: {error}")
        return redirect("feeds:show", job)
    look = look_for(request, JobRecord.objects.get(pk=record.pk))
    index = next((i for i, c in enumerate(look.job.circuits) if c.id == key), None)
    context = {
        **frame(record, look, "feeds"),
        **_context(look),
        "cell": {"index": index, "state": state, "error": error},
    }
    return render(request, "feeds/_cell.html", context, status=200)


@require_POST
def tap(request: Request, job: int) -> HttpResponse:
    """Tap a circuit for a need, with the reason where another one is better."""
    need, circuit, key, why = (request.POST.get(name, "") for name in ("need", "circuit", "tap", "why"))
    return act(
        request,
        job,
        lambda before: acts.choose_tap(before, cast(Need, need), circuit, key, why.strip()[:120]),
        "feeds:show",
    )


@require_POST
def tap_best(request: Request, job: int) -> HttpResponse:
    """The best set of taps for all needs at once."""
    return act(request, job, acts.choose_all, "feeds:show")


@require_POST
def tap_set(request: Request, job: int) -> HttpResponse:
    """A tap as fitted."""
    record, key = record_for(request, job), request.POST.get("tap", "")
    form = TapForm(request.POST, prefix=key)
    if kept(request, record, form, lambda before: acts.set_tap(before, key, form.cleaned_data)):
        return redirect("feeds:show", job)
    look = look_for(request, record)
    context = _context(look, opened=key, tap_form=form)
    return show_page(request, "feeds/show.html", record, look, "feeds", 422, **context)


@require_POST
def tap_turn(request: Request, job: int) -> HttpResponse:
    return act(request, job, lambda before: acts.turn_tap(before, request.POST.get("tap", "")), "feeds:show")


@require_POST
def tap_remove(request: Request, job: int) -> HttpResponse:
    return act(
        request, job, lambda before: acts.remove_tap(before, request.POST.get("tap", "")), "feeds:show"
    )
