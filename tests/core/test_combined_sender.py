"""Pressure and temperature in one body: one mouth, one part, wires of its own for each."""

from __future__ import annotations

import pytest

from metrolex.acts.channels import add_channel
from metrolex.acts.ports import choose_place, choose_sender, offered_senders
from metrolex.brief.shopping import shopping_list
from metrolex.check import find_all
from metrolex.errors import BadInput
from metrolex.harness.plan import plan_wires
from metrolex.job import Job, State
from metrolex.job.references import check_references, without
from metrolex.ports.compare import candidates_for
from metrolex.ports.facts import senders_in
from metrolex.twin import build, solve
from tests.jobs import a_vehicle

PRESSURE = "pressure of a combined sender, 0.5 to 4.5 V, 10 bar"
TEMPERATURE = "temperature of the combined sender"


def a_job():
    job = add_channel(add_channel(Job("j", a_vehicle()), "oil_pressure"), "oil_temperature")
    return job, job.chains[0].id, job.chains[1].id


@pytest.fixture
def combined():
    job, pressure, temperature = a_job()
    job = choose_sender(job, pressure, PRESSURE)
    pin = next(c.port.id for c in candidates_for(job, job.chain(pressure)) if c.port.kind == "sandwich plate")
    job = choose_place(job, pressure, pin)
    return choose_sender(job, temperature, TEMPERATURE), pressure, temperature


def codes(job):
    return {f.code for f in find_all(build(job), solve(build(job), State()))}


def test_it_is_offered_only_where_its_body_is():
    job, pressure, temperature = a_job()
    assert TEMPERATURE not in offered_senders(job, job.chain(temperature), {})
    with pytest.raises(BadInput):
        choose_sender(job, temperature, TEMPERATURE)
    job = choose_sender(job, pressure, PRESSURE)
    assert TEMPERATURE in offered_senders(job, job.chain(temperature), {})


def test_one_mouth_and_one_part(combined):
    job, pressure, temperature = combined
    check_references(job)
    assert job.chain(temperature).port == job.chain(pressure).port
    port = job.port(job.chain(pressure).port)
    assert [c.id for c in senders_in(job, port)] == [pressure]
    assert "one_mouth_two_senders" not in codes(job)
    bought = [line.name for line in shopping_list(job)]
    assert PRESSURE in bought
    assert TEMPERATURE not in bought
    assert len([name for name in bought if "andwich plate" in name]) <= 1


def test_each_has_wires_of_its_own(combined):
    job, *_ = combined
    laid = plan_wires(job).job.conductors
    ends = {(e.id, e.terminal) for w in laid for e in (w.a, w.b) if e.kind == "sender"}
    assert len(ends) == 5  # signal, return and supply; signal and return


def test_it_goes_along_to_another_place_and_says_when_its_body_is_gone(combined):
    job, pressure, temperature = combined
    other = next(
        c.port.id for c in candidates_for(job, job.chain(pressure)) if c.port.id != job.chain(pressure).port
    )
    moved = choose_place(job, pressure, other)
    assert moved.chain(temperature).port == moved.chain(pressure).port
    assert "body_gone" not in codes(moved)
    assert "body_gone" in codes(choose_sender(job, pressure, "pressure, 0.5 to 4.5 V, 10 bar"))
    gone = without(job, "senders", job.chain(pressure).sender)
    check_references(gone)
    assert gone.sender(gone.chain(temperature).sender).in_body is None
