"""What the Scaling pages ask of the core beside the job itself: rows against rows, and the circuit at another true value."""

from __future__ import annotations

import math

from metrolex.acts.scaling import Asked, best_rows_for
from metrolex.job import Job, MeasuringChain
from metrolex.twin import build, readings, solve
from metrolex.twin.run import Solved

__all__ = ["compare_rows", "how_many", "what_if"]


def compare_rows(meant: tuple[tuple[float, float], ...], held: tuple[tuple[float, float], ...]) -> list[str]:
    """What differs between the rows meant and those a display holds, in words; empty where nothing does."""
    found = []
    if len(held) != len(meant):
        found.append(f"{len(meant)} rows are meant, {len(held)} were read back.")
    for i, (row, other) in enumerate(zip(meant, sorted(held), strict=False), 1):
        for name, a, b in (("comes in", row[0], other[0]), ("shown", row[1], other[1])):
            if not math.isclose(a, b, rel_tol=1e-6, abs_tol=1e-9):
                found.append(f"Row {i}, {name}: {a:g} is meant, the display holds {b:g}.")
    return found


def how_many(
    job: Job, channel_id: str, counts: tuple[int, ...] = (4, 6, 8, 10, 12, 16, 20)
) -> list[dict[str, float]]:
    """Greatest error over the number of rows, best placed and equally spaced, rows free."""
    found = []
    for count in counts:
        rows = best_rows_for(job, channel_id, Asked(count))
        found.append({"count": count, "best": rows.max_error, "equal": rows.equal_error})
    return found


def what_if(solved: Solved, channel: MeasuringChain, true: float) -> tuple[Solved, str, str]:
    """The circuit with another true value at one channel: solved, the face, why."""
    again = solve(build(solved.network.job), solved.state, true={**solved.true, channel.channel: true})
    face = readings(again)[channel.id]
    return again, face.text, face.reason
