"""A vehicle on the doorstep with one gauge that is wrong: five answers make a small job with all that is usual about it, and a search."""

from __future__ import annotations

from dataclasses import replace

from metrolex.acts.channels import add_channel
from metrolex.acts.faults import begin_search
from metrolex.acts.harness import lay_wires
from metrolex.acts.ports import choose_place, choose_sender, offered_senders
from metrolex.acts.scaling import Asked, take_rows
from metrolex.errors import BadInput
from metrolex.harness.plan import Lengths, RunLength
from metrolex.intake import read
from metrolex.job import Circuit, GroundPoint, Identity, Job, Readings, Tap, Vehicle
from metrolex.job.references import check_references
from metrolex.job.within import replaced_within
from metrolex.kit import measurands
from metrolex.ports.compare import candidates_for

__all__ = ["QUICK", "quick_look"]

#: What a quick look can be of: counted readings and those that ride on another's pulses want more than five answers.
QUICK = tuple(
    facts.id for facts in measurands() if facts.id not in {"road_speed", "engine_speed", "fuel_temperature"}
)

FEED_M, WAY_M, GROUND_M = 1.5, 3.0, 0.6  # usual lengths of wire (common practice, no source)
ROWS = 8
NOT_MEASURED = "taken as usual, not measured here"
DROP_V, CRANK_V = (
    0.1,
    2.0,
)  # along the feed; what the battery loses to the starter (common practice, no source)
CIRCUITS = (
    ("F1", "Clock", "constant", 1.0, "on on on crank on on on"),
    ("F2", "Windows", "ignition_crank", 2.0, "off off on crank off off off"),
    ("F3", "Number plate lamp", "lamps", 1.0, "off off off off on on off"),
)
STATES = ("off", "acc", "run", "crank", "park", "head", "later")


def quick_look(measurand: str, sender: str, *, lit: bool, rest_v: float, word: str, day: str) -> Job:
    """The job: one gauge for ``measurand`` with its ``sender`` ('' for the usual one), fed and wired as is usual, and the search begun with ``word``.

    Raises BadInput for a measurand, a sender or a word nobody knows.
    """
    if measurand not in QUICK:
        raise BadInput(
            "measurand",
            measurand,
            " | ".join(QUICK),
            "This one wants more than a quick look: make a job of it.",
        )
    vehicle = replaced_within(Vehicle(Identity("Vehicle on the doorstep")), {"rest_v": rest_v})
    job = add_channel(Job("Quick look", vehicle), measurand, lit=lit)
    chain = job.chains[0]
    job = replace(job, name=f"Quick look: {chain.name.lower()}")
    offered = offered_senders(job, chain, {})
    if sender and sender not in offered:
        raise BadInput("sender", sender, " | ".join(offered))
    if sender or offered:
        job = choose_sender(job, chain.id, sender or offered[0])
    places = candidates_for(job, job.chains[0], ())
    if places:
        job = choose_place(job, chain.id, places[0].port.id)
    job = _fed(job, rest_v, lit=lit)
    ways = tuple(RunLength(run.id, WAY_M) for run in job.runs)
    job = lay_wires(job, Lengths(FEED_M, GROUND_M, runs=ways))
    job = _set_up(job)
    check_references(job)
    return begin_search(job, day, word, chain.id if word else "")


def _set_up(job: Job) -> Job:
    """A gauge made for its sender: a table that follows it, where it has none."""
    chain = job.chains[0]
    if chain.scaling.table or job.heard(chain) is None:
        return job
    try:
        job = take_rows(job, chain.id, Asked(ROWS))
    except BadInput:  # what is counted, or comes as data, has no table
        return job
    chain = job.chains[0]
    return job.with_chain(replace(chain, scaling=replace(chain.scaling, assumed=True)))


def _fed(job: Job, rest_v: float, *, lit: bool) -> Job:
    wanted = [row for row in CIRCUITS if lit or row[2] != "lamps"]
    volts = {"on": rest_v - DROP_V, "off": 0.0, "crank": rest_v - CRANK_V}
    circuits = tuple(
        Circuit(
            key,
            purpose,
            rating_a=10.0,
            readings=read(Readings, dict(zip(STATES, (volts[word] for word in stands.split()), strict=True))),
            fuse_pulled_dead=True,
        )
        for key, purpose, _, _, stands in wanted
    )
    taps = tuple(
        Tap(f"T{i}", need, key, fuse, why=NOT_MEASURED)  # type: ignore[arg-type]
        for i, (key, _, need, fuse, _) in enumerate(wanted, 1)
    )
    ground = GroundPoint("GP1", "Bare metal near the gauge", surface=NOT_MEASURED, reads_v=rest_v)
    survey = replace(
        job.survey,
        notes="A quick look: feeds, their readings, the ground, lengths and the place are taken as usual; none of them was measured here.",
    )
    return replace(job, circuits=circuits, taps=taps, grounds=(ground,), survey=survey)
