"""A sender measured in the bay: points, the law they give, which sender of the library it could be."""

from __future__ import annotations

from typing import Any, TypedDict

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils.safestring import SafeString
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import measured as acts
from metrolex.air.atmosphere import ALTITUDE_M
from metrolex.characters import whole_number
from metrolex.errors import BadInput
from metrolex.findings import Finding
from metrolex.job import Job, Measured, MeasuringChain, Sender
from metrolex.kit import all_sender_kits
from metrolex.quantities import unit_words
from metrolex.senders.bay import References, Suspect, point_findings, references, which_sender
from metrolex.senders.fit import FIT_KINDS, Fit, FitKind, fit_curve
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, at_channel, channel_or_404, kept, page_at, page_of_job, show_page
from workbench.library.parts import own_senders
from workbench.request import Request
from workbench.scaling.forms import LONGEST
from workbench.scaling.measured.drawing import measured_drawing

FITS = [
    ("steinhart_hart", "Steinhart-Hart, three numbers"),
    ("beta", "beta, two numbers"),
    ("linear", "straight line"),
    ("pchip", "smooth through every point"),
]


class PointsForm(forms.Form):
    """Points measured, typed or pasted."""

    points = forms.CharField(
        label="Measured",
        max_length=LONGEST,
        widget=forms.Textarea(attrs={"rows": 4, "class": "figures", "spellcheck": "false"}),
        help_text="One a line: what the meter read, then what it truly was. 2k2 and 212 F do",
    )
    how = forms.CharField(
        label="How it was known",
        required=False,
        max_length=120,
        help_text="ice water, boiling water, water bath, regulated air...",
    )


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The points of a channel's sender and what they say."""
    channel = channel_or_404(look, request.GET.get("channel", ""))
    return show_page(
        request,
        "scaling/measured.html",
        record,
        look,
        "scaling",
        **_context(request, look, channel, request.GET.get("law", "")),
    )


class PointRow(TypedDict):
    """A point as it was taken; with a law fitted, how far it lies off it."""

    point: Measured
    number: int
    residual: float | None
    odd: bool


class Fitted(TypedDict, total=False):
    """What the points say: doubts, whose curve they may be, the law fitted to them or why it cannot be."""

    law: FitKind
    doubts: list[Finding]
    suspects: tuple[Suspect, ...]
    cannot: str
    rows: list[PointRow]
    fit: Fit
    drawing: SafeString
    findings_of: tuple[Finding, ...]
    numbers: str


class MeasuredPage(Fitted, total=False):
    """All of the page inside its frame."""

    tab: str
    channel: MeasuringChain | None
    sender: Sender | None
    form: PointsForm
    laws: list[tuple[str, str]]
    references: References
    altitude: float | None


def _context(
    request: Request,
    look: Look,
    channel: MeasuringChain | None,
    law: str = "",
    refused: PointsForm | None = None,
) -> MeasuredPage:
    job = look.job
    sender = job.sender(channel.sender) if channel else None
    found: MeasuredPage = {
        "tab": "measured",
        "channel": channel,
        "sender": sender,
        "form": refused or PointsForm(),
        "laws": FITS,
    }
    if sender is None or channel is None:
        return found
    altitude = job.vehicle.identity.altitude_m
    if sender.curve.y_unit == "degC":
        found["references"] = references(min(max(altitude or 0.0, ALTITUDE_M[0]), ALTITUDE_M[1]))
        found["altitude"] = altitude
    found.update(_fitted(sender, law, _suspects(sender, own_senders(request.workshop))))  # type: ignore[typeddict-item]
    return found


def _fitted(sender: Sender, law: str, suspects: tuple[Suspect, ...]) -> Fitted:
    points = tuple((m.x, m.y) for m in sender.measured)
    chosen: FitKind = law if law in FIT_KINDS else _usual(sender, len(points))  # type: ignore[assignment]
    found: Fitted = {
        "law": chosen,
        "doubts": point_findings(points, sender.curve.x_unit, sender.curve.y_unit),
        "suspects": suspects,
    }
    if not points:
        return found
    try:
        fit = fit_curve(chosen, points, sender.curve.x_unit, sender.curve.y_unit)
    except BadInput as fault:
        found["cannot"] = fault.message
        found["rows"] = [
            {"point": m, "number": i, "residual": None, "odd": False} for i, m in enumerate(sender.measured)
        ]
        return found
    found["fit"] = fit
    found["rows"] = _rows(sender, fit)
    found["drawing"] = measured_drawing(sender, fit)
    found["findings_of"] = _findings(fit)
    found["numbers"] = _numbers(fit)
    return found


def _usual(sender: Sender, count: int) -> str:
    """The law one would fit: a thermistor's for ohms over degrees, a line for volts."""
    if sender.curve.x_unit == "ohm" and sender.curve.y_unit == "degC":
        return "steinhart_hart" if count >= 4 else "beta"
    return "linear" if sender.curve.x_unit == "volt" or count < 3 else "pchip"


def _rows(sender: Sender, fit: Fit) -> list[PointRow]:
    """The points in the order they were taken, each with its residual."""
    residual = dict(zip(fit.points, fit.residuals, strict=True))
    odd = {fit.points[i] for i in fit.outliers}
    return [
        {"point": m, "number": i, "residual": residual.get((m.x, m.y)), "odd": (m.x, m.y) in odd}
        for i, m in enumerate(sender.measured)
    ]


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


def _suspects(sender: Sender, own: dict[str, Sender]) -> tuple[Suspect, ...]:
    """Senders of the library, own and generic, of the same kind, whose curve comes near."""
    points = tuple((m.x, m.y) for m in sender.measured)
    if not points:
        return ()
    curves = {
        name: kit.curve
        for name, kit in (all_sender_kits() | own).items()
        if kit.curve.x_unit == sender.curve.x_unit and kit.curve.y_unit == sender.curve.y_unit
    }
    return which_sender(points, curves)[:4]


@require_POST
def add(request: Request, job: int) -> HttpResponse:
    """Points more."""
    record, look, channel = at_channel(request, job)
    form = PointsForm(request.POST)

    if kept(
        request,
        record,
        form,
        lambda before: acts.add_points(
            before, channel.id, form.cleaned_data["points"], form.cleaned_data["how"]
        ),
    ):
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
def remove(request: Request, job: int) -> HttpResponse:
    """A point less."""
    key, number = request.POST.get("channel", ""), whole_number(request.POST.get("number", ""))

    return act(
        request,
        job,
        lambda before: acts.remove_point(before, key, -1 if number is None else number),
        "scaling:measured",
    )


@require_POST
def thousand(request: Request, job: int) -> HttpResponse:
    """The points were read in kilo-ohms: a thousand times as much each."""
    key = request.POST.get("channel", "")

    return act(request, job, lambda before: acts.thousandfold(before, key), "scaling:measured")


@require_POST
def take(request: Request, job: int) -> HttpResponse:
    """The fitted law, or a library sender's curve, as the sender's own."""
    key, law, name = (request.POST.get(word, "") for word in ("channel", "law", "sender"))
    library = all_sender_kits() | own_senders(request.workshop)

    def put(before: Job) -> Job:
        return (
            acts.take_library_curve(before, key, name, library) if name else acts.take_law(before, key, law)
        )

    return act(request, job, put, "scaling:measured", law=law if law in FIT_KINDS else "")
