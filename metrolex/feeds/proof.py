"""How a circuit is proved to be what its name says, as it suits what is tapped; the words stand in ``data/feed_places.toml``."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from metrolex.job import Circuit
from metrolex.tables import load_table

__all__ = ["Proof", "place_words", "proof_of"]


@dataclass(frozen=True, slots=True)
class Proof:
    """What is asked, what it says once it is so, and what is missing while it is not. ``needed`` is False at the battery."""

    needed: bool
    question: str = ""
    done: str = ""
    missing: str = ""
    remedy: str = ""


def place_words(circuit: Circuit) -> dict[str, Any]:
    """What is said of its kind of place: its row of feed_places.toml."""
    row: dict[str, Any] = load_table("feed_places")[circuit.place]
    return row


def proof_of(circuit: Circuit) -> Proof:
    """The proof that suits what is tapped: a slot has a fuse to pull, a bare wire has none, a post needs no proof."""
    if circuit.straight:
        return Proof(False)
    row = place_words(circuit)
    return Proof(True, row["question"], row["done"], row["missing"], row["remedy"])
