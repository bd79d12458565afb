"""Scaling: from what the sender gives to what is shown."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from metrolex.errors import BadInput
from metrolex.job import Channel, Scaling
from metrolex.quantities import parse_number
from metrolex.scaling.error import table_error
from metrolex.senders import BetaCurve, Curve, LinearCurve, SteinhartHartCurve, TableCurve
from metrolex.twin import names
from workbench.jobs.fields import refuse
from workbench.jobs.pages import act, channel_or_404, look_for, page_at, record_for, show_page
from workbench.jobs.services import Look, change
from workbench.scaling import services
from workbench.scaling.drawings import scaling_drawing
from workbench.scaling.forms import CurveForm, ScalingForm


@require_GET
def show(request: HttpRequest, job: int) -> HttpResponse:
    """One channel's curve, table and error."""
    record = record_for(request, job)
    look = look_for(request, record)
    channel = channel_or_404(look, request.GET.get("channel", ""))
    return show_page(request, "scaling/show.html", record, look, "scaling", **_context(look, channel))


def _context(look: Look, channel: Channel | None, **forms: Any) -> dict[str, Any]:
    if channel is None:
        return {"channel": None}
    job = look.job
    sender, stage = job.sender(channel.sender), job.input_of(channel)
    true = look.solved.true.get(channel.id)
    row = next(r for r in look.rows if r.channel.id == channel.id)
    strip = table_error(channel, sender, stage) if sender and stage else None
    return {
        "channel": channel, "settings": [s for s in job.settings if s.display == channel.display],
        "sender": sender, "stage": stage, "row": row,
        "drawing": scaling_drawing(channel, sender, stage, true) if sender else "",
        "curve_form": forms.get("curve_form") or (CurveForm(initial=_curve_initial(sender.curve, sender.tolerance.x_pct), x_unit=sender.curve.x_unit, y_unit=sender.curve.y_unit) if sender else None),
        "scaling_form": forms.get("scaling_form") or ScalingForm(initial=_scaling_initial(channel)),
        "true": true, "working": _working(look.solved, channel), "largest": strip.largest if strip and strip.true.size else None,
    }  # fmt: skip


def _working(solved: Any, channel: Channel) -> dict[str, Any]:
    """The way of the number through the chain: what the sender gives, what the input sees, the offset of its ground."""
    job = solved.network.job
    sender, display, stage = job.sender(channel.sender), job.display(channel.display), job.input_of(channel)
    ground = display.pin_for("ground") if display else None
    if sender is None or display is None or stage is None or stage.pin is None or ground is None:
        return {}
    element = next((e for e in solved.elements if e.name == f"{sender.id} element"), None)
    rail = names.pin_node(display, ground.id)
    return {
        "gives_ohm": getattr(element, "ohm", None), "sees_v": solved.across(names.pin_node(display, stage.pin), rail),
        "ground_v": solved.volts(rail),
    }  # fmt: skip


def _curve_initial(curve: Curve, tolerance_pct: float) -> dict[str, Any]:
    start: dict[str, Any] = {"kind": curve.kind, "tolerance_pct": f"{tolerance_pct:g}", "t0_degc": "25"}
    if isinstance(curve, (TableCurve, LinearCurve)):
        start["points"] = services.points_text(curve.points)
        start["interpolation"] = curve.interpolation if isinstance(curve, TableCurve) else "linear"
    elif isinstance(curve, BetaCurve):
        start |= {
            "r0_ohm": f"{curve.r0_ohm:g}",
            "t0_degc": f"{curve.t0_degc:g}",
            "beta_k": f"{curve.beta_k:g}",
        }
    elif isinstance(curve, SteinhartHartCurve):
        start |= {"a": repr(curve.a), "b": repr(curve.b), "c": repr(curve.c)}
    return start


def _scaling_initial(channel: Channel) -> dict[str, Any]:
    scaling = channel.scaling
    numbers = {"low": scaling.low, "high": scaling.high, "warn_low": channel.warn_low, "warn_high": channel.warn_high,
               "true_stopped": channel.true_stopped, "true_running": channel.true_running}  # fmt: skip
    return {
        "table": services.points_text(scaling.table), "x_unit": scaling.x_unit, "decimals": scaling.decimals,
        **{name: "" if value is None else f"{value:g}" for name, value in numbers.items()},
    }  # fmt: skip


@require_POST
def curve(request: HttpRequest, job: int) -> HttpResponse:
    """The sender's law."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    look = look_for(request, record)
    channel = channel_or_404(look, key)
    sender = look.job.sender(channel.sender)
    if sender is None:
        messages.error(request, "Choose a sender on the Ports page first.")
        return redirect(page_at("scaling:show", job, channel=key))
    form = CurveForm(
        request.POST, x_unit=sender.curve.x_unit, y_unit=sender.curve.y_unit, x_range=_law_range(sender.curve)
    )
    if form.is_valid() and form.curve is not None:
        tolerance = form.cleaned_data["tolerance_pct"] or 0.0
        try:
            change(record, lambda before: services.set_curve(before, key, form.curve, tolerance))  # type: ignore[arg-type]
            return redirect(page_at("scaling:show", job, channel=key))
        except BadInput as fault:
            refuse(form, fault)
    return show_page(
        request, "scaling/show.html", record, look, "scaling", 422, **_context(look, channel, curve_form=form)
    )


def _law_range(curve: Curve) -> tuple[float, float] | None:
    return curve.x_range if isinstance(curve, (BetaCurve, SteinhartHartCurve)) else None


@require_POST
def table(request: HttpRequest, job: int) -> HttpResponse:
    """What is entered in the display."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    look = look_for(request, record)
    channel, form = channel_or_404(look, key), ScalingForm(request.POST)
    if form.is_valid():
        try:
            edited = _with(channel, form.cleaned_data)
            change(record, lambda before: services.set_scaling(before, edited))
            return redirect(page_at("scaling:show", job, channel=key))
        except BadInput as fault:
            refuse(form, fault, {"points": "table"})
    return show_page(
        request,
        "scaling/show.html",
        record,
        look,
        "scaling",
        422,
        **_context(look, channel, scaling_form=form),
    )


def _with(channel: Channel, clean: dict[str, Any]) -> Channel:
    rows = services.read_points(clean["table"])
    scaling = Scaling(rows, clean["x_unit"], clean["decimals"], clean["low"], clean["high"])
    return replace(
        channel, scaling=scaling, warn_low=clean["warn_low"], warn_high=clean["warn_high"], true_stopped=clean["true_stopped"],
        true_running=clean["true_running"],
    )  # fmt: skip


@require_POST
def rows(request: HttpRequest, job: int) -> HttpResponse:
    """Take the table's rows from the sender's curve."""
    key, typed = request.POST.get("channel", ""), request.POST.get("count", "")
    return act(request, job, lambda before: services.take_rows(before, key, typed), "scaling:show")


@require_POST
def setting(request: HttpRequest, job: int) -> HttpResponse:
    """Write down an entry of the display's menu."""
    display, name, value = (request.POST.get(word, "") for word in ("display", "name", "value"))
    return act(
        request, job, lambda before: services.add_setting(before, display, name, value), "scaling:show"
    )


@require_POST
def setting_remove(request: HttpRequest, job: int) -> HttpResponse:
    """Take an entry out."""
    display, name = request.POST.get("display", ""), request.POST.get("name", "")
    return act(request, job, lambda before: services.remove_setting(before, display, name), "scaling:show")


@require_GET
def shown(request: HttpRequest, job: int) -> HttpResponse:
    """True in, shown out: the face at a true value typed by the fitter."""
    record = record_for(request, job)
    look = look_for(request, record)
    channel = channel_or_404(look, request.GET.get("channel", ""))
    context: dict[str, Any] = {"channel": channel, "typed": request.GET.get("true", "")[:40]}
    try:
        true = parse_number(request.GET.get("true", ""))
        again, face, why = services.what_if(look.solved, channel, true)
        context |= {"true": true, "face": face, "why": why, "working": _working(again, channel)}
    except BadInput as fault:
        context["error"] = fault.message
    return render(request, "scaling/_shown.html", context)
