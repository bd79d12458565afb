"""Jobs kept by record and version: the right one, within its bound, by several threads, at the weight it says."""

from __future__ import annotations

import json
import tracemalloc
from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connections

from metrolex.acts.harness import set_wire
from metrolex.intake import dump
from metrolex.job import KEY_STATES, LAMP_STATES, State
from metrolex.jobfile import EXAMPLES, example_job_data, job_from_data
from metrolex.twin import expect
from workbench.jobs.cache import WEIGHT, JobCache
from workbench.jobs.door import change, import_job
from workbench.jobs.look import look_at
from workbench.jobs.models import JobRecord


def test_a_version_is_read_once_and_the_next_one_anew(bay, django_assert_num_queries):
    cache = JobCache(10**8)
    first = cache.job_of(bay.record)
    with django_assert_num_queries(0):
        assert cache.job_of(bay.record) is first
    change(bay.record, lambda job: set_wire(job, "W3", {"length_m": 3.3}), by=None)
    after = cache.job_of(JobRecord.objects.get(pk=bay.record.pk))
    assert after.wire("W3").length_m == 3.3


def test_the_bound_is_kept_and_the_one_asked_for_last_stays(bay):
    records = [bay.record, *(import_job(bay.member, bay.job) for _ in range(5))]
    one = WEIGHT * len(json.dumps(dump(bay.job)))
    cache = JobCache(3 * one)
    for record in records:
        cache.job_of(record)
    assert len(cache.jobs) == 3
    assert cache.bytes == 3 * one
    assert records[-1].pk in {key[0] for key in cache.jobs}
    tiny = JobCache(1)
    assert tiny.job_of(bay.record) == bay.job  # a job larger than the bound is still answered


@pytest.mark.django_db(transaction=True)
def test_several_threads_find_the_same(client_factory):
    from tests.web.conftest import Bay

    bay, cache = Bay("Threads", client_factory()), JobCache(10**8)

    def ask(_):
        try:
            job = cache.job_of(bay.record)
            return (
                look_at(job, State("run")).solved.solution.potentials
                == look_at(job, State("run")).solved.solution.potentials
            )
        finally:
            connections.close_all()

    with ThreadPoolExecutor(6) as pool:
        assert all(pool.map(ask, range(24)))
    assert len(cache.jobs) == 1


@pytest.mark.parametrize("name", EXAMPLES)
def test_the_weight_is_no_less_than_what_a_job_takes(name):
    """Memory of a job with every state of the key and lamps looked at and tested, by tracemalloc, against WEIGHT times its bytes."""
    look_at(job_from_data(example_job_data(name)), State("run"))  # tables and laws that all jobs share
    data = example_job_data(name)
    tracemalloc.start()
    job = job_from_data(data)
    for key in KEY_STATES:
        for lamps in LAMP_STATES:
            look = look_at(job, State(key, lamps))
            expect(look.network, State(key, lamps))
    took = tracemalloc.get_traced_memory()[0]
    tracemalloc.stop()
    assert took < WEIGHT * len(json.dumps(dump(job)))
