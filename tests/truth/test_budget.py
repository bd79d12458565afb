"""The 95 % figure of the error budget against chains drawn at random, on every channel of the demo jobs that has one."""

from __future__ import annotations

import numpy as np
import pytest

from metrolex.inputs.loop import volts_from_ohm
from metrolex.job import MeasuringChain, Scaling, State
from metrolex.jobfile import EXAMPLES, example_job_data, job_from_data
from metrolex.quantities import in_unit
from metrolex.senders import x_at, y_range
from metrolex.senders.thermocouple import degc_array, emf_array, emf_mv
from metrolex.tables import load_table
from metrolex.twin import build, solve
from metrolex.twin.error_budget import channel_budget
from tests.jobs import shipped


def with_couple():
    """The single-seater with a type K probe straight into a thermocouple gauge, not wired yet."""
    data = example_job_data("single_seater")
    gauge = dict(next(d for d in load_table("displays")["displays"] if "thermocouple" in d["name"]))
    probe = dict(next(s for s in load_table("senders")["senders"] if "type K" in s["name"]))
    data["displays"].append(gauge | {"id": "couple gauge"})
    data["senders"].append(
        {key: value for key, value in probe.items() if key != "source"} | {"id": "thermocouple"}
    )
    chain = MeasuringChain(
        "thermocouple",
        "Couple",
        "exhaust_temperature",
        "degC",
        "couple gauge",
        "A",
        "thermocouple",
        scaling=Scaling(low=0.0, high=1000.0),
    )
    return job_from_data(data).with_chain(chain)


JOBS = {example: shipped(example) for example in EXAMPLES} | {"thermocouple": with_couple()}
CHANNELS = [
    (name, channel.id)
    for name, job in JOBS.items()
    for channel in job.chains
    if (name != "thermocouple" or channel.id == "thermocouple")
    and channel_budget(build(job), State("run"), channel) is not None
]


def test_there_are_channels():
    assert len(CHANNELS) >= 8
    assert ("thermocouple", "thermocouple") in CHANNELS


def face(channel, sender, stage, loop, true, rng, port):
    """What faces of random parts show at true values: written out here, sharing only the sender's law and the divider."""
    n = len(true)
    either = lambda: rng.uniform(-1, 1, n)  # noqa: E731
    to_inner = lambda v: np.array([in_unit(float(one), channel.unit, sender.curve.y_unit) for one in v])  # noqa: E731
    per_unit = in_unit(1.0, channel.unit, sender.curve.y_unit) - in_unit(
        0.0, channel.unit, sender.curve.y_unit
    )
    at_place = true + (port.bias if port else 0.0)
    y = np.clip(
        to_inner(at_place) + sender.tolerance.y * either() * np.sign(per_unit), *y_range(sender.curve)
    )
    reference = 1 + stage.circuit.reference_tolerance_pct / 100 * either()
    offset = stage.converter.adc_offset_lsb * either()
    if sender.body.dissipation_mw_per_k and stage.kind == "pull_up":
        ohm = x_at(sender.curve, y)
        milliwatt = 1000 * (stage.circuit.reference_v / (ohm + stage.circuit.pull_up_ohm)) ** 2 * ohm
        y = np.clip(y + milliwatt / sender.body.dissipation_mw_per_k, *y_range(sender.curve))
    x = x_at(sender.curve, y) * (1 + sender.tolerance.x_pct / 100 * either())
    if stage.kind == "pull_up":
        volts = volts_from_ohm(
            x,
            stage.circuit.pull_up_ohm * (1 + stage.circuit.pull_up_tolerance_pct / 100 * either()),
            stage.circuit.reference_v * reference,
            loop.wire_ohm,
            loop.ground_offset_v,
        )
    elif stage.kind == "thermocouple":
        seen = (
            x
            + emf_mv(stage.thermocouple_type, 25.0)
            - emf_array(stage.thermocouple_type, 25.0 - stage.cold_junction_k * either())
        )
        degc = degc_array(stage.thermocouple_type, seen)
        return counted(
            np.array([in_unit(float(one), sender.curve.y_unit, channel.unit) for one in degc]), channel
        )
    elif sender.output.ratiometric:  # fed by the display and counted against what feeds it
        volts = (x * reference + loop.ground_offset_v) / reference
    else:
        volts = (x + loop.ground_offset_v) / reference
    if stage.converter.adc_bits:
        step = stage.circuit.reference_v / 2**stage.converter.adc_bits
        volts = np.floor(volts / step + offset) * step
    rows = np.array(channel.scaling.table)
    seen = volts
    if channel.scaling.x_unit == "ohm":
        seen = stage.circuit.pull_up_ohm * volts / np.maximum(stage.circuit.reference_v - volts, 1e-9)
    return counted(np.interp(seen, rows[:, 0], rows[:, 1]), channel)


def counted(value, channel):
    digits = 10.0**channel.scaling.decimals
    return np.floor(value * digits + 0.5) / digits


@pytest.mark.parametrize(("example", "key"), CHANNELS)
def test_95_percent_is_95_percent(example, key, truth, sample):
    job = JOBS[example]
    solved, channel = solve(build(job), State("run")), job.chain(key)
    whole, loop = channel_budget(solved.network, solved.state, channel)
    rng, draws = np.random.default_rng(12), sample(400, 5000)
    inside, count = 0, 0
    span = float(whole.y[-1] - whole.y[0])
    for at in np.linspace(whole.y[0] + 0.1 * span, whole.y[-1] - 0.1 * span, 9):
        point, _ = channel_budget(solved.network, solved.state, channel, float(at))
        near = at + 0.5 * 10.0**-channel.scaling.decimals * rng.uniform(
            -1, 1, draws
        )  # where in its digit a reading falls is chance
        shown = face(
            channel,
            job.heard(channel),
            job.input_of(channel),
            loop,
            near,
            rng,
            job.port(channel.port),
        )
        off = shown - near - float(point.shift[0])
        inside += int((np.abs(off) <= float(point.half_95[0]) + 1e-12).sum())
        count += draws
    share = inside / count
    truth(
        f"95 % of the error budget, {example}, {channel.name.lower()}",
        "chains drawn at random, nine readings",
        f"{count} draws",
        f"covers {100 * share:.1f} %",
    )
    assert 0.93 <= share <= 0.97, share
