"""Does a fuse tap go in: under the lid, beside its neighbours, and which way round.

Sizes of taps stand in ``data/fuses.toml`` (common practice, no source): measure the one in your hand.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from metrolex.feeds.proof import place_words
from metrolex.job import Circuit, Panel
from metrolex.tables import load_table

__all__ = ["FREE", "Clearance", "clearance_of", "orientation", "same_place"]


@dataclass(frozen=True, slots=True)
class Clearance:
    """Millimetres the lid is too low (0 where it closes), and the slots the tap's body would cover."""

    lid_short_mm: float = 0.0
    covers: tuple[str, ...] = ()

    @property
    def free(self) -> bool:
        return not self.covers and not self.lid_short_mm

    def words(self) -> str:
        found = []
        if self.lid_short_mm:
            found.append(f"the lid would stand {self.lid_short_mm:g} mm off")
        if self.covers:
            found.append(f"its body covers {' and '.join(self.covers)}")
        return ", ".join(found)


#: Nothing in the way, or nothing known.
FREE = Clearance()


def clearance_of(circuit: Circuit, panel: Panel | None, circuits: Sequence[Circuit]) -> Clearance:
    """What a tap in this slot runs into; nothing is known, and so nothing said, of unmeasured panels and other forms."""
    body = load_table("fuses")["tap_bodies"].get(circuit.form)
    if circuit.kind != "fuse" or panel is None or body is None:
        return FREE
    short = 0.0 if panel.lid_mm is None else max(0.0, body["height_mm"] - panel.lid_mm)
    if panel.pitch_mm is None or panel.pitch_mm >= (body["width_mm"] + body["fuse_mm"]) / 2:
        return Clearance(short)
    beside = tuple(
        other.id
        for other in circuits
        if other.kind == "fuse"
        and other.slot.panel == panel.id
        and other.slot.row == circuit.slot.row
        and abs(other.slot.column - circuit.slot.column) == 1
    )
    # A tap at the edge may lean outwards: only a slot with fuses on both sides is truly covered.
    return Clearance(short, beside if len(beside) > 1 else ())


def orientation(circuit: Circuit) -> str:
    """Which way round the tap goes, in a sentence."""
    row = place_words(circuit)
    if circuit.kind == "fuse" and not circuit.slot.fed:
        return str(row["fed_unknown"])
    return str(row["fitted"]).format(fed=circuit.slot.fed)


def same_place(a: Circuit, b: Circuit) -> bool:
    """Whether two slots lie on the same spot of the same panel."""
    return a.kind == b.kind == "fuse" and (a.slot.panel, a.slot.row, a.slot.column) == (
        b.slot.panel,
        b.slot.row,
        b.slot.column,
    )
