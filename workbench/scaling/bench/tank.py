"""The fuel tank: what it holds, how it was dipped, what the needle does on a slope."""

from __future__ import annotations

from typing import Any

import numpy as np
from django import forms

from metrolex.acts import tank as acts
from metrolex.acts.tank import curve_of
from metrolex.errors import BadInput
from metrolex.fuel.tank import needle_on_slope
from metrolex.job import Filling, Job, MeasuringChain, Tank
from metrolex.quantities import LENGTH, VOLUME
from metrolex.senders import y_at
from metrolex.senders.pasted import points_text, read_points
from workbench.jobs.fields import NumberField, QuantityField, as_typed
from workbench.jobs.look import Look
from workbench.scaling.bench.tank_drawing import tank_drawing

__all__ = ["TankForm", "context"]

SHAPES = [("box", "box"), ("lying cylinder", "lying cylinder"), ("saddle", "saddle, two halves over a hump")]
SLOPES_PCT = (-20.0, -10.0, 0.0, 10.0, 20.0)


class TankForm(forms.Form):
    """The tank and its sender."""

    capacity = QuantityField(VOLUME, "L", label="Holds", low=0.5, high=5000)
    shape = forms.ChoiceField(label="Shape", choices=SHAPES)
    empty = NumberField(unit="ohm", label="Ohms empty", required=False, low=0, high=100000)
    full = NumberField(unit="ohm", label="Ohms full", required=False, low=0, high=100000)
    fillings = forms.CharField(
        label="Dipped",
        required=False,
        max_length=4000,
        widget=forms.Textarea(attrs={"rows": 8, "class": "figures"}),
        help_text="One a line: litres in the tank, ohms read",
    )
    reserve = QuantityField(VOLUME, "L", label="Lamp comes on with", required=False, low=0, high=1000)
    delay = NumberField(unit="s", label="after, s", required=False, low=0, high=60)
    damping = NumberField(unit="s", label="Damping, s", required=False, low=0, high=120)
    ahead = QuantityField(LENGTH, "m", label="Float ahead of the middle", required=False, low=-5, high=5)
    length = QuantityField(LENGTH, "m", label="Tank long", required=False, low=0.05, high=10)
    height = QuantityField(LENGTH, "m", label="high", required=False, low=0.02, high=5)

    @staticmethod
    def of(channel: MeasuringChain) -> dict[str, Any]:
        tank = channel.tank
        if tank is None:
            return {}
        words = {
            "empty": tank.empty_ohm,
            "full": tank.full_ohm,
            "damping": tank.damping_s,
            "delay": channel.behaviour.delay_s,
        }
        metres = {"ahead": tank.float_ahead_m or None, "length": tank.length_m, "height": tank.height_m}
        return {
            "capacity": as_typed(tank.capacity_l, "L"),
            "shape": tank.shape,
            "reserve": as_typed(tank.reserve_l, "L"),
            "fillings": points_text(tuple((f.litres, f.ohm) for f in tank.fillings)),
            **{name: as_typed(value) for name, value in words.items()},
            **{name: as_typed(value, "m") for name, value in metres.items()},
        }

    def put(self, job: Job, key: str) -> Job:
        """The job with the tank. Raises BadInput."""
        data = self.cleaned_data
        points = read_points(data["fillings"], "L", "ohm") if data["fillings"].strip() else ()
        tank = Tank(
            data["capacity"],
            data["shape"],
            data["empty"],
            data["full"],
            tuple(Filling(litres, ohm) for litres, ohm in points),
            data["reserve"] or 0.0,
            data["damping"] or 0.0,
            data["ahead"] or 0.0,
            data["length"],
            data["height"],
        )
        return acts.set_tank(job, key, tank, data["delay"] or 0.0)


def context(look: Look, channel: MeasuringChain, refused: forms.Form | None = None) -> dict[str, Any]:
    """Curve, drawing, and the needle on slopes."""
    tank = channel.tank
    found: dict[str, Any] = {
        "tank": tank,
        "form": refused if isinstance(refused, TankForm) else TankForm(initial=TankForm.of(channel)),
    }
    if tank is None:
        return found
    try:
        curve, dipped = curve_of(tank)
    except BadInput as fault:
        return found | {"missing": fault.message}
    sender = look.job.sender(channel.sender)
    ohms = np.array([x for x, _ in curve.points])
    share = 100 / tank.capacity_l if channel.unit == "pct" else 1.0
    now = bool(
        sender and sender.curve.x_unit == "ohm" and _alike(sender.curve, ohms, y_at(curve, ohms) * share)
    )
    found |= {
        "curve": curve,
        "dipped": dipped,
        "drawing": tank_drawing(tank, curve),
        "taken": now,
        "sender": sender,
    }
    if tank.length_m and tank.height_m:
        half = tank.capacity_l / 2
        found["slopes"] = [
            (
                slope,
                needle_on_slope(
                    half, tank.capacity_l, slope, tank.float_ahead_m, tank.length_m, tank.height_m
                ).shown_l,
            )
            for slope in SLOPES_PCT
        ]
        found["half"] = half
    return found


def _alike(curve: Any, ohms: Any, wanted: Any) -> bool:
    have = y_at(curve, ohms)
    return bool(np.all(np.isfinite(have)) and np.allclose(have, wanted, atol=0.02 * float(np.ptp(wanted))))
