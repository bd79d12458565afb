"""Faults: a search from what is said to what it was."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import faults as acts
from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Job
from metrolex.job.search import Reading
from workbench.faults.forms import FoundForm
from workbench.faults.history import history_of, learnt
from workbench.faults.page import page_context
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The search under way with its suspects and the next test; those ended below it."""
    context = page_context(
        look, history_of(request.workshop), request.GET.get("search", ""), request.GET.get("other", "")
    )
    return show_page(request, "faults/show.html", record, look, "faults", **context)


def _today() -> str:
    return timezone.localdate().isoformat()


@require_POST
def begin(request: Request, job: int) -> HttpResponse:
    """A search, by what somebody says."""
    word, channel = request.POST.get("word", ""), request.POST.get("of", "")
    return act(request, job, lambda before: acts.begin_search(before, _today(), word, channel), "faults:show")


@require_POST
def say(request: Request, job: int) -> HttpResponse:
    """A word more, or one taken back."""
    search, word, channel = (request.POST.get(name, "") for name in ("search", "word", "of"))
    return act(request, job, lambda before: acts.say(before, search, word, channel), "faults:show")


@require_POST
def see(request: Request, job: int) -> HttpResponse:
    """What was found at a probe."""
    record, search = record_for(request, job), request.POST.get("search", "")
    form = FoundForm(request.POST)

    def seen(before: Job) -> Job:
        reading = read(Reading, form.reading())
        again = bool(request.POST.get("again"))
        return acts.see(before, search, reading, form.cleaned_data["found"], _today(), again=again)

    if kept(request, record, form, seen):
        return redirect(page_at("faults:show", job))
    look = look_for(request, record)
    context = page_context(look, history_of(request.workshop), search, request.POST.get("other", ""), form)
    return show_page(request, "faults/show.html", record, look, "faults", 422, **context)


@require_POST
def forget(request: Request, job: int) -> HttpResponse:
    """A reading taken back."""
    search, place = request.POST.get("search", ""), request.POST.get("place", "")

    def forgotten(before: Job) -> Job:
        if not place.isascii() or not place.isdigit() or len(place) > 4:
            raise BadInput("place", place, "the place of a reading")
        return acts.forget_reading(before, search, int(place))

    return act(request, job, forgotten, "faults:show")


@require_POST
def end(request: Request, job: int) -> HttpResponse:
    """What it was, and what cured it."""
    search, picked = request.POST.get("search", ""), request.POST.get("picked", "")
    cause, cure, note = (request.POST.get(name, "") for name in ("cause", "cure", "note"))
    if not cause.strip() and "|" in picked:
        cause, _, first_cure = picked.partition("|")
        cure = cure or first_cure
    typed = f"{cause} {cure} {note}".strip()
    return _learning(
        request, job, lambda before: acts.end_search(before, search, cause, cure, _today(), note), typed
    )


def _learning(request: Request, job: int, edit: Callable[[Job], Job], typed: str = "") -> HttpResponse:
    """An act from which the workshop learns what its faults were; where nothing was stored, nothing was learnt."""
    answer = act(request, job, edit, "faults:show", typed=typed)
    if request.stored:
        learnt(request.workshop)
    return answer


@require_POST
def again(request: Request, job: int) -> HttpResponse:
    """It was something else: the search goes on."""
    search = request.POST.get("search", "")
    return _learning(request, job, lambda before: acts.open_again(before, search))


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    search = request.POST.get("search", "")
    return _learning(request, job, lambda before: acts.forget_search(before, search))
