"""How far the printing of a paper is."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_safe

from workbench.jobs.pages import record_for
from workbench.printing.models import Printed
from workbench.printing.papers import PAPERS
from workbench.request import Request


@require_safe
def progress(request: Request, job: int, key: str) -> HttpResponse:
    """What the waiting page asks for every second: words, at last the way to the paper."""
    record = record_for(request, job)
    printed = get_object_or_404(
        Printed.objects.defer("pdf").select_related("record"), record=record, key=key, paper__in=PAPERS
    )
    known = PAPERS[printed.paper]
    address = request.htmx.current_url_abs_path or known.address(
        record
    )  # the page that waits asked for this very paper
    context = {"record": record, "printed": printed, "paper": known, "address": address}
    return render(request, "printing/_progress.html", context)
