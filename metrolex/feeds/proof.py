"""How a circuit is proved to be what its name says: a fuse by being pulled, a wire by a lamp and its own plug."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.job import Circuit

__all__ = ["Proof", "proof_of"]


@dataclass(frozen=True, slots=True)
class Proof:
    """What is asked, what it says once it is so, and what is missing while it is not. ``needed`` is False at the battery."""

    needed: bool
    question: str
    done: str
    missing: str
    remedy: str


_FUSE = Proof(
    True,
    "dies with its fuse pulled",
    "Proved by its fuse.",
    "The reading was not seen to die with its fuse pulled.",
    "Pull the fuse, read again, then count on it.",
)
_WIRE = Proof(
    True,
    "carries a lamp, dies with its plug parted",
    "Proved under a lamp.",
    "No lamp was seen to burn on this wire and to die with its plug parted.",
    "Hang a lamp on it, part the plug or the switch it comes from, then count on it.",
)
_STRAIGHT = Proof(False, "", "", "", "")


def proof_of(circuit: Circuit) -> Proof:
    """The proof that suits what is tapped: a slot has a fuse to pull, a bare wire has none, a post needs no proof."""
    if circuit.unfused:
        return _STRAIGHT
    return _FUSE if circuit.kind == "fuse" else _WIRE
