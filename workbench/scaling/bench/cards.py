"""Small answers to small forms beside a bench: figures, or what is wrong with what was typed."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.forms import Form
from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from metrolex.errors import BadInput
from workbench.jobs.fields import refuse
from workbench.jobs.pages import channel_or_404, look_for, record_for
from workbench.request import Request
from workbench.scaling.bench import boost, road


@require_safe
def gap(request: Request, job: int) -> HttpResponse:
    """The card of magnets and gap."""
    look = look_for(request, record_for(request, job))
    channel = channel_or_404(look, request.GET.get("channel", ""))
    return _worked(
        request,
        "scaling/_gap.html",
        road.GapForm(request.GET),
        lambda data: road.gap_steps(look.job, channel, data),
    )


@require_safe
def tyres(request: Request, job: int) -> HttpResponse:
    """What other tyres would do to speed and odometer."""
    look = look_for(request, record_for(request, job))
    channel = channel_or_404(look, request.GET.get("channel", ""))
    form = road.TyreForm(request.GET)
    return _worked(
        request,
        "scaling/_tyres.html",
        form,
        lambda data: road.with_tyres(look.job, channel, data["other"]),
        {"tyre": "other"},
    )


@require_safe
def boost_of(request: Request, job: int) -> HttpResponse:
    """Boost of one absolute reading."""
    look = look_for(request, record_for(request, job))
    return _worked(
        request,
        "scaling/_boost.html",
        boost.BoostForm(request.GET),
        lambda data: boost.worked_out(look.job, data),
    )


def _worked(
    request: Request,
    template: str,
    form: Form,
    work: Callable[[dict[str, Any]], dict[str, Any]],
    fields: dict[str, str] | None = None,
) -> HttpResponse:
    """A small answer to a small form: figures, or what is wrong with it."""
    if form.is_valid():
        try:
            return render(request, template, work(form.cleaned_data))
        except BadInput as fault:
            refuse(form, fault, fields)
    return render(
        request,
        template,
        {
            "errors": [
                f"{form.fields[name].label if name in form.fields else ''}: {words[0]}".lstrip(": ")
                for name, words in form.errors.items()
            ]
        },
    )
