"""Work cards to print, and the fluids of the job."""

from __future__ import annotations

from dataclasses import replace
from typing import Any
from urllib.parse import urlencode

from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import ports as acts
from metrolex.errors import BadInput
from metrolex.ports.cards import card_for, card_for_source
from metrolex.ports.compare import candidates_for
from metrolex.ports.facts import facts_of
from metrolex.ports.fluids import fluids_of
from metrolex.ports.wideband import LEAST_TIP_DEG
from workbench.jobs.fields import as_typed, field_ids, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import at_channel, carry_out, look_for, page_at, page_of_job, record_for, show_page
from workbench.library.services import library_of
from workbench.pdf import pdf_of
from workbench.ports.card_drawings import drill_strip, tip_angle_drawing
from workbench.ports.forms import FluidForm
from workbench.ports.section_drawing import section_drawing
from workbench.request import Request


@require_safe
def show(request: Request, job: int) -> HttpResponse:
    """The card of one place, to print."""
    return render(request, "ports/card.html", _card(request, job))


@require_safe
def pdf(request: Request, job: int) -> HttpResponse:
    """The card as PDF."""
    context = _card(request, job)
    html = render_to_string("ports/card.html", {**context, "as_file": True})
    name = slugify(f"{context['job'].name} {context['channel'].name} card") or "card"
    return HttpResponse(
        pdf_of(html),
        content_type="application/pdf",
        headers={"Content-Disposition": f'attachment; filename="{name}.pdf"'},
    )


def _card(request: Request, job: int) -> dict[str, Any]:
    record, look, channel = at_channel(request, job)
    if channel is None:
        raise Http404
    pin, by_source = request.GET.get("pin", ""), card_for_source(look.job, channel)
    if by_source is not None and not pin:
        said = [
            f for f in look.findings if f.channel == channel.id and f.place == "ports" and f.grade != "note"
        ]
        return {
            "record": record,
            "job": look.job,
            "channel": channel,
            "card": by_source,
            "findings": said,
            "place_query": urlencode({"channel": channel.id}),
        }
    found = candidates_for(look.job, channel, library_of(request.workshop).fittings)
    first = found[0] if found else None
    at = next((c for c in found if c.port.id == pin), None) or next((c for c in found if c.chosen), first)
    if at is None:
        raise Http404
    port = at.port if at.port.stack or not at.fittings else replace(at.port, stack=at.fittings)
    card, facts = card_for(look.job, channel, port), facts_of(look.job, channel, port)
    drawing = (
        section_drawing(card.section, facts.material, "Section")
        if card.section and card.section.stack.found
        else ""
    )
    return {
        "record": record,
        "job": look.job,
        "channel": channel,
        "card": card,
        "port": port,
        "place_query": urlencode({"channel": channel.id, "pin": port.id}),
        "facts": facts,
        "drawing": drawing,
        "at": at,
        "drills": drill_strip(card.drills_mm) if card.drills_mm else "",
        "tip_drawing": tip_angle_drawing(port.spot.tip_angle_deg, LEAST_TIP_DEG)
        if channel.measurand == "lambda"
        else "",
        "findings": [f for f in at.findings if f.grade != "note"],
    }


@require_safe
@page_of_job
def fluids(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What runs out, what to have ready, what really went out and came back."""
    return _fluids(request, record, look)


def _fluids(request: Request, record: JobRecord, look: Look, bad: FluidForm | None = None) -> HttpResponse:
    rows = []
    for plan in fluids_of(look.job):
        kept = plan.record
        start = {
            "fluid": plan.key,
            "lost": _litres(kept.lost_l if kept else None),
            "returned": _litres(kept.returned_l if kept else None),
            "kind": kept.kind if kept else "",
        }
        mine = bad if bad is not None and bad.data.get("fluid") == plan.key else None
        rows.append(
            {"plan": plan, "form": mine or FluidForm(initial=start, auto_id=field_ids("fluid", plan.key))}
        )
    return show_page(
        request, "ports/fluids.html", record, look, "ports", 422 if bad else 200, rows=rows, tab="fluids"
    )


def _litres(value: float | None) -> str:
    return as_typed(value, "L")


@require_POST
def fluid_save(request: Request, job: int) -> HttpResponse:
    """What really went out and came back."""
    record = record_for(request, job)
    form = FluidForm(request.POST)
    if form.is_valid():
        clean = form.cleaned_data
        try:
            carry_out(
                request,
                record,
                lambda before: acts.record_fluid(
                    before, clean["fluid"], clean["lost"], clean["returned"], clean["kind"]
                ),
            )
            return redirect(page_at("ports:fluids", job))
        except BadInput as fault:
            refuse(form, fault)
    return _fluids(request, record, look_for(request, record), form)
