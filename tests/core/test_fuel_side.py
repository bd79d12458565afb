"""Fuel pressure by system: the rail of a high-pressure system is never offered, what is not known is not fine."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.fuel.systems import fuel_systems, may_be_high_pressure
from metrolex.job import Job, MeasuringChain
from metrolex.job.within import replaced_within
from metrolex.kit import facts_for, sender_kit
from metrolex.ports.compare import candidates_for
from metrolex.ports.paths import paths_for
from metrolex.ports.rules import port_findings
from tests.jobs import a_vehicle, shown_by, with_facts

TEN_BAR = "pressure, 0.5 to 4.5 V, 10 bar"


def job_with(fuel="petrol", feed="", sender=TEN_BAR, paths=True, **channel):
    vehicle = a_vehicle("Hill-climb single-seater", burns=fuel, fuel_feed=feed)
    fuel_pressure = MeasuringChain(
        "fuel pressure", "Fuel pressure", "fuel_pressure", "bar", sender="s", **channel
    )
    return Job(
        "Fuel",
        vehicle,
        **shown_by((fuel_pressure,)),
        senders=(sender_kit(sender, "s"),),
        paths=paths_for(vehicle) if paths else (),
    )


def codes(candidate):
    return {(f.grade, f.code) for f in candidate.findings}


HIGH = [
    ("petrol", "direct_injection"),
    ("diesel", "common_rail"),
    ("diesel", "diesel_pump"),
    ("diesel", ""),
    ("diesel", "injection"),
]


@pytest.mark.parametrize("paths", [True, False])
@pytest.mark.parametrize(("fuel", "feed"), HIGH)
def test_the_rail_of_a_high_pressure_system_is_never_offered(fuel, feed, paths):
    job = job_with(fuel, feed, paths=paths)
    found = candidates_for(job, job.chains[0])
    assert "rail port" not in {c.port.kind for c in found}
    best = found[0]
    assert not {grade for grade, code in codes(best) if code == "high_pressure_side"}
    for candidate in found:
        at, path = candidate.port.spot.at_m, job.path(candidate.port.spot.path)
        pump = path.first("high_pressure_pump") if path else None
        assert pump is None or at <= pump.at_m


@pytest.mark.parametrize(("fuel", "feed"), HIGH)
def test_a_pin_behind_the_high_pressure_pump_is_a_stop_wherever_it_stands(fuel, feed):
    job = job_with(fuel, feed)
    path = next(path for path in job.paths if path.kind == "fuel")
    pump, regulator = path.first("high_pressure_pump"), path.last("regulator")
    port = with_facts(candidates_for(job, job.chains[0])[0].port, path=path.id)
    for i in range(201):
        at = round(path.length_m * i / 200, 4)
        found = {
            f.code
            for f in port_findings(job, job.chains[0], with_facts(port, at_m=at), job.senders[0])
            if f.grade == "stop"
        }
        assert ("high_pressure_side" in found) == (pump.at_m < at < regulator.end_m), at


@pytest.mark.parametrize("fuel", ["petrol", "E10", ""])
def test_where_nobody_said_how_it_is_injected_the_rail_is_a_stop_that_asks(fuel):
    job = job_with(fuel, "injection")
    rail = next(c for c in candidates_for(job, job.chains[0]) if c.port.kind == "rail port")
    assert ("stop", "fuel_system_unknown") in codes(rail)
    assert candidates_for(job, job.chains[0])[0].port.kind != "rail port"
    told = replace(job, vehicle=replaced_within(job.vehicle, {"fuel_feed": "port_injection"}))
    assert not any(
        code == "fuel_system_unknown" for _, code in codes(candidates_for(told, told.chains[0])[0])
    )


def test_a_sender_below_the_lines_pressure_is_a_stop():
    job = job_with(feed="port_injection", sender="pressure, 0.5 to 4.5 V, 1 bar")
    assert all(("stop", "over_proof_pressure") in codes(c) for c in candidates_for(job, job.chains[0]))
    measured = replace(
        job_with(feed="port_injection"), vehicle=replaced_within(job.vehicle, {"fuel_line_bar": 14.0})
    )
    assert ("caution", "over_range") in codes(candidates_for(measured, measured.chains[0])[0])
    burst = replace(measured, vehicle=replaced_within(job.vehicle, {"fuel_line_bar": 15.01}))
    assert ("stop", "over_proof_pressure") in codes(candidates_for(burst, burst.chains[0])[0])


def test_a_carburettor_gets_a_gauge_a_sender_and_a_warning_of_its_size():
    vehicle = a_vehicle("Sidecar outfit", burns="petrol", fuel_feed="carburettor")
    facts = facts_for("fuel_pressure", vehicle)
    assert (facts.display, facts.senders[0]) == ("round gauge, low pressure", "pressure, 0.5 to 4.5 V, 1 bar")
    assert facts.warn_low < 0.2
    coarse = job_with(feed="carburettor", warn_low=2.0)
    found = port_findings(
        coarse, coarse.chains[0], candidates_for(coarse, coarse.chains[0])[0].port, coarse.senders[0]
    )
    assert {"sender_too_coarse", "warns_for_good"} <= {f.code for f in found}


def test_usual_pressures_are_those_the_trade_states():
    # from memory, common practice: carburettor 0.2 to 0.5 bar, throttle body 0.7 to 2, port injection 2.5 to 4.5, rails 50 to 350 and 250 to 2500.
    systems = fuel_systems()
    assert systems["carburettor"].supply_bar == (0.2, 0.5)
    assert systems["port_injection"].supply_bar == (2.5, 4.5)
    assert (systems["direct_injection"].high_bar, systems["common_rail"].high_bar) == ((50, 350), (250, 2500))
    for system in systems.values():
        assert system.warn_low_bar < system.supply_bar[0] <= system.usual_bar <= system.supply_bar[1]
    assert may_be_high_pressure("", "")


@pytest.mark.parametrize("feed", ["common_rail", "diesel_pump", "direct_injection", "port_injection"])
def test_a_carburettor_s_hose_is_not_offered_where_there_is_no_carburettor(feed):
    fuel = "diesel" if feed in ("common_rail", "diesel_pump") else "petrol"
    job = replace(job_with(fuel, feed), paths=())
    offered = candidates_for(job, job.chains[0])
    assert offered
    assert not any("carburettor" in c.port.name for c in offered)
    assert not any(code == "fuel_system_unknown" for c in offered for _, code in codes(c))


def test_before_the_path_is_drawn_the_high_pressure_pump_is_asked_for_by_name():
    job = replace(job_with("diesel", "common_rail"), paths=())
    tee = next(c for c in candidates_for(job, job.chains[0]) if c.port.kind == "line tee")
    assert ("stop", "fuel_side_unknown") in codes(tee)
    drawn = replace(job, paths=paths_for(job.vehicle))
    tee = next(c for c in candidates_for(drawn, drawn.chains[0]) if c.port.kind == "line tee")
    assert "stop" not in {grade for grade, _ in codes(tee)}
