"""What is really there at each operating point, what the faces show of it, which alarm lights, and the cold start by the minute."""

from __future__ import annotations

from typing import Any, TypedDict

from django import forms
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts.points import set_points
from metrolex.job import POINT_HEADS, RUNNING_POINTS, Channel, EnginePoint, Job, MeasuringChain, State
from metrolex.quantities import unit_words
from metrolex.scaling.reading import Shown
from metrolex.twin.faces import faces_at_points
from metrolex.twin.warm_up import MINUTES, WarmUp, warm_up
from workbench.jobs.fields import NumberField, as_typed
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.request import Request

HEADS = POINT_HEADS


class PointsForm(forms.Form):
    """One field for each channel and operating point; empty where nobody knows better than what is usual."""

    def __init__(self, job: Job, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "pt-%s"} | kwargs)
        self.places: dict[tuple[str, EnginePoint], str] = {}
        for i, channel in enumerate(_with_a_truth(job)):
            for j, (point, head) in enumerate(HEADS.items()):
                name = self.places[channel.id, point] = f"v{i}-{j}"
                usual = channel.true(point)
                field = NumberField(label=f"{channel.name}, {head}", required=False, unit=channel.unit)
                field.widget.attrs |= {
                    "aria-label": field.label,
                    "placeholder": as_typed(usual) if usual is not None else "",
                    "class": "figures",
                }
                self.fields[name] = field
                said = channel.said(point)
                self.initial[name] = as_typed(said) if said is not None else ""

    def said(self, channel: str) -> dict[EnginePoint, float | None]:
        """What was typed for one channel."""
        return {
            point: self.cleaned_data[name] for (key, point), name in self.places.items() if key == channel
        }


class Cell(TypedDict):
    """One channel at one point: its field, what the face shows, whether its alarm would light."""

    field: forms.BoundField
    shown: Shown
    alarm: bool


class PointRow(TypedDict):
    """One channel through all points."""

    chain: MeasuringChain
    unit: str
    cells: list[Cell]


class PointsPage(TypedDict):
    """The whole page."""

    tab: str
    form: PointsForm
    heads: list[str]
    rows: list[PointRow]
    minutes: tuple[float, ...]
    warming: list[tuple[MeasuringChain, WarmUp]]


def _with_a_truth(job: Job) -> tuple[Channel, ...]:
    """Channels that measure something outside themselves: the display's own supply is what the twin says."""
    own = {c.channel for c in job.chains if (stage := job.input_of(c)) and stage.kind == "supply"}
    return tuple(channel for channel in job.channels if channel.id not in own)


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """All channels at all points."""
    return _page(request, record, look)


def _page(request: Request, record: JobRecord, look: Look, refused: PointsForm | None = None) -> HttpResponse:
    job, form = look.job, refused or PointsForm(look.job)
    faces = faces_at_points(look.network, State("run", look.state.lamps, thrown=look.state.thrown))
    chains = [chain for chain in job.measured if (chain.channel, "stopped") in form.places]
    context: PointsPage = {
        "tab": "points",
        "form": form,
        "heads": list(HEADS.values()),
        "rows": [
            {
                "chain": chain,
                "unit": unit_words(chain.unit),
                "cells": [
                    {
                        "field": form[form.places[chain.channel, point]],
                        "shown": faces[point][chain.id],
                        "alarm": _lit(chain, faces[point][chain.id], point),
                    }
                    for point in HEADS
                ],
            }
            for chain in chains
        ],
        "minutes": MINUTES,
        "warming": [(chain, found) for found in warm_up(look.network) if (chain := job.chain(found.channel))],
    }
    return show_page(
        request, "scaling/points.html", record, look, "scaling", 422 if refused else 200, **context
    )


def _lit(chain: MeasuringChain, shown: Shown, point: EnginePoint) -> bool:
    """Whether the alarm's levels are passed with the engine running; delay and hysteresis are tried on Warnings."""
    if shown.value is None or point not in RUNNING_POINTS:
        return False
    low, high = chain.warn_low, chain.warn_high
    return (low is not None and shown.value < low) or (high is not None and shown.value > high)


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """What is really there, for all channels at once."""
    record = record_for(request, job)
    look = look_for(request, record)
    form = PointsForm(look.job, request.POST)

    def told(before: Job) -> Job:
        for channel in _with_a_truth(before):
            before = set_points(before, channel.id, form.said(channel.id))
        return before

    if kept(request, record, form, told):
        return redirect(page_at("scaling:points", job))
    return _page(request, record, look, form)
