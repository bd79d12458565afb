"""What kind of feed a circuit is, from its readings in six states, for feeds that go to sleep some minutes later, and for signals in columns of the fitter's own.

Thresholds stand in ``data/circuits.toml`` (common practice, no source). park, head and later are read with the
key off.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from types import MappingProxyType
from typing import Literal

from metrolex.job import PROBE_STATES, Circuit, Readings
from metrolex.tables import load_table

__all__ = ["FeedClass", "Verdict", "classify", "classify_circuits", "highest_readings"]

FeedClass = Literal[
    "constant",
    "accessory",
    "ignition",
    "ignition_crank",
    "lamps",
    "headlamps",
    "dimmed",
    "timed",
    "signal",
    "dead",
    "unclear",
]
Level = Literal["live", "between", "dead", "unread"]

_PATTERNS: dict[frozenset[str], FeedClass] = {
    frozenset(PROBE_STATES): "constant",
    frozenset({"acc", "run"}): "accessory",
    frozenset({"run"}): "ignition",
    frozenset({"run", "crank"}): "ignition_crank",
    frozenset({"acc", "run", "crank"}): "ignition_crank",
    frozenset({"park", "head"}): "lamps",
    frozenset({"head"}): "headlamps",
    frozenset(): "dead",
}


_LOAD_IT = "Load it with a test lamp and read again: a floating wire shows volts and carries nothing."
_READ_LATE = "Read it once more after half an hour of key-off: many feeds go to sleep."
_DIMMER_DOWN = (
    "Turn the dimmer right down and read head again: a dimmed feed turned up looks like a plain one."
)


@dataclass(frozen=True, slots=True)
class Verdict:
    """The class of a circuit, the states it is live in, and in words what decided or is missing.

    ``dim_ratio`` is the part of the full voltage a dimmed feed gives; ``next_step`` what to measure next;
    ``contradicts`` tells readings that cannot all be true of one circuit.
    """

    feed: FeedClass
    live: frozenset[str]
    reason: str
    unread: tuple[str, ...] = ()
    dim_ratio: float = 0.0
    next_step: str = ""
    contradicts: bool = False

    @property
    def may_sleep(self) -> bool:
        """Whether it looks constant only because nobody read it late."""
        return self.feed == "constant" and self.next_step == _READ_LATE


def classify_circuits(circuits: Sequence[Circuit]) -> Mapping[str, Verdict]:
    """The verdict on each circuit by id, judged against the highest reading of each state among them."""
    return _verdicts(tuple(circuits))


@lru_cache(maxsize=16)  # most versions of a job leave the sheet as it was
def _verdicts(circuits: tuple[Circuit, ...]) -> Mapping[str, Verdict]:
    highest = highest_readings([circuit.readings for circuit in circuits])
    return MappingProxyType({circuit.id: classify(circuit.readings, highest) for circuit in circuits})


def highest_readings(sheets: Sequence[Readings]) -> dict[str, float]:
    """The battery as the sheet shows it: the highest volts read in each state; states nobody read in volts are left out.

    Only the starter pulls the battery down: in the other states it is at least a share of the highest of them all, so that
    a state in which only weak feeds were read does not make them whole.
    """
    found: dict[str, float] = {}
    for state in PROBE_STATES:
        volts = [v for v in (sheet.at(state) for sheet in sheets) if isinstance(v, float)]
        if volts:
            found[state] = max(volts)
    resting = max((v for state, v in found.items() if state != "crank"), default=0.0)
    share = load_table("circuits")["thresholds"]["same_battery_ratio"]
    return {state: v if state == "crank" else max(v, share * resting) for state, v in found.items()}


def classify(readings: Readings, highest: Mapping[str, float]) -> Verdict:
    """Judge one circuit. Live is over 70 % of the battery as read in that state, dead is below 2 V or 15 %.

    The late reading is judged against the highest reading with the key off. A feed live at key-off and dead later is timed. What
    was nowhere found live with key and lamps, but is live in a column of the fitter's own, is the signal of that: no feed.
    """
    levels = {state: _level(readings.at(state), highest.get(state, 0.0)) for state in PROBE_STATES}
    later = _level(readings.later, highest.get("off", 0.0))
    live = frozenset(state for state, level in levels.items() if level == "live")
    between = [state for state, level in levels.items() if level == "between"]
    unread = tuple(state for state, level in levels.items() if level == "unread")
    ghosts = [state for state in PROBE_STATES if state not in live and _is_ghost(readings.at(state))]
    against = _contradiction(levels, later)
    if against:
        return Verdict(
            "unclear",
            live,
            against,
            unread,
            next_step="Prove the meter's ground, then read both states again.",
            contradicts=True,
        )
    signal = _signal(readings, levels, highest)
    if signal:
        return Verdict("signal", live, signal)
    if unread:
        step = f"Read it in {' and '.join(unread) if len(unread) < 3 else ', '.join(unread)}."
        return Verdict("unclear", live, "Not read yet: " + ", ".join(unread) + ".", unread, next_step=step)
    if between:
        lamps_only = set(between) | live <= {"park", "head"}
        if lamps_only:
            ratios = [_volts(readings.at(s)) / highest[s] for s in between]
            return Verdict(
                "dimmed",
                live,
                f"Between dead and live with the lamps on ({min(ratios):.0%} of full).",
                dim_ratio=min(ratios),
            )
        words = ", ".join(f"{state} {_volts(readings.at(state)):.1f} V" for state in between)
        return Verdict("unclear", live, f"Neither live nor dead: {words}.", next_step=_LOAD_IT)
    if later == "dead" and "off" in live and {"acc", "run"} & live:
        return Verdict("timed", live, "Live at key-off, dead some minutes later: it goes to sleep.")
    if live in _PATTERNS:
        feed = _PATTERNS[live]
        if ghosts:
            seen = ", ".join(f"{state} {_volts(readings.at(state)):.1f} V" for state in ghosts)
            return Verdict(feed, live, f"{_words(feed, live)} A stray {seen}.", next_step=_LOAD_IT)
        steps = {"constant": _READ_LATE if later == "unread" else "", "lamps": _DIMMER_DOWN}
        return Verdict(feed, live, _words(feed, live), next_step=steps.get(feed, ""))
    listed = ", ".join(state for state in PROBE_STATES if state in live)
    step = (
        "Read it again some minutes after key-off: it may be a timed feed."
        if "off" in live and "crank" not in live
        else "Read it again, key and lamps one at a time."
    )
    return Verdict("unclear", live, f"Live in {listed} only: no feed we know.", next_step=step)


def _signal(readings: Readings, levels: Mapping[str, Level], highest: Mapping[str, float]) -> str:
    """What a circuit is the signal of, in words; '' where it is none, or where nobody has read it with the key on yet."""
    found = set(levels.values())
    if "dead" not in found or found - {"dead", "unread"}:
        return ""
    battery = max(highest.values(), default=0.0)
    live = [one.column for one in readings.also if _level(one.reading, battery) == "live"]
    return f"Live only with this: {', '.join(live)}. A signal, no feed." if live else ""


def _contradiction(levels: Mapping[str, Level], later: Level) -> str:
    """Readings no circuit can give, in words; '' where there are none."""
    if levels["off"] == "live" and levels["run"] == "dead":
        return "Live with the key off, yet dead in run: both cannot be true of one circuit."
    if levels["off"] == "dead" and later == "live":
        return "Dead at key-off, yet live some minutes later: both cannot be true of one circuit."
    if levels["off"] == "live" and "dead" in (levels["park"], levels["head"]):
        return "Live with the key off, yet dead there with the lamps on: both cannot be true of one circuit."
    return ""


def _level(value: float | str | None, highest: float) -> Level:
    if value is None:
        return "unread"
    if isinstance(value, str):
        return "live" if value == "live" else "dead"
    limits = load_table("circuits")["thresholds"]
    if value < limits["dead_below_v"] or value < limits["dimmed_ratio"] * highest:
        return "dead"
    return "live" if value > limits["live_ratio"] * highest else "between"


def _is_ghost(value: float | str | None) -> bool:
    low, high = load_table("circuits")["thresholds"]["ghost_v"]
    return isinstance(value, float) and low <= value <= high


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
        "headlamps": "Live with the headlamps only, dead with the park lamps: what hangs on it stays bright at dusk.",
        "dead": "Dead in every state.",
    }[feed]
