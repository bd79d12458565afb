"""Which circuits are never tapped, which are better left alone, which are fair.

The words of its name, what the probe found and what the fitter says it feeds judge together; the vehicle maker's
instructions and the wiring diagram come first. Common practice, no source.
"""

from __future__ import annotations

import functools
from dataclasses import dataclass
from typing import Literal

from metrolex.feeds.classify import Verdict
from metrolex.feeds.names import Hit, hits_in
from metrolex.job import Circuit

__all__ = ["Standing", "standing_of", "standing_of_circuit"]

Grade = Literal["never", "avoid", "unknown", "fair"]

#: Feeds that go dead while the starter turns: no engine runs on one, so a bare 'ignition' there is the key's word for it.
_DEAD_IN_CRANK = ("accessory", "ignition", "lamps", "headlamps", "dimmed")
CLUSTER = "instrument cluster"
FINAL = ("restraint", "brakes", "steering", "safety")


@dataclass(frozen=True, slots=True)
class Standing:
    """How a circuit stands to being tapped, and the system that decides it; ``freed`` where what it fed is out of the vehicle."""

    grade: Grade
    system: str = ""
    freed: bool = False

    @property
    def final(self) -> bool:
        """Whether neither a reason nor a reading takes anybody past it: what holds people in, stops or steers the vehicle."""
        return self.grade == "never" and self.system in FINAL


def standing_of(
    purpose: str, feed: str = "", *, said: str = "", cluster_out: bool = False, place: str = "fuse"
) -> Standing:
    """Judge a circuit by its name, the class its readings gave, what the fitter said it feeds (a ``Circuit.feeds`` word) and the kind of place it is.

    The kind of place wins over a word: 'ignition switch' at the ignition switch is where it is, not what it feeds. What restrains, brakes or steers is
    never tapped, whatever else is said.

    >>> standing_of('Seat belt and airbag').grade, standing_of('ABS_PUMP').system, standing_of('Bremslichtschalter').grade
    ('never', 'brakes', 'never')
    >>> standing_of('Accessory socket, rear').grade, standing_of('Radio ignition').grade, standing_of('').grade
    ('fair', 'fair', 'unknown')
    >>> standing_of('Ignition').grade, standing_of('Ignition', 'accessory').grade
    ('never', 'fair')
    >>> standing_of('Old cluster ignition feed', cluster_out=True)
    Standing(grade='fair', system='instrument cluster', freed=True)
    """
    named = _at_place(_by_name(purpose, feed, cluster_out), purpose, place)
    if not said:
        return named
    spoken = _SAID[said]
    if spoken.system == CLUSTER and cluster_out:
        spoken = Standing("fair", CLUSTER, freed=True)
    if named.final:
        return named
    if named.grade == "never" and spoken.grade != "never" and _by_a_clear_word(purpose):
        return Standing("avoid", f"{named.system} circuit by its name, {said} by word of the fitter")
    return spoken


def standing_of_circuit(circuit: Circuit, verdict: Verdict, cluster_out: bool) -> Standing:
    """How a circuit of a job stands: by its name, its readings and what the fitter says."""
    return standing_of(
        circuit.purpose, verdict.feed, said=circuit.feeds, cluster_out=cluster_out, place=circuit.place
    )


def _by_a_clear_word(purpose: str) -> bool:
    """Whether a word that means one thing alone forbids it, and not a guess ('motor', 'ignition')."""
    return any(hit.kind == "never" for hit in hits_in(purpose))


def _at_place(named: Standing, purpose: str, place: str) -> Standing:
    """What the name says, as it is meant at such a place."""
    if named.grade != "never" or named.final:
        return named
    if place == "ignition switch" and not _by_a_clear_word(purpose):
        return Standing("avoid", "ignition switch")
    if place in ("block", "post"):  # the battery itself, whatever it is tied to
        return Standing("avoid", named.system)
    return named


_SAID: dict[str, Standing] = {
    "safety": Standing("never", "safety"),
    "engine or gearbox": Standing("never", "engine control"),
    "module": Standing("avoid", "shared module feed"),
    "lighting": Standing("avoid", "headlamps"),
    "old cluster": Standing("avoid", CLUSTER),
    "comfort": Standing("fair", "comfort"),
    "nothing": Standing("fair", "unused"),
}


@functools.lru_cache(maxsize=4096)
def _by_name(purpose: str, feed: str, cluster_out: bool) -> Standing:
    hits = hits_in(purpose)
    by_kind: dict[str, list[Hit]] = {}
    for hit in hits:
        by_kind.setdefault(hit.kind, []).append(hit)
    if "never" in by_kind:
        return Standing("never", by_kind["never"][0].system)
    harmless = [*by_kind.get("avoid", []), *by_kind.get("fair", [])] or by_kind.get("place", [])
    doubtful = by_kind.get("alone", [])
    if doubtful and not harmless:
        return Standing("never", doubtful[0].system)
    if "ignition" in by_kind and not harmless:
        return (
            Standing("fair", "accessory") if feed in _DEAD_IN_CRANK else Standing("never", "engine control")
        )
    if not harmless:
        return Standing("unknown")
    graver = next((hit for hit in harmless if hit.kind != "fair"), None)
    if any(hit.system == "control unit" for hit in doubtful):
        return Standing("avoid", graver.system if graver else "shared module feed")
    if graver is None:
        return Standing("fair", harmless[0].system)
    if graver.system == CLUSTER and (cluster_out or feed in ("accessory",)):
        others = [hit for hit in harmless if hit.kind != "fair" and hit.system != CLUSTER]
        if others:
            return Standing("avoid", others[0].system)
        return Standing("fair", CLUSTER, freed=True) if cluster_out else Standing("fair", "accessory")
    return Standing("avoid", graver.system)
