"""After the handing over: new tyres, another tank or sender, new software, each by a short form."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypedDict

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import later as acts
from metrolex.acts.ports import parts_of_choice
from metrolex.job import Job, Sender
from workbench.handover.forms import LaterForm, SenderForm, SoftwareForm, TankForm, TyresForm
from workbench.jobs.cache import JOBS
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_of_job, record_for, show_page
from workbench.library.services import library_of
from workbench.request import Request

Senders = dict[str, Sender]


class Change(TypedDict):
    """One kind of change with its form; ``can``: the job has what is changed."""

    kind: str
    title: str
    lead: str
    form: LaterForm
    can: bool


@require_safe
@page_of_job
def later(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What may be changed, and the pages that are in the book already."""
    return _show(request, record, look)


@require_POST
def made(request: Request, job: int, kind: str) -> HttpResponse:
    """One change made: just that, with what follows from it written down."""
    if kind not in _TITLES:
        raise Http404
    record, senders = record_for(request, job), _senders(request)
    form = _form(kind, JOBS.job_of(record), senders, request.POST)
    day = timezone.localdate().isoformat()

    def as_one(job: Job) -> tuple[tuple[str, ...], ...]:
        return parts_of_choice(job, form.cleaned_data["of"]) if kind == "sender" else ()

    if kept(request, record, form, _act(kind, form, senders, day), as_one=as_one):
        page = JOBS.job_of(record).later[-1]
        messages.success(request, f"{page.on}: {page.now}. What follows from it stands below.")
        return redirect("handover:later", job)
    return _show(request, record, look_for(request, record), form, kind)


@require_POST
def forget(request: Request, job: int) -> HttpResponse:
    """A page taken out of the book again."""
    key = request.POST.get("later", "")
    return act(request, job, lambda before: acts.forget_later(before, key), "handover:later")


def _show(
    request: Request, record: JobRecord, look: Look, refused: LaterForm | None = None, kind: str = ""
) -> HttpResponse:
    job, senders = look.job, _senders(request)
    can = {
        "tyres": True,
        "tank": any(chain.tank for chain in job.chains),
        "sender": any(chain.sender for chain in job.measured),
        "software": bool(job.displays),
    }
    changes: list[Change] = [
        {
            "kind": name,
            "title": title,
            "lead": lead,
            "form": refused if refused is not None and name == kind else _form(name, job, senders, None),
            "can": can[name],
        }
        for name, (title, lead) in _TITLES.items()
    ]
    return show_page(
        request,
        "handover/later.html",
        record,
        look,
        "handover",
        422 if refused is not None else 200,
        changes=changes,
        at=kind,
        pages=tuple(reversed(job.later)),
    )


_TITLES = {
    "tyres": ("New tyres", "Every speed setting is turned by the sizes; GPS runs are asked for again."),
    "sender": ("Another sender", "Its law changes; table, ohms and face are asked for again."),
    "tank": ("Another tank", "What was dipped in the old one is gone; its fillings are asked for again."),
    "software": (
        "New software in a display",
        "Its set-up is ticked off again and its readings are seen again.",
    ),
}


def _form(kind: str, job: Job, senders: Senders, data: Any) -> LaterForm:
    auto_id = f"{kind}-%s"
    if kind == "software":
        return SoftwareForm(job, data, auto_id=auto_id)
    if kind == "sender":
        return SenderForm(job, senders, data, auto_id=auto_id)
    if kind == "tank":
        return TankForm(job, data, auto_id=auto_id)
    return TyresForm(data, auto_id=auto_id)


def _act(kind: str, form: LaterForm, senders: Senders, day: str) -> Callable[[Job], Job]:
    """The change a sound form asks for."""

    def done(job: Job) -> Job:
        said, told = form.cleaned_data, form.told(day)
        if kind == "software":
            return acts.new_software(job, said["display"], said["version"], told)
        if kind == "sender":
            return acts.new_sender(job, said["of"], said["sender"], senders, told)
        if kind == "tank":
            return acts.new_tank(job, said["of"], said["capacity_l"], told)
        return acts.new_tyres(job, said["tyre"], told)

    return done


def _senders(request: Request) -> Senders:
    return dict(library_of(request.workshop).senders)
