"""How long a lead must be along its way. Slack rules: common practice, no source."""

from __future__ import annotations

from metrolex.job import Run
from metrolex.quantities import rounded

__all__ = ["CUT_DECIMALS", "MOVING_EXTRA_M", "run_length_m"]

MOVING_EXTRA_M = 0.05
#: Wire is cut to the centimetre: a length is rounded here and nowhere after.
CUT_DECIMALS = 2


def run_length_m(way: Run) -> float:
    """Segments with their slack, both ends, the service loop, and 0.05 m for each segment that moves; to the centimetre, once."""
    moving = sum(segment.moving for segment in way.segments)
    bare = sum(segment.length_m for segment in way.segments) * (1 + way.slack_pct / 100)
    return rounded(bare + way.ends_m + way.service_loop_m + MOVING_EXTRA_M * moving, CUT_DECIMALS)
