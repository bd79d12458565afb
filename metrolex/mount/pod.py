"""Which gauge sits where in a pod: by how often and how fast it must be read, by the lead it needs, by bank; and how far a gauge is turned so that normal is up.

Weights in ``data/holds.toml`` (common practice, no source). The best order is the assignment of least cost (SciPy).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import linear_sum_assignment

from metrolex.errors import BadInput
from metrolex.job import Display, Job, MeasuringChain, Mounting
from metrolex.mount.eyes import heads
from metrolex.mount.seen import view_of
from metrolex.scaling.reading import ends
from metrolex.tables import load_table

__all__ = ["MOST_IN_POD", "Placed", "Pod", "normal_up_deg", "order_of", "pods_of"]

MOST_IN_POD = 12
#: What a wire costs for each 100 mm it goes up a pod, and a gauge on the wrong side for its bank, beside a degree off the road weighed 1.
WIRE_COSTS, BANK_COSTS = 0.05, 40.0


@dataclass(frozen=True, slots=True)
class Pod:
    """A pod of a site and the mountings in it, from the one read with the least turn of the eyes outwards."""

    name: str
    site: str
    mountings: tuple[Mounting, ...]


@dataclass(frozen=True, slots=True)
class Placed:
    """A display, the mounting it has and the one it would best have, with the reason."""

    display: Display
    now: Mounting
    best: Mounting
    why: str

    @property
    def moves(self) -> bool:
        return self.now.id != self.best.id


def pods_of(job: Job) -> tuple[Pod, ...]:
    """The pods of a job that hold two displays or more."""
    found: dict[tuple[str, str], list[Mounting]] = {}
    for one in job.mountings:
        if one.pod:
            found.setdefault((one.pod, one.site), []).append(one)
    return tuple(
        Pod(name, site, tuple(sorted(held, key=lambda one: _glance_if_known(job, one))))
        for (name, site), held in found.items()
        if len(held) > 1
    )


def _glance(job: Job, mounting: Mounting) -> float:
    """Degrees from the road to it. Raises BadInput where its site is not before the eye."""
    site = job.site(mounting.site)
    return view_of(site, mounting, heads(site)[0]).glance_deg if site else 0.0


def _glance_if_known(job: Job, mounting: Mounting) -> float:
    try:
        return _glance(job, mounting)
    except BadInput:  # said of the site, and its displays stay in the order they are in
        return 0.0


def order_of(job: Job, pod: Pod) -> tuple[Placed, ...]:
    """Every display of a pod with the place that suits it best; equal ones stay. Raises BadInput for more than a pod holds, and for a place that looks away from the seat."""
    if len(pod.mountings) > MOST_IN_POD:
        raise BadInput("pod", len(pod.mountings), f"{MOST_IN_POD} gauges at the most")
    displays = [job.display(one.display) for one in pod.mountings]
    known = [(display, one) for display, one in zip(displays, pod.mountings, strict=True) if display]
    places = [one for _, one in known]
    cost = np.array(
        [[_cost(job, display, place) - 1e-6 * (place is own) for place in places] for display, own in known]
    )
    rows, columns = linear_sum_assignment(cost)
    return tuple(
        Placed(known[i][0], known[i][1], places[j], _why(job, known[i][0]))
        for i, j in zip(rows.tolist(), columns.tolist(), strict=True)
    )


def _chains(job: Job, display: Display) -> list[MeasuringChain]:
    return [chain for chain in job.chains if chain.display == display.id]


def _rank(job: Job, display: Display) -> tuple[float, str]:
    rows = load_table("holds")["order"]
    found = [rows[chain.measurand] for chain in _chains(job, display) if chain.measurand in rows]
    if not found:
        return 2.0, "it is read now and then"
    best = max(found, key=lambda row: float(row["weight"]))
    return float(best["weight"]), str(best["why"])


def _cost(job: Job, display: Display, place: Mounting) -> float:
    """Degrees off the road by the display's weight; its wires by how far they go in the pod; a gauge of the left bank right of the pod's middle costs."""
    beside = [one for one in job.mountings if (one.pod, one.site) == (place.pod, place.site)]
    middle = sum(one.x for one in beside) / len(beside)
    foot = min(one.y for one in beside)
    wrong = BANK_COSTS if _bank(job, display) * (place.x - middle) < 0 else 0.0
    wires = _wires(job, display)
    return _rank(job, display)[0] * _glance(job, place) + wrong + WIRE_COSTS * wires * (place.y - foot) / 100


def _wires(job: Job, display: Display) -> int:
    """How many wires end on a display."""
    return sum(
        end.kind == "display" and end.id == display.id for wire in job.conductors for end in (wire.a, wire.b)
    )


def _bank(job: Job, display: Display) -> int:
    """-1 for a gauge of a left bank or side, 1 for one of a right one, by its channels' names."""
    words = " ".join([display.name, *(chain.name for chain in _chains(job, display))]).lower().split()
    return ("right" in words) - ("left" in words)


def _why(job: Job, display: Display) -> str:
    bank = {-1: "on the left, as what it tells of; ", 1: "on the right, as what it tells of; "}.get(
        _bank(job, display), ""
    )
    return bank + _rank(job, display)[1]


def normal_up_deg(job: Job, display: Display) -> float | None:
    """How far a round gauge is turned clockwise so that its needle points up while all is well; None where its scale or normal reading is not known.

    The scale is taken as even about its top, ``sweep_deg`` from end to end.
    """
    for chain in _chains(job, display):
        low, high = ends(chain.scaling)
        if low is None or high is None or chain.true_running is None:
            continue
        share = (min(max(chain.true_running, low), high) - low) / (high - low)
        return round(-(share - 0.5) * display.screen.sweep_deg, 1)
    return None
