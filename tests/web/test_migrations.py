"""Stored jobs of schema 2 come up to schema 3 where they stand, row by row."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from django.db import connection
from django.db.migrations.executor import MigrationExecutor

from metrolex.jobfile import EXAMPLES, example_job_data, job_from_data
from workbench.jobs.storage import job_of

OLD = Path(__file__).parents[1] / "files" / "schema_2"


@pytest.mark.django_db(transaction=True)
def test_jobs_stored_before_schema_3_are_the_same_jobs():
    """The database is taken back to the version before, the four examples stored as it stored them, and migrated."""
    executor = MigrationExecutor(connection)
    executor.migrate([("jobs", "0005_acts")])
    old = MigrationExecutor(connection).loader.project_state([("jobs", "0005_acts")]).apps
    workshop = old.get_model("accounts", "Workshop").objects.create(name="Old hands")
    kept = {}
    for name in EXAMPLES:
        data = json.loads((OLD / f"{name}.json").read_text(encoding="utf-8"))
        fields = {key: data.pop(key, {}) for key in ("vehicle", "brief", "supply", "survey", "bus")}
        record = old.get_model("jobs", "JobRecord").objects.create(
            workshop=workshop, name=data.pop("name"), **fields
        )
        data.pop("schema_version")
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
    executor = MigrationExecutor(connection)
    executor.migrate(executor.loader.graph.leaf_nodes())
    from workbench.jobs.models import JobRecord

    for name, pk in kept.items():
        assert job_of(JobRecord.objects.get(pk=pk)) == job_from_data(example_job_data(name)), name
