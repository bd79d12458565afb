"""The Feeds page, and its panels: slots one by one or laid out in one go."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import feeds as acts
from workbench.feeds.forms import CircuitForm, LayOutForm, PanelForm
from workbench.feeds.page import Refused, page_context
from workbench.jobs.fields import field_ids
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_of_job, record_for, show_page
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The whole place."""
    chosen, opened = request.GET.get("slot", ""), request.GET.get("tap", "")
    return show_page(request, "feeds/show.html", record, look, "feeds", **page_context(look, chosen, opened))


def refuse_page(
    request: Request, record: JobRecord, look: Look, refused: Refused, chosen: str = "", opened: str = ""
) -> HttpResponse:
    """The page with a form that was refused, as it was typed."""
    context = page_context(look, chosen, opened, refused)
    return show_page(request, "feeds/show.html", record, look, "feeds", 422, **context)


@require_POST
def circuit_save(request: Request, job: int) -> HttpResponse:
    """A slot or wire: one more, or what is known of one that is there."""
    record = record_for(request, job)
    look, chosen = look_for(request, record), request.POST.get("chosen", "")
    stands = look.job.circuit(chosen)
    form = CircuitForm(look.job, request.POST, initial=CircuitForm.of(stands) if stands else None)
    if kept(request, record, form, lambda before: acts.save_circuit(before, form.values(), chosen)):
        return redirect("feeds:show", job)
    return refuse_page(request, record, look, Refused(circuit=form), chosen)


@require_POST
def panel_lay_out(request: Request, job: int) -> HttpResponse:
    """Many slots of a panel at once."""
    record = record_for(request, job)
    look = look_for(request, record)
    form = LayOutForm(look.job, request.POST)
    if kept(request, record, form, lambda before: acts.lay_out_panel(before, **form.values())):
        return redirect("feeds:show", job)
    return refuse_page(request, record, look, Refused(lay_out=form))


@require_POST
def panel_save(request: Request, job: int) -> HttpResponse:
    """A panel: one more, or its facts."""
    record = record_for(request, job)
    look, key = look_for(request, record), request.POST.get("panel", "")
    form = PanelForm(look.job, request.POST, auto_id=field_ids("panel", request.POST.get("panel", "")))
    if kept(request, record, form, lambda before: acts.set_panel(before, key, form.values())):
        return redirect("feeds:show", job)
    return refuse_page(request, record, look, Refused(panel=form))


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
