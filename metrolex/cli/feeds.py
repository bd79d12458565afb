"""Command line: circuits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from metrolex.cli.calculation import Calculation, findings_out
from metrolex.errors import BadInput
from metrolex.feeds.choose import choose_taps
from metrolex.feeds.classify import classify_circuits
from metrolex.findings import Finding, worst_first
from metrolex.intake import Key, NonNegative, Positive
from metrolex.job import Circuit, Feeds, Readings
from metrolex.job.feed import PROBED, AlsoRead, FeedPlace
from metrolex.job.feed import Slot as SlotOfPanel
from metrolex.job.words import Volts, Word

__all__ = ["CALCULATIONS", "CircuitsInput"]

Reading = Volts | Literal["live", "dead"] | None


@dataclass(frozen=True, slots=True)
class SixReadings:
    """What the probe found in all six states; null where it was not tried. ``also`` holds columns of the fitter's own ('turn left')."""

    off: Reading
    acc: Reading
    run: Reading
    crank: Reading
    park: Reading
    head: Reading
    later: Reading = None
    also: tuple[AlsoRead, ...] = ()


@dataclass(frozen=True, slots=True)
class Slot:
    """A circuit on the probe sheet."""

    name: Key
    readings: SixReadings
    rating_a: Positive | None = None
    purpose: Word = ""
    form: Word = ""
    fuse_pulled_dead: bool | None = None
    feeds: Feeds = ""
    kind: FeedPlace = "fuse"
    empty: bool = False
    tap_limit_a: Positive | None = None


@dataclass(frozen=True, slots=True)
class NeededFeed:
    """What the displays ask for."""

    need: Literal["constant", "accessory", "ignition", "ignition_crank", "lamps"]
    load_a: NonNegative = 0.0


@dataclass(frozen=True, slots=True)
class CircuitsInput:
    """The probe sheet and the needs."""

    slots: tuple[Slot, ...]
    needs: tuple[NeededFeed, ...] = ()
    tap_limit_a: Positive | None = None
    cluster_out: bool = False

    def __post_init__(self) -> None:
        if not self.slots:
            raise BadInput("slots", [], "at least one circuit")
        names = [slot.name for slot in self.slots]
        for i, name in enumerate(names):
            if name in names[:i]:
                raise BadInput(f"slots[{i}].name", name, "each name once")
        wanted = [need.need for need in self.needs]
        for i, need in enumerate(wanted):
            if need in wanted[:i]:
                raise BadInput(f"needs[{i}].need", need, "each need once")


def run_circuits(asked: CircuitsInput, _flags: Sequence[str] = ()) -> dict[str, Any]:
    """Class of every circuit, and the one to tap for each need."""
    circuits = [
        Circuit(
            slot.name,
            slot.purpose,
            rating_a=slot.rating_a,
            form=slot.form,
            kind=slot.kind,
            slot=SlotOfPanel(empty=slot.empty),
            readings=Readings(**{state: getattr(slot.readings, state) for state in (*PROBED, "also")}),
            fuse_pulled_dead=slot.fuse_pulled_dead,
            feeds=slot.feeds,
        )
        for slot in asked.slots
    ]
    limits = {s.name: s.tap_limit_a or asked.tap_limit_a for s in asked.slots}
    verdicts = classify_circuits(circuits)
    choice = choose_taps(
        circuits,
        {n.need: n.load_a for n in asked.needs},
        {k: v for k, v in limits.items() if v},
        cluster_out=asked.cluster_out,
    )
    findings = list(choice.findings)
    for name, verdict in verdicts.items():
        if verdict.feed == "unclear":
            findings.append(
                Finding(
                    "note",
                    "unclear",
                    name,
                    verdict.reason,
                    remedy=verdict.next_step,
                )
            )
        if verdict.feed == "ignition_crank" and "acc" in verdict.live:
            findings.append(
                Finding(
                    "caution",
                    "live_in_acc",
                    name,
                    "Live in acc as well as run and crank.",
                    remedy="What it feeds stays on with the key in acc.",
                )
            )
    weighed = {
        need: {c.circuit.id: c.reason for c in candidates} for need, candidates in choice.candidates.items()
    }
    unique = list({(f.code, f.subject): f for f in worst_first(findings)}.values())
    return {
        "class": {name: verdict.feed for name, verdict in verdicts.items()},
        "choice": choice.taken,
        "working": {"reasons": {n: v.reason for n, v in verdicts.items()}, "weighed": weighed},
        "findings": findings_out(unique),
    }


def _slot(
    name: str,
    rating_a: float,
    purpose: str,
    volts: tuple[float, ...],
    proved: bool = True,
    also: dict[str, float] | None = None,
) -> dict[str, Any]:
    states = ("off", "acc", "run", "crank", "park", "head")
    return {
        "name": name,
        "rating_a": rating_a,
        "purpose": purpose,
        "form": "mini",
        "readings": dict(zip(states, volts, strict=True))
        | {"also": [{"column": column, "reading": read} for column, read in (also or {}).items()]},
        "fuse_pulled_dead": proved,
    }


CALCULATIONS = {
    "circuits": Calculation(
        CircuitsInput,
        run_circuits,
        {
            "slots": [
                _slot("F9", 10, "Seat belts and airbag", (12.5, 12.5, 12.4, 10.6, 12.5, 12.4)),
                _slot("F14", 10, "Parking lamps, left", (0.0, 0.0, 0.0, 0.0, 12.3, 12.2)),
                _slot("F22", 15, "Wipers, front", (0.0, 0.0, 12.4, 10.5, 0.0, 0.0)),
                _slot("F25", 15, "Accessory socket", (0.0, 12.4, 12.3, 0.1, 0.0, 0.0)),
                _slot(
                    "F33",
                    10,
                    "Trailer socket, pin 1",
                    (0.0, 0.0, 0.0, 0.0, 0.0, 0.0),
                    also={"turn left": 11.8},
                ),
                _slot("F31", 10, "Mirrors", (12.5, 12.5, 12.4, 10.6, 12.5, 12.4)),
            ],
            "needs": [
                {"need": "constant", "load_a": 0.02},
                {"need": "ignition_crank", "load_a": 1.0},
                {"need": "lamps", "load_a": 0.2},
            ],
        },
    ),
}
