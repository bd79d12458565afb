"""Scaling: from what the sender gives to what is shown."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from metrolex.acts import scaling as acts
from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import Input, Job, MeasuringChain, Sender
from metrolex.quantities import parse_in, parse_number, unit_words
from metrolex.scaling.best_rows import Rows
from metrolex.scaling.error import table_error
from metrolex.scaling.suggest import typeable_steps
from metrolex.senders import (
    branches,
    is_monotonic,
)
from metrolex.senders.pasted import points_text, read_points
from metrolex.twin import addresses
from workbench.jobs.fields import as_typed, refuse
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
    show_page,
)
from workbench.pdf import pdf_of
from workbench.request import Request
from workbench.scaling import rows as row_figures
from workbench.scaling.benches import bench_context, bench_of
from workbench.scaling.drawings import scaling_drawing
from workbench.scaling.forms import CurveForm, RowsForm, ScalingForm
from workbench.sheets import csv_answer


@require_GET
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """One channel's curve, table and error."""
    channel = channel_or_404(look, request.GET.get("channel", ""))
    return show_page(request, "scaling/show.html", record, look, "scaling", **bench_page(look, channel))


def refused(
    request: Request, record: JobRecord, look: Look, channel: MeasuringChain | None, **forms: Any
) -> HttpResponse:
    """The bench again, with the form that was refused as it was typed."""
    return show_page(
        request, "scaling/show.html", record, look, "scaling", 422, **bench_page(look, channel, **forms)
    )


def bench_page(look: Look, channel: MeasuringChain | None, **forms: Any) -> dict[str, Any]:
    """Everything the bench of a channel shows; ``forms`` are those that were refused."""
    if channel is None:
        return {"channel": None, "tab": "bench"}
    job = look.job
    sender, stage = job.sender(channel.sender), job.input_of(channel)
    true = look.solved.true.get(channel.channel)
    row = next(r for r in look.rows if r.channel.id == channel.id)
    spare = forms.get("rows_form") or RowsForm(initial=_rows_initial(channel, sender, stage))
    return {
        "tab": "bench",
        "bench": bench_of(channel, stage),
        "more": bench_context(look, channel, forms.get("bench_form")),
        "rows_form": spare,
        "turns": branches(sender.curve) if sender and not is_monotonic(sender.curve) else (),
        **_drawn(job, channel, true),
        "sender": sender,
        "stage": stage,
        "row": row,
        "curve_form": forms.get("curve_form") or (CurveForm.of(sender) if sender else None),
        "scaling_form": forms.get("scaling_form")
        or ScalingForm(initial=_scaling_initial(channel), unit=channel.unit),
        "true": true,
        "working": _working(look.solved, channel),
    }


def _rows_initial(channel: MeasuringChain, sender: Sender | None, stage: Input | None) -> dict[str, Any]:
    """As many rows as the display is known to hold, in steps that can be typed."""
    if stage is None or sender is None:
        return {"count": 8}
    x_step, y_step = typeable_steps(channel, sender, stage)
    return {"count": stage.rows or 8, "x_step": as_typed(x_step), "y_step": as_typed(y_step)}


def _working(solved: Any, channel: MeasuringChain) -> dict[str, Any]:
    """The way of the number through the chain: what the sender gives, what the input sees, the offset of its ground."""
    job = solved.network.job
    sender, display, stage = job.sender(channel.sender), job.display(channel.display), job.input_of(channel)
    ground = display.pin_for("ground") if display else None
    if sender is None or display is None or stage is None or stage.pin is None or ground is None:
        return {}
    element = next(
        (e for e in solved.elements if e.name == addresses.sender_part(sender.id, "element")), None
    )
    rail = addresses.pin_node(display, ground.id)
    return {
        "gives_ohm": getattr(element, "ohm", None),
        "sees_v": solved.across(addresses.pin_node(display, stage.pin), rail),
        "ground_v": solved.volts(rail),
    }


def _scaling_initial(channel: MeasuringChain) -> dict[str, Any]:
    scaling = channel.scaling
    numbers = {
        "low": scaling.low,
        "high": scaling.high,
        "warn_low": channel.warn_low,
        "warn_high": channel.warn_high,
        "true_stopped": channel.true_stopped,
        "true_running": channel.true_running,
    }
    return {
        "table": points_text(scaling.table),
        "x_unit": scaling.x_unit,
        "decimals": scaling.decimals,
        **{name: as_typed(value) for name, value in numbers.items()},
    }


@require_POST
def curve(request: Request, job: int) -> HttpResponse:
    """The sender's law."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    look = look_for(request, record)
    channel = channel_or_404(look, key)
    sender = look.job.sender(channel.sender)
    if sender is None:
        messages.error(request, "Choose a sender on the Ports page first.")
        return redirect(page_at("scaling:show", job, channel=key))
    form = CurveForm(sender, request.POST)
    if kept(request, record, form, lambda before: acts.change_sender(before, key, form.typed_into)):
        return redirect(page_at("scaling:show", job, channel=key))
    return refused(request, record, look, channel, curve_form=form)


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
def rows(request: Request, job: int) -> HttpResponse:
    """Take the best rows."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    look = look_for(request, record)
    channel, form = channel_or_404(look, key), RowsForm(request.POST)
    if form.is_valid():
        asked = form.asked()
        try:
            found = acts.best_rows_for(look.job, channel.id, asked)
            carry_out(request, record, lambda before: acts.take_rows(before, channel.id, asked))
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


@require_GET
@page_of_job
def how_many(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What each number of rows would leave."""
    channel = channel_or_404(look, request.GET.get("channel", ""))
    try:
        context = {"counts": row_figures.how_many(look.job, channel.id), "channel": channel}
    except BadInput as fault:
        context = {"error": fault.message}
    return render(request, "scaling/_how_many.html", context)


@require_GET
def tried(request: Request, job: int) -> HttpResponse:
    """The drawing with one row moved, while it is dragged; nothing is kept."""
    _, look, channel = at_channel(request, job)
    try:
        moved = acts.move_row(look.job, channel.id, *_row_of(request.GET))
        channel = read(MeasuringChain, dump(moved.chain(channel.id)))
    except BadInput as fault:
        return render(request, "scaling/_curve.html", {"error": fault.message}, status=422)
    return render(
        request, "scaling/_curve.html", _drawn(look.job, channel, look.solved.true.get(channel.channel))
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


def _drawn(job: Job, channel: MeasuringChain, true: float | None) -> dict[str, Any]:
    """The drawing of a channel and the figure under it."""
    sender, stage = job.sender(channel.sender), job.input_of(channel)
    strip = table_error(channel, sender, stage) if sender and stage else None
    return {
        "channel": channel,
        "drawing": scaling_drawing(channel, sender, stage, true) if sender else "",
        "largest": strip.largest if strip and strip.true.size else None,
    }


@require_GET
@page_of_job
def card(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The table as a card to type from, on paper (PDF) or as CSV."""
    channel = channel_or_404(look, request.GET.get("channel", ""))
    if not channel or not channel.scaling.table:
        raise Http404
    stage = look.job.input_of(channel)
    first = stage.first if stage else "x"
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
    typed = request.POST.get("typed", "")[:4000]
    context: dict[str, Any] = {"typed": typed}
    try:
        context["differs"] = row_figures.compare_rows(
            channel.scaling.table, read_points(typed, channel.scaling.x_unit, channel.unit)
        )
    except BadInput as fault:
        context["error"] = fault.message
    return render(request, "scaling/_read_back.html", context, status=422 if "error" in context else 200)


@require_POST
def branch(request: Request, job: int) -> HttpResponse:
    """The usable part of a curve that turns back."""
    key, which = request.POST.get("channel", ""), request.POST.get("part", "")
    return act(request, job, lambda before: acts.take_branch(before, key, which), "scaling:show")


@require_GET
def shown(request: Request, job: int) -> HttpResponse:
    """True in, shown out: the face at a true value typed by the fitter."""
    _, look, channel = at_channel(request, job)
    context: dict[str, Any] = {"channel": channel, "typed": request.GET.get("true", "")[:40]}
    try:
        true = parse_in(request.GET.get("true", ""), channel.unit)
        again, face, why = row_figures.what_if(look.solved, channel, true)
        context |= {"true": true, "face": face, "why": why, "working": _working(again, channel)}
    except BadInput as fault:
        context["error"] = fault.message
    return render(request, "scaling/_shown.html", context)
