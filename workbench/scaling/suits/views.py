"""Does it suit: the best pull-up, a second display on the sender, one gauge switched between two senders, matching resistors."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, TypedDict

from django import forms
from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_safe

from metrolex.errors import BadInput
from metrolex.job import Display, Input, MeasuringChain, Sender
from metrolex.quantities import in_unit
from metrolex.scaling.match import Match, Power, match_sender, power_of
from metrolex.scaling.pull_up import PullUp, best_pull_up, judge_pull_up
from metrolex.scaling.shared import Listener, Together, on_one_sender, on_two_senders
from metrolex.scaling.suggest import shared_span
from metrolex.senders import x_at, y_range
from metrolex.senders.pasted import read_points
from workbench.jobs.fields import NumberField, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import at_channel, channel_or_404, page_of_job, show_page
from workbench.request import Request

DEFAULT_V, DEFAULT_BITS = 5.0, 10


class MatchForm(forms.Form):
    """The gauge's own law, against the sender of the channel."""

    gauge = forms.CharField(
        label="The gauge wants",
        max_length=2000,
        widget=forms.Textarea(attrs={"rows": 4, "class": "figures"}),
        help_text="One a line: reading, ohms at which it stands there",
    )
    series = forms.ChoiceField(label="Resistors", choices=[("E24", "E24, 5 %"), ("E96", "E96, 1 %")])
    supply_v = NumberField(unit="V", label="Gauge is fed with, V", required=False, low=0.1, high=100)
    feed_ohm = NumberField(unit="ohm", label="through, Ω", required=False, low=0.1, high=1e6)


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """All of it for one channel."""
    channel = channel_or_404(look, request.GET.get("channel", ""))
    other = look.job.chain(request.GET.get("with", ""))
    return show_page(request, "scaling/suits.html", record, look, "scaling", **_context(look, channel, other))


class PullUps(TypedDict, total=False):
    """The best pull-ups for a sender, and the one there is; or why none can be said."""

    pull_up_missing: str
    pull_ups: Sequence[PullUp]
    pull_up_now: PullUp | None
    reference_v: float
    bits: int
    gain: float | None


class SharedRow(TypedDict):
    """One of two displays on one sender."""

    channel: MeasuringChain
    found: Together


class SwitchedRow(TypedDict):
    """One of two senders on one display."""

    sender: Sender
    found: Together


class TogetherWith(TypedDict, total=False):
    """Two channels put together, or why they cannot be."""

    shared: list[SharedRow]
    shared_cannot: str
    switched: list[SwitchedRow]
    switched_cannot: str


class SuitsPage(PullUps, TogetherWith, total=False):
    """All of the page inside its frame."""

    tab: str
    channel: MeasuringChain | None
    other: MeasuringChain | None
    sender: Sender
    resistive: bool
    others: list[MeasuringChain]
    match_form: MatchForm


class Matched(TypedDict, total=False):
    """Resistors found for a gauge, what it shows with them, and what they warm up to."""

    found: Match
    law: list[tuple[float, float, float]]
    power: Power


def _context(look: Look, channel: MeasuringChain | None, other: MeasuringChain | None) -> SuitsPage:
    job = look.job
    found: SuitsPage = {"tab": "suits", "channel": channel, "other": other}
    sender = job.heard(channel) if channel else None
    if channel is None or sender is None:
        return found
    found["sender"] = sender
    found["resistive"] = sender.curve.x_unit == "ohm"
    found["others"] = [c for c in job.chains if c.id != channel.id and c.sender and job.input_of(c)]
    if sender.curve.x_unit != "ohm":
        return found
    found.update(_pull_ups(look, channel))  # type: ignore[typeddict-item]
    found["match_form"] = MatchForm(initial={"gauge": "", "supply_v": "5", "feed_ohm": "220"})
    if other is not None:
        found.update(_together(look, channel, other))  # type: ignore[typeddict-item]
    return found


def _pull_ups(look: Look, channel: MeasuringChain) -> PullUps:
    sender, stage = look.job.heard(channel), look.job.input_of(channel)
    assert sender is not None
    reference = stage.circuit.reference_v if stage and stage.circuit.reference_v else DEFAULT_V
    bits = stage.converter.adc_bits if stage and stage.converter.adc_bits else DEFAULT_BITS
    try:
        span = tuple(in_unit(v, channel.unit, sender.curve.y_unit) for v in shared_span(channel, sender))
        low, high = min(span), max(span)
        best = best_pull_up(sender.curve, (low, high), reference, bits)
        now = (
            judge_pull_up(sender.curve, (low, high), stage.circuit.pull_up_ohm, reference, bits)
            if stage and stage.circuit.pull_up_ohm
            else None
        )
    except BadInput as fault:
        return {"pull_up_missing": fault.message}
    return {
        "pull_ups": best[:4],
        "pull_up_now": now,
        "reference_v": reference,
        "bits": bits,
        "gain": now.coarsest / best[0].coarsest if now else None,
    }


def _together(look: Look, channel: MeasuringChain, other: MeasuringChain) -> TogetherWith:
    """The other channel's display on this sender, and this display switched to the other's sender."""
    job = look.job
    sender, second = job.heard(channel), job.heard(other)
    found: TogetherWith = {}
    one, two = (_listener(c, job.display(c.display), job.input_of(c)) for c in (channel, other))
    if sender is None or second is None or one is None or two is None:
        return found
    try:
        if channel.unit == other.unit or in_unit(0.0, other.unit, channel.unit) is not None:
            first, last = on_one_sender(sender, one, two)
            found["shared"] = [{"channel": channel, "found": first}, {"channel": other, "found": last}]
    except BadInput as fault:
        found["shared_cannot"] = fault.message
    try:
        a, b = on_two_senders(sender, second, one)
        found["switched"] = [{"sender": sender, "found": a}, {"sender": second, "found": b}]
    except BadInput as fault:
        found["switched_cannot"] = fault.message
    return found


def _listener(channel: MeasuringChain, display: Display | None, stage: Input | None) -> Listener | None:
    return Listener(channel, stage, display.behaviour) if display is not None and stage is not None else None


@require_safe
def match(request: Request, job: int) -> HttpResponse:
    """The best resistors for a gauge typed in."""
    _, look, channel = at_channel(request, job)
    form = MatchForm(request.GET)
    context: dict[str, Any] = {"form": form, "channel": channel}
    sender = look.job.heard(channel)
    if form.is_valid() and sender is not None:
        try:
            context |= _matched(sender, channel, form.cleaned_data)
        except BadInput as fault:
            refuse(form, fault, {"points": "gauge", "gauge_points": "gauge", "sender_points": "gauge"})
    return render(request, "scaling/_match.html", context)


def _matched(sender: Sender, channel: MeasuringChain, data: dict[str, Any]) -> Matched:
    """The match for a gauge's readings, over what the sender covers of them. Raises BadInput."""
    gauge = read_points(data["gauge"], channel.unit, "ohm")
    if len(gauge) < 2:
        words = "Give two lines or more: reading, then ohms."
        raise BadInput("gauge", len(gauge), "two lines or more", words)
    span = [y for y, _ in gauge]
    least, most = _reach(sender, channel)
    low, high = max(min(span), least), min(max(span), most)
    if low >= high:
        words = "The gauge's readings and the sender's do not meet."
        raise BadInput("gauge", span, "readings the sender covers", words)
    readings = [low + (high - low) * k / 8 for k in range(9)]
    law = tuple(
        (y, float(x_at(sender.curve, in_unit(y, channel.unit, sender.curve.y_unit)))) for y in readings
    )
    found = match_sender(law, gauge, data["series"])
    rows = [(y, ohm, shown) for (y, ohm), shown in zip(law, found.shown, strict=False)]
    matched: Matched = {"found": found, "law": rows}
    if found.max_error is not None and data["supply_v"] and data["feed_ohm"]:
        matched["power"] = power_of(found, law, data["supply_v"], data["feed_ohm"])
    return matched


def _reach(sender: Sender, channel: MeasuringChain) -> tuple[float, float]:
    low, high = sorted(in_unit(y, sender.curve.y_unit, channel.unit) for y in y_range(sender.curve))
    return low, high
