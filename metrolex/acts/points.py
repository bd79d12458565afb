"""What is really there at the operating points of a channel."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from metrolex.acts.edit import channel_called
from metrolex.errors import BadInput
from metrolex.job import ENGINE_WORDS, EnginePoint, Job, TruePoint

__all__ = ["set_points"]


def set_points(job: Job, channel_id: str, said: Mapping[EnginePoint, float | None]) -> Job:
    """What was said of some operating points of a channel, in its unit; None: nobody knows, what is usual holds. Raises BadInput."""
    channel = channel_called(job, channel_id)
    for point in said:
        if point not in ENGINE_WORDS:
            raise BadInput("point", point, " | ".join(ENGINE_WORDS))
    kept = {one.point: one.value for one in channel.true_at} | {
        point: value for point, value in said.items() if point not in ("stopped", "running")
    }
    order = [one.point for one in channel.true_at]
    order += [point for point in ENGINE_WORDS if point not in order]
    points = tuple(TruePoint(point, value) for point in order if (value := kept.get(point)) is not None)
    return job.with_chain(
        replace(
            channel,
            true_at=points,
            true_stopped=said.get("stopped", channel.true_stopped),
            true_running=said.get("running", channel.true_running),
        )
    )
