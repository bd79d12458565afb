"""Rules of the feeds: what is tapped, what it is tapped for, and how it is fused."""

from __future__ import annotations

from collections.abc import Iterator

from metrolex.feeds.choose import SERVES, candidates_for
from metrolex.feeds.classify import Verdict, classify_circuits
from metrolex.feeds.fuses import tap_limit_a
from metrolex.feeds.safety import standing_of
from metrolex.findings import Finding
from metrolex.job import Circuit, Job, Tap

__all__ = ["NEED_OF_ROLE", "display_needs", "feed_findings", "loads_by_need"]

NEED_OF_ROLE = {"memory": "constant", "ignition": "ignition", "lamps": "lamps"}


def display_needs(job: Job) -> dict[str, list[tuple[str, str, float]]]:
    """What the displays of the job ask for: (display id, pin id, load in ampere) by need."""
    needs: dict[str, list[tuple[str, str, float]]] = {}
    for display in job.displays:
        for pin in display.pins:
            need = NEED_OF_ROLE.get(pin.role)
            if need == "ignition" and display.needs_crank:
                need = "ignition_crank"
            if need:
                needs.setdefault(need, []).append((display.id, pin.id, pin.load_a))
    return needs


def loads_by_need(job: Job) -> dict[str, float]:
    """Total load in ampere by need, in the order the needs are met."""
    needs = display_needs(job)
    order = ("constant", "ignition", "ignition_crank", "accessory", "lamps")
    return {need: sum(load for _, _, load in needs[need]) for need in order if need in needs}


def feed_findings(job: Job) -> Iterator[Finding]:
    """Findings of every tap of the job, and of needs no tap meets."""
    verdicts = classify_circuits(job.circuits)
    for tap in job.taps:
        circuit = job.circuit(tap.circuit)
        if circuit is None:
            continue
        yield from _tap_findings(tap, circuit, verdicts[circuit.id], _better(job, tap, verdicts))
    met = {tap.need for tap in job.taps if tap.circuit}
    for need in loads_by_need(job):
        if not (met & _meets(need)):
            yield Finding(
                "note", "need_open", need.replace("_", " "), "Nothing feeds this need of the displays yet.",
                f"{loads_by_need(job)[need]:.2g} A", "Probe the panel and choose a tap.", "feeds",
            )  # fmt: skip


def _meets(need: str) -> set[str]:
    return {"ignition", "ignition_crank"} if need == "ignition" else {need}


def _better(job: Job, tap: Tap, verdicts: dict[str, Verdict]) -> str:
    """The circuit that would serve a tap's need best, as the way out of a wrong one; '' where none does."""
    placed: dict[str, float] = {}
    for other in job.taps:
        if other.circuit and other.id != tap.id:
            placed[other.circuit] = placed.get(other.circuit, 0.0) + loads_by_need(job).get(other.need, 0.0)
    best = next(
        iter(
            candidates_for(
                tap.need, loads_by_need(job).get(tap.need, 0.0), job.circuits, verdicts, {}, placed
            )
        ),
        None,
    )
    if best is None or not best.serves or best.circuit.id == tap.circuit:
        return ""
    free = tap_limit_a() - placed.get(best.circuit.id, 0.0)
    return (
        f"Move {tap.id} to {best.circuit.id} ({best.circuit.purpose or 'not said'}): {free:.3g} A free there."
    )


def _tap_findings(tap: Tap, circuit: Circuit, verdict: Verdict, better: str) -> Iterator[Finding]:
    standing = standing_of(circuit.purpose)
    name = circuit.id
    if standing.grade == "never":
        yield Finding(
            "stop", "safety_critical_tap", name,
            f"'{circuit.purpose}' is a {standing.system} circuit: it is never tapped.",
            figure=name, remedy=better or "Move the tap to a comfort circuit of the same kind.", place="feeds",
        )  # fmt: skip
    elif standing.grade == "avoid":
        yield Finding(
            "caution", "better_left_alone", name, f"'{circuit.purpose}' is a {standing.system}: better left alone.",
            remedy=better or "Take a comfort circuit if one serves.", place="feeds",
        )  # fmt: skip
    if verdict.feed == "unclear":
        yield Finding(
            "caution", "feed_unclear", name, f"It is tapped as {tap.need.replace('_', ' ')}, but: {verdict.reason}",
            remedy="Read it in every state.", place="feeds",
        )  # fmt: skip
    elif verdict.feed not in SERVES[tap.need]:
        yield from _mismatch(tap, circuit, verdict, better)
    elif verdict.feed == "dimmed":
        yield Finding(
            "caution", "dimmed_lamp_feed", name, "This lamp feed is dimmed; some displays must not see a dimmer.",
            f"{verdict.dim_ratio:.0%} of full", "Take a plain parking-lamp circuit.", "feeds",
        )  # fmt: skip
    if circuit.kind == "fuse" and circuit.fuse_pulled_dead is not True and standing.grade != "never":
        yield Finding(
            "caution", "unproved_circuit", name, "The reading was not seen to die with its fuse pulled.",
            remedy="Pull the fuse, read again, then count on it.", place="feeds",
        )  # fmt: skip
    if tap.side == "load" and circuit.kind == "fuse":
        yield Finding(
            "caution", "tap_on_load_side", name, "The tap sits on the load side: what it draws passes through the "
            "vehicle's own fuse as well.", remedy="Turn the tap round so that its feed leg is on the fed side.",
            place="feeds",
        )  # fmt: skip
    if tap.fuse_a is None:
        yield Finding(
            "stop" if circuit.kind == "battery" else "caution", "tap_without_fuse", name,
            "Nothing protects the added wire.", remedy="Fit a fuse within a hand's length of the tap.", place="feeds",
        )  # fmt: skip


def _mismatch(tap: Tap, circuit: Circuit, verdict: Verdict, better: str) -> Iterator[Finding]:
    feed = verdict.feed.replace("_", " ")
    if tap.need == "constant":
        yield Finding(
            "caution", "memory_not_constant", circuit.id, f"The memory feed is {feed}: settings are lost at key off.",
            feed, better or "Take a circuit that is live in every state.", "feeds",
        )  # fmt: skip
    elif verdict.feed in ("accessory", "ignition") and tap.need in ("ignition", "ignition_crank"):
        yield Finding(
            "caution", "accessory_where_crank_needed", circuit.id,
            f"The feed is {feed}: it drops while cranking and the display restarts.",
            feed, better or "Take a circuit live in run and crank.", "feeds",
        )  # fmt: skip
    else:
        yield Finding(
            "caution", "wrong_feed", circuit.id, f"It is tapped as {tap.need.replace('_', ' ')}, but it is {feed}.",
            feed, better or "Choose a circuit of the right kind.", "feeds",
        )  # fmt: skip
