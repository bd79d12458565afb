"""A back-up taken as docs/deploy.md says, put back into a database of another role: all is there, and that role can work with it."""

from __future__ import annotations

import os
import subprocess
import sys

import psycopg
import pytest
from django.db import connection
from psycopg import sql

from metrolex.jobfile import job_to_text
from workbench.jobs.models import JobRecord

ROLE, PASSWORD = "other_hands", "only-for-tests"
READ_BACK = """
import django; django.setup()
from metrolex.jobfile import job_to_text
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of
record = JobRecord.objects.get()
print(job_to_text(job_of(record)), end="")
"""


@pytest.fixture
def of_another_role(transactional_db):
    """(address of an empty database that belongs to another role, its name); gone afterwards, with the role."""
    known = connection.settings_dict
    name = f"{known['NAME']}_restored"
    server = "postgres://{USER}:{PASSWORD}@{HOST}:{PORT}/postgres".format(**known)
    database, role = sql.Identifier(name), sql.Identifier(ROLE + known["NAME"][-4:])
    with psycopg.connect(server, autocommit=True) as link:
        link.execute(sql.SQL("DROP DATABASE IF EXISTS {} WITH (FORCE)").format(database))
        link.execute(sql.SQL("DROP ROLE IF EXISTS {}").format(role))
        link.execute(sql.SQL("CREATE ROLE {} LOGIN PASSWORD {}").format(role, PASSWORD))
        link.execute(sql.SQL("CREATE DATABASE {} OWNER {}").format(database, role))
    owner = ROLE + known["NAME"][-4:]
    yield f"postgres://{owner}:{PASSWORD}@{known['HOST']}:{known['PORT']}/{name}", name, owner
    with psycopg.connect(server, autocommit=True) as link:
        link.execute(sql.SQL("DROP DATABASE {} WITH (FORCE)").format(database))
        link.execute(sql.SQL("DROP ROLE {}").format(role))


def test_a_back_up_goes_into_the_hands_of_another_role(bay, of_another_role, tmp_path):
    address, name, owner = of_another_role
    known, dump = connection.settings_dict, tmp_path / "metrolex.dump"
    bay.post("feeds/probe/", circuit="F14", state="later", reading="11.9")
    env = os.environ | {"PGPASSWORD": known["PASSWORD"]}
    server = ["-h", known["HOST"], "-p", str(known["PORT"]), "-U", known["USER"]]
    subprocess.run(["pg_dump", *server, "-Fc", "-f", str(dump), known["NAME"]], env=env, check=True)
    restore = [
        "pg_restore",
        "--no-owner",
        f"--role={owner}",
        "--exit-on-error",
        *server,
        "-d",
        name,
        str(dump),
    ]
    subprocess.run(restore, env=env, check=True)
    with psycopg.connect(address) as there:
        tables = [
            row[0]
            for row in there.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public'").fetchall()
        ]
        owners = there.execute(
            "SELECT DISTINCT tableowner FROM pg_tables WHERE schemaname = 'public'"
        ).fetchall()
        assert owners == [(owner,)]
        with connection.cursor() as here:
            for table in tables:
                count = sql.SQL("SELECT count(*) FROM {}").format(sql.Identifier(table))
                here.execute(count.as_string(None))
                assert there.execute(count).fetchone() == here.fetchone(), table
    assert len(tables) > 15

    def by_the_other_role(*command: str) -> str:
        theirs = os.environ | {"DATABASE_URL": address, "DJANGO_SETTINGS_MODULE": "workbench.settings.test"}
        return subprocess.run(
            [sys.executable, *command], env=theirs, check=True, capture_output=True, text=True
        ).stdout

    by_the_other_role("manage.py", "migrate", "--check")
    assert by_the_other_role("-c", READ_BACK) == job_to_text(bay.job)
    by_the_other_role("manage.py", "add_workshop", "Taken over")
    with psycopg.connect(address) as there:
        assert there.execute(
            "SELECT count(*) FROM accounts_workshop WHERE name = 'Taken over'"
        ).fetchone() == (1,)
    assert JobRecord.objects.count() == 1
