"""What is changed after the handing over: just that, with what follows from it written down."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts import later as acts
from metrolex.acts.later import Told
from metrolex.errors import BadInput
from metrolex.job import Job
from metrolex.jobfile import job_from_text, job_to_text
from metrolex.speed.tyres import read_tyre
from tests.jobs import shipped

TOLD = Told("2026-11-29", 84_120.0, "at the spring service")


def road_job(enters: str = "pulses_per_km", setting: float = 5000.0, tyre: str = "205/55R16") -> Job:
    job = shipped("fire_tender")
    chain = next(c for c in job.chains if c.road)
    road = replace(
        chain.road,
        sensed="wheel",
        enters=enters,
        setting=setting,
        step=1.0,
        runs=(),
        driven_with=None,
        circumference_m=None,
    )
    driveline = replace(job.vehicle.driveline, tyre=tyre, tyre_wear_mm=0.0)
    return replace(job, vehicle=replace(job.vehicle, driveline=driveline)).with_chain(
        replace(chain, road=road)
    )


def road_of(job: Job):
    return next(c for c in job.chains if c.road).road


@pytest.mark.parametrize(("enters", "setting"), [("pulses_per_km", 5000.0), ("circumference_mm", 1927.0)])
def test_new_tyres_turn_the_setting_by_their_sizes(enters: str, setting: float) -> None:
    """By hand: 205/55R16 is 631.9 mm high, 215/60R16 is 664.4 mm; pulses a km fall by the ratio, the way around grows by it."""
    ratio = (406.4 + 2 * 0.60 * 215) / (406.4 + 2 * 0.55 * 205)
    assert read_tyre("215/60R16").diameter_m / read_tyre("205/55R16").diameter_m == pytest.approx(ratio)
    after = acts.new_tyres(road_job(enters, setting), "215/60R16", TOLD)
    wanted = setting / ratio if enters == "pulses_per_km" else setting * ratio
    assert abs(road_of(after).setting - wanted) < 1.0
    shows_over = (
        road_of(after).setting <= wanted if enters == "pulses_per_km" else road_of(after).setting >= wanted
    )
    assert shows_over
    assert road_of(after).before[-1].setting == setting
    assert road_of(after).runs == ()
    assert after.vehicle.driveline.tyre == "215/60R16"
    (page,) = after.later
    assert (page.kind, page.was, page.now, page.km) == ("tyres", "205/55R16", "215/60R16", 84_120.0)
    assert f"becomes {road_of(after).setting:g}" in page.follows[0]
    assert job_from_text(job_to_text(after)) == after


def test_where_the_old_size_is_not_known_the_setting_stands_and_that_is_said() -> None:
    after = acts.new_tyres(road_job(tyre=""), "215/60R16", TOLD)
    assert road_of(after).setting == 5000.0
    assert "not known" in after.later[0].follows[0]


@pytest.mark.parametrize("tyre", ["", "round ones", "0/0R0"])
def test_a_tyre_that_cannot_be_is_refused(tyre: str) -> None:
    with pytest.raises(BadInput):
        acts.new_tyres(road_job(), tyre, TOLD)


def test_new_software_has_its_set_up_and_its_readings_looked_at_again() -> None:
    job = shipped("van")
    display = job.settings[0].display
    job = replace(job, settings=tuple(replace(one, done=True) for one in job.settings))
    after = acts.new_software(job, display, "2.4", TOLD)
    assert after.display(display).set_up.firmware == "2.4"
    assert not any(one.done for one in after.settings if one.display == display)
    shown = {c.id for c in job.chains if c.display == display}
    assert any(o.test.kind == "readout" and o.test.id in shown for o in job.observations)
    assert not any(o.test.kind == "readout" and o.test.id in shown for o in after.observations)
    kept = [o for o in job.observations if o.test.id not in shown and o.test.pin not in shown]
    assert [o for o in kept if o.test.kind != "sender"] == [
        o for o in after.observations if o.test.kind != "sender"
    ]
    with pytest.raises(BadInput):
        acts.new_software(job, display, " ", TOLD)
    with pytest.raises(BadInput):
        acts.new_software(job, "gauge 99", "1", TOLD)


def test_another_sender_brings_its_law_and_is_proved_again() -> None:
    job = shipped("van")
    assert any(o.test.kind == "sender" and o.test.id == "coolant sender" for o in job.observations)
    after = acts.new_sender(job, "coolant", "NTC, two wires, 1/8-27 NPT", {}, TOLD)
    fresh = after.sender("coolant sender")
    assert fresh.name == "NTC, two wires, 1/8-27 NPT"
    assert not fresh.measured
    assert not any(o.test.id in ("coolant sender", "coolant") for o in after.observations)
    assert after.later[0].was == job.sender("coolant sender").called
    assert after.chain("coolant").scaling == job.chain("coolant").scaling
    with pytest.raises(BadInput):
        acts.new_sender(job, "coolant", "a brick", {}, TOLD)


def test_another_tank_is_to_be_dipped_again() -> None:
    job = shipped("fire_tender")
    chain = next(c for c in job.chains if c.tank)
    after = acts.new_tank(job, chain.id, chain.tank.capacity_l + 20, TOLD)
    tank = after.chain(chain.id).tank
    assert (tank.capacity_l, tank.fillings, tank.empty_ohm) == (chain.tank.capacity_l + 20, (), None)
    assert tank.reserve_l == chain.tank.reserve_l
    assert after.later[0].kind == "tank"
    with pytest.raises(BadInput, match="reserve"):
        acts.new_tank(job, chain.id, chain.tank.reserve_l, TOLD)
    with pytest.raises(BadInput):
        acts.new_tank(job, "coolant", 50.0, TOLD)


def test_a_page_can_be_taken_out_again() -> None:
    job = acts.new_tyres(road_job(), "215/60R16", TOLD)
    job = acts.new_tyres(job, "225/60R16", TOLD)
    assert [one.id for one in job.later] == ["L1", "L2"]
    assert [one.id for one in acts.forget_later(job, "L1").later] == ["L2"]
    with pytest.raises(BadInput):
        acts.forget_later(job, "L9")
