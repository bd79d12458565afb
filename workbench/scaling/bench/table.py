"""The table of a bench: its rows best placed, moved by hand, read back, on a card."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import scaling as acts
from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import MeasuringChain
from metrolex.quantities import parse_number, unit_words
from metrolex.scaling.best_rows import Rows
from metrolex.senders.pasted import read_points
from workbench.jobs.door import all_of_it
from workbench.jobs.fields import refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import (
    act,
    at_channel,
    carry_out,
    channel_or_404,
    kept,
    look_for,
    page_at,
    page_of_job,
    record_for,
)
from workbench.pdf import pdf_of
from workbench.request import Request
from workbench.scaling.bench import rows as row_figures
from workbench.scaling.bench.page import drawn, refused
from workbench.scaling.forms import RowsForm, ScalingForm
from workbench.sheets import csv_answer


@require_POST
def table(request: Request, job: int) -> HttpResponse:
    """What is entered in the display."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    look = look_for(request, record)
    channel = channel_or_404(look, key, needed=True)
    form = ScalingForm(request.POST, unit=channel.unit)
    if kept(
        request,
        record,
        form,
        lambda before: acts.set_scaling(before, key, *form.values()),
        {"points": "table"},
    ):
        return redirect(page_at("scaling:show", job, channel=key))
    return refused(request, record, look, channel, scaling_form=form)


@require_POST
def confirm(request: Request, job: int) -> HttpResponse:
    """The assumed table was compared: it is in the display as it stands."""
    key = request.POST.get("channel", "")
    return act(request, job, lambda before: acts.confirm_table(before, key), "scaling:show")


@require_POST
def rows(request: Request, job: int) -> HttpResponse:
    """Take the best rows."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    look = look_for(request, record)
    channel, form = channel_or_404(look, key), RowsForm(request.POST)
    if form.is_valid():
        asked = form.asked()
        try:
            found = acts.best_rows_for(look.job, channel.id, asked)
            carry_out(
                request, record, lambda before: acts.take_rows(before, channel.id, asked), as_one=all_of_it
            )
            messages.success(request, _gain(found, channel))
            return redirect(page_at("scaling:show", job, channel=key))
        except BadInput as fault:
            refuse(form, fault, {"points": "count"})
    return refused(request, record, look, channel, rows_form=form)


def _gain(found: Rows, channel: MeasuringChain) -> str:
    """What the placing gained, in words."""
    unit = unit_words(channel.unit)
    words = f"{len(found.rows)} rows: at most {found.max_error:.2g} {unit} off the curve."
    if found.equal_error > 1.05 * found.max_error and found.max_error > 0:
        words += f" Equally spaced they would be {found.equal_error:.2g} {unit} off, {found.equal_error / found.max_error:.1f} times as much."
    return words


@require_safe
@page_of_job
def how_many(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What each number of rows would leave."""
    channel = channel_or_404(look, request.GET.get("channel", ""))
    try:
        context = {"counts": row_figures.how_many(look.job, channel.id), "channel": channel}
    except BadInput as fault:
        context = {"error": fault.message}
    return render(request, "scaling/_how_many.html", context)


@require_safe
def tried(request: Request, job: int) -> HttpResponse:
    """The drawing with one row moved, while it is dragged; nothing is kept."""
    _, look, channel = at_channel(request, job)
    try:
        moved = acts.move_row(look.job, channel.id, *_row_of(request.GET))
        channel = read(MeasuringChain, dump(moved.chain(channel.id)))
    except BadInput as fault:
        return render(request, "scaling/_curve.html", {"error": fault.message}, status=422)
    return render(
        request, "scaling/_curve.html", drawn(look.job, channel, look.solved.true.get(channel.channel))
    )


@require_POST
def row_move(request: Request, job: int) -> HttpResponse:
    """A row left where it was dragged to."""
    key = request.POST.get("channel", "")
    return act(
        request, job, lambda before: acts.move_row(before, key, *_row_of(request.POST)), "scaling:show"
    )


def _row_of(data: QueryDict) -> tuple[int, float, float]:
    row, x, y = (parse_number(data.get(name, "")) for name in ("row", "x", "y"))
    return int(row), x, y


@require_safe
@page_of_job
def card(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The table as a card to type from, on paper (PDF) or as CSV."""
    channel = channel_or_404(look, request.GET.get("channel", ""))
    if not channel or not channel.scaling.table:
        raise Http404
    stage = look.job.input_of(channel)
    first = stage.table.first if stage else "x"
    head = [f"comes in, {unit_words(channel.scaling.x_unit)}", f"shown, {unit_words(channel.unit)}"]
    lines = [(f"{x:.10g}", f"{y:.10g}") for x, y in channel.scaling.table]
    sums = tuple(f"{sum(column):.10g}" for column in zip(*channel.scaling.table, strict=True))
    if first == "y":
        head, lines, sums = head[::-1], [line[::-1] for line in lines], sums[::-1]
    if request.GET.get("as") == "csv":
        return csv_answer(f"{record.name} {channel.name} table", head, [*lines, sums])
    context = {
        "job": look.job,
        "channel": channel,
        "display": look.job.display(channel.display),
        "stage": stage,
        "head": head,
        "lines": lines,
        "sums": sums,
    }
    answer = HttpResponse(
        pdf_of(render_to_string("scaling/card.html", context)), content_type="application/pdf"
    )
    answer["Content-Disposition"] = (
        f'attachment; filename="{slugify(f"{record.name} {channel.name}") or "table"}-table.pdf"'
    )
    return answer


@require_POST
def read_back(request: Request, job: int) -> HttpResponse:
    """What the display holds after typing, compared row by row with what was meant."""
    _, _, channel = at_channel(request, job)
    typed = request.POST.get("typed", "")
    context: dict[str, Any] = {"typed": typed}
    try:
        context["differs"] = row_figures.compare_rows(
            channel.scaling.table, read_points(typed, channel.scaling.x_unit, channel.unit)
        )
    except BadInput as fault:
        context["error"] = fault.message
    return render(request, "scaling/_read_back.html", context, status=422 if "error" in context else 200)
