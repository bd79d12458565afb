"""What can hurt in 2,000 jobs drawn at random: no order, no plan of days and no rest after any done step leaves it open.

The checker walks through an order as a fitter does and knows nothing of needs and states: only what kind of step it is, what is opened in it by the
tables of places, which battery and which trim it wants.
"""

from __future__ import annotations

import datetime
import random
from dataclasses import replace

import pytest

from metrolex.errors import BadInput
from metrolex.job.brief import Choice
from metrolex.job.work import OwnStep, Worked
from metrolex.jobfile import EXAMPLES
from metrolex.mount.held import cure_of, holds
from metrolex.ports.places import place_of, places_for, port_at
from metrolex.twin import build
from metrolex.workorder.hazards import ENGINE_STILL
from metrolex.workorder.left import days_left
from metrolex.workorder.plan import plan_of_work
from metrolex.workorder.schools import schools
from metrolex.workorder.sheet import sheet_of_work
from tests.jobs import shipped

AT = datetime.datetime(2027, 3, 8, 7, 0, tzinfo=datetime.UTC)
OWN = (
    ("Oil filter changed", "drained oil"),
    ("Thermostat changed", "drained coolant"),
    ("Gearbox filter changed", "drained gearbox"),
    ("Fuel filter changed", "fuel depressurised"),
    ("Hangers looked at", "lifted"),
)
TURNS = ("prove_crank", "prove_engine_running", "prove_warm", "prove_drive")


def a_job(rng):
    """One of the examples with other places, holders, airbags, schools and steps of the fitter's own."""
    job = shipped(rng.choice(EXAMPLES))
    ports = list(job.ports)
    for chain in job.measured:
        if chain.port and chain.sender and rng.random() < 0.6:
            kinds = [place.kind for place in places_for(chain.measurand)]
            if kinds:
                fresh = port_at(chain.measurand, rng.choice(kinds), chain.port)
                ports = [
                    replace(fresh, channel=one.channel) if one.id == chain.port else one for one in ports
                ]
    holders = [hold.key for hold in holds()]
    mountings = tuple(
        replace(one, held_by=(rng.choice(holders),)) if rng.random() < 0.7 else one for one in job.mountings
    )
    sites = tuple(replace(site, airbag=rng.choice(("", "none", "there"))) for site in job.sites)
    zones = tuple(replace(zone, airbag=rng.choice(("", "none", "there"))) for zone in job.zones)
    own = tuple(
        OwnStep(f"S{i}", name, states=(state,))
        for i, (name, state) in enumerate(rng.sample(OWN, rng.randrange(4)))
    )
    chosen = tuple(f"{school.key}={rng.choice(school.ways).key}" for school in schools())
    brief = job.brief
    if rng.random() < 0.3:
        brief = replace(brief, practices=(*brief.practices, Choice("fuel_opening", ENGINE_STILL)))
    return replace(
        job,
        ports=tuple(ports),
        mountings=mountings,
        sites=sites,
        zones=zones,
        own_steps=own,
        brief=brief,
        work_hours=replace(job.work_hours, schools=chosen),
    )


class Bay:
    """The vehicle as the steps leave it, one after the other; complains of what would hurt."""

    def __init__(self, job, planned):
        self.job, self.planned = job, {one.key: one for one in planned}
        self.open, self.drained, self.fuel_off, self.primed = set(), set(), False, True
        self.welds = {one.key for one in planned if one.kind == "open" and self._welded(one)}
        self.done = set()

    def _port(self, one):
        chain = next(c for c in self.job.measured if c.channel == one.part)
        port = self.job.port(chain.port)
        return chain, port, place_of(chain.measurand, port)

    def _welded(self, one):
        _, port, place = self._port(one)
        return (port.spot.entry or place.entry) == "welded"

    def _into_something(self, one):
        """Whether something is let out or in there: a lever, a wheel, the outside of a sump are not opened."""
        _, _, place = self._port(one)
        return bool(place.fluid) or place.path in ("exhaust", "intake", "fuel")

    def _in_fuel(self, one):
        if one.kind in ("open", "fit"):
            chain, _, place = self._port(one)
            return "tank" if chain.measurand == "fuel_level" else "line" if place.fluid == "fuel" else ""
        return "line" if one.own and "Fuel" in one.step.name else ""

    def step(self, one):
        wants, fuel = set(one.step.needs), self._in_fuel(one)
        on, off = "not battery off" in wants, "battery off" in wants
        assert not (on and off), one.step.name
        runs = one.kind == "let_down" and not any(
            choice.topic == "fuel_opening" and choice.practice == ENGINE_STILL
            for choice in self.job.brief.practices
        )
        if one.kind == "let_down" and not runs:
            assert off, "fuel into a rag with the battery on"
        if one.kind in TURNS or runs:
            assert on, f"{one.step.name}: battery off"
            assert not self.open, f"{one.step.name}: open {self.open}"
            assert not self.drained, f"{one.step.name}: without {self.drained}"
            assert "lifted" not in wants
            assert one.kind == "let_down" or self.primed, f"{one.step.name}: fuel joints never seen dry"
        if fuel == "line":
            assert self.fuel_off, f"{one.step.name}: under pressure"
        if fuel:
            assert off, f"{one.step.name}: sparks at an open fuel system"
        if on and one.kind not in ("find_feeds", "let_down"):
            assert not {key for key in self.open if self._in_fuel(self.planned[key])}, one.step.name
        if one.key in self.welds:
            assert off, f"{one.step.name}: welding with the battery on"
            assert not {key for key in self.open if self._in_fuel(self.planned[key])}, one.step.name
        if self._at_airbag(one):
            assert off, f"{one.step.name}: airbag trim with the battery on"
            assert one.step.needs.index("battery off") < one.step.needs.index("airbag trim out")
        if on:
            assert "not airbag trim out" in wants or not any(map(self._at_airbag, self.planned.values()))
        self._after(one, fuel)

    def _at_airbag(self, one):
        if one.kind != "mount":
            return False
        mounting = next((m for m in self.job.mountings if m.display == one.part), None)
        return mounting is not None and self.job.site(mounting.site).airbag == "there"

    def _after(self, one, fuel):
        if one.kind == "let_down":
            self.fuel_off = True
        if one.kind == "open" and self._into_something(one):
            assert not self.welds or one.key in self.welds or not fuel or self.welds <= self.done, (
                one.step.name
            )
            self.open.add(one.key)
        if one.kind == "fit":
            self.open.discard(f"open {one.part}")
        if fuel == "line":
            self.primed = False
        if one.kind == "prime":
            assert "not battery off" in one.step.needs
            assert not {key for key in self.open if self._in_fuel(self.planned[key])}
            self.primed = True
        self.drained |= {need for need in one.step.needs if need.startswith("drained ")}
        if one.kind == "refill":
            self.drained -= {need.removeprefix("not ") for need in one.step.needs}
        self.done.add(one.key)


def walked(job, planned, order, done=()):
    bay = Bay(job, planned)
    for one in (*done, *order):
        bay.step(one)
    assert not bay.open
    assert not bay.drained
    assert bay.primed


@pytest.mark.parametrize("seed", range(4))
def test_nothing_that_hurts_stands_open(seed, sample, truth):
    rng, count, tried, refused = random.Random(seed), sample(8, 500), 0, 0
    while tried < count:
        job = a_job(rng)
        try:
            plan = plan_of_work(build(job))
        except BadInput:
            refused += 1
            assert refused < count
            continue
        tried += 1
        order = [plan.by_name[one.step.name] for one in plan.ordered.sequence]
        walked(job, plan.planned, order)
        _glue_rests(job, plan)
        for day in _days(job):
            assert not (day.may_be_driven and _half_done(day, job))
        done = order[: rng.randrange(len(order))]
        job = replace(job, work=tuple(Worked(f"W{i}", one.key, "done") for i, one in enumerate(done)))
        sheet = sheet_of_work(build(job))
        rest = [row.planned for row in sheet.rows if row.still_open]
        walked(job, plan.planned, rest, done)
    truth(
        f"what can hurt, seed {seed}",
        "jobs drawn at random: places, holders, airbags, schools, own steps",
        f"{count} jobs, each with a rest",
        f"0 orders leave anything open; {refused} more were refused in words",
    )


def _days(job):
    network = build(job)
    return days_left(job, sheet_of_work(network, AT), AT)


def _half_done(day, job):
    """Whether a day ends between letting the fuel down and priming, or before what was glued that day can have cured."""
    kinds = [slot.planned.kind for slot in day.slots]
    if "let_down" in kinds and "prime" not in kinds:
        return True
    for slot in day.slots:
        mounting = next((m for m in job.mountings if slot.planned.key == f"mount {m.display}"), None)
        if mounting is not None and cure_of(mounting) >= 12 * 60:
            return True
    return False


def _glue_rests(job, plan):
    """Nothing is driven before what was glued has had its time."""
    at = {one.step.name: one for one in plan.ordered.sequence}
    drive = next((one for one in plan.planned if one.kind == "prove_drive"), None)
    for one in plan.planned:
        if drive is not None and one.kind == "mount" and one.step.wait_minutes:
            assert at[drive.step.name].start_min >= at[one.step.name].end_min + one.step.wait_minutes - 1e-6


def test_a_step_that_wants_oil_in_and_out_is_told_and_no_order_shown():
    job = shipped("van")
    both = replace(
        job, own_steps=(OwnStep("S1", "Pressure tested", states=("drained oil", "not drained oil")),)
    )
    with pytest.raises(BadInput, match=r"Pressure tested.*drained oil is wanted and ended"):
        plan_of_work(build(both))
    circle = replace(
        job,
        own_steps=(
            OwnStep(
                "S1",
                "Oil let out for good",
                states=("drained oil",),
                after=("prove_drive drive",),
                before=("prove_crank crank",),
            ),
        ),
    )
    with pytest.raises(BadInput, match="wait for one another"):
        plan_of_work(build(circle))
