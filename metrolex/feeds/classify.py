"""What kind of feed a circuit is, from its readings in six states.

Thresholds stand in ``data/circuits.toml`` (common practice, no source). park and head are read with the
key off.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from metrolex.job import PROBE_STATES, Circuit, Readings
from metrolex.tables import load_table

__all__ = ["FeedClass", "Verdict", "classify", "classify_circuits", "highest_readings"]

FeedClass = Literal[
    "constant", "accessory", "ignition", "ignition_crank", "lamps", "dimmed", "dead", "unclear",
]  # fmt: skip
Level = Literal["live", "between", "dead", "unread"]

_PATTERNS: dict[frozenset[str], FeedClass] = {
    frozenset(PROBE_STATES): "constant",
    frozenset({"acc", "run"}): "accessory",
    frozenset({"run"}): "ignition",
    frozenset({"run", "crank"}): "ignition_crank",
    frozenset({"acc", "run", "crank"}): "ignition_crank",
    frozenset({"park", "head"}): "lamps",
    frozenset(): "dead",
}


@dataclass(frozen=True, slots=True)
class Verdict:
    """The class of a circuit, the states it is live in, and in words what decided or is missing.

    ``dim_ratio`` is the part of the full voltage a dimmed feed gives.
    """

    feed: FeedClass
    live: frozenset[str]
    reason: str
    unread: tuple[str, ...] = ()
    dim_ratio: float = 0.0


def classify_circuits(circuits: Sequence[Circuit]) -> dict[str, Verdict]:
    """The verdict on each circuit by id, judged against the highest reading of each state among them."""
    highest = highest_readings([circuit.readings for circuit in circuits])
    return {circuit.id: classify(circuit.readings, highest) for circuit in circuits}


def highest_readings(sheets: Sequence[Readings]) -> dict[str, float]:
    """The highest volts read in each state; states nobody read in volts are left out."""
    found: dict[str, float] = {}
    for state in PROBE_STATES:
        volts = [v for v in (sheet.at(state) for sheet in sheets) if isinstance(v, float)]
        if volts:
            found[state] = max(volts)
    return found


def classify(readings: Readings, highest: Mapping[str, float]) -> Verdict:
    """Judge one circuit. Live is over 70 % of the highest reading in that state, dead is below 2 V or 15 %."""
    levels = {state: _level(readings.at(state), highest.get(state, 0.0)) for state in PROBE_STATES}
    live = frozenset(state for state, level in levels.items() if level == "live")
    between = [state for state, level in levels.items() if level == "between"]
    unread = tuple(state for state, level in levels.items() if level == "unread")
    if unread:
        return Verdict("unclear", live, "Not read yet: " + ", ".join(unread) + ".", unread)
    if between:
        lamps_only = set(between) | live <= {"park", "head"}
        if lamps_only:
            ratios = [_volts(readings.at(s)) / highest[s] for s in between]
            return Verdict("dimmed", live, f"Between dead and live with the lamps on ({min(ratios):.0%} of full).",
                           dim_ratio=min(ratios))  # fmt: skip
        words = ", ".join(f"{state} {_volts(readings.at(state)):.1f} V" for state in between)
        return Verdict(
            "unclear", live, f"Neither live nor dead: {words}. Load it with a test lamp and read again."
        )
    if live in _PATTERNS:
        feed = _PATTERNS[live]
        return Verdict(feed, live, _words(feed, live))
    listed = ", ".join(state for state in PROBE_STATES if state in live)
    return Verdict(
        "unclear",
        live,
        f"Live in {listed} only: no feed we know. Read it again, key and lamps one at a time.",
    )


def _level(value: float | str | None, highest: float) -> Level:
    if value is None:
        return "unread"
    if isinstance(value, str):
        return "live" if value == "live" else "dead"
    limits = load_table("circuits")["thresholds"]
    if value < limits["dead_below_v"] or value < limits["dimmed_ratio"] * highest:
        return "dead"
    return "live" if value > limits["live_ratio"] * highest else "between"


def _volts(value: float | str | None) -> float:
    return value if isinstance(value, float) else 0.0


def _words(feed: FeedClass, live: frozenset[str]) -> str:
    if feed == "ignition_crank" and "acc" in live:
        return "Live in acc, run and crank: stays on with the key in acc too."
    return {
        "constant": "Live in every state.",
        "accessory": "Live in acc and run; drops while cranking.",
        "ignition": "Live in run only; drops while cranking.",
        "ignition_crank": "Live in run and while cranking.",
        "lamps": "Live with the lamps only.",
        "dead": "Dead in every state.",
    }[feed]
