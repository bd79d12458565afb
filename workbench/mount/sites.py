"""Measuring a site: its figures, its outline, what is in it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django import forms
from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import mount as acts
from metrolex.errors import BadInput
from metrolex.job import RANKS, Job, Site
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import (
    act,
    carry_out,
    kept,
    look_for,
    page_at,
    page_of_job,
    record_for,
    show_page,
    tell_refused,
)
from workbench.mount.forms import FixtureForm, OutlineForm, SiteForm, TracedForm
from workbench.mount.models import SitePhoto
from workbench.mount.page import site_at
from workbench.request import Request

__all__ = ["show_site", "site_or_404"]

#: The site's figures as one measures them: heading, what is said of it, fields.
GROUPS: tuple[tuple[str, str, tuple[str, ...]], ...] = (
    ("The panel", "", ("name", "kind", "made_of", "airbag", "tilt_deg", "turned_right_deg", "measured")),
    (
        "The eye",
        "With the driver in the seat as he sits: from the point level back, then up or down, then to the right.",
        ("eye_back_mm", "eye_up_mm", "eye_right_mm", "driver"),
    ),
    (
        "Wheel or bar",
        "Seat and wheel set as the driver has them.",
        (
            "between",
            "across_mm",
            "thick_mm",
            "hub_back_mm",
            "hub_up_mm",
            "hub_right_mm",
            "rake_deg",
            "spokes_deg",
            "spoke_mm",
            "turned_deg",
        ),
    ),
    ("Light", "", ("body", "screen_rake_deg", "screen_ahead_mm", "latitude_deg", "hood")),
)


def site_or_404(job: Job, key: str) -> Site:
    """A site of the job; 404 for any other."""
    found = job.site(key)
    if found is None:
        raise Http404
    return found


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """One site's figures."""
    key = request.GET.get("site", "")
    site = site_or_404(look.job, key) if key else site_at(look.job, "")
    part = look.job.fixture(request.GET.get("part", ""))
    opened: dict[str, Any] = (
        {"part": FixtureForm(initial=FixtureForm.of(part), auto_id="part-%s"), "part_key": part.id}
        if part
        else {}
    )
    return show_site(request, record, look, site, **opened)


def show_site(
    request: Request, record: JobRecord, look: Look, site: Site | None, status: int = 200, **forms_: Any
) -> HttpResponse:
    """The page of a site; forms that were refused or opened stand on it as they are."""
    context: dict[str, Any] = {"tab": "site", "site": site}
    if site is not None:
        form = forms_.get("site_form") or SiteForm(initial=SiteForm.of(site), auto_id="site-%s")
        photo = SitePhoto.objects.filter(job=record, site=site.id).defer("jpeg").first()
        context |= {
            "form": form,
            "groups": [(name, words, [form[field] for field in fields]) for name, words, fields in GROUPS],
            "outline_form": forms_.get("outline_form")
            or OutlineForm(initial=OutlineForm.of(site), auto_id="outline-%s"),
            "part": forms_.get("part") or FixtureForm(auto_id="part-%s"),
            "part_key": forms_.get("part_key", ""),
            "parts": [(one, RANKS[one.rank]) for one in look.job.fixtures if one.site == site.id],
            "photo": photo,
            "traced": forms_.get("traced") or TracedForm(auto_id="traced-%s"),
        }
    return show_page(request, "mount/site.html", record, look, "mount", status, **context)


@require_POST
def start(request: Request, job: int) -> HttpResponse:
    """A site more, by a template."""
    record, key = record_for(request, job), request.POST.get("template", "")
    name = request.POST.get("name", "")
    try:
        after = carry_out(request, record, lambda before: acts.start_site(before, key, name))
    except BadInput as fault:
        tell_refused(request, fault.message, name)
        return redirect(page_at("mount:show", job))
    return redirect(page_at("mount:site", job, site=after.sites[-1].id))


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """A site's figures."""
    record = record_for(request, job)
    look = look_for(request, record)
    site = site_or_404(look.job, request.POST.get("site", ""))
    form = SiteForm(request.POST, initial=SiteForm.of(site), auto_id="site-%s")
    return _saved(
        request,
        record,
        look,
        site,
        form,
        lambda before: acts.set_site(before, site.id, form.facts()),
        "site_form",
    )


@require_POST
def outline(request: Request, job: int) -> HttpResponse:
    """A site's outline, point by point."""
    record = record_for(request, job)
    look = look_for(request, record)
    site = site_or_404(look.job, request.POST.get("site", ""))
    form = OutlineForm(request.POST, auto_id="outline-%s")
    return _saved(
        request,
        record,
        look,
        site,
        form,
        lambda before: acts.set_site(before, site.id, {"outline": form.cleaned_data["outline"]}),
        "outline_form",
    )


def _saved(
    request: Request,
    record: JobRecord,
    look: Look,
    site: Site,
    form: forms.Form,
    edit: Callable[[Job], Job],
    name: str,
) -> HttpResponse:
    if kept(request, record, form, edit):
        return redirect(page_at("mount:site", record.pk, site=site.id))
    return show_site(request, record, look, site, 422, **{name: form})


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """A site less, with what is in it."""
    key = request.POST.get("site", "")
    return act(request, job, lambda before: acts.remove_site(before, key), "mount:show")


@require_POST
def part(request: Request, job: int) -> HttpResponse:
    """A part of the dash, or one more."""
    record = record_for(request, job)
    look = look_for(request, record)
    site = site_or_404(look.job, request.POST.get("site", ""))
    key = request.POST.get("part", "")
    stands = look.job.fixture(key)
    form = FixtureForm(request.POST, initial=FixtureForm.of(stands) if stands else None, auto_id="part-%s")
    if kept(
        request,
        record,
        form,
        lambda before: acts.set_fixture(before, key, form.cleaned_data | {"site": site.id}),
    ):
        return redirect(page_at("mount:site", record.pk, site=site.id))
    return show_site(request, record, look, site, 422, part=form, part_key=key)


@require_POST
def part_remove(request: Request, job: int) -> HttpResponse:
    """A part of the dash less."""
    key = request.POST.get("part", "")
    return act(
        request,
        job,
        lambda before: acts.remove_fixture(before, key),
        "mount:site",
        site=request.POST.get("site", ""),
    )
