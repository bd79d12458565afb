"""The single faults a job can have, by kind of part. What goes wrong with each kind, and how often, stands in ``data/faults.toml``."""

from __future__ import annotations

from metrolex.faults.kinds import LikelyFault
from metrolex.faults.of_displays import display_faults
from metrolex.faults.of_feeds import feed_faults
from metrolex.faults.of_senders import sender_faults
from metrolex.faults.of_wires import wire_faults
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit

__all__ = ["MOST_SEARCHED", "catalogue"]

#: Faults of a job up to which they are searched through while somebody waits.
MOST_SEARCHED = 700


@once_per_circuit
def catalogue(network: Network) -> tuple[LikelyFault, ...]:
    """Every likely single fault of a job, in the order of its parts; only of parts the circuit has."""
    return (
        *feed_faults(network),
        *wire_faults(network),
        *sender_faults(network),
        *display_faults(network),
    )
