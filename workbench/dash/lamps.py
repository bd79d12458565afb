"""Lamps and outputs: what the old cluster told against what tells it now; what each output works, and what happens in the dark."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import dash as acts
from metrolex.dash.lamps import lamps_told, outputs_of
from workbench.dash.forms import OutputForm
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.markup import id_part
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The inventory and the outputs."""
    return _page(request, record, look)


def _page(
    request: Request,
    record: JobRecord,
    look: Look,
    status: int = 200,
    refused: tuple[str, str, OutputForm] | None = None,
) -> HttpResponse:
    outputs = []
    for display, pin in outputs_of(look.job):
        form = (
            refused[2]
            if refused and refused[:2] == (display.id, pin.id)
            else OutputForm(
                initial=OutputForm.of(pin), auto_id=f"out-{id_part(display.id + ' ' + pin.id)}-%s"
            )
        )
        outputs.append((display, pin, form))
    context: dict[str, Any] = {"tab": "lamps", "told": lamps_told(look.job), "outputs": outputs}
    return show_page(request, "dash/lamps.html", record, look, "dash", status, **context)


@require_POST
def output(request: Request, job: int) -> HttpResponse:
    """What an output works."""
    record = record_for(request, job)
    look = look_for(request, record)
    key, number = request.POST.get("display", ""), request.POST.get("pin", "")
    display = look.job.display(key)
    pin = display.pin_called(number) if display else None
    if display is None or pin is None:
        raise Http404
    form = OutputForm(
        request.POST, initial=OutputForm.of(pin), auto_id=f"out-{id_part(key + ' ' + number)}-%s"
    )
    if kept(request, record, form, lambda before: acts.set_output_use(before, key, number, form.facts())):
        return redirect(page_at("dash:lamps", job))
    return _page(request, record, look, 422, (key, number, form))
