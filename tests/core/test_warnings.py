"""Warnings replayed on a simulated drive; shift lamps."""

from __future__ import annotations

import numpy as np
import pytest

from metrolex.errors import BadInput
from metrolex.warning.alarm import Alarm, Stretch, level_at, oil_curve, sounded
from metrolex.warning.drive import KINDS, damped, replay, simulated_drive
from metrolex.warning.shift import engine_gain, lamps_for, shift_rpm

T = np.arange(0, 10, 0.1)
RPM = np.full_like(T, 2000.0)


def lit(alarm, value, rpm=RPM):
    return [(round(s.start, 1), round(s.stop, 1)) for s in sounded(alarm, T, value, rpm)]


def test_level_delay_hysteresis_by_hand():
    dip = np.where((T >= 2) & (T < 5), 0.5, 3.0)
    assert lit(Alarm(low=1.0), dip) == [(2.0, 5.0)]
    assert lit(Alarm(low=1.0, delay_s=1.0), dip) == [(3.0, 5.0)]
    assert lit(Alarm(low=1.0, delay_s=4.0), dip) == []
    back = np.where(T < 2, 3.0, np.where(T < 5, 0.5, 1.2))
    assert lit(Alarm(low=1.0, hysteresis=0.5), back) == [(2.0, 9.9)]
    assert lit(Alarm(high=100), 90 + 20 * (T > 7)) == [(7.1, 9.9)]


def test_silence_below_cranking_and_after_the_start():
    rpm = np.where(T < 3, 200.0, 2000.0)
    assert lit(Alarm(low=1.0, inhibit_rpm=400), np.zeros_like(T), rpm) == [(3.0, 9.9)]
    assert lit(Alarm(low=1.0, inhibit_rpm=400, start_s=2.0), np.zeros_like(T), rpm) == [(5.0, 9.9)]


def test_a_level_that_goes_with_engine_speed():
    alarm = Alarm(by_rpm=oil_curve(1000, 6000))
    # 0.7 bar for each 1000 rpm (10 psi, common practice): 3500 rpm wants 2.45.
    assert level_at(alarm, [500, 1000, 3500, 6000]) == pytest.approx([0.7, 0.7, 2.45, 4.2])
    assert lit(alarm, np.full_like(T, 2.0), np.where(T < 5, 2000.0, 4000.0)) == [(5.0, 9.9)]


def test_a_lamp_that_chatters_is_heard_and_cured():
    """Surge and slosh light a plain level; delay and hysteresis silence them and the failing engine is still caught."""
    plain = replay(Alarm(low=2.0), "oil_pressure", 3.5, 0.3, seed=3)
    tamed = replay(
        Alarm(
            by_rpm=((800.0, 0.5), (6000.0, 2.6)), delay_s=1.0, hysteresis=0.2, inhibit_rpm=500, start_s=3.0
        ),
        "oil_pressure",
        3.5,
        0.3,
        seed=3,
    )
    assert len(plain.false) > 1
    assert tamed.false == ()
    assert 1.0 <= tamed.late_s <= 2.0
    fuel = replay(Alarm(low=12.0), "fuel_level", 15.0, 5.0, seed=4)
    slow = replay(Alarm(low=12.0, delay_s=20.0), "fuel_level", 15.0, 5.0, seed=4)
    assert len(fuel.false) > len(slow.false) == 0
    assert slow.late_s >= 0.0
    assert replay(Alarm(high=400.0), "temperature", 90, 130, seed=1).late_s is None


def test_a_damped_display_lags_and_does_not_slosh():
    drive = simulated_drive("fuel_level", 40.0, 2)
    step = drive.with_column("reading", np.where(drive.seconds < 1, 40.0, 10.0))
    # A first-order lag has gone 63.2 % of the way after one time constant (textbook).
    assert np.interp(11.0, drive.seconds, damped(step, 10.0)["reading"]) == pytest.approx(
        40 - 30 * (1 - np.exp(-1)), abs=0.2
    )
    assert damped(drive, 20.0)["reading"].std() < drive["reading"].std()
    assert damped(drive, 0.0) is drive
    rough = replay(Alarm(low=12.0, delay_s=1.0), "fuel_level", 15.0, 5.0, seed=4)
    calm = replay(Alarm(low=12.0, delay_s=1.0), "fuel_level", 15.0, 5.0, seed=4, damping_s=15.0)
    assert len(calm.false) < len(rough.false)


@pytest.mark.parametrize("kind", KINDS)
def test_a_drive_is_the_same_each_time_and_healthy_until_its_fault(kind):
    one, two = simulated_drive(kind, 3.0, 7), simulated_drive(kind, 3.0, 7)
    assert np.array_equal(one["reading"], two["reading"])
    failing = simulated_drive(kind, 3.0, 7, 0.2)
    before = failing.seconds < 245
    assert np.array_equal(failing["reading"][before], one["reading"][before])
    assert failing["reading"][-1] == pytest.approx(0.2)


def test_warnings_that_cannot_be_meant():
    for make in (
        lambda: Alarm(low=5, high=3),
        lambda: Alarm(by_rpm=((1000, 1.0),)),
        lambda: Alarm(by_rpm=((1000, 1.0), (1000, 2.0))),
        lambda: oil_curve(3000, 1000),
        lambda: simulated_drive("wind", 1.0, 1),
        lambda: sounded(Alarm(low=1), [0, 1], [1, 2, 3], [1, 2, 3]),
        lambda: sounded(Alarm(low=1), [1, 0], [1, 2], [1, 2]),
    ):
        with pytest.raises(BadInput):
            make()
    assert Alarm().silent
    assert Stretch(1, 2).stop == 2


def test_shift_lamps_lead_by_the_reaction():
    # 60 kW on 600 kg at 72 km/h (20 m/s): a = 60000/(600 x 20) = 5 m/s2; wheel 1.8 m, total ratio 8: 5/1.8 x 60 x 8 = 1333 rpm/s.
    gain = engine_gain(60, 600, 8, 1.8, 72)
    assert gain == pytest.approx(1333.33, rel=1e-4)
    lamps = lamps_for(8000, gain, 0.3, 4, 0.2, 8500)
    assert lamps.order_rpm == pytest.approx(8000 - 400)
    assert np.diff(lamps.steps_rpm) == pytest.approx([gain * 0.2] * 3)
    # Power falls from 6000 on; from ratio 2 to 1.5: shift where P(0.75 n) = P(n), by hand between 6000 and 8000.
    curve = ((3000, 40.0), (6000, 80.0), (8000, 60.0))
    n = shift_rpm(curve, 2.0, 1.5, 8500)
    assert np.interp(0.75 * n, *np.array(curve).T) == pytest.approx(np.interp(n, *np.array(curve).T), abs=0.2)
    assert shift_rpm(((3000, 40.0), (6000, 80.0), (8000, 120.0)), 2.0, 1.5, 7900) == 7900
    for bad in (
        lambda: lamps_for(8000, 0),
        lambda: lamps_for(9000, 100, redline_rpm=8000),
        lambda: lamps_for(1000, 9000, 0.3),
        lambda: shift_rpm(curve, 1.0, 2.0, 8000),
        lambda: engine_gain(0, 1, 1, 1, 1),
    ):
        with pytest.raises(BadInput):
            bad()


def test_a_mixture_alarm_under_load_is_silent_on_overrun_and_catches_lean_under_full_load():
    """Lean on overrun is meant; lean under full load melts pistons: the same level tells them apart by load."""
    always = replay(Alarm(high=1.15, delay_s=0.2), "lambda", 1.0, 1.4, where="full load")
    assert always.false  # every overrun
    loaded = replay(Alarm(high=1.15, delay_s=0.2, above_load_pct=60), "lambda", 1.0, 1.4, where="full load")
    assert loaded.false == ()
    assert loaded.late_s is not None
    assert loaded.late_s < 1.0


def test_a_failure_at_the_hot_idle_is_missed_by_an_alarm_that_sleeps_there():
    awake = replay(Alarm(low=0.8, delay_s=0.5), "oil_pressure", 3.5, 0.3, where="idle")
    assert awake.late_s is not None
    asleep = replay(Alarm(low=0.8, delay_s=0.5, inhibit_rpm=1200), "oil_pressure", 3.5, 0.3, where="idle")
    assert asleep.late_s is None


def test_where_nobody_recorded_load_it_is_taken_as_full():
    t = np.arange(0.0, 5.0, 0.1)
    lean = np.full_like(t, 1.3)
    assert sounded(Alarm(high=1.15, above_load_pct=60), t, lean, np.full_like(t, 3000.0))
    assert not sounded(
        Alarm(high=1.15, above_load_pct=60), t, lean, np.full_like(t, 3000.0), np.full_like(t, 0.2)
    )
