"""What is joined to what: built once per job, read by all."""

from metrolex.topology.data_path import hears_data, next_in_chain
from metrolex.topology.ends import (
    BATTERY_NEGATIVE,
    BATTERY_POSITIVE,
    at_pin,
    at_port,
    at_terminal,
    comes_from,
    plain,
    returns_at,
)
from metrolex.topology.topology import Net, Topology, topology_of

__all__ = [
    "BATTERY_NEGATIVE",
    "BATTERY_POSITIVE",
    "Net",
    "Topology",
    "at_pin",
    "at_port",
    "at_terminal",
    "comes_from",
    "hears_data",
    "next_in_chain",
    "plain",
    "returns_at",
    "topology_of",
]
