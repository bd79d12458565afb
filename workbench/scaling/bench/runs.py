"""Runs against a known speed: read by a passenger or out of a recorded drive; and the setting they give."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from metrolex.acts import counting as acts
from metrolex.apart import done_apart
from metrolex.characters import whole_number
from metrolex.errors import BadInput
from workbench.gate import takes_files
from workbench.jobs.fields import refuse
from workbench.jobs.pages import act, carry_out, kept, page_at
from workbench.request import Request
from workbench.scaling.bench import road
from workbench.scaling.bench.kept import at_bench
from workbench.scaling.bench.page import refused


@require_POST
def run_add(request: Request, job: int) -> HttpResponse:
    """A run read by a passenger."""
    record, look, channel = at_bench(request, job)
    form = road.RunForm(request.POST)
    if kept(
        request,
        record,
        form,
        lambda before: acts.add_run(before, channel.id, form.run()),
    ):
        return redirect(page_at("scaling:show", job, channel=channel.id))
    return refused(request, record, look, channel, bench_form=form)


@takes_files(2 * road.MOST_FILE / 1e6)
@require_POST
def run_record(request: Request, job: int) -> HttpResponse:
    """Runs out of a recorded drive."""
    record, look, channel = at_bench(request, job)
    form = road.RecordingForm(request.POST, request.FILES)
    if form.is_valid():
        try:
            drive = done_apart("drive", *form.texts())
            carry_out(request, record, lambda before: acts.add_runs(before, channel.id, drive.runs))
            messages.success(request, drive.words)
            return redirect(page_at("scaling:show", job, channel=channel.id))
        except BadInput as fault:
            refuse(form, fault, {"gps": "recording"})
    return refused(request, record, look, channel, bench_form=form)


@require_POST
def run_remove(request: Request, job: int) -> HttpResponse:
    """A run less."""
    key, number = request.POST.get("channel", ""), whole_number(request.POST.get("run", ""))
    return act(
        request,
        job,
        lambda before: acts.remove_run(before, key, -1 if number is None else number),
        "scaling:show",
    )


@require_POST
def setting_take(request: Request, job: int) -> HttpResponse:
    """The new speed setting."""
    key = request.POST.get("channel", "")
    return act(request, job, lambda before: acts.take_setting(before, key), "scaling:show")
