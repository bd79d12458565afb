"""Aims, sources and prerequisites; the survey; the cluster's inventory; what is at hand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any, cast

from metrolex.acts.channels import add_channel, has_dash
from metrolex.acts.edit import free_id, in_old_order, replaced, with_fields
from metrolex.brief.planner import aims, has_word, propose, sources_for
from metrolex.brief.shopping import shopping_list
from metrolex.brief.survey import cluster_facts
from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import Alternative, Brief, ClusterItem, Job, KitItem, MeasuringChain, Survey
from metrolex.job.source import SourceKind
from metrolex.job.within import replaced_within

__all__ = [
    "add_alternative",
    "add_cluster_item",
    "add_proposed",
    "answer",
    "choose_source",
    "measure_vehicle",
    "set_aims",
    "set_brief",
    "set_ceiling",
    "set_cluster",
    "set_electrics",
    "set_kit",
    "set_rate",
    "set_survey",
    "stop_removing",
    "take_alternative",
]


def set_brief(job: Job, name: str, vehicle: Mapping[str, Any], brief: Mapping[str, Any]) -> Job:
    """The job's name, and the named fields of vehicle and brief; every other field as it stands."""
    return replace(
        job, name=name, vehicle=replaced_within(job.vehicle, vehicle), brief=replaced_within(job.brief, brief)
    )


def set_electrics(job: Job, fields: Mapping[str, Any]) -> Job:
    """The named fields of the vehicle's electrics: battery, starter, straps, loads; every other as it stands."""
    electrics = replaced_within(job.vehicle.electrics, fields)
    return replace(job, vehicle=replace(job.vehicle, electrics=electrics))


def measure_vehicle(job: Job, volts: Mapping[str, float | None], day: str) -> Job:
    """How the vehicle stands: rest_v, charging_v, cranking_v as read. The day is written down where one of them is another than before."""
    state = job.vehicle.electrics.state
    if all(getattr(state, name) == value for name, value in volts.items()):
        return job
    return set_electrics(job, {**volts, "measured_on": day})


def set_ceiling(job: Job, ethanol_pct: float | None) -> Job:
    """How much ethanol the tune allows, in percent by volume."""
    return replace(job, vehicle=replaced_within(job.vehicle, {"ethanol_ceiling_pct": ethanol_pct}))


def set_aims(job: Job, wanted: list[str]) -> Job:
    """The job with what its owner fears or wants. Raises BadInput for an unknown aim."""
    known = [aim.key for aim in aims()]
    for key in wanted:
        if key not in known:
            raise BadInput("aims", key, " | ".join(known))
    return replace(job, brief=replace(job.brief, aims=tuple(in_old_order(job.brief.aims, wanted))))


def add_proposed(job: Job) -> Job:
    """The job with every channel its aims propose that is not there yet."""
    dash = any(has_dash(display) for display in job.displays)
    for proposal in propose(job):
        if not proposal.there:
            job = add_channel(job, proposal.measurand, on_dash=dash)
    return job


def choose_source(job: Job, channel_id: str, source: str) -> Job:
    """The job with a channel's signal from another source; ready-made ones need no sender, port or run.

    Raises BadInput (``source``) for one this vehicle does not have.
    """
    channel = job.chain(channel_id)
    if channel is None:
        raise BadInput("channel", channel_id, ", ".join(c.id for c in job.chains))
    choices = {choice.key: choice for choice in sources_for(job, channel.measurand)}
    choice = choices.get(cast(SourceKind, source))
    if choice is None:
        raise BadInput("source", source, " | ".join(choices))
    if choice.why_not:
        raise BadInput("source", source, "a source this vehicle has", choice.why_not)
    return job.with_chain(_with_source(job, channel, choice.key))


def _with_source(job: Job, channel: MeasuringChain, source: SourceKind) -> MeasuringChain:
    if source in ("sender", "shared"):
        return replace(channel, source=source)
    display = job.display(channel.display)
    stage = next((s for s in display.inputs if s.kind == "data"), None) if display else None
    if stage is None and channel.measurand != "supply_voltage":
        raise BadInput(
            "source",
            source,
            "a display that takes data",
            f"{channel.display or 'The display'} has no data input: take a dash that reads data, or a sender.",
        )
    kept = channel.input if channel.measurand == "supply_voltage" else (stage.id if stage else None)
    return replace(channel, source=source, input=kept, sender=None, port=None)


def answer(job: Job, word: str, there: str) -> Job:
    """The job with a question about the vehicle answered: 'yes', 'no', or '' for not known."""
    if there not in ("yes", "no", ""):
        raise BadInput("there", there, "yes | no | not known")
    kept = tuple(item for item in job.vehicle.has if item not in (word, f"no {word}"))
    if there:
        kept = (*kept, word if there == "yes" else f"no {word}")
    after = replace(job, vehicle=replace(job.vehicle, has=kept))
    if there == "" and has_word(after.vehicle, word) is not None:
        raise BadInput(
            "there", there, "an answer", "This follows from the vehicle itself: change it on Brief."
        )
    return after


def set_survey(job: Job, data: dict[str, Any]) -> Job:
    """The job with what was found before the work. Raises BadInput."""
    return replace(job, survey=read(Survey, {**dump(job.survey), **data}, "survey"))


def set_cluster(job: Job, key: str, comes_from: str, how: str) -> Job:
    """The job with a word on where one lamp or reading of the old cluster will come from."""
    item = next((item for item in job.cluster if item.id == key), None)
    if item is None:
        raise BadInput(
            "item", key, ", ".join(item.id for item in job.cluster) or "nothing: start the inventory first"
        )
    return replace(
        job, cluster=with_fields(job.cluster, ClusterItem, key, {"comes_from": comes_from, "how": how})
    )


def add_cluster_item(job: Job, name: str) -> Job:
    """The job with one more thing the old cluster told. Raises BadInput without a name."""
    if not name.strip():
        raise BadInput("name", name, "what it told", "Say what the lamp or reading was.")
    key = free_id(name.strip().lower()[:50], (item.id for item in job.cluster))
    known = {fact.name.lower(): fact.key for fact in cluster_facts()}
    return replace(
        job, cluster=(*job.cluster, ClusterItem(key, name.strip(), known.get(name.strip().lower(), "other")))
    )


def never_had(job: Job, key: str) -> Job:
    """The job with an item the vehicle never had; one the fitter added himself is taken out."""
    item = next((item for item in job.cluster if item.id == key), None)
    if item is not None and item.function == "other":
        return replace(job, cluster=tuple(other for other in job.cluster if other.id != key))
    return set_cluster(job, key, "never", "")


def stop_removing(job: Job) -> Job:
    """The factory cluster stays; the inventory is kept."""
    return replace(job, brief=replace(job.brief, cluster_removed=False))


def set_kit(job: Job, key: str, have: float, price: float | None = None) -> Job:
    """The job with how many of a thing are at hand and what one costs (None: not known)."""
    if have < 0:
        raise BadInput("have", have, "0 or more")
    if price is not None and price < 0:
        raise BadInput("price", price, "0 or more")
    name = next((item.name for item in shopping_list(job) if item.key == key), None)
    if name is None:
        raise BadInput("item", key, "something this job needs")
    if have == 0 and price is None:
        return replace(job, kit=tuple(item for item in job.kit if item.id != key))
    return replace(job, kit=replaced(job.kit, KitItem(key, name, have, price)))


def set_rate(job: Job, currency: str, rate_per_h: float | None, loom: str) -> Job:
    """What an hour costs, in which money, and at which level the loom is bought. Raises BadInput."""
    facts = {"currency": currency, "rate_per_h": rate_per_h, "loom": loom}
    return replace(job, brief=read(Brief, {**dump(job.brief), **facts}, "brief"))


def add_alternative(job: Job, name: str, parts: float, hours: float) -> Job:
    """Another way to do the job. Raises BadInput without a name."""
    if not name.strip():
        raise BadInput(
            "name", name, "a name for it", "Say what the other way is, like: one dash in place of the gauges."
        )
    key = free_id("way 1", (one.id for one in job.brief.alternatives))
    more = (*job.brief.alternatives, Alternative(key, name.strip(), parts, hours))
    return replace(job, brief=replace(job.brief, alternatives=more))


def take_alternative(job: Job, key: str) -> Job:
    """One way less. Raises BadInput."""
    left = tuple(one for one in job.brief.alternatives if one.id != key)
    if len(left) == len(job.brief.alternatives):
        raise BadInput(
            "way", key, ", ".join(one.id for one in job.brief.alternatives) or "nothing: there is none"
        )
    return replace(job, brief=replace(job.brief, alternatives=left))
