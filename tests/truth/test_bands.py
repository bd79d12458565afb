"""Bands of the tests of every demo job against vehicles drawn at random: false alarms, and how much wider than need be.

Each draw is a whole job with every toleranced field anywhere in its tolerance, solved from the beginning, read with a meter
that errs within its own limits. Nothing is shared with the bands but the solver (which is held against ngspice elsewhere).
"""

from __future__ import annotations

import random
from dataclasses import replace

import numpy as np
import pytest

from metrolex.job import State
from metrolex.job.within import field_names, replaced_within, value_within
from metrolex.jobfile import EXAMPLES
from metrolex.twin import build, expect, readings, solve
from metrolex.twin.build import sender_output
from metrolex.twin.expectations import METER_DIGIT_V, METER_RATIO, STATES
from tests.jobs import shipped, with_facts


def about(rng, value, share):
    return value * (1 + rng.uniform(-share, share))


def contact(rng, value):
    return value * rng.uniform(0.001, 1.999)


def drawn(job, rng):
    """The job as it may really stand in the bay, and what each sender gives."""
    s = {name: value_within(job.vehicle.electrics, name) for name in field_names(job.vehicle.electrics)}
    s |= {"rest_v": job.vehicle.electrics.rest_v, "charging_v": job.vehicle.electrics.charging_v}
    straps = s["strap_tolerance_pct"] / 100 * 0.999
    fresh = {name: s[name] + rng.uniform(-1, 1) * s["rest_tolerance_v"] for name in ("rest_v", "charging_v")}
    fresh |= {
        name: about(rng, s[name], s["inner_tolerance_pct"] / 100)
        for name in ("battery_ohm", "charge_ohm", "alternator_ohm")
    }
    fresh["starter_a"] = s["starter_a"] / (1 + rng.uniform(-1, 1) * s["starter_tolerance_pct"] / 100)
    fresh |= {
        name: s[name] / (1 + rng.uniform(-1, 1) * s["load_tolerance_pct"] / 100)
        for name in ("run_load_a", "park_load_a", "head_load_a")
    }
    fresh["contact_ohm"] = contact(rng, s["contact_ohm"])
    fresh |= {
        name: about(rng, s[name], straps)
        for name in ("negative_to_engine_ohm", "negative_to_body_ohm", "engine_to_body_ohm")
    }
    vehicle = replaced_within(job.vehicle, fresh)
    displays = tuple(drawn_display(d, rng) for d in job.displays)
    return replace(
        job,
        vehicle=vehicle,
        displays=displays,
        taps=tuple(replace(t, contact_ohm=contact(rng, t.contact_ohm)) for t in job.taps),
        grounds=tuple(
            replace(g, contact_ohm=contact(rng, build_ohm(job, g)), drop_v=None, drop_load_a=None)
            for g in job.grounds
        ),
        ports=tuple(with_facts(p, thread_ohm=contact(rng, p.ground.thread_ohm)) for p in job.ports),
        conductors=tuple(
            replace(
                w,
                joint_ohm=contact(rng, w.joint_ohm),
                temperature_degc=w.temperature_degc + rng.uniform(-1, 1) * s["wire_tolerance_k"],
            )
            for w in job.conductors
        ),
    )


def drawn_display(display, rng):
    """One rail feeds every reference of a display and its sensor supply; the pull-ups are parts of their own."""
    rail = rng.uniform(-1, 1)
    return replace(
        display,
        inputs=tuple(
            with_facts(
                i,
                pull_up_ohm=None
                if i.circuit.pull_up_ohm is None
                else about(rng, i.circuit.pull_up_ohm, i.circuit.pull_up_tolerance_pct / 100),
                reference_v=None
                if i.circuit.reference_v is None
                else i.circuit.reference_v * (1 + rail * i.circuit.reference_tolerance_pct / 100),
            )
            for i in display.inputs
        ),
    )


def build_ohm(job, point):
    from metrolex.twin.build import ground_ohm

    return ground_ohm(job, point)


def outputs_of(job, true, rng):
    found = {}
    for channel in job.chains:
        sender = job.sender(channel.sender)
        if sender is not None and channel.id in true and sender.id not in found:
            given = sender_output(channel, sender, true[channel.id], rng.uniform(-1, 1) * sender.tolerance.y)
            found[sender.id] = about(rng, given, sender.tolerance.x_pct / 100)
    return found


@pytest.mark.parametrize("example", EXAMPLES)
def test_false_alarms_and_width(example, truth, sample):
    rng = random.Random(11)
    job = shipped(example)
    network, count = build(job), sample(60, 1500)
    worst, widest, points, seen_all, out_all = 0.0, 0.0, 0, 0, 0
    for state in (
        STATES
        if count > 100
        else (State("off"), State("run", "head"), State("crank"), State("run", "off", "running"))
    ):
        nominal = solve(network, state)
        expected = [e for e in expect(network, state) if e.value is not None and e.point.kind != "ohms"]
        seen = {e.point.id: [] for e in expected}
        for _ in range(count):
            actual = drawn(job, rng)
            solved = solve(
                build.__wrapped__(actual),
                state,
                true=nominal.true,
                outputs=outputs_of(job, nominal.true, rng),
            )
            faces = readings(solved, believed=job)
            for e in expected:
                if e.point.kind == "shown":
                    seen[e.point.id].append(faces[e.point.channel].value)
                else:
                    volts = solved.across(e.point.red, e.point.black)
                    seen[e.point.id].append(
                        volts + rng.uniform(-1, 1) * (METER_RATIO * abs(volts) + METER_DIGIT_V)
                    )
        for e in expected:
            values = np.array([v for v in seen[e.point.id] if v is not None], dtype=float)
            out = float(np.mean((values < e.low - 1e-9) | (values > e.high + 1e-9))) if len(values) else 0.0
            points, seen_all, out_all = points + 1, seen_all + len(values), out_all + out * len(values)
            worst = max(worst, out)
            assert out <= (0.01 if count > 100 else 0.05), (
                state.words(),
                e.point.name,
                e.low,
                e.high,
                values.min(),
                values.max(),
            )
            if e.point.kind == "volts" and count > 100:
                low, high = np.quantile(values, [0.0005, 0.9995])
                widest = max(widest, (e.high - e.low) / max(high - low, 1e-9))
    truth(
        f"bands of the tests, {example}",
        "vehicles drawn at random",
        f"{points} points, {count} draws each",
        f"worst point {100 * worst:.2f} % false alarms, all {100 * out_all / max(seen_all, 1):.3f} %; widest band {widest:.2f} times the 99.9 % interval",
    )
    assert widest <= 1.6
