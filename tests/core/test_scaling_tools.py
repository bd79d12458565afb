"""Error budget, pull-up, matching resistors, fits and their doubts."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from metrolex.errors import BadInput
from metrolex.inputs.loop import volts_from_ohm
from metrolex.scaling.best_rows import best_rows
from metrolex.scaling.budget import TERMS, Tolerances, budget, remedy_of
from metrolex.scaling.chain import Chain
from metrolex.scaling.match import match_sender, power_of
from metrolex.scaling.pull_up import best_pull_up, judge_pull_up
from metrolex.scaling.resistors import preferred, rating_for
from metrolex.senders import BetaCurve, LinearCurve, TableCurve, branches, x_at, y_at
from metrolex.senders.bay import point_findings, references, which_sender
from metrolex.senders.fit import fit_curve
from metrolex.senders.frequency import read_content

NTC = BetaCurve(2200, 3600, 25, (40.0, 40000.0))


def dense_table(pull_up=1000.0, count=200):
    """A table so fine that it is the curve itself, volts to degC."""
    degc = np.linspace(145, 25, count)
    return tuple(zip(volts_from_ohm(x_at(NTC, degc), pull_up, 5.0).tolist(), degc.tolist(), strict=True))


def test_a_budget_worked_by_hand():
    """At 90 degC the NTC has R = 253.4 ohm; behind 1000 ohm V = 5 R/(R + 1000) = 1.0109 V; dT/dV from the law itself."""
    chain = Chain(NTC, dense_table(), 1000.0, 5.0, 10, wire_ohm=2.0, ground_offset_v=0.02)
    found = budget(chain, Tolerances(3.0, 0.0, 1.0, 1.0, 0), 90.0)
    r = 2200 * np.exp(3600 * (1 / 363.15 - 1 / 298.15))
    dt_dr = -(363.15**2) / (3600 * r)
    dr_dv = (r + 1000) ** 2 / (1000 * 5)
    dt_dv = dt_dr * dr_dv
    volts = 5 * r / (r + 1000)
    expected = {
        "sender": abs(dt_dr * 0.03 * r),
        "pull_up": abs(dt_dv * 5 * r / (r + 1000) ** 2 * 10),
        "reference": abs(dt_dv * volts * 0.01),
        "wire": dt_dr * 2.0,
        "ground_offset": dt_dv * 0.02 * (1 - volts / 5),
        "converter": abs(dt_dv) * 5 / 2048,
        "table": 0.0,
        "rounding": 0.5,
        "place": 0.0,
    }
    assert tuple(found.terms) == TERMS
    for name, value in expected.items():
        assert found.terms[name][0] == pytest.approx(value, rel=0.04, abs=0.02), name
    assert found.worst_case[0] == pytest.approx(sum(abs(float(t[0])) for t in found.terms.values()))
    assert found.rss[0] == pytest.approx(np.sqrt(sum(float(t[0]) ** 2 for t in found.terms.values())))
    assert found.biggest(0) == "sender"
    assert all(remedy_of(name) for name in TERMS)


def test_the_budget_moves_with_what_causes_it():
    plain = Chain(NTC, dense_table(), 1000.0, 5.0)
    at = np.linspace(40, 130, 10)
    none = budget(plain, Tolerances(decimals=3), at)
    assert none.worst_case.max() < 0.06
    assert np.all(
        budget(Chain(NTC, dense_table(), 1000.0, 5.0, 8), Tolerances(decimals=3), at).terms["converter"] > 0.1
    )
    direct = Chain(LinearCurve(((0.5, 0.0), (4.5, 10.0))), ((0.5, 0.0), (4.5, 10.0)), None, 5.0, 10)
    # A reference 1 % high makes the converter count 1 % too low: 2.5 V reads 0.025 V less, 0.0625 bar.
    assert budget(direct, Tolerances(reference_pct=1.0), 5.0).terms["reference"][0] == pytest.approx(
        0.0625, rel=0.02
    )
    with pytest.raises(BadInput) as refusal:
        budget(plain, Tolerances(), 900.0)
    assert refusal.value.field == "at"


def test_the_best_pull_up_beats_its_neighbours():
    found = best_pull_up(NTC, (60.0, 130.0), 5.0, 10)
    assert found[0].coarsest == min(one.coarsest for one in found)
    assert found[0].sender_mw <= 5.0
    # By hand at one reading: the step of the converter is Vref/2^n, the slope dT/dR x (R + R0)^2 / (R0 Vref).
    one = judge_pull_up(NTC, (89.0, 90.0), 1000.0, 5.0, 10)
    r = x_at(NTC, 90.0).item()
    assert one.coarsest == pytest.approx(363.15**2 / (3600 * r) * (r + 1000) ** 2 / 1000 / 1024, rel=0.02)
    assert one.sender_mw == pytest.approx(1000 * 25 * r / (r + 1000) ** 2, rel=0.02)
    with pytest.raises(BadInput):
        best_pull_up(LinearCurve(((0.5, 0.0), (4.5, 10.0))), (0.0, 10.0), 5.0, 10)
    with pytest.raises(BadInput):
        best_pull_up(NTC, (60.0, 130.0), 5.0, 10, most_mw=1e-6)


def test_preferred_values():
    # IEC 60063: 24 and 96 values a decade, each within half a step of the geometric series, rounded (E24 has historic exceptions).
    assert len(preferred("E24", 100, 999)) == 24
    e96 = preferred("E96", 100, 999)
    assert len(e96) == 96
    assert e96 == pytest.approx(100 * 10 ** (np.arange(96) / 96), rel=0.006)
    assert preferred("E24", 100, 999) == pytest.approx(100 * 10 ** (np.arange(24) / 24), rel=0.05)
    assert rating_for(99) is None


@pytest.mark.parametrize(
    ("sender", "gauge"),
    [
        (((0, 10), (50, 92), (100, 180)), ((0, 0), (50, 45), (100, 90))),
        (((0, 240), (50, 103), (100, 33)), ((0, 180), (50, 90), (100, 10))),
    ],
)
def test_matching_resistors_against_every_pair(sender, gauge):
    """Every pair of E24 values tried in plain Python."""
    found = match_sender(sender, gauge, "E24")
    values = preferred("E24", 0.5, 5000).tolist()
    by_ohm = sorted(gauge, key=lambda point: point[1])
    ys, ohms = [y for y, _ in by_ohm], [ohm for _, ohm in by_ohm]
    best = min(
        max(abs(float(np.interp(s + 1 / (1 / ohm + (1 / p if p else 0)), ohms, ys)) - y) for y, ohm in sender)
        for s, p in itertools.product([0, *values], [None, *values])
    )
    assert found.max_error == pytest.approx(best, abs=1e-6)
    assert found.max_error <= found.bare_error


def test_a_match_that_cannot_be_and_one_that_is_perfect():
    backward = match_sender(((0, 10), (100, 180)), ((0, 240), (100, 33)))
    assert (backward.series_ohm, backward.parallel_ohm, backward.max_error) == (None, None, None)
    assert backward.findings[0].grade == "stop"
    same = ((0.0, 10.0), (50.0, 90.0), (100.0, 180.0))
    perfect = match_sender(same, same)
    assert (perfect.series_ohm, perfect.parallel_ohm, perfect.max_error) == (None, None, 0.0)
    for bad in (((0, 10),), ((0, 10), (50, 90), (100, 20)), ((0, -1), (100, 20)), ((0, 1), (0, 2))):
        with pytest.raises(BadInput):
            match_sender(bad, same)


def test_what_the_resistors_must_stand():
    # 12 V through 50 ohm in the gauge, 20 ohm in series, the sender at its least, 10 ohm: I = 12/80 = 0.15 A; 0.15^2 x 20 = 0.45 W.
    found = match_sender(((0, 10), (100, 100)), ((0, 30), (100, 120)))
    assert (found.series_ohm, found.parallel_ohm) == (20.0, None)
    power = power_of(found, ((0, 10), (100, 100)), 12.0, 50.0)
    assert power.series_w == pytest.approx(0.45)
    assert power.series_rating_w == 1.0


def test_fits_say_what_is_wrong_with_their_points():
    degc = np.array([0.0, 20, 40, 60, 80, 100])
    ohm = x_at(NTC, degc)
    rng = np.random.default_rng(2)
    bent = degc + rng.normal(0, 0.1, 6)
    bent[3] += 6
    found = fit_curve("beta", tuple(zip(ohm.tolist(), bent.tolist(), strict=True)))
    assert [round(found.points[i][1]) for i in found.outliers] == [66]
    assert found.band(ohm).min() > 0.5
    few = fit_curve("beta", ((2200.0, 25.0), (250.0, 90.0)))
    assert few.band is None
    assert [f.code for f in few.findings] == ["no_point_to_spare"]
    for kind, points in (
        ("steinhart_hart", ((1.0, 2.0), (2.0, 1.0))),
        ("beta", ((0.0, 90.0), (10.0, 20.0))),
        ("beta", ((100.0, 20.0), (200.0, 60.0))),
        ("linear", ((1.0, 1.0),)),
    ):
        with pytest.raises(BadInput):
            fit_curve(kind, points)
    with pytest.raises(BadInput) as refusal:
        fit_curve("beta", ((1.0, 20.0), (2.0, 10.0)), "volt", "bar")
    assert refusal.value.field == "x_unit"
    turned = fit_curve("pchip", ((1.0, 0.0), (2.0, 5.0), (3.0, 4.0)), "volt", "bar")
    assert [f.code for f in turned.findings] == ["curve_turns_back"]
    assert branches(turned.curve) == ((1.0, 2.0), (2.0, 3.0))


def test_doubts_about_points():
    assert {f.code for f in point_findings(((2.2, 25.0), (0.25, 90.0), (7.3, 0.0)), "ohm", "degC")} == {
        "looks_like_kilo_ohm"
    }
    assert {f.code for f in point_findings(((7350.0, 32.0), (181.0, 212.0)), "ohm", "degC")} == {
        "looks_like_fahrenheit"
    }
    assert {f.code for f in point_findings(((500.0, 60.0), (480.0, 62.0)), "ohm", "degC")} == {"points_close"}
    assert point_findings(((7350.0, 0.0), (181.0, 99.0)), "ohm", "degC") == []
    assert references(0).boiling_degc == pytest.approx(99.97, abs=0.01)


def test_which_sender_is_this():
    degc = np.array([20.0, 50, 90])
    ohm = x_at(NTC, degc) * 1.02
    curves = {
        "ours": NTC,
        "hotter": BetaCurve(2600, 3600, 25, (40.0, 40000.0)),
        "narrow": BetaCurve(2200, 3600, 25, (1e4, 2e4)),
        "turns": TableCurve(((100.0, 20.0), (1000.0, 90.0), (4000.0, 30.0))),
    }
    ranked = which_sender(tuple(zip(ohm.tolist(), degc.tolist(), strict=True)), curves)
    assert [s.name for s in ranked] == ["ours", "hotter"]
    assert ranked[0].rms < 1


def test_the_content_sensors_pulses():
    # 75 Hz is a quarter of the way from 50 to 150 Hz; a period of 13.33 ms, low for 3 ms: half way from -40 to 125 degC.
    found = read_content(75.0, 100 * (1 - 3 / 13.3333333))
    assert (found.ethanol_pct, found.fuel_degc) == pytest.approx((25.0, 42.5), abs=0.01)
    assert {f.code for f in read_content(170.0, 50.0).findings} == {"content_sensor_fault"}
    assert {f.code for f in read_content(100.0, 20.0).findings} == {"low_time_outside"}
    for bad in ((0.0, 50.0), (75.0, 100.0)):
        with pytest.raises(BadInput):
            read_content(*bad)


@pytest.mark.parametrize(
    ("points", "more", "field"),
    [
        (1, {}, "points"),
        (500, {}, "points"),
        (8, {"x_step": 1e5}, "x_step"),
        (8, {"y_step": 500.0}, "y_step"),
    ],
)
def test_tables_that_cannot_be_meant(points, more, field):
    with pytest.raises(BadInput) as refusal:
        best_rows(lambda x: y_at(NTC, x), (60.0, 3000.0), points, **more)
    assert refusal.value.field == field


def test_rows_wanted_closer_about_the_warning_point():
    law = lambda x: y_at(NTC, x)  # noqa: E731
    at = x_at(NTC, 110.0).item()
    plain = best_rows(law, (60.0, 3000.0), 6)
    near = best_rows(law, (60.0, 3000.0), 6, weight=lambda x: np.where(np.abs(x - at) < 30, 5.0, 1.0))
    xs = np.linspace(at - 30, at + 30, 200)

    def off(rows):
        return np.abs(np.interp(xs, *np.array(rows).T) - law(xs)).max()

    assert off(near.rows) < 0.4 * off(plain.rows)
