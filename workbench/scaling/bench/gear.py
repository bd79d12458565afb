"""Gear position: taught volts with their margins, and the gears by engine speed over road speed."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.acts import counting as acts
from metrolex.errors import BadInput
from metrolex.job import Job, MeasuringChain, TaughtGear
from metrolex.scaling.counting import roll_out
from metrolex.speed.gear import expected_ratios, gates_of
from metrolex.speed.tyres import circumference_m, read_tyre
from workbench.jobs.look import Look

__all__ = ["GearForm", "context"]


class GearForm(forms.Form):
    """Taught gears, one a line."""

    taught = forms.CharField(
        label="Taught",
        max_length=600,
        widget=forms.Textarea(attrs={"rows": 7, "class": "figures"}),
        help_text="One a line: gear, then volts read with the lever there",
    )

    @staticmethod
    def of(channel: MeasuringChain) -> dict[str, Any]:
        return {"taught": "\n".join(f"{gear.gear}  {gear.value:g}" for gear in channel.gears)}

    def put(self, job: Job, key: str) -> Job:
        """The job with the taught gears. Raises BadInput naming the line."""
        gears = []
        for number, line in enumerate(self.cleaned_data["taught"].splitlines(), 1):
            words = line.replace(";", " ").split()
            if not words:
                continue
            try:
                gears.append(TaughtGear(words[0], float(words[1].replace(",", "."))))
            except (IndexError, ValueError):
                raise BadInput(
                    "taught",
                    line[:40],
                    "a gear and its volts",
                    f"Line {number}: write the gear and its volts, like '2 1.82'.",
                ) from None
        return acts.set_gears(job, key, tuple(gears))


def context(look: Look, channel: MeasuringChain, refused: forms.Form | None = None) -> dict[str, Any]:
    """Gates by volts, and by ratio where gearing and tyre are known."""
    found: dict[str, Any] = {
        "form": refused if isinstance(refused, GearForm) else GearForm(initial=GearForm.of(channel))
    }
    if len(channel.gears) >= 2:
        gates, doubts = gates_of(tuple((gear.gear, gear.value) for gear in channel.gears))
        found |= {"gates": gates, "doubts": doubts}
    vehicle = look.job.vehicle
    around = next(
        (known for c in look.job.chains if c.road is not None and (known := roll_out(look.job, c.road))),
        None,
    )
    if around is None and vehicle.driveline.tyre:
        around = circumference_m(read_tyre(vehicle.driveline.tyre), vehicle.driveline.tyre_wear_mm)
    if vehicle.driveline.gear_ratios and vehicle.driveline.axle_ratio and around:
        ratios = expected_ratios(vehicle.driveline.gear_ratios, vehicle.driveline.axle_ratio, around)
        found["ratio_gates"], found["ratio_doubts"] = (
            gates_of(ratios, by_ratio=True) if len(ratios) > 1 else ((), ())
        )
    return found
