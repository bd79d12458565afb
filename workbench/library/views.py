"""The library of the workshop: fittings."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_POST, require_safe

from metrolex.errors import BadInput
from workbench.accounts.models import Workshop
from workbench.accounts.roles import workshop_to_change, workshop_to_read
from workbench.jobs.fields import refuse
from workbench.library import services
from workbench.library.forms import FittingForm, StockForm
from workbench.request import Request


@require_safe
def fittings(request: Request) -> HttpResponse:
    """All fittings, own ones first."""
    return _page(request, FittingForm(), 200)


def _page(request: Request, form: FittingForm, status: int) -> HttpResponse:
    words = request.GET.get("q", "").replace("\0", "").strip()[:80]
    rows = services.rows_of(workshop_to_read(request))
    shown = [
        row
        for row in rows
        if all(word.lower() in f"{row.fitting.name} {row.fitting.sort}".lower() for word in words.split())
    ]
    return render(
        request,
        "library/fittings.html",
        {
            "form": form,
            "rows": shown,
            "total": len(rows),
            "q": words,
            "left_out": sum(r.left_out for r in rows),
        },
        status=status,
    )


@require_POST
def add(request: Request) -> HttpResponse:
    """A fitting of the workshop's own."""
    form = FittingForm(request.POST)
    if form.is_valid():
        try:
            fitting = services.add_fitting(workshop_to_change(request), form.data_of())
            messages.success(request, f"{fitting.name} is in the library.")
            return redirect("library:fittings")
        except BadInput as fault:
            refuse(
                form,
                fault,
                {
                    "male": "one",
                    "female": "two",
                    "other_male": "two",
                    "other_female": "two",
                    "length_mm": "length",
                    "spanner_mm": "spanner",
                    "rim_mm": "rim",
                    "stream_mm": "stream",
                    "cut_mm": "cut",
                },
            )
    return _page(request, form, 422)


@require_POST
def stock(request: Request) -> HttpResponse:
    """How many lie on the shelf."""
    form = StockForm(request.POST)
    if not form.is_valid():
        messages.error(request, "In stock: a whole number from 0 to 10000.")
        return redirect("library:fittings")
    name, count = form.cleaned_data["name"], form.cleaned_data["stock"]
    return _done(request, lambda workshop: services.set_stock(workshop, name, count))


@require_POST
def remove(request: Request) -> HttpResponse:
    """Take a fitting out."""
    name = request.POST.get("name", "")
    return _done(request, lambda workshop: services.remove_fitting(workshop, name))


@require_POST
def generic(request: Request) -> HttpResponse:
    """All generic fittings out, or back in."""
    out = request.POST.get("do") == "out"
    return _done(request, services.leave_out_generic if out else services.take_generic_back)


def _done(request: Request, change: Callable[[Workshop], object]) -> HttpResponse:
    try:
        change(workshop_to_change(request))
    except BadInput as fault:
        messages.error(request, fault.message)
    return redirect("library:fittings")
