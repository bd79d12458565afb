"""A photograph of a site, straight on, and the outline traced over it."""

from __future__ import annotations

import struct
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import mount as acts
from metrolex.errors import BadInput
from metrolex.limits import limit
from metrolex.mount.trace import Known, read_outline, scaled
from workbench.accounts.roles import may_write
from workbench.gate import takes_files
from workbench.jobs.fields import refuse
from workbench.jobs.pages import carry_out, look_for, page_at, record_for
from workbench.mount.forms import TracedForm
from workbench.mount.models import SitePhoto
from workbench.mount.sites import show_site, site_or_404
from workbench.request import Request
from workbench.shrink import shrunk


@takes_files(limit("photo", "bytes") / 1e6)
@require_POST
def take(request: Request, job: int) -> HttpResponse:
    """The photograph of a site; it takes the place of the one before."""
    record, sent = record_for(request, job), request.FILES.get("photo")
    look = look_for(request, record)
    site = site_or_404(look.job, request.POST.get("site", ""))
    try:
        may_write(request.member or None)
        if sent is None:
            raise BadInput("photo", None, "a photograph", "Choose or take a photograph first.")
        if (sent.size or 0) > limit("photo", "bytes"):
            raise BadInput("photo", f"{sent.size} bytes", f"at most {limit('photo', 'bytes') / 1e6:.0f} MB")
        jpeg = shrunk(sent.read())
    except BadInput as fault:
        messages.error(request, fault.message)
    else:
        wide, high = size_of(jpeg)
        SitePhoto.objects.update_or_create(
            job=record, site=site.id, defaults={"jpeg": jpeg, "wide": wide, "high": high}
        )
        record.save(update_fields=["updated"])
    return redirect(page_at("mount:site", job, site=site.id) + "#trace")


@require_safe
def photo(request: Request, job: int) -> HttpResponse:
    """The photograph of a site."""
    found = get_object_or_404(SitePhoto, job=record_for(request, job), site=request.GET.get("site", ""))
    return HttpResponse(
        bytes(found.jpeg), content_type="image/jpeg", headers={"Cache-Control": "private, max-age=60"}
    )


@require_POST
def throw_away(request: Request, job: int) -> HttpResponse:
    """The photograph taken out; the outline traced over it stays."""
    record, key = record_for(request, job), request.POST.get("site", "")
    try:
        may_write(request.member or None)
    except BadInput as fault:
        messages.error(request, fault.message)
    else:
        SitePhoto.objects.filter(job=record, site=key).delete()
        record.save(update_fields=["updated"])
    return redirect(page_at("mount:site", job, site=key))


@require_POST
def trace(request: Request, job: int) -> HttpResponse:
    """An outline of dots on the photograph, scaled by the distances that are known."""
    record = record_for(request, job)
    look = look_for(request, record)
    site = site_or_404(look.job, request.POST.get("site", ""))
    form = TracedForm(request.POST, auto_id="traced-%s")
    if form.is_valid():
        try:
            outline = _outline(form.cleaned_data)
            carry_out(request, record, lambda before: acts.trace_outline(before, site.id, outline))
        except BadInput as fault:
            refuse(form, fault, {"known": "first_mm", "outline": "dots"})
        else:
            return redirect(page_at("mount:site", job, site=site.id))
    return show_site(request, record, look, site, 422, traced=form)


def _outline(data: dict[str, Any]) -> tuple[tuple[float, float], ...]:
    known = []
    for name in ("first", "second"):
        if not data[name].strip():
            continue
        ends = read_outline(data[name].replace("/", "\n"))
        if len(ends) != 2 or data[f"{name}_mm"] is None:
            raise BadInput(
                f"{name}_mm",
                data[f"{name}_mm"],
                "two dots and their distance in mm",
                "Mark both dots, and give the distance between them.",
            )
        known.append(Known(ends[0], ends[1], data[f"{name}_mm"]))
    return scaled(known, read_outline(data["dots"])).outline


def size_of(jpeg: bytes) -> tuple[int, int]:
    """Width and height of a JPEG in dots, from its frame header (ITU-T T.81). Raises BadInput where there is none."""
    at = 2
    while at + 9 < len(jpeg):
        marker, length = struct.unpack(">HH", jpeg[at : at + 4])
        if 0xFFC0 <= marker <= 0xFFCF and marker not in (0xFFC4, 0xFFC8, 0xFFCC):
            high, wide = struct.unpack(">HH", jpeg[at + 5 : at + 9])
            return wide, high
        at += 2 + length
    raise BadInput("photo", "a file", "a photograph")
