"""How long a test takes: by its kind, and by where one has to get to (reach.toml)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from metrolex.circuit import GROUND
from metrolex.circuit.elements import Name
from metrolex.faults.probes import Probe
from metrolex.job import Job
from metrolex.tables import load_table
from metrolex.twin.addresses import Address
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit

__all__ = ["MINUTES", "Kind", "kind_of", "minutes_of"]

Kind = Literal["volts", "shown", "ohms", "action"]

#: Minutes a test takes where nobody said, without the way there (common practice, no source).
MINUTES: Mapping[Kind, float] = {"volts": 2.0, "shown": 0.5, "ohms": 3.0, "action": 3.0}


def kind_of(probe: Probe) -> Kind:
    """The kind of test a probe is."""
    return "action" if probe.after else probe.kind


def minutes_of(network: Network, probe: Probe, minutes: Mapping[Kind, float] = MINUTES) -> float:
    """Minutes for a probe: those of its kind and those of the place farthest away."""
    return minutes[kind_of(probe)] + _way(network, probe)


@once_per_circuit
def _way(network: Network, probe: Probe) -> float:
    job = network.job
    ways = [_face()]
    if probe.kind == "volts":
        ways += [_to_point(job, probe.red), _to_point(job, probe.black)]
    if probe.kind == "ohms":
        ways.append(_to_sender(job, probe.on))
    if probe.after is not None:
        ways.append(_to_part(job, probe.after.on))
        ways.append(_to_part(job, probe.after.other) if probe.after.other else 0.0)
    return max(ways)


def _reach() -> Mapping[str, Any]:
    return load_table("reach")


def _face() -> float:
    return float(_reach()["face"])


def _to_point(job: Job, point: Name) -> float:
    """To a point of the circuit; battery negative is clipped on once and stays."""
    if point == GROUND or not isinstance(point, Address):
        return 0.0
    if point.kind == "sender":
        return _to_sender(job, point.id)
    words = {"vehicle": "metal", "plug": "display"}.get(point.kind, point.kind)
    return float(_reach().get(words, _reach()["display"]))


def _to_part(job: Job, key: str) -> float:
    """To a part by its id: a sender, a ground point, a display, a circuit."""
    if job.sender(key) is not None:
        return _to_sender(job, key)
    kind = "ground" if job.ground(key) else "display" if job.display(key) else "circuit"
    return float(_reach()[kind])


def _to_sender(job: Job, key: str) -> float:
    chain = next((one for one in job.measured if one.sender == key), None)
    port = job.port(chain.port) if chain else None
    path = job.path(port.spot.path) if port else None
    below = path is not None and path.kind in _reach()["below"]
    return float(_reach()["sender_below" if below else "sender"])
