"""Proving: what each test should find in the state of the key, what was seen, the verdict."""

from __future__ import annotations

from typing import Any, TypedDict

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe
from django_htmx.http import trigger_client_event

from metrolex.acts import proving as acts
from metrolex.check.proof import judge_all
from metrolex.errors import BadInput
from metrolex.faults import WhatIf, likely_faults, what_if
from metrolex.intake import read
from metrolex.job import Job, MeasuringChain, Observation, State
from metrolex.quantities import parse_number
from metrolex.twin import Network, build, verdict
from metrolex.twin.battery_words import battery_said
from metrolex.twin.expectations import Expectation, TestPoint, expect_at, points_at, states_of
from metrolex.twin.load_test import LampPlace, feeds_for_lamp, load_test, returns_for_lamp, telling_watts
from workbench.jobs.afterwards import answers_first
from workbench.jobs.cache import JOBS
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import carry_out, channel_or_404, page_of_job, record_for, show_page, tell_refused
from workbench.jobs.state import state_of
from workbench.markup import id_part
from workbench.request import Request
from workbench.sheet_cell import SheetCell, reading_typed


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


class TestRow(TypedDict):
    """A test with what it should find, what was seen, and the verdict; ``key``, of the test in its state, stands in the ids of its elements."""

    key: str
    expectation: Expectation
    cell: SheetCell
    verdict: str
    words: str


class StateCount(TypedDict):
    """A state of the key to prove at: how much was seen there, how much of it was off."""

    state: State
    words: str
    here: bool
    seen: int
    off: int


class Counts(TypedDict):
    """How much was seen in all and at each state of the key."""

    states: list[StateCount]
    seen_count: int
    off_count: int


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
        **_counts(network, state),
        "tests": [_row(network, state, point) for point in points_at(network, state)],
        "proof_state": state,
        "battery": battery_said(look.solved),
        "lamp_feeds": feeds_for_lamp(network),
        "lamp_returns": returns_for_lamp(network),
        "faulty": [channel for channel in look.job.chains if any(likely_faults(network, channel))],
        "asked": asked,
        "faults": what_if(network, state, asked) if asked else (),
    }


def _counts(network: Network, state: State) -> Counts:
    """How much was seen in all and at each state of the key."""
    judged = judge_all(network)
    return {
        "states": [
            {
                "state": s,
                "words": _brief_words(network.job, s),
                "here": s == state,
                "seen": sum(j.observation.state == s for j in judged),
                "off": sum(j.observation.state == s and j.verdict == "off" for j in judged),
            }
            for s in states_of(network.job)
        ],
        "seen_count": len(judged),
        "off_count": sum(j.verdict == "off" for j in judged),
    }


def _row(network: Network, state: State, point: TestPoint) -> TestRow:
    expectation = expect_at(network, state, point)
    seen = (o for o in network.job.observations if (o.state, o.test) == (state, point.test))
    observation = next(seen, None)
    found, words = verdict(expectation, observation) if observation else ("", "")
    return {
        "key": _element(state, point),
        "expectation": expectation,
        "cell": _cell(state, point, observation),
        "verdict": found,
        "words": words,
    }


def _cell(state: State, point: TestPoint, seen: Observation | None) -> SheetCell:
    return SheetCell(
        "seen",
        reading_typed(seen.value if seen else None),
        f"Seen: {point.name}",
        f"wrong-{_element(state, point)}",
        (
            ("test", point.test.key),
            ("key", state.key),
            ("lamps", state.lamps),
            ("engine", state.engine),
            ("thrown", "|".join(state.thrown)),
        ),
    )


def _element(state: State, point: TestPoint) -> str:
    """A test at a state of the key: what came back late from another state must not land in this one's row."""
    return id_part(f"{state.key} {state.lamps} {state.engine} {' '.join(state.thrown)} {point.test.key}")


def _brief_words(job: Job, state: State) -> str:
    if state.thrown:
        return ", ".join(f"{s.name}: {s.position(thrown=True)}" for s in job.switches if s.id in state.thrown)
    lamps = "" if state.lamps == "off" else f" + {state.lamps}"
    return "engine running" if state.running else f"{state.key}{lamps}"


@require_POST
@answers_first
def seen(request: Request, job: int) -> HttpResponse:
    """What was seen at one test; the verdict at once, what hangs on it when the typing pauses."""
    record = record_for(request, job)
    test, text = request.POST.get("test", ""), request.POST.get("seen", "")
    error, after, state = "", None, state_of(request, record.pk)
    try:
        said = {word: request.POST.get(word, "") for word in ("key", "lamps", "engine")}
        thrown = [key for key in request.POST.get("thrown", "").split("|") if key]
        state = read(State, said | {"thrown": thrown})
        day = timezone.localdate().isoformat()
        after = carry_out(request, record, lambda before: acts.observe(before, test, state, text, day))
    except BadInput as fault:
        error = fault.message
    if not request.htmx:
        if error:
            tell_refused(request, error, text)
        return redirect("proving:show", job)
    points = points_at(build(after or JOBS.job_of(record)), state)
    point = next((point for point in points if point.test.key == test), None)
    context: dict[str, Any] = {"key": _element(state, point) if point else "", "error": error}
    if after is not None and point is not None:
        context["row"] = _row(build(after), state, point)
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
        **_counts(look.network, look.state),
    )


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
