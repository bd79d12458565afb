"""Pages laid out: a page with its faces live at the key switch, played through a drive, faces put and moved."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import Http404, HttpResponse, JsonResponse
from django.shortcuts import redirect
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import dash as acts
from metrolex.characters import whole_number
from metrolex.dash.drive import MISHAPS, drive_of
from metrolex.dash.faces import FaceNow, PageNow, pages_of
from metrolex.dash.lit import lit_now
from metrolex.errors import BadInput
from metrolex.job import Display, Job
from metrolex.tables import load_table
from metrolex.twin import readings
from workbench.dash.forms import FaceForm, PageForm
from workbench.dash.page_drawing import Showing, page_drawing
from workbench.jobs.cache import JOBS
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import (
    act,
    act_in_place,
    kept,
    look_for,
    page_at,
    page_of_job,
    record_for,
    show_page,
)
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """One page of one display."""
    asked = (request.GET.get(name, "") for name in ("display", "at", "face"))
    return show_page(request, "dash/show.html", record, look, "dash", **_context(look, *asked))


def _context(look: Look, display_key: str, page_key: str, face_key: str, **refused: Any) -> dict[str, Any]:
    job = look.job
    faces = [display for display in job.displays if display.face]
    face, page = job.face(face_key), job.page(page_key)
    page = page or (job.page(face.page) if face else None)
    display = job.display(page.display if page else display_key) or next(iter(faces), None)
    context: dict[str, Any] = {"tab": "pages", "display": display, "displays": faces, "mishaps": MISHAPS}
    if display is None:
        return context
    pages = pages_of(job, display.id)
    at = next((one for one in pages if page is not None and one.page.id == page.id), None) or next(
        iter(pages), None
    )
    context |= {"pages": pages, "at": at, "made": any(one.made for one in pages)}
    if at is None:
        return context
    chosen = next((one for one in at.faces if one.face.id == face_key), None)
    return context | {
        "drawing": _drawn(look, display, at, face_key),
        "chosen": chosen,
        "face_form": refused.get("face") or (_face_form(chosen) if chosen else None),
        "page_form": refused.get("page") or PageForm(initial=PageForm.of(at.page), auto_id="page-%s"),
        "new_page": refused.get("new_page") or PageForm(auto_id="new-page-%s"),
        "not_on_it": [
            chain
            for chain in job.chains
            if chain.display == display.id
            and all(one.chain is None or one.chain.id != chain.id for one in at.faces)
        ],
        "lamps": [
            (item.function, item.name)
            for item in job.cluster
            if item.comes_from == "display"
            and load_table("cluster").get(item.function, {}).get("kind") == "lamp"
        ],
        "more_pages": len(pages) < display.screen.holds_pages,
    }


def _face_form(face: FaceNow) -> FaceForm:
    form = FaceForm(initial=FaceForm.of(face.face), auto_id="face-%s")
    form.hint(face)
    return form


def _drawn(look: Look, display: Display, page: PageNow, chosen: str) -> Any:
    mounting = next((one for one in look.job.mountings if one.display == display.id), None)
    turn = mounting.turn_deg if mounting else 0.0
    return page_drawing(
        display,
        page,
        Showing(readings(look.solved), lit_now(look.solved), turn_deg=turn),
        chosen=chosen,
        moves=page.made,
    ).safe()


@require_safe
def drive(request: Request, job: int) -> HttpResponse:
    """The made-up drive of one page, moment by moment: for each face what stands on it, where, and whether it warns."""
    look = look_for(request, record_for(request, job))
    display = look.job.display(request.GET.get("display", ""))
    pages = pages_of(look.job, display.id) if display else ()
    page = next((one for one in pages if one.page.id == request.GET.get("page", "")), None)
    if page is None:
        raise Http404
    try:
        found = drive_of(look.network, request.GET.get("mishap", "none"))
    except BadInput as fault:
        return JsonResponse({"error": fault.message}, status=422)
    faces = [(one, one.chain.id if one.chain else "") for one in page.faces]
    moments = [
        [
            moment.second,
            moment.words,
            [
                [
                    shown.text if (shown := moment.shown.get(key)) else "",
                    None if shown is None or (share := one.share(shown.value)) is None else round(share, 4),
                    int(moment.lit.on(one)),
                ]
                for one, key in faces
            ],
        ]
        for moment in found.moments
    ]
    first = None if found.first_lit is None else [found.first_lit[0], found.first_lit[1]]
    return JsonResponse({"faces": [one.face.id for one, _ in faces], "moments": moments, "first": first})


@require_POST
def lay_out(request: Request, job: int) -> HttpResponse:
    """The first lay-out taken as one's own."""
    key = request.POST.get("display", "")
    return act(request, job, lambda before: acts.lay_out(before, key), "dash:show", display=key)


@require_POST
def page(request: Request, job: int) -> HttpResponse:
    """A page's name and use, or one more."""
    record = record_for(request, job)
    look = look_for(request, record)
    key, display = request.POST.get("page", ""), request.POST.get("display", "")
    form = PageForm(request.POST, auto_id="page-%s" if key else "new-page-%s")
    facts = {} if key else {"display": display}
    if kept(request, record, form, lambda before: acts.set_page(before, key, form.cleaned_data | facts)):
        shown = key or JOBS.job_of(record_for(request, job)).pages[-1].id
        return redirect(page_at("dash:show", job, at=shown))
    refused = {"page" if key else "new_page": form}
    return show_page(
        request, "dash/show.html", record, look, "dash", 422, **_context(look, display, key, "", **refused)
    )


@require_POST
def page_move(request: Request, job: int) -> HttpResponse:
    """A page earlier or later."""
    key, by = request.POST.get("page", ""), -1 if request.POST.get("by") == "-1" else 1
    return act(request, job, lambda before: acts.move_page(before, key, by), "dash:show", at=key)


@require_POST
def page_remove(request: Request, job: int) -> HttpResponse:
    """A page less."""
    key = request.POST.get("page", "")
    return act(
        request,
        job,
        lambda before: acts.remove_page(before, key),
        "dash:show",
        display=request.POST.get("display", ""),
    )


@require_POST
def face_add(request: Request, job: int) -> HttpResponse:
    """A face more on a page."""
    page_key, what = request.POST.get("page", ""), request.POST.get("what", "")
    channel = what.removeprefix("channel ") if what.startswith("channel ") else ""
    lamp = what.removeprefix("lamp ") if what.startswith("lamp ") else ""
    return act(
        request,
        job,
        lambda before: acts.add_face(before, page_key, channel, lamp),
        "dash:show",
        at=page_key,
    )


@require_POST
def face(request: Request, job: int) -> HttpResponse:
    """A face as it is set."""
    record = record_for(request, job)
    look = look_for(request, record)
    key = request.POST.get("face", "")
    stands = look.job.face(key)
    if stands is None:
        raise Http404
    form = FaceForm(request.POST, initial=FaceForm.of(stands), auto_id="face-%s")
    if kept(request, record, form, lambda before: acts.set_face(before, key, form.cleaned_data)):
        return redirect(page_at("dash:show", job, face=key))
    return show_page(
        request,
        "dash/show.html",
        record,
        look,
        "dash",
        422,
        **_context(look, "", stands.page, key, face=form),
    )


@require_POST
def face_move(request: Request, job: int) -> HttpResponse:
    """A face let go over other cells."""
    key = request.POST.get("face", "")

    def moved(before: Job) -> Job:
        column, row = (whole_number(request.POST.get(name, "")) for name in ("column", "row"))
        if column is None or row is None:
            raise BadInput("column", request.POST.get("column", ""), "a column and a row")
        return acts.move_face(before, key, column, row)

    return _changed(request, job, moved, key)


@require_POST
def face_remove(request: Request, job: int) -> HttpResponse:
    """A face less."""
    key = request.POST.get("face", "")
    return act(
        request,
        job,
        lambda before: acts.remove_face(before, key),
        "dash:show",
        at=request.POST.get("page", ""),
    )


def _changed(request: Request, job: int, edit: Callable[[Job], Job], key: str) -> HttpResponse:
    """One act on a face; its page and the findings follow."""
    return act_in_place(
        request,
        job,
        edit,
        page="dash:show",
        place="dash",
        template="dash/_moved.html",
        context=lambda look: _context(look, "", "", key),
        face=key,
    )


@require_safe
@page_of_job
def picture(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """A page as an SVG file."""
    display = look.job.display(request.GET.get("display", ""))
    pages = pages_of(look.job, display.id) if display else ()
    found = next((one for one in pages if one.page.id == request.GET.get("page", "")), None)
    if display is None or found is None:
        raise Http404
    name = slugify(f"{record.name} {display.name} {found.page.name}") or "page"
    return HttpResponse(
        str(page_drawing(display, found, Showing(readings(look.solved), lit_now(look.solved)))),
        content_type="image/svg+xml",
        headers={"Content-Disposition": f'attachment; filename="{name}.svg"'},
    )
