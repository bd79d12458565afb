"""The curve of a bench's sender: entered, pasted, or the usable part of one that turns back."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST

from metrolex.acts import scaling as acts
from workbench.jobs.pages import (
    act,
    channel_or_404,
    kept,
    look_for,
    page_at,
    record_for,
)
from workbench.request import Request
from workbench.scaling.bench.page import refused
from workbench.scaling.forms import CurveForm


@require_POST
def curve(request: Request, job: int) -> HttpResponse:
    """The sender's law."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    look = look_for(request, record)
    channel = channel_or_404(look, key)
    sender = look.job.heard(channel)
    if sender is None:
        messages.error(request, "Choose a sender on the Ports page first.")
        return redirect(page_at("scaling:show", job, channel=key))
    form = CurveForm(sender, request.POST, by_box=channel is not None and channel.box is not None)
    if kept(request, record, form, lambda before: acts.change_sender(before, key, form.typed_into)):
        return redirect(page_at("scaling:show", job, channel=key))
    return refused(request, record, look, channel, curve_form=form)


@require_POST
def branch(request: Request, job: int) -> HttpResponse:
    """The usable part of a curve that turns back."""
    key, which = request.POST.get("channel", ""), request.POST.get("part", "")
    return act(request, job, lambda before: acts.take_branch(before, key, which), "scaling:show")


@require_POST
def count_from(request: Request, job: int) -> HttpResponse:
    """Whether a pressure sender's curve counts from the air or from a vacuum."""
    key, what = request.POST.get("channel", ""), request.POST.get("what", "")
    return act(request, job, lambda before: acts.count_from(before, key, what), "scaling:show")
