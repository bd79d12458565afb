"""A sender measured in the bay: points, the law they give, which sender of the library it could be."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django import forms
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_GET, require_POST

from metrolex.acts.edit import replaced
from metrolex.air.atmosphere import ALTITUDE_M
from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.job import Channel, Job, Measured, Sender
from metrolex.kit import all_sender_kits
from metrolex.quantities import unit_words
from metrolex.senders.bay import Suspect, point_findings, references, which_sender
from metrolex.senders.fit import FIT_KINDS, Fit, FitKind, fit_curve
from metrolex.senders.pasted import read_points
from workbench.jobs.pages import act, at_channel, kept, page_at, show_page
from workbench.jobs.services import Look
from workbench.library.parts import own_senders
from workbench.scaling.forms import LONGEST
from workbench.scaling.measured_drawing import measured_drawing

FITS = [
    ("steinhart_hart", "Steinhart-Hart, three numbers"),
    ("beta", "beta, two numbers"),
    ("linear", "straight line"),
    ("pchip", "smooth through every point"),
]


class PointsForm(forms.Form):
    """Points measured, typed or pasted."""

    points = forms.CharField(
        label="Measured", max_length=LONGEST, widget=forms.Textarea(attrs={"rows": 4, "class": "figures", "spellcheck": "false"}),
        help_text="One a line: what the meter read, then what it truly was. 2k2 and 212 F do",
    )  # fmt: skip
    how = forms.CharField(
        label="How it was known",
        required=False,
        max_length=120,
        help_text="ice water, boiling water, water bath, regulated air...",
    )


@require_GET
def show(request: HttpRequest, job: int) -> HttpResponse:
    """The points of a channel's sender and what they say."""
    record, look, channel = at_channel(request, job)
    return show_page(
        request,
        "scaling/measured.html",
        record,
        look,
        "scaling",
        **_context(request, look, channel, request.GET.get("law", "")),
    )


def _context(
    request: HttpRequest,
    look: Look,
    channel: Channel | None,
    law: str = "",
    refused: PointsForm | None = None,
) -> dict[str, Any]:
    job = look.job
    sender = job.sender(channel.sender) if channel else None
    found: dict[str, Any] = {
        "tab": "measured",
        "channel": channel,
        "sender": sender,
        "form": refused or PointsForm(),
        "laws": FITS,
    }
    if sender is None or channel is None:
        return found
    altitude = job.vehicle.altitude_m
    if sender.curve.y_unit == "degC":
        found |= {
            "references": references(min(max(altitude or 0.0, ALTITUDE_M[0]), ALTITUDE_M[1])),
            "altitude": altitude,
        }
    points = tuple((m.x, m.y) for m in sender.measured)
    chosen: FitKind = law if law in FIT_KINDS else _usual(sender, len(points))  # type: ignore[assignment]
    found |= {
        "law": chosen,
        "doubts": point_findings(points, sender.curve.x_unit, sender.curve.y_unit),
        "suspects": _suspects(sender, points, own_senders(request.workshop)),
    }
    if not points:
        return found
    try:
        fit = fit_curve(chosen, points, sender.curve.x_unit, sender.curve.y_unit)
    except BadInput as fault:
        return found | {
            "cannot": fault.message,
            "rows": [{"point": m, "number": i} for i, m in enumerate(sender.measured)],
        }
    return found | {
        "fit": fit,
        "rows": _rows(sender, fit),
        "drawing": measured_drawing(sender, fit),
        "findings_of": _findings(fit),
        "numbers": _numbers(fit),
    }


def _usual(sender: Sender, count: int) -> str:
    """The law one would fit: a thermistor's for ohms over degrees, a line for volts."""
    if sender.curve.x_unit == "ohm" and sender.curve.y_unit == "degC":
        return "steinhart_hart" if count >= 4 else "beta"
    return "linear" if sender.curve.x_unit == "volt" or count < 3 else "pchip"


def _rows(sender: Sender, fit: Fit) -> list[dict[str, Any]]:
    """The points in the order they were taken, each with its residual."""
    residual = dict(zip(fit.points, fit.residuals, strict=True))
    odd = {fit.points[i] for i in fit.outliers}
    return [
        {"point": m, "number": i, "residual": residual.get((m.x, m.y)), "odd": (m.x, m.y) in odd} for i, m in enumerate(sender.measured)
    ]  # fmt: skip


def _findings(fit: Fit) -> tuple[Finding, ...]:
    return fit.findings


def _numbers(fit: Fit) -> str:
    """The law's own numbers, as they are typed into a display that asks for them."""
    curve: Any = fit.curve
    if curve.kind == "beta":
        return f"R25 = {curve.r0_ohm:.5g} ohm, beta = {curve.beta_k:.5g} K"
    if curve.kind == "steinhart_hart":
        return f"a = {curve.a:.6e}, b = {curve.b:.6e}, c = {curve.c:.6e}"
    if curve.kind == "linear":
        (x0, y0), (x1, y1) = curve.points
        slope = (y1 - y0) / (x1 - x0)
        return f"{slope:.5g} {unit_words(curve.y_unit)} a {unit_words(curve.x_unit)}, {y0 - slope * x0:+.5g}"
    return f"{len(curve.points)} points"


def _suspects(
    sender: Sender, points: tuple[tuple[float, float], ...], own: dict[str, Sender]
) -> tuple[Suspect, ...]:
    """Senders of the library, own and generic, of the same kind, whose curve comes near."""
    if not points:
        return ()
    curves = {
        name: kit.curve for name, kit in (all_sender_kits() | own).items()
        if kit.curve.x_unit == sender.curve.x_unit and kit.curve.y_unit == sender.curve.y_unit
    }  # fmt: skip
    return which_sender(points, curves)[:4]


@require_POST
def add(request: HttpRequest, job: int) -> HttpResponse:
    """Points more."""
    record, look, channel = at_channel(request, job)
    form = PointsForm(request.POST)

    def put(before: Job) -> Job:
        sender = _sender(before, channel.id)
        fresh = read_points(form.cleaned_data["points"], sender.curve.x_unit, sender.curve.y_unit)
        if not fresh:
            raise BadInput("points", "", "one point or more")
        have = {m.x for m in sender.measured}
        for x, y in fresh:
            if x in have:
                raise BadInput(
                    "points", x, "each meter reading once", f"{x:g} stands among the points already."
                )
            if sender.curve.x_unit == "ohm" and x < 0:
                raise BadInput("points", x, "ohms of 0 or more")
            have.add(x)
            sender = replace(sender, measured=(*sender.measured, Measured(x, y, form.cleaned_data["how"])))
        return replace(before, senders=replaced(before.senders, sender))

    if kept(record, form, put):
        return redirect(page_at("scaling:measured", job, channel=channel.id))
    return show_page(
        request,
        "scaling/measured.html",
        record,
        look,
        "scaling",
        422,
        **_context(request, look, channel, "", form),
    )


@require_POST
def remove(request: HttpRequest, job: int) -> HttpResponse:
    """A point less."""
    key, number = request.POST.get("channel", ""), request.POST.get("number", "")

    def drop(before: Job) -> Job:
        sender = _sender(before, key)
        if not number.isdigit() or int(number) >= len(sender.measured):
            raise BadInput("number", number, f"0 to {len(sender.measured) - 1}")
        left = tuple(m for i, m in enumerate(sender.measured) if i != int(number))
        return replace(before, senders=replaced(before.senders, replace(sender, measured=left)))

    return act(request, job, drop, "scaling:measured")


@require_POST
def thousand(request: HttpRequest, job: int) -> HttpResponse:
    """The points were read in kilo-ohms: a thousand times as much each."""
    key = request.POST.get("channel", "")

    def scale(before: Job) -> Job:
        sender = _sender(before, key)
        if sender.curve.x_unit != "ohm" or not sender.measured:
            raise BadInput("points", None, "points in ohms")
        points = tuple(replace(m, x=1000 * m.x) for m in sender.measured)
        return replace(before, senders=replaced(before.senders, replace(sender, measured=points)))

    return act(request, job, scale, "scaling:measured")


@require_POST
def take(request: HttpRequest, job: int) -> HttpResponse:
    """The fitted law, or a library sender's curve, as the sender's own."""
    key, law, name = (request.POST.get(word, "") for word in ("channel", "law", "sender"))
    own = own_senders(request.workshop)

    def put(before: Job) -> Job:
        sender = _sender(before, key)
        if name:
            kits = all_sender_kits() | own
            if name not in kits:
                raise BadInput("sender", name, "a sender of the library")
            return replace(before, senders=replaced(before.senders, replace(sender, curve=kits[name].curve)))
        if law not in FIT_KINDS:
            raise BadInput("law", law, " | ".join(FIT_KINDS))
        points = tuple((m.x, m.y) for m in sender.measured)
        fit = fit_curve(law, points, sender.curve.x_unit, sender.curve.y_unit)  # type: ignore[arg-type]
        # A sender that was measured is as good as its fit: the band of its points takes the place of the maker's tolerance.
        tolerance = (
            replace(sender.tolerance, x_pct=0.0, y=float(f"{2 * fit.rms_residual:.2g}"))
            if fit.band is not None
            else sender.tolerance
        )
        return replace(
            before, senders=replaced(before.senders, replace(sender, curve=fit.curve, tolerance=tolerance))
        )

    return act(request, job, put, "scaling:measured", law=law if law in FIT_KINDS else "")


def _sender(job: Job, key: str) -> Sender:
    channel = job.channel(key)
    sender = job.sender(channel.sender) if channel else None
    if sender is None:
        raise BadInput("channel", key, "a channel with a sender", "Choose a sender on the Ports page first.")
    return sender
