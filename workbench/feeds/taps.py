"""Taps: chosen, fitted, turned round, taken out."""

from __future__ import annotations

from typing import cast

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import feeds as acts
from metrolex.job import Need
from workbench.feeds.forms import TapForm
from workbench.feeds.page import Refused, opened_tap
from workbench.feeds.panels import refuse_page
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_of_job, record_for
from workbench.request import Request


@require_safe
@page_of_job
def tap_more(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """One tap opened, fetched when it is: a page of all of them is heavy."""
    tap = look.job.tap(request.GET.get("tap", ""))
    if tap is None:
        raise Http404
    return render(request, "feeds/_tap_more.html", {"record": record, "row": opened_tap(look, tap)})


@require_POST
def tap(request: Request, job: int) -> HttpResponse:
    """Tap a circuit for a need, with the reason where another one is better."""
    need, circuit, key, why = (request.POST.get(name, "") for name in ("need", "circuit", "tap", "why"))
    return act(
        request,
        job,
        lambda before: acts.choose_tap(before, cast(Need, need), circuit, key, why.strip()),
        "feeds:show",
        typed=why,
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
    return refuse_page(request, record, look, Refused(tap=form), opened=key)


@require_POST
def tap_turn(request: Request, job: int) -> HttpResponse:
    return act(request, job, lambda before: acts.turn_tap(before, request.POST.get("tap", "")), "feeds:show")


@require_POST
def tap_remove(request: Request, job: int) -> HttpResponse:
    return act(
        request, job, lambda before: acts.remove_tap(before, request.POST.get("tap", "")), "feeds:show"
    )
