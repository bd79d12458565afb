"""Where no worker of the queue runs: what is put into it is done at once."""

from __future__ import annotations

import pytest

__all__ = ["papers_at_once"]


@pytest.fixture(autouse=True)
def papers_at_once(request, monkeypatch):
    """Papers are printed as they are asked for; not in a test marked ``queue``, which has its worker or wants none."""
    if request.node.get_closest_marker("queue"):
        return
    from workbench.printing.tasks import print_paper

    monkeypatch.setattr(print_paper, "defer", print_paper.func)
