"""Mixture: what the gauge calls it in each fuel, the controller's output trimmed at the dash."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django import forms

from metrolex.errors import BadInput
from metrolex.fuel.mixture import PETROL_RATIO, fuel_names, mixture_of, ratio_of
from metrolex.job import Channel, Job
from metrolex.scaling.trim import trim_rows
from metrolex.senders.pasted import read_points
from workbench.jobs.services import Look

__all__ = ["TrimForm", "context"]

LAMBDAS = (0.80, 0.85, 0.90, 1.00, 1.10)


class TrimForm(forms.Form):
    """Readings side by side."""

    pairs = forms.CharField(label="Side by side", max_length=600, widget=forms.Textarea(attrs={"rows": 4, "class": "figures"}),
                            help_text="One a line: what the controller's own display shows, what the dash shows")  # fmt: skip

    def put(self, job: Job, channel: Channel) -> Job:
        """The job with the table trimmed. Raises BadInput."""
        if len(channel.scaling.table) < 2:
            raise BadInput(
                "pairs", None, "a table to trim", "Nothing is entered in the dash yet: take its rows first."
            )
        found = trim_rows(
            channel.scaling.table, read_points(self.cleaned_data["pairs"], channel.unit, channel.unit)
        )
        rows = tuple((float(f"{x:.5g}"), y) for x, y in found.rows)
        return job.with_channel(replace(channel, scaling=replace(channel.scaling, table=rows)))


def context(look: Look, channel: Channel, refused: forms.Form | None = None) -> dict[str, Any]:
    """What a gauge of petrol's ratio shows on each fuel, and what is really burnt."""
    fuel = look.job.vehicle.fuel
    fuels = [name for name in fuel_names() if name != "propane"]
    rows = [
        {"lambda": value, "shown": value * PETROL_RATIO, "true": [mixture_of(lambda_=value, stoich_ratio=ratio_of(name)).true_ratio for name in fuels]}
        for value in LAMBDAS
    ]  # fmt: skip
    return {
        "fuels": [{"name": name, "ratio": ratio_of(name), "here": name.lower() == fuel.lower()} for name in fuels], "ratios": rows,
        "form": refused if isinstance(refused, TrimForm) else TrimForm(), "petrol": PETROL_RATIO,
    }  # fmt: skip
