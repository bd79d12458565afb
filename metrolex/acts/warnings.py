"""When the driver is warned."""

from __future__ import annotations

from dataclasses import replace

from metrolex.acts.edit import channel_called
from metrolex.job import AlarmBehaviour, Job

__all__ = ["set_warning"]


def set_warning(
    job: Job, channel_id: str, low: float | None, high: float | None, behaviour: AlarmBehaviour
) -> Job:
    """Where and how a channel warns, in its unit. Raises BadInput for levels that cannot be meant together."""
    channel = replace(channel_called(job, channel_id), warn_low=low, warn_high=high, behaviour=behaviour)
    channel.alarm  # noqa: B018  refuses what cannot be meant
    return job.with_chain(channel)
