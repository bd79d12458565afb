"""No value that is accepted breaks a page or an export: extreme jobs are stored, and everything of them is looked at."""

from __future__ import annotations

import random
import re

import pytest
from django.urls import URLPattern, URLResolver, get_resolver

from metrolex.errors import BadInput
from metrolex.jobfile import EXAMPLES
from tests.attack.extremes import extreme_jobs
from tests.attack.how_much import ALL, several, some_of
from tests.jobs import shipped
from workbench.jobs.door import import_job

pytestmark = [pytest.mark.django_db, pytest.mark.thorough]


def routes(resolver=None, prefix=""):
    """Every address of a job that needs nothing but the job."""
    for entry in (resolver or get_resolver()).url_patterns:
        route = prefix + str(entry.pattern)
        if isinstance(entry, URLResolver):
            yield from routes(entry, route)
        elif isinstance(entry, URLPattern) and route.startswith("jobs/<int:job>/"):
            yield route


ROUTES = sorted(route for route in routes() if "<" not in route.removeprefix("jobs/<int:job>/"))
BY_CHANNEL = re.compile(r"scaling/(measured/|error/|suits/|warnings/)?$|ports/$")


def addresses_of(job, pk):
    for route in ROUTES:
        address = "/" + route.replace("<int:job>", str(pk))
        yield address, {"whole": "yes"} if route.endswith("proving/plan/") else {}
        if BY_CHANNEL.search(route):
            for channel in job.chains:
                yield address, {"channel": channel.id}


@pytest.mark.parametrize("seed", several(1, 40))
@pytest.mark.parametrize("name", EXAMPLES if ALL else EXAMPLES[:1])
def test_what_is_stored_can_be_looked_at(name, seed, bay):
    for job, changed in extreme_jobs(shipped(name), 1000 + seed, 16):
        try:
            record = import_job(bay.member, job)
        except BadInput:
            continue  # told in words, and not stored
        addresses = list(addresses_of(job, record.pk))
        random.Random(seed).shuffle(addresses)
        for address, data in some_of(addresses, 40):
            try:
                answer = bay.client.get(address, data)
            except BaseException as fault:
                raise AssertionError(f"{address} {data} after {changed}") from fault
            assert answer.status_code in (200, 202, 302, 400, 404, 405, 422), (address, changed)
