"""The bench of one channel: its curve, its table, what it will show."""

from __future__ import annotations

from typing import Any, TypedDict

from django.http import HttpResponse
from django.shortcuts import render
from django.utils.safestring import SafeString
from django.views.decorators.http import require_safe

from metrolex.check import Row
from metrolex.errors import BadInput
from metrolex.job import Input, Job, MeasuringChain, Sender
from metrolex.quantities import parse_in
from metrolex.scaling.check import counts_from_unsaid
from metrolex.scaling.error import table_error
from metrolex.scaling.suggest import typeable_steps
from metrolex.senders import (
    branches,
    is_monotonic,
)
from metrolex.senders.pasted import points_text
from metrolex.twin import addresses
from workbench.jobs.fields import as_typed
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import (
    at_channel,
    channel_or_404,
    page_of_job,
    show_page,
)
from workbench.request import Request
from workbench.scaling.bench import bench_context, bench_of
from workbench.scaling.bench import rows as row_figures
from workbench.scaling.bench.drawing import scaling_drawing
from workbench.scaling.forms import CurveForm, RowsForm, ScalingForm


@require_safe
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


class Drawn(TypedDict):
    """The drawing of a channel and the figure under it."""

    channel: MeasuringChain
    drawing: SafeString | str
    largest: float | None


class BenchPage(TypedDict, total=False):
    """Everything the bench of a channel shows; a job without channels has none of it."""

    tab: str
    channel: MeasuringChain | None
    drawing: SafeString | str
    largest: float | None
    bench: str
    more: dict[str, Any]
    rows_form: RowsForm
    turns: tuple[tuple[float, float], ...]
    sender: Sender | None
    stage: Input | None
    row: Row
    curve_form: CurveForm | None
    counts_from: str
    scaling_form: ScalingForm
    true: float | None
    working: dict[str, Any]


def bench_page(look: Look, channel: MeasuringChain | None, **forms: Any) -> BenchPage:
    """Everything the bench of a channel shows; ``forms`` are those that were refused."""
    if channel is None:
        return {"channel": None, "tab": "bench"}
    job = look.job
    sender, stage = job.heard(channel), job.input_of(channel)
    true = look.solved.true.get(channel.channel)
    row = next(r for r in look.rows if r.channel.id == channel.id)
    spare = forms.get("rows_form") or RowsForm(initial=_rows_initial(channel, sender, stage))
    return {
        "tab": "bench",
        "bench": bench_of(channel, stage),
        "more": bench_context(look, channel, forms.get("bench_form")),
        "rows_form": spare,
        "turns": branches(sender.curve) if sender and not is_monotonic(sender.curve) else (),
        **drawn(job, channel, true),
        "sender": sender,
        "counts_from": _counts_from(channel, sender),
        "stage": stage,
        "row": row,
        "curve_form": forms.get("curve_form")
        or (CurveForm.of(sender, by_box=channel.box is not None) if sender else None),
        "scaling_form": forms.get("scaling_form")
        or ScalingForm(initial=_scaling_initial(channel), unit=channel.unit),
        "true": true,
        "working": _working(look.solved, channel),
    }


def _counts_from(channel: MeasuringChain, sender: Sender | None) -> str:
    """What the curve of a pressure sender counts from, '?' where it must be asked, '' where nothing is to be said."""
    if sender is None:
        return ""
    return sender.counts_from or ("?" if counts_from_unsaid(channel, sender) else "")


def drawn(job: Job, channel: MeasuringChain, true: float | None) -> Drawn:
    """The drawing of a channel and the figure under it."""
    sender, stage = job.heard(channel), job.input_of(channel)
    strip = table_error(channel, sender, stage) if sender and stage else None
    return {
        "channel": channel,
        "drawing": scaling_drawing(channel, sender, stage, true) if sender else "",
        "largest": strip.largest if strip and strip.true.size else None,
    }


def _rows_initial(channel: MeasuringChain, sender: Sender | None, stage: Input | None) -> dict[str, Any]:
    """As many rows as the display is known to hold, in steps that can be typed."""
    if stage is None or sender is None:
        return {"count": 8}
    x_step, y_step = typeable_steps(channel, sender, stage)
    return {"count": stage.table.rows or 8, "x_step": as_typed(x_step), "y_step": as_typed(y_step)}


def _working(solved: Any, channel: MeasuringChain) -> dict[str, Any]:
    """The way of the number through the chain: what the sender gives, what the input sees, the offset of its ground."""
    job = solved.network.job
    sender, display, stage = job.heard(channel), job.display(channel.display), job.input_of(channel)
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


@require_safe
def shown(request: Request, job: int) -> HttpResponse:
    """True in, shown out: the face at a true value typed by the fitter."""
    _, look, channel = at_channel(request, job)
    context: dict[str, Any] = {"channel": channel, "typed": request.GET.get("true", "")}
    try:
        true = parse_in(request.GET.get("true", ""), channel.unit)
        again, face, why = row_figures.what_if(look.solved, channel, true)
        context |= {"true": true, "face": face, "why": why, "working": _working(again, channel)}
    except BadInput as fault:
        context["error"] = fault.message
    return render(request, "scaling/_shown.html", context)
