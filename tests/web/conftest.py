"""Two workshops, each with a person and the example job."""

from __future__ import annotations

from dataclasses import replace

import pytest
from django.contrib.auth import get_user_model

from metrolex.job import Job
from tests.at_once import papers_at_once  # noqa: F401
from tests.jobs import shipped, van
from workbench.accounts.models import Membership, Workshop
from workbench.jobs.door import change, import_job
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of


class Bay:
    """A workshop, its person, its job, and a browser logged in as that person."""

    def __init__(self, name: str, client) -> None:
        self.workshop = Workshop.objects.create(name=name)
        self.user = get_user_model().objects.create_user(f"fitter of {name}", password="long enough words")
        self.member = Membership.objects.create(user=self.user, workshop=self.workshop)
        self.record = import_job(self.member, van())
        self.client = client
        client.force_login(self.user)

    @property
    def job(self) -> Job:
        """The job as it stands in the database now."""
        return job_of(JobRecord.objects.get(pk=self.record.pk))

    @property
    def version(self) -> int:
        """The version stored."""
        return JobRecord.objects.values_list("version", flat=True).get(pk=self.record.pk)

    def path(self, tail: str = "") -> str:
        return f"/jobs/{self.record.pk}/{tail}"

    def tap_a_fuel_pump(self) -> None:
        """The tap on the circuit nobody may tap stands on a fuel pump's: a stop one can answer for."""
        set_purpose = lambda job: replace(  # noqa: E731
            job,
            circuits=tuple(
                replace(one, purpose="Fuel pump") if one.id == "F9" else one for one in job.circuits
            ),
        )
        change(self.record, set_purpose, by=self.member)

    def get(self, tail: str = "", *, htmx: bool = False, **data):
        return self.client.get(self.path(tail), data, headers={"HX-Request": "true"} if htmx else {})

    def post(self, tail: str, *, htmx: bool = False, **data):
        headers = {"HX-Request": "true"} if htmx else {}
        return self.client.post(self.path(tail), data, headers=headers)


@pytest.fixture
def bay(db, client_factory) -> Bay:
    return Bay("Scree Lane", client_factory())


@pytest.fixture
def other_bay(db, client_factory) -> Bay:
    return Bay("Harbour Street", client_factory())


@pytest.fixture
def client_factory():
    from django.test import Client

    return Client


@pytest.fixture
def text():
    """The words of an answer, without entities, however the lines of its source fall."""
    import html

    return lambda response: " ".join(html.unescape(response.content.decode()).split())


@pytest.fixture
def seater(bay):
    """The bay at the single-seater job."""
    bay.record = import_job(bay.member, shipped("single_seater"))
    return bay
