"""Feeds: the panel, the probe sheet, the taps, the grounds."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from metrolex.errors import BadInput
from metrolex.feeds.check import loads_by_need
from metrolex.job import PROBE_STATES, Circuit, GroundPoint, Job
from metrolex.twin.names import ground_node, tap_node
from workbench.feeds import services
from workbench.feeds.drawings import panel_drawing
from workbench.feeds.forms import CircuitForm, GroundForm
from workbench.jobs.fields import refuse
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, frame, look_for, record_for, show_page
from workbench.jobs.services import Look, change


@require_GET
def show(request: HttpRequest, job: int) -> HttpResponse:
    """The whole place."""
    record = record_for(request, job)
    look = look_for(request, record)
    return show_page(request, "feeds/show.html", record, look, "feeds", **_context(look))


def _context(
    look: Look, circuit_form: CircuitForm | None = None, ground_form: GroundForm | None = None
) -> dict[str, Any]:
    job, verdicts = look.job, look.network.verdicts
    column = max((c.column for c in job.circuits), default=0) + 1
    return {
        "states": PROBE_STATES,
        "sheet": [
            {"index": i, "circuit": c, "verdict": verdicts[c.id], "cells": [(s, c.readings.at(s)) for s in PROBE_STATES],
             "live_now": look.solved.volts(f"{c.id} feed side")}
            for i, c in enumerate(job.circuits)
        ],
        "panel": panel_drawing(job.circuits, verdicts, job.taps) if any(c.kind == "fuse" for c in job.circuits) else "",
        "taps": [_tap_row(look, tap) for tap in job.taps],
        "open_needs": [
            {"need": need, "load": load, "candidates": services.weighed(job, need)}
            for need, load in loads_by_need(job).items()
            if not any(tap.need == need or (need == "ignition" and tap.need == "ignition_crank") for tap in job.taps)
        ],
        "grounds": [{"point": g, "volts": look.solved.volts(ground_node(g.id))} for g in job.grounds],
        "circuit_form": circuit_form or CircuitForm(initial={"row": 1, "column": min(column, 40)}),
        "ground_form": ground_form or GroundForm(),
    }  # fmt: skip


def _tap_row(look: Look, tap: Any) -> dict[str, Any]:
    amps = look.solved.solution.currents.get(f"tap {tap.id}", 0.0)
    limit = min(tap.limit_a, tap.fuse_a or tap.limit_a)
    grades = {f.grade for f in look.standing if f.place == "feeds" and f.subject == tap.circuit}
    return {
        "grade": next((grade for grade in ("stop", "caution") if grade in grades), "settled"),
        "tap": tap, "amps": amps, "limit": limit, "share": min(1.0, abs(amps) / limit), "volts": look.solved.volts(tap_node(tap.id)),
        "design_a": services.tap_load_a(look.job, tap), "candidates": services.weighed(look.job, tap.need, tap),
    }  # fmt: skip


@require_POST
def circuit_add(request: HttpRequest, job: int) -> HttpResponse:
    """One more slot on the panel."""
    record, form = record_for(request, job), CircuitForm(request.POST)
    if form.is_valid():
        try:
            change(record, lambda before: services.add_circuit(before, Circuit(**form.cleaned_data)))
            return redirect("feeds:show", job)
        except BadInput as fault:
            refuse(form, fault)
    look = look_for(request, record)
    return show_page(
        request, "feeds/show.html", record, look, "feeds", 422, **_context(look, circuit_form=form)
    )


@require_POST
def circuit_remove(request: HttpRequest, job: int) -> HttpResponse:
    return act(
        request,
        job,
        lambda before: services.remove_circuit(before, request.POST.get("circuit", "")),
        "feeds:show",
    )


@require_POST
def probe(request: HttpRequest, job: int) -> HttpResponse:
    """One cell of the probe sheet, as it is left; the classes, taps and findings follow."""
    key, state, text = (request.POST.get(name, "") for name in ("circuit", "state", "reading"))
    return _cell(request, job, key, state, lambda before: services.set_reading(before, key, state, text))


@require_POST
def prove(request: HttpRequest, job: int) -> HttpResponse:
    """Whether the reading died with the fuse pulled."""
    key, answer = request.POST.get("circuit", ""), request.POST.get("proved", "")
    return _cell(request, job, key, "proved", lambda before: services.prove_circuit(before, key, answer))


def _cell(request: HttpRequest, job: int, key: str, state: str, edit: Callable[[Job], Job]) -> HttpResponse:
    record = record_for(request, job)
    error = ""
    try:
        change(record, edit)
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
def tap(request: HttpRequest, job: int) -> HttpResponse:
    """Tap a circuit for a need."""
    need, circuit, key = (request.POST.get(name, "") for name in ("need", "circuit", "tap"))
    return act(request, job, lambda before: services.choose_tap(before, need, circuit, key), "feeds:show")  # type: ignore[arg-type]


@require_POST
def tap_turn(request: HttpRequest, job: int) -> HttpResponse:
    return act(
        request, job, lambda before: services.turn_tap(before, request.POST.get("tap", "")), "feeds:show"
    )


@require_POST
def tap_remove(request: HttpRequest, job: int) -> HttpResponse:
    return act(
        request, job, lambda before: services.remove_tap(before, request.POST.get("tap", "")), "feeds:show"
    )


@require_POST
def ground_add(request: HttpRequest, job: int) -> HttpResponse:
    """One more ground point."""
    record, form = record_for(request, job), GroundForm(request.POST)
    if form.is_valid():
        clean = form.cleaned_data
        point = GroundPoint("new", clean["name"], clean["where"], clean["surface"])
        if clean["contact_ohm"]:
            point = replace(point, contact_ohm=clean["contact_ohm"])
        try:
            change(record, lambda before: services.add_ground(before, point))
            return redirect("feeds:show", job)
        except BadInput as fault:
            refuse(form, fault)
    look = look_for(request, record)
    return show_page(
        request, "feeds/show.html", record, look, "feeds", 422, **_context(look, ground_form=form)
    )


@require_POST
def ground_remove(request: HttpRequest, job: int) -> HttpResponse:
    return act(
        request,
        job,
        lambda before: services.remove_ground(before, request.POST.get("ground", "")),
        "feeds:show",
    )
