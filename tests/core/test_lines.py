"""Paths that flow into one another are one line: what is behind counts as much as what is before."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.job import Job, MeasuringChain
from metrolex.job.within import replaced_within
from metrolex.ports.compare import candidates_for
from metrolex.ports.paths import beside_words, line_of, paths_for
from metrolex.ports.rules import port_findings
from metrolex.ports.zones import verdicts_at, zones_of
from tests.jobs import a_port, a_vehicle, shown_by

BLOWN = a_vehicle("Fire tender", burns="petrol", fuel_feed="port_injection", layout="vee", induction="turbo")
PLAIN = replaced_within(BLOWN, {"induction": "none"})


def exhausts(vehicle):
    return tuple(path for path in paths_for(vehicle) if path.kind == "exhaust")


def grades(measurand, path, paths, at):
    return {(f.grade, f.code) for f in verdicts_at(zones_of(measurand, path, paths), at, "x")}


def test_a_mixture_sensor_before_the_common_turbine_is_a_stop_along_the_whole_bank():
    paths = exhausts(BLOWN)
    banks = [path for path in paths if path.into]
    common = next(path for path in paths if not path.into)
    assert len(banks) == 2
    for bank in banks:
        for i in range(101):
            assert ("stop", "before_turbine") in grades("lambda", bank, paths, bank.length_m * i / 100)
    turbine = common.first("turbine")
    assert ("stop", "before_turbine") in grades("lambda", common, paths, turbine.at_m / 2)
    assert ("stop", "before_turbine") not in grades("lambda", common, paths, turbine.end_m + 0.01)


def test_banks_without_a_turbine_are_judged_as_before():
    paths = exhausts(PLAIN)
    assert all(
        code != "before_turbine"
        for path in paths
        for i in range(21)
        for _, code in grades("lambda", path, paths, path.length_m * i / 20)
    )


@pytest.mark.parametrize("measurand", ["lambda", "exhaust_temperature"])
@pytest.mark.parametrize("vehicle", [BLOWN, PLAIN])
def test_what_is_offered_first_is_no_stop_on_any_layout(vehicle, measurand):
    channel = MeasuringChain("c", "C", measurand, "lambda" if measurand == "lambda" else "degC")
    job = Job("J", vehicle, **shown_by((channel,)), paths=paths_for(vehicle))
    found = candidates_for(job, channel)
    assert found
    assert found[0].grade != "stop"
    for candidate in found:
        path = job.path(candidate.port.spot.path)
        assert path is None or 0 <= candidate.port.spot.at_m <= path.length_m


def test_a_spot_beyond_a_bank_lies_in_the_common_pipe():
    channel = MeasuringChain("c", "Lambda", "lambda", "lambda")
    job = Job("J", BLOWN, **shown_by((channel,)), paths=paths_for(BLOWN))
    for candidate in candidates_for(job, channel):
        if candidate.port.spot.path:
            assert candidate.port.spot.path == "exhaust, common"


def test_the_second_channel_of_a_kind_is_offered_the_other_bank():
    first = MeasuringChain("left", "EGT left", "exhaust_temperature", "degC", port="p")
    second = MeasuringChain("right", "EGT right", "exhaust_temperature", "degC")
    port = a_port("p", "Manifold, left", "manifold", channel="left", path="exhaust, left bank", at_m=0.1)
    job = Job("J", PLAIN, **shown_by((first, second)), ports=(port,), paths=paths_for(PLAIN))
    offered = [
        c.port.spot.path
        for c in candidates_for(job, second)
        if c.port.spot.path and "bank" in c.port.spot.path
    ]
    assert offered
    assert set(offered) == {"exhaust, right bank"}


def test_chips_before_a_turbine_further_on_are_said():
    channel = MeasuringChain("c", "EGT", "exhaust_temperature", "degC")
    job = Job("J", BLOWN, **shown_by((channel,)), paths=paths_for(BLOWN))
    port = a_port(
        "p",
        "Left manifold",
        "own",
        "1/8-27 NPT",
        path="exhaust, left bank",
        at_m=0.3,
        entry="drilled",
        wall_mm=7,
        material="cast_iron",
    )
    assert "swarf_into_turbine" in {f.code for f in port_findings(job, channel, port, None)}


def test_a_line_is_measured_from_the_path_looked_at():
    paths = exhausts(BLOWN)
    left, common = (
        next(p for p in paths if p.id == key) for key in ("exhaust, left bank", "exhaust, common")
    )
    right = next(p for p in paths if p.id == "exhaust, right bank")
    turbine = common.first("turbine")
    assert next(p.at_m for p in line_of(left, paths) if p.kind == "turbine") == pytest.approx(
        left.length_m + turbine.at_m
    )
    longest = max(left, right, key=lambda p: p.length_m)
    assert next(p.at_m for p in line_of(common, paths) if p.kind == "collector") == pytest.approx(
        longest.first("collector").at_m - longest.length_m
    )
    assert beside_words(left, paths) == "goes on in Exhaust, common, turbine 80 mm on"
    assert beside_words(common, paths) == "fed by Exhaust, left bank and Exhaust, right bank"


@pytest.mark.parametrize(
    ("induction", "grade"), [("turbo", "caution"), ("", "note"), ("none", None), ("supercharger", None)]
)
def test_a_lambda_place_without_a_path_says_that_nobody_knows_where_the_turbine_is(induction, grade):
    vehicle = a_vehicle("x", induction=induction)
    job = Job("x", vehicle, **shown_by((MeasuringChain("mixture", "Mixture", "lambda", "lambda"),)))
    by_kind = {c.port.kind: c for c in candidates_for(job, job.chains[0])}
    said = {f.grade for f in by_kind["spare bung"].findings if f.code == "turbine_not_placed"}
    assert said == ({grade} if grade else set())
    drawn = replace(job, paths=paths_for(vehicle))
    by_kind = {c.port.kind: c for c in candidates_for(drawn, drawn.chains[0])}
    assert not any(f.code == "turbine_not_placed" for f in by_kind["spare bung"].findings)


@pytest.mark.parametrize("words", ["turbo", "Two turbos"])
def test_a_place_of_the_fitter_s_own_is_asked_for_its_turbine_too(words):
    port = a_port("own place 1", "Bung by the gearbox", "own", channel="mixture", entry="existing")
    mixture = MeasuringChain("mixture", "Mixture", "lambda", "lambda")
    job = Job("x", a_vehicle("x", induction=words), **shown_by((mixture,)), ports=(port,))
    assert ("caution", "turbine_not_placed") in {
        (f.grade, f.code) for f in port_findings(job, mixture, port, None)
    }


def test_behind_the_catalyst_is_a_stop_before_anything_is_drawn():
    job = Job("x", a_vehicle("x"), **shown_by((MeasuringChain("mixture", "Mixture", "lambda", "lambda"),)))
    rear = next(c for c in candidates_for(job, job.chains[0]) if c.port.kind == "factory rear sensor")
    assert ("stop", "after_catalyst") in {(f.grade, f.code) for f in rear.findings}
