"""Jobs the tests share: the shipped example, and a smallest one that can be worked out by hand."""

from __future__ import annotations

import functools
from collections.abc import Iterable
from dataclasses import replace
from typing import Any

from metrolex.job import (
    Circuit,
    Conductor,
    Display,
    DisplaySupply,
    End,
    GroundPoint,
    Identity,
    Input,
    Job,
    MeasuringChain,
    Pin,
    Port,
    Readings,
    Scaling,
    Sender,
    Tap,
    Vehicle,
)
from metrolex.job.chain import taken_apart
from metrolex.job.within import replaced_within
from metrolex.jobfile import example_job_data, job_from_data, job_from_text, job_to_text
from metrolex.senders import TableCurve

CURVE = TableCurve(((1000.0, 20.0), (500.0, 50.0), (250.0, 80.0), (100.0, 120.0)))
ALWAYS = Readings(12.6, 12.6, 12.5, 10.7, 12.6, 12.5)
ALL_NIGHT = Readings(12.6, 12.6, 12.5, 10.7, 12.6, 12.5, 12.6)
RUN_AND_CRANK = Readings(0.0, 0.0, 12.4, 10.5, 0.0, 0.0)
RUN_ONLY = Readings(0.0, 0.0, 12.4, 0.1, 0.0, 0.0)
ACCESSORY = Readings(0.0, 12.5, 12.4, 0.2, 0.0, 0.0)
LAMPS = Readings(0.0, 0.0, 0.0, 0.0, 12.4, 12.3)


def a_vehicle(name: str = "v", **fields: Any) -> Vehicle:
    """A vehicle with some of its facts, each named as it stands wherever inside."""
    return replaced_within(Vehicle(Identity(name)), fields)


def with_facts(record: Any, **fields: Any) -> Any:
    """A record with some facts changed, each named as it stands wherever inside."""
    return replaced_within(record, fields)


def an_input(
    key: str,
    kind: str,
    pin: str | None = None,
    pull_up_ohm: float | None = None,
    reference_v: float | None = None,
    adc_bits: int | None = None,
    **fields: Any,
) -> Input:
    """An input of a display, its facts named as they stand wherever inside."""
    circuit = {"pull_up_ohm": pull_up_ohm, "reference_v": reference_v, "adc_bits": adc_bits}
    return with_facts(Input(key, "data"), kind=kind, pin=pin, **circuit, **fields)  # type: ignore[no-any-return]


def a_port(key: str, name: str, kind: str, thread: str = "", way_in: str = "", **fields: Any) -> Port:
    """A place for a sender, its facts named as they stand wherever inside."""
    return with_facts(Port(key, name, kind), thread=thread, way_in=way_in, **fields)  # type: ignore[no-any-return]


def shown_by(chains: Iterable[MeasuringChain]) -> dict[str, Any]:
    """Channels, sources and readouts of some chains, for a job to be made or replaced with."""
    apart = [taken_apart(chain) for chain in chains]
    lists = zip(*apart, strict=True) if apart else ((), (), ())
    return dict(zip(("channels", "sources", "readouts"), map(tuple, lists), strict=True))


@functools.cache
def shipped(name: str) -> Job:
    """A shipped example: one job for all, so that what is worked out of it is worked out once."""
    return job_from_data(example_job_data(name))


def van() -> Job:
    """The example with four gauges."""
    return shipped("van")


def unfinished_van() -> Job:
    """The shipped example before its last five wires: the oil pressure sender's, and memory and lamps of gauge 4."""
    return replace(van(), conductors=van().conductors[:21])


def small_job() -> Job:
    """One gauge, one two-wire sender, one constant circuit at its real reading, everything wired."""
    gauge = Display(
        "gauge",
        "Coolant gauge",
        (
            Pin("1", "memory", "memory", 0.01),
            Pin("2", "ignition", "ignition", 0.5),
            Pin("4", "ground", "ground"),
            Pin("5", "signal", "signal"),
            Pin("6", "return", "return"),
        ),
        (an_input("A", "pull_up", "5", 1000.0, 5.0),),
        supply=DisplaySupply(needs_crank=True),
    )
    wires = (
        Conductor("W1", End("tap", "T1"), End("display", "gauge", "1"), 0.5, length_m=1.0),
        Conductor("W2", End("tap", "T2"), End("display", "gauge", "2"), 0.75, length_m=2.0),
        Conductor("W3", End("ground", "GP1"), End("display", "gauge", "4"), 0.75, length_m=0.5),
        Conductor("W4", End("display", "gauge", "5"), End("sender", "ntc", "signal"), 0.5, length_m=3.0),
        Conductor("W5", End("display", "gauge", "6"), End("sender", "ntc", "return"), 0.5, length_m=3.0),
    )
    job = Job(
        "Coolant gauge",
        a_vehicle("Sidecar outfit"),
        **shown_by(
            (
                MeasuringChain(
                    "coolant",
                    "Coolant",
                    "coolant_temperature",
                    "degC",
                    "gauge",
                    "A",
                    "ntc",
                    "plug",
                    None,
                    20.0,
                    80.0,
                    Scaling(CURVE.points, "ohm", 0, 20.0, 120.0),
                    warn_high=110.0,
                ),
            )
        ),
        displays=(gauge,),
        senders=(Sender("ntc", "NTC, two wires", CURVE),),
        ports=(Port("plug", "Head plug", "head plug"),),
        circuits=(
            Circuit("F1", "Mirrors", rating_a=10, readings=ALL_NIGHT, fuse_pulled_dead=True),
            Circuit("F2", "Windows", rating_a=15, readings=RUN_AND_CRANK, fuse_pulled_dead=True),
        ),
        taps=(Tap("T1", "constant", "F1", 1.0), Tap("T2", "ignition_crank", "F2", 2.0)),
        grounds=(GroundPoint("GP1", "Headlamp bracket", reads_v=12.6),),
        conductors=wires,
    )
    return job_from_text(job_to_text(job))


def with_chain(job: Job, **changes: object) -> Job:
    """The job with its first channel changed."""
    return job.with_chain(replace(job.chains[0], **changes))


def _with(part: Any, **changes: object) -> Any:
    """A part with fields of its own, or facts that stand deeper, changed."""
    own = {name: value for name, value in changes.items() if hasattr(part, name)}
    facts = {name: value for name, value in changes.items() if name not in own}
    return with_facts(replace(part, **own), **facts)


def with_part(job: Job, kind: str, key: str, **changes: object) -> Job:
    """The job with one part of a list changed."""
    parts = tuple(_with(p, **changes) if p.id == key else p for p in getattr(job, kind))
    assert parts != getattr(job, kind), f"no {kind} called {key}"
    return replace(job, **{kind: parts})
