"""Proving: what each test should find in the state of the key, what was seen, the verdict."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from metrolex.acts import proving as acts
from metrolex.check.proof import judge_all
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import State
from metrolex.quantities import parse_number
from metrolex.twin import expect, verdict, what_if
from metrolex.twin.expectations import STATES
from metrolex.twin.load_test import connectors_of, load_test
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import carry_out, frame, look_for, page_of_job, record_for, show_page
from workbench.request import Request


@require_GET
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """All tests in the state the key switch stands at."""
    return show_page(request, "proving/show.html", record, look, "proving", **_context(look, look.state))


def _context(look: Look, state: State) -> dict[str, Any]:
    judged = judge_all(look.network)
    seen = {o.test: o for o in look.job.observations if o.state == state}
    rows = []
    for i, expectation in enumerate(expect(look.network, state)):
        observation = seen.get(expectation.point.test)
        found = verdict(expectation, observation) if observation else ("", "")
        rows.append(
            {
                "index": i,
                "expectation": expectation,
                "seen": observation,
                "verdict": found[0],
                "words": found[1],
            }
        )
    states = [
        {
            "state": s,
            "words": _brief_words(s),
            "here": s == state,
            "seen": sum(j.observation.state == s for j in judged),
            "off": sum(j.observation.state == s and j.verdict == "off" for j in judged),
        }
        for s in STATES
    ]
    return {
        "tests": rows,
        "states": states,
        "seen_count": len(judged),
        "off_count": sum(j.verdict == "off" for j in judged),
        "proof_state": state,
        "connectors": [
            {"value": f"{d.id}|{p.id}", "words": f"{d.id}, {p.name}"} for d, p in connectors_of(look.network)
        ],
        "what_ifs": [
            {"channel": channel, "faults": faults}
            for channel in look.job.chains
            if (faults := what_if(look.network, state, channel))
        ],
    }


def _brief_words(state: State) -> str:
    lamps = "" if state.lamps == "off" else f" + {state.lamps}"
    return "engine running" if state.running else f"{state.key}{lamps}"


@require_POST
def seen(request: Request, job: int) -> HttpResponse:
    """What was seen at one test; the verdict at once."""
    record = record_for(request, job)
    test, text = request.POST.get("test", ""), request.POST.get("seen", "")
    error = ""
    try:
        state = read(State, {word: request.POST.get(word, "") for word in ("key", "lamps", "engine")})
        day = timezone.localdate().isoformat()
        carry_out(request, record, lambda before: acts.observe(before, test, state, text, day))
    except BadInput as fault:
        error = fault.message
        state = look_for(request, record).state
    if not request.htmx:
        if error:
            messages.error(request, error)
        return redirect("proving:show", job)
    look = look_for(request, JobRecord.objects.get(pk=record.pk))
    context = {**frame(record, look, "proving"), **_context(look, state)}
    index = next(
        (row["index"] for row in context["tests"] if row["expectation"].point.test.key == test), None
    )
    return render(request, "proving/_seen.html", {**context, "cell": {"index": index, "error": error}})


@require_GET
@page_of_job
def lamp(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What a test lamp on one connector shows, and what it would with a poor leg."""
    display, _, pin = request.GET.get("at", "").partition("|")
    try:
        found = load_test(look.network, look.state, display, pin, parse_number(request.GET.get("watts", "")))
    except BadInput as fault:
        return render(request, "proving/_lamp.html", {"problem": fault.message})
    return render(request, "proving/_lamp.html", {"test": found, "state": look.state})
