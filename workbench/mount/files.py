"""Stencils to take away: SVG and DXF of their real size, PDF on sheets of paper."""

from __future__ import annotations

from django.http import Http404, HttpResponse
from django.utils.text import slugify
from django.views.decorators.http import require_safe

from metrolex.errors import BadInput
from metrolex.mount.dxf import dxf_of
from metrolex.mount.stencil import KINDS, Stencil, StencilKind, stencil_of
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import look_for, page_of_job, record_for
from workbench.mount.papers import STENCIL
from workbench.mount.stencil_drawing import SHEETS, stencil_drawing
from workbench.request import Request


def _asked(request: Request, look: Look) -> tuple[str, StencilKind, Stencil | str]:
    """The mounting and kind asked for, and the stencil; in its place why there is none yet."""
    mounting = look.job.mounting(request.GET.get("mounting", ""))
    kind = request.GET.get("kind", "drill")
    if mounting is None or kind not in KINDS:
        raise Http404
    try:
        return mounting.id, kind, stencil_of(look.job, mounting, kind)
    except BadInput as fault:
        return mounting.id, kind, fault.message


@require_safe
@page_of_job
def svg(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """As SVG, a millimetre a unit."""
    _, _, found = _asked(request, look)
    if isinstance(found, str):
        return _not_yet(found)
    return _sent(str(stencil_drawing(found)), "image/svg+xml", f"{slugify(found.name)}.svg")


@require_safe
@page_of_job
def dxf(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """As DXF."""
    _, _, found = _asked(request, look)
    if isinstance(found, str):
        return _not_yet(found)
    return _sent(dxf_of(found), "image/vnd.dxf", f"{slugify(found.name)}.dxf")


@require_safe
def pdf(request: Request, job: int) -> HttpResponse:
    """On paper, with a bar to check the scale by."""
    record = record_for(request, job)
    key, kind, found = _asked(request, look_for(request, record))
    if isinstance(found, str):
        return _not_yet(found)
    size = request.GET.get("size", "A4")
    return STENCIL.sent(
        request,
        record,
        f"{slugify(found.name)}.pdf",
        mounting=key,
        kind=kind,
        size=size if size in SHEETS else "A4",
    )


def _not_yet(words: str) -> HttpResponse:
    return HttpResponse(words, status=422, content_type="text/plain; charset=utf-8")


def _sent(text: str, kind: str, name: str) -> HttpResponse:
    return HttpResponse(
        text, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )
