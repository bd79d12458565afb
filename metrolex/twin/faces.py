"""What stands on the faces at every operating point."""

from __future__ import annotations

from collections.abc import Mapping

from metrolex.job import ENGINE_WORDS, EnginePoint, State
from metrolex.scaling.reading import Shown
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit
from metrolex.twin.run import readings, solve

__all__ = ["faces_at_points"]


ALL_POINTS = tuple(ENGINE_WORDS)
_AS_LEFT = State("run")


@once_per_circuit
def faces_at_points(
    network: Network, hands: State = _AS_LEFT, points: tuple[EnginePoint, ...] = ALL_POINTS
) -> Mapping[EnginePoint, Mapping[str, Shown]]:
    """The faces by chain id at each of some operating points, key in run, the lamps and the job's switches as in ``hands``."""
    return {
        point: readings(solve(network, State("run", hands.lamps, point, hands.thrown))) for point in points
    }
