"""What the job costs, the ways beside it, and the estimate on paper."""

from __future__ import annotations

from typing import Any

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import brief as acts
from metrolex.brief.estimate import estimate, ways
from metrolex.brief.shopping import shopping_list
from workbench.brief.forms import AlternativeForm, RateForm
from workbench.jobs.fields import as_typed
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.pdf import pdf_of
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The estimate as it stands."""
    return _page(request, record, look)


def _page(request: Request, record: JobRecord, look: Look, refused: forms.Form | None = None) -> HttpResponse:
    brief = look.job.brief
    start = {"currency": brief.currency, "rate_per_h": as_typed(brief.rate_per_h), "loom": brief.loom}
    return show_page(
        request,
        "brief/estimate.html",
        record,
        look,
        "brief",
        422 if refused else 200,
        tab="estimate",
        rate_form=refused if isinstance(refused, RateForm) else RateForm(initial=start, auto_id="rate-%s"),
        way_form=refused if isinstance(refused, AlternativeForm) else AlternativeForm(auto_id="way-%s"),
        **_figures(look),
    )


def _figures(look: Look) -> dict[str, Any]:
    job = look.job
    own = {one.name: one.id for one in job.brief.alternatives}
    return {
        "estimate": estimate(job),
        "ways": [{"way": way, "key": own.get(way.words, "")} for way in ways(job)],
        "priced": [item for item in shopping_list(job) if item.buy and item.price is not None],
        "money": job.brief.currency,
    }


@require_POST
def rate(request: Request, job: int) -> HttpResponse:
    """What an hour costs."""
    record, form = record_for(request, job), RateForm(request.POST, auto_id="rate-%s")
    done = kept(
        request,
        record,
        form,
        lambda before: acts.set_rate(
            before, form.cleaned_data["currency"], form.cleaned_data["rate_per_h"], form.cleaned_data["loom"]
        ),
    )
    return (
        redirect(page_at("brief:estimate", job))
        if done
        else _page(request, record, look_for(request, record), form)
    )


@require_POST
def way_add(request: Request, job: int) -> HttpResponse:
    """Another way to do it."""
    record, form = record_for(request, job), AlternativeForm(request.POST, auto_id="way-%s")
    done = kept(
        request,
        record,
        form,
        lambda before: acts.add_alternative(
            before,
            form.cleaned_data["name"],
            form.cleaned_data["parts"] or 0.0,
            form.cleaned_data["hours"] or 0.0,
        ),
    )
    return (
        redirect(page_at("brief:estimate", job))
        if done
        else _page(request, record, look_for(request, record), form)
    )


@require_POST
def way_remove(request: Request, job: int) -> HttpResponse:
    """One way less."""
    key = request.POST.get("way", "")
    return act(request, job, lambda before: acts.take_alternative(before, key), "brief:estimate")


@require_safe
def paper(request: Request, job: int) -> HttpResponse:
    """The estimate as PDF, for the owner."""
    record = record_for(request, job)
    look = look_for(request, record)
    html = render_to_string(
        "brief/estimate_paper.html", {"job": look.job, "workshop": request.workshop, **_figures(look)}
    )
    name = slugify(f"{look.job.name} estimate") or "estimate"
    return HttpResponse(
        pdf_of(html),
        content_type="application/pdf",
        headers={"Content-Disposition": f'attachment; filename="{name}.pdf"'},
    )
