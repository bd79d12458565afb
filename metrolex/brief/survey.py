"""What the survey before work found, the comparison after it, and what a removed cluster used to tell.

Volt limits of a 12 V system are common practice, no source.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from metrolex.feeds.names import folded
from metrolex.findings import Finding
from metrolex.job import ClusterItem, Job
from metrolex.tables import load_table

__all__ = [
    "CHARGE_RANGE_V",
    "LEAST_REST_V",
    "ClusterFact",
    "cluster_facts",
    "new_lamps",
    "real",
    "start_inventory",
    "survey_findings",
]

#: Of a 12 V vehicle.
CHARGE_RANGE_V = (13.2, 15.0)
LEAST_REST_V = 12.2


@dataclass(frozen=True, slots=True)
class ClusterFact:
    """Something a factory cluster tells; ``keep``: the law or safety needs it in most places.

    ``shown_by`` is the measurand of the channel that shows it on a new display, empty for lamps.
    """

    key: str
    name: str
    kind: str
    keep: bool
    shown_by: str = ""


def cluster_facts() -> tuple[ClusterFact, ...]:
    """Everything a cluster usually tells."""
    return tuple(
        ClusterFact(key, row["name"], row["kind"], row["keep"], row.get("shown_by", ""))
        for key, row in load_table("cluster").items()
    )


def start_inventory(job: Job) -> Job:
    """The job with every usual lamp and reading in its inventory, those that are there already untouched."""
    have = {item.function for item in job.cluster}
    fresh = tuple(
        ClusterItem(fact.key, fact.name, fact.key) for fact in cluster_facts() if fact.key not in have
    )
    return replace(job, brief=replace(job.brief, cluster_removed=True), cluster=(*job.cluster, *fresh))


def real(lines: Iterable[str]) -> tuple[str, ...]:
    """The lines that name something: 'none', 'none seen', '-' say that the list is empty.

    >>> real(('none seen', 'Oil lamp', '-', 'keine'))
    ('Oil lamp',)
    """
    table = load_table("nothing")
    empty, beside = set(table["words"]), set(table["with"])

    def says_nothing(line: str) -> bool:
        words = set(folded(line).split())
        return not words or (words <= empty | beside and bool(words & empty))

    return tuple(line for line in lines if not says_nothing(line))


def new_lamps(job: Job) -> tuple[str, ...]:
    """Lamps lit after the work that were not lit before; empty until somebody looked."""
    after = real(job.survey.lamps_after or ())
    before = {lamp.strip().lower() for lamp in job.survey.lamps_lit}
    return tuple(lamp for lamp in after if lamp.strip().lower() not in before)


def survey_findings(job: Job) -> Iterator[Finding]:
    """What stands in the way of calibrating, and what a lost cluster leaves untold.

    What bars calibration belongs to no one place: it is said wherever the fitter works.
    """
    survey, state = job.survey, job.vehicle.electrics.state
    scale = job.vehicle.electrics.nominal_v / 12.0
    low, high = (scale * end for end in CHARGE_RANGE_V)
    if state.charging_v is not None and not low <= state.charging_v <= high:
        yield Finding(
            "stop",
            "charge_fault",
            "Charging",
            "The charging is not right: readings taken now are those of a sick supply.",
            f"{state.charging_v:g} V, {low:g} to {high:g}",
            "Cure the charging before anything is calibrated.",
        )
    if state.rest_v is not None and state.rest_v < scale * LEAST_REST_V:
        yield Finding(
            "caution",
            "battery_low",
            "Battery",
            "A low battery makes displays die, come back and jump.",
            f"{state.rest_v:g} V, at least {scale * LEAST_REST_V:g}",
            "Charge and test it first.",
            "brief",
        )
    for lamp in real(survey.lamps_lit):
        yield Finding(
            "stop",
            "lamp_lit_before",
            lamp,
            "A warning lamp was lit before the work: calibrated on a fault, a reading is worth nothing.",
            "",
            "Find its cause first, or waive it with a reason so that nobody blames the gauges.",
        )
    for fault in real(survey.stored_faults):
        yield Finding(
            "caution",
            "fault_stored_before",
            fault,
            "A fault was stored before the work.",
            "",
            "Tell the owner; read it again at handover.",
            "brief",
        )
    for found in real(survey.old_wiring):
        yield Finding(
            "caution",
            "old_wiring",
            found,
            "Old faults look like faults of the new gauges.",
            "",
            "Make it good, or keep well clear of it.",
            "brief",
        )
    for lamp in new_lamps(job):
        yield Finding(
            "stop",
            "lamp_lit_after",
            lamp,
            "It was not lit before the work.",
            "",
            "Find out what the work disturbed.",
            "handover",
        )
    yield from _cluster(job)


def _cluster(job: Job) -> Iterator[Finding]:
    if not job.brief.cluster_removed:
        return
    facts = {fact.key: fact for fact in cluster_facts()}
    keep = {key: fact for key, fact in facts.items() if fact.keep}
    shown = {channel.measurand for channel in job.measured if channel.display}
    for item in job.cluster:
        must, fact = keep.get(item.function), facts.get(item.function)
        if item.comes_from == "display" and fact and fact.shown_by and fact.shown_by not in shown:
            yield Finding(
                "stop" if must else "caution",
                "not_on_display",
                item.name,
                "It is to come from the new display, and no channel shows it there.",
                "0 channels",
                "Add the channel on Brief, or say where else it comes from.",
                "brief",
                about=f"instrument {item.id}",
            )
        if must and item.comes_from == "lost":
            yield Finding(
                "stop",
                "must_keep_lost",
                item.name,
                "The law or safety needs it in most places.",
                "",
                "Show it on the new display, give it a lamp of its own, or keep the old one.",
                "brief",
                about=f"instrument {item.id}",
            )
        elif must and item.comes_from == "":
            yield Finding(
                "caution",
                "must_keep_open",
                item.name,
                "Nobody has said yet where this will come from.",
                "",
                "Say where it comes from.",
                "brief",
                about=f"instrument {item.id}",
            )
        elif must is None and item.comes_from == "lost":
            yield Finding(
                "note",
                "cluster_item_lost",
                item.name,
                "The driver loses it with the old cluster.",
                "",
                "Tell the owner.",
                "brief",
                about=f"instrument {item.id}",
            )
    listed = {item.function for item in job.cluster}
    missing = [fact.name for key, fact in keep.items() if key not in listed]
    if missing:
        yield Finding(
            "caution",
            "not_in_inventory",
            "Cluster inventory",
            "Not looked at yet: " + ", ".join(missing).lower() + ".",
            f"{len(missing)} not listed",
            "Turn the key on, write down every lamp that lights, say for each where it goes.",
            "brief",
        )
