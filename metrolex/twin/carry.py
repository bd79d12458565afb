"""What was solved of a job holds for its next version, where both make the same circuit.

Most of what a fitter writes down, what he probed, saw, bought, waives, leaves the circuit as it is: the states solved of it, their spreads
and expectations are handed on instead of being worked out again.
"""

from __future__ import annotations

from dataclasses import fields, replace

from metrolex.job import Circuit, Job, Readings
from metrolex.twin.build import Network, build
from metrolex.twin.kept import PER_CIRCUIT

__all__ = ["BESIDE", "carry_over", "same_circuit"]

#: Fields of a job that nothing of the circuit is made of.
BESIDE = frozenset(
    {
        "name",
        "brief",
        "observations",
        "checks",
        "left_out",
        "settings",
        "waivers",
        "survey",
        "cluster",
        "kit",
        "fluids",
        "searches",
        "closing",
        "later",
        "work",
        "own_steps",
        "altered_steps",
        "work_hours",
        "sites",
        "fixtures",
        "mountings",
        "pages",
        "faces",
    }
)


def same_circuit(before: Job, after: Job) -> bool:
    """Whether two jobs make the same circuit of the same parts: they differ in what lies beside it, or in probe readings that leave every class as it is."""
    for field in fields(Job):
        old, new = getattr(before, field.name), getattr(after, field.name)
        if not field.init or field.name in BESIDE or old is new:
            continue
        if field.name == "circuits":
            if _fed(build(before)) != _fed(build(after)):
                return False
        elif old != new:
            return False
    return True


def _fed(network: Network) -> list[tuple[Circuit, object]]:
    """Each circuit but for how it was probed, and what the twin takes from its class."""
    bare = [replace(circuit, readings=Readings(), fuse_pulled_dead=None) for circuit in network.job.circuits]
    verdicts = (network.verdicts[circuit.id] for circuit in bare)
    return [
        (circuit, (verdict.feed, verdict.live, verdict.dim_ratio))
        for circuit, verdict in zip(bare, verdicts, strict=True)
    ]


def carry_over(before: Job, after: Job) -> bool:
    """Hand on what was solved of ``before`` if ``after`` makes the same circuit; whether it does."""
    if not same_circuit(before, after):
        return False
    old, new = build(before), build(after)
    # Copies: a page of the old version may be working something more out, in another thread, while this goes through what it kept.
    for state, solved in old.plain.copy().items():
        new.plain.setdefault(state, replace(solved, network=new))  # the old version is not held on to
    new.kept.update({key: value for key, value in old.kept.copy().items() if key[0] in PER_CIRCUIT})  # type: ignore[index]
    return True
