"""Ports: where each sender goes in."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_GET, require_POST

from metrolex.errors import BadInput
from metrolex.job import Channel, Job
from metrolex.kit import measurand_facts
from metrolex.ports.compare import CRITERIA, rank_places, why_first
from workbench.jobs.fields import refuse
from workbench.jobs.pages import act, channel_or_404, look_for, page_at, record_for, show_page
from workbench.jobs.services import Look, change
from workbench.ports import services
from workbench.ports.forms import PortForm


@require_GET
def show(request: HttpRequest, job: int) -> HttpResponse:
    """The places for one channel, compared."""
    record = record_for(request, job)
    look = look_for(request, record)
    channel = channel_or_404(look, request.GET.get("channel", ""))
    return show_page(request, "ports/show.html", record, look, "ports", **_context(look, channel))


def _context(look: Look, channel: Channel | None, form: PortForm | None = None) -> dict[str, Any]:
    if channel is None:
        return {"channel": None}
    job, sender, port = look.job, look.job.sender(channel.sender), look.job.port(channel.port)
    ranked = rank_places(channel.measurand, sender)
    return {
        "channel": channel, "ranked": ranked, "criteria": CRITERIA, "why_first": why_first(ranked), "sender": sender,
        "port": port, "kits": measurand_facts(channel.measurand).senders, "form": form or _port_form(job, channel),
        "compared": [
            {"ranked": r, "words": [r.place.word(c) for c in CRITERIA], "chosen": port is not None and port.kind == r.place.kind}
            for r in ranked
        ],
    }  # fmt: skip


def _port_form(job: Job, channel: Channel) -> PortForm | None:
    port = job.port(channel.port)
    if port is None:
        return None
    return PortForm(
        initial={
            "name": port.name,
            "thread": port.thread,
            "way_in": port.way_in,
            "grounded": port.grounded,
            "why": port.why,
        }
    )


@require_POST
def place(request: HttpRequest, job: int) -> HttpResponse:
    """Choose a place."""
    key, kind = request.POST.get("channel", ""), request.POST.get("kind", "")
    return act(request, job, lambda before: services.choose_place(before, key, kind), "ports:show")


@require_POST
def sender(request: HttpRequest, job: int) -> HttpResponse:
    """Choose a sender."""
    key, kit = request.POST.get("channel", ""), request.POST.get("kit", "")
    return act(request, job, lambda before: services.choose_sender(before, key, kit), "ports:show")


@require_POST
def facts(request: HttpRequest, job: int) -> HttpResponse:
    """What was found at the chosen place."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    form = PortForm(request.POST)
    if form.is_valid():
        try:
            change(record, lambda before: services.set_port_facts(before, key, **form.cleaned_data))
            return redirect(page_at("ports:show", job, channel=key))
        except BadInput as fault:
            refuse(form, fault)
    look = look_for(request, record)
    return show_page(
        request,
        "ports/show.html",
        record,
        look,
        "ports",
        422,
        **_context(look, channel_or_404(look, key), form),
    )
