"""Boost: absolute pressure, the barometer of the day, vacuum and boost on one scale."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.acts import counting as acts
from metrolex.air.atmosphere import pressure_kpa
from metrolex.air.boost import Boost, barometer_findings, boost_of, vacuum_words
from metrolex.errors import BadInput
from metrolex.job import Job, MeasuringChain
from metrolex.quantities import PRESSURE
from workbench.jobs.fields import NumberField, QuantityField, as_typed
from workbench.jobs.look import Look

__all__ = ["AirForm", "BoostForm", "context", "worked_out"]


class AirForm(forms.Form):
    """Where the vehicle is worked on."""

    altitude = NumberField(unit="m", label="Workshop stands at, m", low=-500, high=6000)

    def put(self, job: Job, key: str) -> Job:
        """The job with what was typed; the height belongs to the vehicle, not to the channel."""
        return acts.set_altitude(job, self.cleaned_data["altitude"])


class BoostForm(forms.Form):
    """An absolute reading turned into boost."""

    absolute = QuantityField(PRESSURE, "kPa", label="Absolute", low=0, high=2e6)
    barometer = QuantityField(
        PRESSURE, "kPa", label="Key on, engine stopped", required=False, low=50e3, high=110e3
    )


def context(look: Look, channel: MeasuringChain, refused: forms.Form | None = None) -> dict[str, Any]:
    """The air here, and one scale from vacuum to boost."""
    altitude = look.job.vehicle.identity.altitude_m
    barometer = pressure_kpa(altitude) if altitude is not None else 101.325
    scale = [
        (kpa, vacuum_words(kpa, "bar"), vacuum_words(kpa, "psi"), kpa + barometer)
        for kpa in (-80.0, -60.0, -30.0, 0.0, 50.0, 100.0, 150.0, 200.0)
    ]
    return {
        "barometer": barometer,
        "altitude": altitude,
        "scale": scale,
        "boost_form": BoostForm(),
        "form": refused
        if isinstance(refused, AirForm)
        else AirForm(initial={"altitude": as_typed(altitude)}),
    }


def worked_out(job: Job, data: dict[str, Any]) -> dict[str, Any]:
    """Boost of one reading, with what the barometer says of the sensor. Raises BadInput."""
    barometer = data["barometer"] / 1000 if data["barometer"] is not None else None
    if barometer is None and job.vehicle.identity.altitude_m is None:
        raise BadInput(
            "barometer",
            None,
            "the key-on reading, or the workshop's altitude",
            "Enter the key-on reading, or the altitude.",
        )
    found: Boost = boost_of(
        data["absolute"] / 1000, altitude_m=job.vehicle.identity.altitude_m, barometer_kpa=barometer
    )
    doubts = (
        barometer_findings(found.barometer_kpa, job.vehicle.identity.altitude_m)
        if barometer is not None
        else []
    )
    return {"boost": found, "words": vacuum_words(found.gauge_kpa, "psi"), "doubts": doubts}
