"""Proving: what each test should find in the state of the key, what was seen, the verdict."""

from __future__ import annotations

from http import HTTPStatus
from typing import Any
from urllib.parse import urlencode

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import trigger_client_event

from metrolex.acts import proving as acts
from metrolex.errors import BadInput, CircuitError
from metrolex.faults import WhatIf, likely_faults, what_if
from metrolex.intake import read
from metrolex.job import MeasuringChain, State
from metrolex.proving import PlannedCheck, checks_of, enough_of
from metrolex.quantities import parse_number
from metrolex.twin import build
from metrolex.twin.battery_words import battery_said
from metrolex.twin.expectations import points_at
from metrolex.twin.kept import at_hand
from metrolex.twin.load_test import LampPlace, feeds_for_lamp, load_test, returns_for_lamp, telling_watts
from workbench.jobs.afterwards import answers_first
from workbench.jobs.cache import JOBS
from workbench.jobs.door import all_of_it
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import carry_out, channel_or_404, page_of_job, record_for, show_page, tell_refused
from workbench.jobs.state import state_of, thrown_from
from workbench.markup import id_part
from workbench.proving.page import Counts, TestRow, counts_of, element_of, row_of
from workbench.proving.plan_page import check_row, plan_page
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """All tests in the state the key switch stands at."""
    asked = look.job.chain(request.GET.get("channel", ""))
    return show_page(request, "proving/show.html", record, look, "proving", **_context(look, asked))


@require_safe
@page_of_job
def faults(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What each likely fault of one channel would show, fetched when it is opened."""
    channel = channel_or_404(look, request.GET.get("channel", ""), needed=True)
    found = what_if(look.network, look.state, channel)
    return show_page(request, "proving/_what_if.html", record, look, "proving", channel=channel, faults=found)


class ProvingPage(Counts):
    """All tests at one state."""

    tests: list[TestRow]
    proof_state: State
    battery: str
    lamp_feeds: list[LampPlace]
    lamp_returns: list[LampPlace]
    faulty: list[MeasuringChain]
    asked: MeasuringChain | None
    faults: tuple[WhatIf, ...]


def _context(look: Look, asked: MeasuringChain | None) -> ProvingPage:
    network, state = look.network, look.state
    return {
        **counts_of(network, state),
        "tests": [row_of(network, state, point) for point in points_at(network, state)],
        "proof_state": state,
        "battery": battery_said(look.solved),
        "lamp_feeds": feeds_for_lamp(network),
        "lamp_returns": returns_for_lamp(network),
        "faulty": [channel for channel in look.job.chains if any(likely_faults(network, channel))],
        "asked": asked,
        "faults": what_if(network, state, asked) if asked else (),
    }


@require_POST
@answers_first
def seen(request: Request, job: int) -> HttpResponse:
    """What was seen at one test; the verdict at once, what hangs on it when the typing pauses."""
    record = record_for(request, job)
    test, text = request.POST.get("test", ""), request.POST.get("found", "")
    error, after, state = "", None, state_of(request, record.pk)
    try:
        said = {word: request.POST.get(word, "") for word in ("key", "lamps", "engine")}
        thrown = thrown_from(request.POST.get("thrown", ""))
        state = read(State, said | {"thrown": thrown})
        day = timezone.localdate().isoformat()
        after = carry_out(
            request, record, lambda before: acts.observe(before, test, state, text, day), as_one=all_of_it
        )
    except BadInput as fault:
        error = fault.message
    if not request.htmx:
        if error:
            tell_refused(request, error, text)
        return redirect("proving:show", job)
    points = points_at(build(after or JOBS.job_of(record)), state)
    point = next((point for point in points if point.test.key == test), None)
    context: dict[str, Any] = {
        "record": record,
        "key": element_of(state, point) if point else "",
        "error": error,
    }
    if after is not None and point is not None:
        context["row"] = row_of(build(after), state, point)
    answer = HttpResponse(render_to_string("proving/_seen.html", context))
    return answer if error else trigger_client_event(answer, "job-changed")


@require_safe
@page_of_job
def live(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """All that hangs on what was seen: the states, the stages, the findings."""
    return show_page(
        request,
        "proving/_live.html",
        record,
        look,
        "proving",
        fragment=True,
        **counts_of(look.network, look.state),
    )


@require_safe
@page_of_job
def plan(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Phase by phase: the tests that are enough, the checks with hand and eye. Of a new circuit the page answers first and asks for them itself."""
    first = not (request.htmx or "whole" in request.GET or at_hand(enough_of, look.network))
    made = {"waits": True} if first else _plan(request, record, look)
    status = HTTPStatus.ACCEPTED if first else HTTPStatus.OK
    return show_page(request, "proving/plan.html", record, look, "proving", status=status, **made)


@require_safe
@page_of_job
def plan_live(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """How far the plan is done, and all else that hangs on it."""
    context = _plan(request, record, look)
    return show_page(request, "proving/_plan_live.html", record, look, "proving", fragment=True, **context)


def _plan(request: Request, record: JobRecord, look: Look) -> dict[str, Any]:
    try:
        return dict(plan_page(record, look.network, request.GET.get("phase", "")))
    except CircuitError as fault:
        return {"problem": str(fault)}


@require_POST
@answers_first
def checked(request: Request, job: int) -> HttpResponse:
    """How a check with hand and eye came out; its verdict at once."""
    record = record_for(request, job)
    check, text = request.POST.get("check", ""), request.POST.get("found", "")
    error, after, day = "", None, timezone.localdate().isoformat()
    try:
        after = carry_out(
            request, record, lambda before: acts.check_off(before, check, text, day), as_one=all_of_it
        )
    except BadInput as fault:
        error = fault.message
    phase = check.partition("|")[0]
    if not request.htmx:
        if error:
            tell_refused(request, error, text)
        return redirect(f"{reverse('proving:plan', args=[job])}?{urlencode({'phase': phase})}")
    network = build(after or JOBS.job_of(record))
    done = next((one for one in network.job.checks if one.check.key == check), None)
    found = next((one for one in checks_of(network) if one.ref.key == check), None)
    context: dict[str, Any] = {"key": id_part(check) if found else "", "error": error, "record": record}
    if found is not None and after is not None:
        context["row"] = check_row(record, PlannedCheck(found, done))
    answer = HttpResponse(render_to_string("proving/_checked.html", context))
    return answer if error else trigger_client_event(answer, "job-changed")


@require_safe
@page_of_job
def lamp(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What a test lamp on one connector shows, and what it would with a poor leg."""
    at, back = request.GET.get("at", ""), request.GET.get("back", "")
    try:
        found = load_test(look.network, look.state, at, back, parse_number(request.GET.get("watts", "")))
    except BadInput as fault:
        return render(request, "proving/_lamp.html", {"problem": fault.message})
    return render(
        request,
        "proving/_lamp.html",
        {
            "test": found,
            "state": look.state,
            "job": look.job,
            "best": telling_watts(look.network, look.state, at, back),
        },
    )
