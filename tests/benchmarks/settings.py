"""Demo settings with one more address: a view that does nothing."""

from workbench.settings.demo import *  # noqa: F403

ROOT_URLCONF = "tests.benchmarks.urls"
SECRET_KEY = "only-for-timings"
