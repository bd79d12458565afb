"""When a load is too much for a tap: a relay near the battery, its coil fed by the tap. Common practice, no source."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.feeds.fuses import choose_fuse, tap_limit_a

__all__ = ["COIL_A", "RelayPlan", "relay_for"]

COIL_A = 0.2  # a common 12 V relay of 30 A, about 90 ohm with its suppression (from memory)
CONTACT_A = 30.0
NEAR_LIMIT = 0.8  # of the tap's limit for good (common practice, no source)


@dataclass(frozen=True, slots=True)
class RelayPlan:
    """What a relay asks for: ``coil_a`` from the tap, ``fuse_a`` at the battery (None: no blade fuse carries it)."""

    load_a: float
    coil_a: float
    fuse_a: float | None
    relays: int

    def words(self) -> str:
        fuse = f"{self.fuse_a:g} A" if self.fuse_a else "a bolted fuse as its maker says"
        many = f"{self.relays} relays" if self.relays > 1 else "A relay"
        return f"{many}: coil from this tap ({self.coil_a:g} A), contact from the battery behind {fuse} within a hand's length of it."


def relay_for(
    load_a: float, limit_a: float | None = None, peak_a: float = 0.0, peak_s: float = 0.0
) -> RelayPlan | None:
    """The relay a load calls for; None while the tap carries it with room to spare."""
    limit = tap_limit_a() if limit_a is None else limit_a
    if load_a <= NEAR_LIMIT * limit and peak_a <= limit:
        return None
    highest = max(load_a, peak_a)
    relays = max(1, -(-int(highest * 1000) // int(CONTACT_A * 1000)))
    fuse = choose_fuse(load_a / relays, 1e9, None, peak_a=peak_a / relays, peak_s=peak_s).fuse_a
    return RelayPlan(load_a, COIL_A * relays, fuse, relays)
