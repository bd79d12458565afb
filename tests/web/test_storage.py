"""Rows and the core's job: without loss, part by part, all or nothing."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.channels import add_channel, remove_channel
from metrolex.acts.edit import free_id
from metrolex.acts.ports import choose_place, choose_sender
from metrolex.acts.waivers import stop_waiving, waive_finding
from metrolex.errors import BadInput
from metrolex.harness.plan import plan_wires
from metrolex.job import Segment, State, Waiver
from metrolex.kit import measurand_facts
from metrolex.ports.places import places_for
from metrolex.twin import build, readings, solve
from tests.jobs import shown_by, small_job, van
from workbench.jobs.door import change, import_job
from workbench.jobs.models import JobRecord, Part
from workbench.jobs.storage import job_of


@pytest.mark.parametrize("job", [van(), small_job()], ids=["van", "small"])
def test_in_and_out_again_is_the_same(job, bay):
    assert job_of(import_job(bay.member, job)) == job


def test_a_change_touches_its_part_only(bay):
    before = dict(Part.objects.values_list("key", "version"))
    change(
        bay.record, lambda job: replace(job, grounds=(replace(job.grounds[0], surface="sanded"),)), by=None
    )
    after = dict(Part.objects.values_list("key", "version"))
    assert {key for key in after if after[key] != before[key]} == {"GP1"}
    assert JobRecord.objects.get(pk=bay.record.pk).version == 2


def test_adding_moving_and_taking_out_keep_the_order(bay):
    change(bay.record, lambda job: replace(job, circuits=(job.circuits[-1], *job.circuits[:-1])), by=None)
    assert [c.id for c in bay.job.circuits][:3] == ["radio lamps", "F9", "F14"]


def test_nothing_is_stored_of_a_job_that_cannot_be_meant(bay):
    with pytest.raises(BadInput):
        change(bay.record, lambda job: replace(job, circuits=job.circuits[1:]), by=None)
    assert bay.job == van()


def test_no_change_is_no_write(bay):
    change(bay.record, lambda job: job, by=None)
    assert JobRecord.objects.get(pk=bay.record.pk).version == 1


def test_the_shelf_keeps_the_next_action(bay):
    bay.record.refresh_from_db()
    assert bay.record.next_grade == "stop"
    assert bay.record.next_stage == "feeds"
    change(
        bay.record,
        lambda job: replace(
            job,
            taps=tuple(replace(t, circuit="F31") for t in job.taps if t.id in ("T1", "T4")) + job.taps[1:3],
        ),
        by=None,
    )
    record = JobRecord.objects.get(pk=bay.record.pk)
    assert record.next_grade == "caution"
    assert record.next_words == "Oil pressure: choose a port"


def test_a_channel_brings_and_takes_its_own_things(bay):
    job = add_channel(van(), "oil_temperature")
    assert (job.chains[-1].id, job.chains[-1].display, job.chains[-1].run) == (
        "engine oil",
        "gauge 5",
        "engine oil run",
    )
    assert remove_channel(job, "engine oil") == van()
    less = remove_channel(van(), "coolant")
    assert {p.id for p in less.senders} == {"gearbox sender", "oil pressure sender"}
    assert not [w for w in less.conductors for e in (w.a, w.b) if e.id in ("gauge 2", "coolant sender")]
    with pytest.raises(BadInput):
        remove_channel(van(), "nothing")


def test_a_dash_takes_several_readings_and_comes_alive():
    job = replace(small_job(), **shown_by(()), displays=(), senders=(), ports=(), conductors=(), splices=())
    for measurand in (
        "coolant_temperature",
        "gearbox_temperature",
        "oil_temperature",
        "oil_pressure",
        "supply_voltage",
    ):
        job = add_channel(job, measurand, on_dash=True)
    assert [(c.display, c.input) for c in job.chains] == [
        ("dash", "A"),
        ("dash", "B"),
        ("dash", "C"),
        ("dash", "D"),
        ("dash", "own supply"),
    ]
    for channel in job.chains[:4]:
        job = choose_sender(job, channel.id, measurand_facts(channel.measurand).senders[0])
        if job.sender(f"{channel.id} sender").wires == 1:
            job = choose_place(job, channel.id, f"{channel.id} {places_for(channel.measurand)[0].kind}")
    job = replace(job, runs=tuple(replace(r, segments=(Segment("way", 2.0),)) for r in job.runs))
    job = plan_wires(job).job
    job = replace(job, conductors=tuple(replace(w, length_m=w.length_m or 2.0) for w in job.conductors))
    faces = readings(solve(build(job), State("run", "off", "running")))
    assert {face.state for face in faces.values()} == {"reading"}
    assert abs(faces["oil pressure"].value - 3.5) < 0.2


def test_a_shared_sender_stays():
    job = van()
    twin = replace(
        job.chains[1], id="coolant 2", channel="coolant 2", source_id="coolant 2", name="Coolant again"
    )
    assert job.senders == remove_channel(replace(job, **shown_by((*job.chains, twin))), "coolant 2").senders


def test_an_waiver_needs_its_reason():
    job = waive_finding(van(), "safety_critical_tap", "F9", "Drawing says spare", "me")
    assert job.waivers[0].reason == "Drawing says spare"
    assert len(waive_finding(job, "safety_critical_tap", "F9", "Another reason", "me").waivers) == 1
    assert stop_waiving(job, "safety_critical_tap", "F9") == van()
    with pytest.raises(BadInput, match="Write down why"):
        waive_finding(van(), "safety_critical_tap", "F9", "  ", "me")


@pytest.mark.parametrize(
    ("wanted", "taken", "found"),
    [
        ("gauge 1", [], "gauge 1"),
        ("gauge 1", ["gauge 1", "gauge 2"], "gauge 3"),
        ("oil", ["oil"], "oil 1"),
        ("T1", ["T1"], "T2"),
    ],
)
def test_free_ids(wanted, taken, found):
    assert free_id(wanted, taken) == found


@pytest.mark.django_db(transaction=True)
def test_two_people_at_different_parts_both_hold(client_factory):
    from concurrent.futures import ThreadPoolExecutor

    from django.db import connections

    from tests.web.conftest import Bay

    bay = Bay("Two at once", client_factory())

    def write(i):
        try:
            change(
                bay.record,
                lambda job: replace(
                    job,
                    circuits=tuple(
                        replace(c, purpose=f"by {i}") if k == i else c for k, c in enumerate(job.circuits)
                    ),
                ),
                by=None,
            )
        finally:
            connections.close_all()

    with ThreadPoolExecutor(4) as pool:
        list(pool.map(write, range(8)))
    assert [c.purpose for c in bay.job.circuits][:8] == [f"by {i}" for i in range(8)]
    assert JobRecord.objects.get(pk=bay.record.pk).version == 9


def test_pairs_that_read_alike_are_two_parts(bay):
    """'a: b' of c and a of 'b: c' were one key once, and one of them was dropped."""
    job = replace(bay.job, waivers=(Waiver("a: b", "c", "one"), Waiver("a", "b: c", "two")))
    record = import_job(bay.member, job)
    assert job_of(JobRecord.objects.get(pk=record.pk)).waivers == job.waivers
