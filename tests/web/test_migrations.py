"""What was stored in earlier schema versions comes up to the present one where it stands, row by row."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from metrolex.intake import read
from metrolex.job import Display, Sender
from metrolex.jobfile import EXAMPLES, SCHEMA_VERSION, job_from_text
from workbench.jobs.storage import job_of

FILES = Path(__file__).parents[1] / "files"


def taken_back_to(app, migration):
    """The database as it was at a migration, and its models."""
    MigrationExecutor(connection).migrate([(app, migration)])
    return MigrationExecutor(connection).loader.project_state([(app, migration)]).apps


def brought_up():
    executor = MigrationExecutor(connection)
    executor.migrate(executor.loader.graph.leaf_nodes())


def then(name):
    """An example as it was when the present version came: what has been done to it since is another matter."""
    return job_from_text((FILES / f"schema_{SCHEMA_VERSION}" / f"{name}.json").read_text(encoding="utf-8"))


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize(
    ("version", "migration", "records"),
    [
        (2, "0005_acts", ("vehicle", "brief", "supply", "survey", "bus")),
        (3, "0007_summary_version", ("vehicle", "brief", "survey", "bus")),
    ],
)
def test_jobs_stored_before_are_the_same_jobs(version, migration, records):
    """The database is taken back, the four examples stored as it stored them, and migrated."""
    old = taken_back_to("jobs", migration)
    workshop = old.get_model("accounts", "Workshop").objects.create(name="Old hands")
    kept = {}
    for name in EXAMPLES:
        data = json.loads((FILES / f"schema_{version}" / f"{name}.json").read_text(encoding="utf-8"))
        fields = {key: data.pop(key, {}) for key in records}
        record = old.get_model("jobs", "JobRecord").objects.create(
            workshop=workshop, name=data.pop("name"), **fields
        )
        assert data.pop("schema_version") == version
        for kind, bodies in data.items():
            for i, body in enumerate(bodies):
                key = (
                    body.get("id")
                    or f"{body.get('display') or body.get('code')}: {body.get('name') or body.get('subject')}"
                )
                old.get_model("jobs", "Part").objects.create(
                    job=record, kind=kind, key=key, position=i, body=body
                )
        kept[name] = record.pk
    brought_up()
    from workbench.jobs.models import JobRecord

    for name, pk in kept.items():
        assert job_of(JobRecord.objects.get(pk=pk)) == then(name), name


@pytest.mark.django_db(transaction=True)
@pytest.mark.parametrize("version", [2, 3])
def test_parts_on_the_shelf_before_are_the_same_parts(version):
    old = taken_back_to("library", "0002_shelfpart")
    data = json.loads((FILES / f"schema_{version}" / "single_seater.json").read_text(encoding="utf-8"))
    workshop = old.get_model("accounts", "Workshop").objects.create(name="Old hands")
    shelf = old.get_model("library", "ShelfPart").objects
    for kind in ("sender", "display"):
        for body in data[f"{kind}s"]:
            shelf.create(workshop=workshop, kind=kind, name=body["id"], body=body)
    brought_up()
    from workbench.library.models import ShelfPart

    job = then("single_seater")
    stored = {(part.kind, part.name): part.body for part in ShelfPart.objects.all()}
    assert [read(Sender, stored["sender", s.id]) for s in job.senders] == list(job.senders)
    assert [read(Display, stored["display", d.id]) for d in job.displays] == list(job.displays)
