"""What the docstrings of the core say by example."""

from __future__ import annotations

import pytest

from tests.doctests import hold, with_examples


@pytest.mark.parametrize("module", with_examples("metrolex"))
def test_the_examples_of_a_module_are_true(module):
    assert hold(module)
