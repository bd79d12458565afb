"""What is worked out of a whole job is kept with that job: worked out once, gone when the job is."""

from __future__ import annotations

import functools
from collections.abc import Callable
from typing import Concatenate, ParamSpec, TypeVar

from metrolex.job.whole import Job

__all__ = ["once_per_job"]

P = ParamSpec("P")
T = TypeVar("T")


def once_per_job(function: Callable[Concatenate[Job, P], T]) -> Callable[Concatenate[Job, P], T]:
    """A pure function of a job, and of things that can be keys, whose outcome is kept in ``job.memo``.

    Two threads may both work it out the first time; they find the same, and one of both is kept.
    """

    @functools.wraps(function)
    def kept(job: Job, /, *args: P.args, **kwargs: P.kwargs) -> T:
        key = (kept, args, tuple(sorted(kwargs.items()))) if args or kwargs else kept
        if key not in job.memo:
            return job.memo.setdefault(key, function(job, *args, **kwargs))  # type: ignore[no-any-return]
        return job.memo[key]  # type: ignore[no-any-return]

    return kept
