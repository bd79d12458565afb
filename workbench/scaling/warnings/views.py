"""Warnings: level, delay, hysteresis; replayed on a simulated drive."""

from __future__ import annotations

from typing import Any, TypedDict

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils.safestring import SafeString
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts.edit import channel_called
from metrolex.acts.warnings import set_warning
from metrolex.job import AlarmBehaviour, Job, MeasuringChain
from metrolex.quantities import in_unit
from metrolex.senders.pasted import points_text, read_points
from metrolex.warning.alarm import oil_curve
from metrolex.warning.drive import Kind, Replay, Where, replay
from workbench.jobs.fields import NumberField, as_typed
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import at_channel, channel_or_404, kept, page_at, page_of_job, show_page
from workbench.request import Request
from workbench.scaling.warnings.drawing import replay_drawing

KIND_OF: dict[str, Kind] = {
    "oil_pressure": "oil_pressure",
    "fuel_pressure": "oil_pressure",
    "fuel_level": "fuel_level",
    "supply_voltage": "voltage",
    "boost": "boost",
    "lambda": "lambda",
}


class WarnForm(forms.Form):
    """When the driver is warned."""

    warn_low = NumberField(label="Warn below", required=False)
    warn_high = NumberField(label="Warn above", required=False)
    delay = NumberField(unit="s", label="after, s", required=False, low=0, high=60)
    hysteresis = NumberField(label="Off again when back by", required=False, low=0)
    by_rpm = forms.CharField(
        label="Least by engine speed",
        required=False,
        max_length=1000,
        widget=forms.Textarea(attrs={"rows": 3, "class": "figures"}),
        help_text="One a line: rpm, least reading. Takes the place of 'below'",
    )
    inhibit = NumberField(unit="rpm", label="Silent below, rpm", required=False, low=0, high=5000)
    start = NumberField(unit="s", label="and after start for, s", required=False, low=0, high=60)
    load = NumberField(
        unit="%",
        label="Silent below load, %",
        required=False,
        low=0,
        high=100,
        help_text="Throttle or manifold pressure; a lean mixture matters above 60",
    )

    def __init__(self, *args: Any, unit: str, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        for name in ("warn_low", "warn_high"):
            self.fields[name].unit = unit  # type: ignore[attr-defined]

    @staticmethod
    def of(channel: MeasuringChain) -> dict[str, Any]:
        behaviour = channel.behaviour
        numbers = {
            "warn_low": channel.warn_low,
            "warn_high": channel.warn_high,
            "delay": behaviour.delay_s,
            "hysteresis": behaviour.hysteresis,
            "inhibit": behaviour.inhibit_rpm,
            "start": behaviour.start_s,
            "load": behaviour.above_load_pct,
        }
        return {
            "by_rpm": points_text(behaviour.by_rpm),
            **{name: as_typed(value) for name, value in numbers.items()},
        }

    def put(self, job: Job, key: str) -> Job:
        """The job with the warning. Raises BadInput."""
        data = self.cleaned_data
        curve = (
            read_points(data["by_rpm"], "rpm", channel_called(job, key).unit)
            if data["by_rpm"].strip()
            else ()
        )
        behaviour = AlarmBehaviour(
            data["delay"] or 0.0,
            data["hysteresis"] or 0.0,
            curve,
            data["inhibit"] or 0.0,
            data["start"] or 0.0,
            data["load"] or 0.0,
        )
        return set_warning(job, key, data["warn_low"], data["warn_high"], behaviour)


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The warning of a channel and what it does over a drive."""
    channel = channel_or_404(look, request.GET.get("channel", ""))
    return show_page(request, "scaling/warnings.html", record, look, "scaling", **_context(look, channel))


class WarningsPage(TypedDict, total=False):
    """When a channel warns, and what a simulated drive shows of it."""

    tab: str
    channel: MeasuringChain | None
    form: WarnForm
    rule: str
    seen: Replay
    elsewhere: list[tuple[str, Replay]]
    drawing: SafeString
    chatter: int
    idle_rpm: float | None


def _context(look: Look, channel: MeasuringChain | None, refused: WarnForm | None = None) -> WarningsPage:
    found: WarningsPage = {"tab": "warnings", "channel": channel}
    if channel is None:
        return found
    vehicle = look.job.vehicle
    found["form"] = refused or WarnForm(initial=WarnForm.of(channel), unit=channel.unit)
    if channel.measurand == "oil_pressure":
        idle, redline = vehicle.engine.idle_rpm or 850.0, vehicle.engine.redline_rpm or 6000.0
        if idle < redline:
            found["rule"] = points_text(
                tuple(
                    (rpm, float(f"{in_unit(bar, 'bar', channel.unit):.3g}"))
                    for rpm, bar in oil_curve(idle, redline)
                )
            )
    alarm = channel.alarm
    if alarm.silent or channel.true_running is None:
        return found
    seen = replay(
        alarm,
        _kind(channel),
        channel.true_running,
        _failing(channel),
        seed=1,
        damping_s=channel.tank.damping_s if channel.tank else 0.0,
    )
    return {
        **found,
        "elsewhere": [
            (words, one)
            for where, words in _WHERE_WORDS.items()
            if (
                one := replay(
                    alarm,
                    _kind(channel),
                    channel.true_running,
                    _failing(channel),
                    seed=1,
                    damping_s=channel.tank.damping_s if channel.tank else 0.0,
                    where=where,
                )
            )
        ],
        "seen": seen,
        "drawing": replay_drawing(channel, alarm, seen),
        "chatter": len(seen.false),
        "idle_rpm": vehicle.engine.idle_rpm,
    }


_WHERE_WORDS: dict[Where, str] = {
    "full load": "only under full load",
    "idle": "only at the hot idle",
}


def _kind(channel: MeasuringChain) -> Kind:
    return KIND_OF.get(channel.measurand, "temperature")


def _failing(channel: MeasuringChain) -> float:
    """Where the reading goes when it fails: well past the level that is to catch it."""
    level = channel.warn_high if channel.warn_high is not None else channel.warn_low
    if channel.behaviour.by_rpm:
        return 0.3 * min(y for _, y in channel.behaviour.by_rpm)
    assert level is not None
    size = max(abs(level), abs((channel.true_running or 0.0) - level), 0.1)
    return level + 0.3 * size if channel.warn_high is not None else level - 0.5 * size


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """The warning as it is set."""
    record, look, channel = at_channel(request, job)
    form = WarnForm(request.POST, unit=channel.unit)
    if kept(
        request,
        record,
        form,
        lambda before: form.put(before, channel.id),
        {"high": "warn_high", "points": "by_rpm"},
    ):
        return redirect(page_at("scaling:warnings", job, channel=channel.id))
    return show_page(
        request, "scaling/warnings.html", record, look, "scaling", 422, **_context(look, channel, form)
    )
