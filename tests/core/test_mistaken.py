"""What a table that does not follow its sender was made for."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from metrolex.acts import scaling as acts
from metrolex.acts.channels import add_channel
from metrolex.acts.ports import choose_sender
from metrolex.check import find_all
from metrolex.errors import BadInput
from metrolex.job import Job, State
from metrolex.kit import facts_for
from metrolex.scaling.error import ErrorStrip
from metrolex.scaling.mistaken import mistake_in
from metrolex.senders import LinearCurve
from metrolex.twin import build, solve
from tests.jobs import a_vehicle

#: Factor and offset from true to shown, in a range of the channel's unit: definitions of the units (NIST SP 811), 101.325 kPa (ISO 2533).
MISTAKES = [
    ("bar", 0, 10, 1, 1.01325, "absolute for gauge"),
    ("bar", -1, 3, 1, -1.01325, "gauge for absolute"),
    ("psi", 0, 100, 1, 14.6959, "absolute for gauge"),
    ("bar", 0, 10, 14.5038, 0, "in psi"),
    ("bar", 0, 10, 100, 0, "in kPa"),
    ("psi", 0, 150, 0.0689476, 0, "in bar"),
    ("degC", 40, 150, 1.8, 32, "in degF"),
    ("degF", 100, 300, 5 / 9, -160 / 9, "in degC"),
    ("degC", 40, 150, -1, 190, "reversed"),
    ("bar", 0, 10, -1, 10, "reversed"),
    ("bar", 0, 10, 2, 0, "doubled"),
    ("L", 0, 60, 0.5, 0, "halved"),
]


def strip(low, high, factor, offset):
    true = np.linspace(low, high, 241)
    return ErrorStrip(true, factor * true + offset - true)


@pytest.mark.parametrize(("unit", "low", "high", "factor", "offset", "kind"), MISTAKES)
def test_each_is_named(unit, low, high, factor, offset, kind):
    """With the table a little off, as tables are."""
    found = strip(low, high, factor, offset)
    wavy = replace(found, error=found.error + 0.01 * factor * (high - low) * np.sin(found.true))
    for one in (found, wavy):
        mistake = mistake_in(one, unit, 0.03 * (high - low), 0.001 * (high - low))
        assert mistake is not None
        assert mistake.kind == kind


def test_a_table_that_follows_is_no_mistake():
    assert mistake_in(strip(0, 10, 1, 0.2), "bar", 0.3) is None


@given(st.floats(0.3, 3), st.floats(-0.4, 0.4))
@settings(max_examples=300)
def test_what_no_mistake_explains_is_named_none(factor, offset):
    """Only within the allowance of the line of a mistake is one named."""
    lines = {(1, 0.101325), (1, -0.101325), (-1, 1), (2, 0), (0.5, 0)}
    near = [
        (f, o) for f, o in lines if max(abs(o - offset), abs(f + o - factor - offset)) <= 0.03 * abs(f) + 1e-9
    ]
    found = mistake_in(strip(0, 10, factor, 10 * offset), "bar", 0.3, 0.01)
    assert (found is not None) == (len(near) == 1 and max(abs(factor - 1 + offset), abs(offset)) > 0.03)


def boost_job(points):
    job = add_channel(Job("Boost", a_vehicle(altitude_m=0.0)), "boost")
    job = choose_sender(job, "boost", facts_for("boost", job.vehicle).senders[0])
    return acts.change_sender(
        job, "boost", lambda s: replace(s, curve=LinearCurve(points, "volt", "bar"), counts_from="")
    )


def codes(job):
    return {f.code for f in find_all(build(job), solve(build(job), State()))}


def test_the_bench_asks_what_a_manifold_sensor_counts_from():
    """A 3 bar absolute sensor, 0.5 V at 0.2 bar to 4.5 V at 3 bar: with the engine stopped at sea level it gives the volts of 1.013 bar and shows 0."""
    job = boost_job(((0.5, 0.2), (4.5, 3.0)))
    assert "absolute_or_gauge" in codes(job)
    taken = acts.count_from(job, "boost", "vacuum")
    sender = taken.sender(taken.chain("boost").sender)
    assert sender.counts_from == "vacuum"
    assert [y for _, y in sender.curve.points] == pytest.approx([0.2 - 1.01325, 3.0 - 1.01325], abs=1e-5)
    assert "absolute_or_gauge" not in codes(taken)
    with pytest.raises(BadInput, match="taken off"):
        acts.count_from(taken, "boost", "vacuum")
    left = acts.count_from(job, "boost", "air")
    assert left.sender(left.chain("boost").sender).curve == job.sender(job.chain("boost").sender).curve
    assert "absolute_or_gauge" not in codes(left)
    entered = acts.change_sender(
        taken, "boost", lambda s: replace(s, curve=LinearCurve(((0.5, 0.2), (4.5, 3.0)), "volt", "bar"))
    )
    assert "absolute_or_gauge" in codes(entered)


def test_one_that_knows_a_vacuum_is_not_asked_about():
    assert "absolute_or_gauge" not in codes(boost_job(((0.5, -1.0), (4.5, 3.0))))
    with pytest.raises(BadInput):
        acts.count_from(boost_job(((0.5, 0.2), (4.5, 3.0))), "boost", "sideways")


def test_it_is_said_where_the_table_is_found_off():
    job = boost_job(((0.5, -1.0), (4.5, 3.0)))
    chain = job.chain("boost")
    table = tuple((v, v - 0.5 - 1 + 1.013) for v in (0.5, 2.0, 3.0, 4.5))
    wrong = job.with_chain(
        replace(
            chain, scaling=replace(chain.scaling, table=table, assumed=False, x_unit="volt", low=-1, high=4)
        )
    )
    found = [f for f in find_all(build(wrong), solve(build(wrong), State())) if f.code == "table_off_curve"]
    assert found
    assert "counts from a vacuum" in found[0].reason
