"""What is shipped of others is what was taken in, with its whole licence."""

from __future__ import annotations

import hashlib
from pathlib import Path

import pytest

VENDOR = Path(__file__).parents[2] / "workbench" / "static" / "vendor"
SUMS = dict(reversed(line.split("  ")) for line in (VENDOR / "SUMS").read_text().splitlines())
#: A sentence near the end of each licence: a cut text lacks it.
ENDS = ("OTHER DEALINGS IN THE", "PERFORMANCE OF THIS SOFTWARE", "OTHER DEALINGS IN THE FONT SOFTWARE")


def test_every_file_is_in_the_list_and_nothing_else_is():
    there = {str(path.relative_to(VENDOR)) for path in VENDOR.rglob("*") if path.is_file()} - {"SUMS"}
    assert there == set(SUMS)


@pytest.mark.parametrize("name", sorted(SUMS))
def test_a_file_is_as_it_was_taken_in(name):
    assert hashlib.sha256((VENDOR / name).read_bytes()).hexdigest() == SUMS[name]


@pytest.mark.parametrize("folder", sorted(path.name for path in VENDOR.iterdir() if path.is_dir()))
def test_each_comes_with_its_whole_licence(folder):
    text = " ".join((VENDOR / folder / "LICENSE").read_text(encoding="utf-8").split())
    assert any(end in text for end in ENDS), f"the licence of {folder} is not whole"
    assert (VENDOR / folder / "VERSION").read_text().strip()
