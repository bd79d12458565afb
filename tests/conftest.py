"""Settings of the whole suite."""

from hypothesis import settings

# First calls import scipy or pint; a deadline would measure the machine, not the code.
settings.register_profile("metrolex", deadline=None, max_examples=60, derandomize=True)
settings.load_profile("metrolex")
