"""Mixture: what the gauge calls it in each fuel, the controller's output trimmed at the dash."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.acts.edit import channel_called
from metrolex.acts.scaling import trim_table
from metrolex.fuel.mixture import PETROL_RATIO, fuel_names, mixture_of, ratio_of
from metrolex.job import Job, MeasuringChain
from metrolex.senders.pasted import read_points
from workbench.jobs.look import Look

__all__ = ["TrimForm", "context"]

LAMBDAS = (0.80, 0.85, 0.90, 1.00, 1.10)


class TrimForm(forms.Form):
    """Readings side by side."""

    pairs = forms.CharField(
        label="Side by side",
        max_length=600,
        widget=forms.Textarea(attrs={"rows": 4, "class": "figures"}),
        help_text="One a line: what the controller's own display shows, what the dash shows",
    )

    def put(self, job: Job, key: str) -> Job:
        """The job with the table trimmed. Raises BadInput."""
        unit = channel_called(job, key).unit
        return trim_table(job, key, read_points(self.cleaned_data["pairs"], unit, unit))


def context(look: Look, channel: MeasuringChain, refused: forms.Form | None = None) -> dict[str, Any]:
    """What a gauge of petrol's ratio shows on each fuel, and what is really burnt."""
    fuel = look.job.vehicle.fuel.burns
    fuels = [name for name in fuel_names() if name != "propane"]
    rows = [
        {
            "lambda": value,
            "shown": value * PETROL_RATIO,
            "true": [mixture_of(lambda_=value, stoich_ratio=ratio_of(name)).true_ratio for name in fuels],
        }
        for value in LAMBDAS
    ]
    return {
        "fuels": [
            {"name": name, "ratio": ratio_of(name), "here": name.lower() == fuel.lower()} for name in fuels
        ],
        "ratios": rows,
        "form": refused if isinstance(refused, TrimForm) else TrimForm(),
        "petrol": PETROL_RATIO,
    }
