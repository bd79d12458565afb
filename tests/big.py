"""Jobs of any size, for what must hold or be fast at forty wires, forty runs, sixty slots."""

from __future__ import annotations

import random
from dataclasses import replace
from typing import Any

from metrolex.harness.plan import plan_wires
from metrolex.job import (
    Channel,
    Circuit,
    Conductor,
    End,
    Face,
    GroundPoint,
    Job,
    MeasuringChain,
    Mounting,
    Page,
    Run,
    Splice,
    Tap,
    Way,
)
from metrolex.kit import display_kit, sender_kit
from metrolex.layout.templates import layout_called
from metrolex.limits import most_of
from metrolex.mount.templates import site_templates
from tests.jobs import ALWAYS, LAMPS, RUN_AND_CRANK, a_port, a_vehicle, shown_by, with_facts

__all__ = ["big_job", "big_sheet", "full_job"]


def big_job(gauges: int = 6, layout: str = "van") -> Job:
    """Pressure gauges, each with its own three-wire sender, fed and grounded, every wire laid along the plan."""
    plan = layout_called(layout)
    displays, channels, senders, ports, runs = [], [], [], [], []
    zones = [zone.id for zone in plan.zones]
    for i in range(1, gauges + 1):
        kit = display_kit("round gauge, pressure", f"gauge {i}", f"Pressure {i}")
        displays.append(with_facts(kit.display, lighting="dims"))
        senders.append(sender_kit("pressure, 0.5 to 4.5 V, 10 bar", f"sender {i}"))
        ports.append(a_port(f"port {i}", f"Port {i}", "own"))
        runs.append(
            Run(f"run {i}", f"Run {i}", start=zones[i % len(zones)], finish=zones[(i * 7 + 3) % len(zones)])
        )
        channels.append(
            MeasuringChain(
                f"p{i}",
                f"Pressure {i}",
                "oil_pressure",
                "bar",
                f"gauge {i}",
                "A",
                f"sender {i}",
                f"port {i}",
                f"run {i}",
                0.0,
                4.0,
                kit.scaling,
            )
        )
    circuits = (
        Circuit("F1", "Clock", rating_a=10, readings=ALWAYS, fuse_pulled_dead=True),
        Circuit("F2", "Windows", rating_a=15, readings=RUN_AND_CRANK, fuse_pulled_dead=True),
        Circuit("F3", "Parking lamps", rating_a=10, readings=LAMPS, fuse_pulled_dead=True),
    )
    job = Job(
        "Big",
        a_vehicle("Test bench"),
        displays=tuple(displays),
        **shown_by(tuple(channels)),
        senders=tuple(senders),
        ports=tuple(ports),
        runs=(*runs, Run("feed run", "Feeds", start=zones[4], finish=zones[5])),
        circuits=circuits,
        grounds=(GroundPoint("GP1", "Bolt", reads_v=12.6),),
        taps=(
            Tap("T1", "constant", "F1", 1.0),
            Tap("T2", "ignition_crank", "F2", 5.0),
            Tap("T3", "lamps", "F3", 2.0),
        ),
        zones=plan.zones,
        ways=plan.ways,
        openings=plan.openings,
    )
    return plan_wires(job).job


def big_sheet(slots: int = 60) -> list[Circuit]:
    """A probe sheet of many slots of every kind."""
    kinds = (
        ALWAYS,
        RUN_AND_CRANK,
        LAMPS,
        replace(ALWAYS, later=0.0),
        replace(RUN_AND_CRANK, crank=0.1),
        replace(RUN_AND_CRANK, acc=12.4, crank=0.1),
    )
    names = ("Radio", "Mirrors", "Body module", "Airbag", "Beacon", "Parking lamps", "Wipers")
    return [
        Circuit(
            f"F{i}",
            names[i % len(names)],
            rating_a=(5.0, 10.0, 15.0)[i % 3],
            readings=kinds[i % len(kinds)],
            fuse_pulled_dead=True if i % 4 else None,
        )
        for i in range(slots)
    ]


def full_job(seed: int = 0) -> Job:
    """A job whose lists are as long as they may be, drawn by a seed; electrically whole, as a fleet of mistakes would be."""
    draw = random.Random(seed)
    job = big_job(most_of("displays"))
    splices = [Splice(f"X{i}", f"Extra {i}") for i in range(_room("splices", job))]
    known = [End("splice", s.id) for s in (*job.splices, *splices)]
    wires = [
        Conductor(
            f"E{i}", draw.choice(known), End("splice", splices[i % len(splices)].id), 0.75, length_m=1.0
        )
        for i in range(_room("conductors", job))
    ]
    zones = [
        replace(job.zones[i % len(job.zones)], id=f"z{i}", name=f"Zone {i}")
        for i in range(_room("zones", job))
    ]
    places = [z.id for z in (*job.zones, *zones)]
    ways = [
        Way(f"y{i}", *draw.sample(places, 2), length_m=draw.uniform(0.2, 3.0))
        for i in range(_room("ways", job))
    ]
    channels = [
        Channel(f"c{i}", f"Channel {i}", "oil_pressure", "bar") for i in range(_room("channels", job))
    ]
    return replace(
        job,
        splices=(*job.splices, *splices),
        conductors=(*job.conductors, *(w for w in wires if w.a != w.b)),
        zones=(*job.zones, *zones),
        ways=(*job.ways, *ways),
        channels=(*job.channels, *channels),
        ports=(*job.ports, *(a_port(f"o{i}", f"Place {i}", "own") for i in range(_room("ports", job)))),
        circuits=(*job.circuits, *(replace(c, id=f"X{c.id}") for c in big_sheet(_room("circuits", job)))),
        **_dash_full(job, draw),
    )


def _dash_full(job: Job, draw: random.Random) -> dict[str, Any]:
    """Sites, parts, places, pages and faces, as many as may be."""
    templates = site_templates()
    sites = tuple(
        replace(templates[i % len(templates)].site, id=f"s{i}", measured=True)
        for i in range(most_of("sites"))
    )
    part = next(one for template in templates for one in template.fixtures)
    return {
        "sites": sites,
        "fixtures": tuple(
            replace(
                part,
                id=f"d{i}",
                site=f"s{i % len(sites)}",
                x=draw.uniform(-150, 150),
                y=draw.uniform(-80, 80),
            )
            for i in range(most_of("fixtures"))
        ),
        "mountings": tuple(
            Mounting(
                f"m{i}",
                display.id,
                f"s{i % len(sites)}",
                draw.uniform(-120, 120),
                draw.uniform(-60, 60),
                draw.uniform(0, 60),
            )
            for i, display in enumerate(job.displays)
        ),
        "pages": tuple(
            Page(f"g{i}", job.displays[i % len(job.displays)].id, f"Page {i}")
            for i in range(most_of("pages"))
        ),
        "faces": tuple(
            Face(f"f{i}", f"g{i % most_of('pages')}", "round", job.channels[i % len(job.channels)].id)
            for i in range(most_of("faces"))
        ),
    }


def _room(kind: str, job: Job) -> int:
    return most_of(kind) - len(getattr(job, kind))
