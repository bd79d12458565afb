"""Settings of the whole suite."""

import gc

from hypothesis import settings

# First calls import scipy or pint; a deadline would measure the machine, not the code.
settings.register_profile("metrolex", deadline=None, max_examples=60, derandomize=True)
settings.load_profile("metrolex")


def pytest_collection_finish() -> None:
    """What is loaded by now stays to the end, as in a server (``workbench.serving``), and garbage is looked for less often than it comes."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(5_000, 20, 50)
