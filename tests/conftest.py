"""Settings of the whole suite."""

import gc
from collections.abc import Iterator
from typing import Any

import pytest
from hypothesis import settings

# First calls import scipy or pint; a deadline would measure the machine, not the code.
settings.register_profile("metrolex", deadline=None, max_examples=60, derandomize=True)
settings.load_profile("metrolex")


def pytest_collection_finish() -> None:
    """What is loaded by now stays to the end, as in a server (``workbench.serving``), and garbage is looked for less often than it comes."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(5_000, 20, 50)


@pytest.fixture(scope="session")
def django_db_setup(django_db_setup: None, django_db_blocker: Any) -> Iterator[None]:
    """The test database, which nobody holds any more at the end: a thread of the live server may still be at what follows its last answer."""
    yield
    from django.db import connection

    with django_db_blocker.unblock(), connection.cursor() as cursor:
        cursor.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()"
        )
