"""Benches for channels that are more than a curve: road speed, engine speed, gear, tank, mixture, boost."""

from __future__ import annotations

from typing import Any

from django.forms import Form

from metrolex.job import Input, MeasuringChain
from workbench.jobs.look import Look
from workbench.scaling.bench import boost, engine, gear, mixture, road, tank

__all__ = ["bench_context", "bench_of"]

_BENCHES = {"road": road, "engine": engine, "gear": gear, "tank": tank, "mixture": mixture, "boost": boost}
_MEASURANDS = {
    "road_speed": "road",
    "engine_speed": "engine",
    "gear": "gear",
    "fuel_level": "tank",
    "lambda": "mixture",
    "boost": "boost",
}


def bench_of(channel: MeasuringChain, stage: Input | None) -> str:
    """The bench of a channel by what it measures; '' for a plain curve."""
    bench = _MEASURANDS.get(channel.measurand, "")
    return "" if bench == "road" and stage is not None and stage.kind != "pulse" else bench


def bench_context(look: Look, channel: MeasuringChain, refused: Form | None = None) -> dict[str, Any]:
    """What a bench shows; ``refused`` is its form as it was typed."""
    bench = bench_of(channel, look.job.input_of(channel))
    return _BENCHES[bench].context(look, channel, refused) if bench else {}
