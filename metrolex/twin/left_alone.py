"""Circuits nobody taps, loads or measures on: belts and airbags, brakes, steering, engine control."""

from __future__ import annotations

from metrolex.feeds.safety import standing_of_circuit
from metrolex.job import Circuit, Tap
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit

__all__ = ["left_alone", "tap_left_alone"]


@once_per_circuit
def left_alone(network: Network, circuit: Circuit) -> bool:
    """Whether a circuit is left alone whatever a job says of it."""
    removed = network.job.brief.cluster_removed
    return standing_of_circuit(circuit, network.verdicts[circuit.id], removed).grade == "never"


def tap_left_alone(network: Network, tap: Tap) -> bool:
    """Whether a tap sits in such a circuit: it is a stop of the job until it is moved, and nothing is done at it."""
    circuit = network.job.circuit(tap.circuit)
    return circuit is not None and left_alone(network, circuit)
