"""GPS recordings, runs, the doubts about a speedometer or a tachometer, gears, magnets."""

from __future__ import annotations

import numpy as np
import pytest

from metrolex.errors import BadInput
from metrolex.intake import read
from metrolex.job import Channel
from metrolex.job.counting import RoadSetting
from metrolex.series import read_gps
from metrolex.speed.engine import doubt_of, engine_pulses, jumps_findings
from metrolex.speed.gear import expected_ratios, gates_of, gear_at
from metrolex.speed.gps import GpsRun, calibrate, next_speed_kmh
from metrolex.speed.pulses import Magnets, gap_card, input_findings, pulses_per_km, reluctor_volts
from metrolex.speed.recording import delay_s, read_shown, steady_runs
from metrolex.speed.tyres import roll_out_m


def drive(hz=10.0):
    """True speed over time: three steady stretches with ramps between."""
    knots = [(0, 0), (15, 50), (45, 50), (60, 80), (95, 80), (110, 110), (150, 110), (170, 0)]
    t = np.arange(0, 170, 1 / hz)
    return t, np.interp(t, *np.array(knots, dtype=float).T)


def checksum(body):
    value = 0
    for letter in body:
        value ^= ord(letter)
    return f"${body}*{value:02X}"


def nmea(t, kmh, status="A"):
    lines = []
    for now, speed in zip(t, kmh, strict=True):
        clock = f"{int(now // 3600) + 9:02d}{int(now % 3600 // 60):02d}{now % 60:05.2f}"
        lines.append(
            checksum(f"GPRMC,{clock},{status},5430.00,N,00300.00,W,{speed / 1.852:.3f},90.0,251126,,")
        )
        lines.append(checksum(f"GPGGA,{clock},5430.00,N,00300.00,W,1,9,1.0,100.0,M,50.0,M,,"))
    return "\r\n".join(lines)


def gpx(t, kmh, *, speed=True):
    way = np.concatenate([[0], np.cumsum(kmh[1:] / 3.6 * np.diff(t))])
    rows = [
        f'<trkpt lat="{54.5 + metres / 111194.93:.9f}" lon="-3.0"><time>2026-11-25T09:{int(now // 60):02d}:{now % 60:06.3f}Z</time>'
        + (f"<speed>{v / 3.6:.4f}</speed>" if speed else "")
        + "</trkpt>"
        for now, metres, v in zip(t, way, kmh, strict=True)
    ]
    return (
        '<?xml version="1.0"?><gpx xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>'
        + "".join(rows)
        + "</trkseg></trk></gpx>"
    )


def table(t, kmh, heading="t,speed", mark=","):
    return "\n".join([heading, *(f"{a:.2f}{mark}{b:.2f}" for a, b in zip(t, kmh, strict=True))])


@pytest.mark.parametrize("make", [nmea, gpx, lambda t, v: gpx(t, v, speed=False)])
def test_a_recording_gives_its_runs_and_its_delay(make):
    t, kmh = drive()
    shown = 1.062 * np.interp(t - 1.7, t, kmh)
    true = read_gps(make(t, kmh))
    face = read_shown(table(t, shown))
    lag = delay_s(true, face)
    assert lag == pytest.approx(1.7, abs=0.12)
    runs = steady_runs(true, face, lag)
    assert sorted(round(run.gps_kmh / 10) * 10 for run in runs) == [50, 80, 110]
    found = calibrate(8000, runs, "pulses_per_distance", 10)
    assert found.ratio == pytest.approx(1.062, abs=0.002)
    assert found.setting == 8490.0
    assert not found.outliers


def test_recordings_cut_out_of_a_drive_still_tell_their_delay():
    """Neither begins nor ends at rest: a jump at their ends must not pass for agreement."""
    t = np.arange(0, 400, 0.2)
    kmh = 70 + 30 * np.sin(t / 40) + 10 * np.sin(t / 9)
    true = read_gps(nmea(t, kmh))
    assert delay_s(true, read_shown(table(t, 1.03 * np.interp(t - 2.4, t, kmh)))) == pytest.approx(
        2.4, abs=0.2
    )
    early = read_shown(table(t[:1500], np.interp(t + 3.0, t, kmh)[:1500]))
    assert delay_s(true, early) == pytest.approx(-3.0, abs=0.2)


def test_recordings_that_tell_nothing():
    t, kmh = drive(2)
    for text in (
        "",
        "hello\nworld",
        "<gpx>",
        "<gpx></gpx>",
        nmea(t, kmh, "V"),
        '<!DOCTYPE x [<!ENTITY a "b">]><gpx></gpx>',
        "$GPRMC,broken*00",
    ):
        with pytest.raises(BadInput) as refusal:
            read_gps(text)
        assert refusal.value.field == "recording"
    for text in ("", "t,speed\n1,2", "t,speed\n1,2\nx,y", "1,2\n1,3\n2,4"):
        with pytest.raises(BadInput) as refusal:
            read_shown(text)
        assert refusal.value.field == "shown"
    assert read_shown("0,0;12,5\n1,0;13,5\n")["speed"].tolist() == [12.5, 13.5]


def test_jumps_and_lost_fixes_are_left_out():
    t, kmh = drive(2)
    wild = kmh.copy()
    wild[[40, 90]] += 180
    lines = nmea(t, wild).split("\r\n")
    lines[20] = lines[20].replace("*", "1*")
    lines[24] = checksum("GPRMC,090006.00,V,,,,,,,251126,,")
    found = read_gps("\n".join(lines))
    assert {f.code for f in found.findings} == {"gps_jumps", "left_out"}
    assert found["speed"].max() < 115


def test_an_outlier_is_named_and_the_next_speed_offered():
    runs = (*tuple(GpsRun(v, v * 1.05) for v in (40.0, 55.0, 70.0, 85.0, 100.0)), GpsRun(60.0, 70.0))
    found = calibrate(8000, runs, "pulses_per_distance")
    assert found.outliers == (5,)
    assert "outlier" in {f.code for f in found.findings}
    assert next_speed_kmh((GpsRun(30, 31), GpsRun(35, 36))) == 130
    assert next_speed_kmh((GpsRun(120, 121), GpsRun(125, 126))) == 30
    for top in (45, 80, 110):
        assert next_speed_kmh((GpsRun(30, 31), GpsRun(35, 36)), top) <= top


def test_a_run_that_stays_under_is_said():
    found = calibrate(8000, (GpsRun(50, 55), GpsRun(100, 100)), "pulses_per_distance")
    assert "still_under" in {f.code for f in found.findings}
    assert "few_runs" in {f.code for f in found.findings}


@pytest.mark.parametrize(
    ("setting", "runs", "field"),
    [
        (0, (GpsRun(50, 50),), "setting"),
        (8000, (), "runs"),
        (8000, (GpsRun(50, 0),), "runs[0].shown_kmh"),
        (8000, (GpsRun(-5, 5),), "runs[0].gps_kmh"),
        (8000, (GpsRun(50, 900 / 1.2),), "runs[0].shown_kmh"),
    ],
)
def test_runs_that_cannot_be_meant(setting, runs, field):
    with pytest.raises(BadInput) as refusal:
        calibrate(setting, runs, "circumference")
    assert refusal.value.field == field
    with pytest.raises(BadInput):
        calibrate(10, (GpsRun(50, 50),), "circumference", 20)


@pytest.mark.parametrize(
    ("ratio", "code", "word"),
    [
        (2.0, "wrong_pulse_setting", "2 pulses"),
        (0.5, "wrong_pulse_setting", "2 pulses"),
        (1.33, "wrong_pulse_setting", "1.5"),
        (1.2, "pulses_counted_twice", "turn less"),
        (0.85, "pulses_lost", "turn more"),
        (1.02, None, ""),
    ],
)
def test_what_a_wrong_tachometer_says(ratio, code, word):
    found = doubt_of(engine_pulses(4, 4, "coil_negative"), 1000 * ratio, 1000)
    assert [f.code for f in found] == ([code] if code else [])
    assert not code or word in found[0].reason + found[0].remedy


@pytest.mark.parametrize(
    ("setting", "ratio", "code", "words"),
    [
        (2, 1.0, None, ""),
        (2, 2.0, "pulses_counted_twice", "each pulse is counted twice"),
        (2, 0.5, "pulses_lost", "every other pulse is lost"),
        (1, 2.0, "wrong_pulse_setting", "Set it to 2"),
        (4, 0.5, "wrong_pulse_setting", "Set it to 2"),
        (1, 1.0, "pulses_not_as_reckoned", "so 1 pulses a turn arrive"),
        (4, 1.0, "pulses_not_as_reckoned", "it reads right"),
        (1, 4.0, "pulses_counted_twice", "Set it to 2 pulses a turn first"),
        (2, 1.2, "pulses_counted_twice", "some pulses are counted more than once"),
    ],
)
def test_a_tachometer_whose_setting_is_known(setting, ratio, code, words):
    found = doubt_of(engine_pulses(4, 4, "coil_negative"), 1000 * ratio, 1000, setting)
    assert [f.code for f in found] == ([code] if code else [])
    assert not code or words in found[0].reason + found[0].remedy
    assert not code or found[0].figure == f"{ratio:.2f} times"


def test_a_tachometer_that_jumps():
    assert [f.code for f in jumps_findings((3000, 3010, 4200, 2990), 3000)] == ["noise_on_pulses"]
    assert [f.code for f in jumps_findings((3000, 2100, 3010), 3000)] == ["pulses_drop_out"]
    assert jumps_findings((3000, 3010), 3000) == []
    with pytest.raises(BadInput):
        engine_pulses(4, 4, "ecu", 0)
    with pytest.raises(BadInput):
        doubt_of(engine_pulses(4, 4, "ecu"), 0, 1000)


def test_gears_by_volts_and_by_ratio():
    gates, findings = gates_of((("N", 0.9), ("1", 0.5), ("2", 1.4), ("3", 1.5)))
    assert [gate.gear for gate in gates] == ["1", "N", "2", "3"]
    assert [f.subject for f in findings] == ["2 and 3"]
    assert (gear_at(gates, 0.85), gear_at(gates, 9.0)) == ("N", None)
    assert gates[0].high == gates[1].low == pytest.approx(0.7)
    ratios = expected_ratios((3.2, 1.9, 1.3, 1.0, 0.95), 4.0, 1.9)
    gates, findings = gates_of(ratios, by_ratio=True)
    # 4th gear: 1.0 x 4.0 turns of the engine for each of the wheel; at 1 km/h the wheel turns 1000/60/1.9 times a minute.
    assert {g.gear: g.value for g in gates}["4"] == pytest.approx(4.0 * 1000 / 60 / 1.9)
    assert [f.subject for f in findings] == ["5 and 4"]
    for bad in ((("1", 1.0),), (("1", 1.0), ("1", 2.0)), (("1", 1.0), ("2", 1.0))):
        with pytest.raises(BadInput):
            gates_of(bad)


def test_pulses_against_the_input():
    few = pulses_per_km("wheel", 1, circumference_m=2.0)
    many = pulses_per_km("wheel", 60, circumference_m=2.0)
    assert "slow_at_walking_pace" in {
        f.code for f in input_findings(few, 1, top_kmh=200, limit_hz=1000, subject="s")
    }
    beaten = [
        f for f in input_findings(many, 60, top_kmh=200, limit_hz=1000, subject="s") if f.grade == "stop"
    ]
    # 60 x 200/3.6/2 = 1667 Hz; 1000 Hz allow 36 a turn.
    assert beaten[0].figure == "1667 Hz"
    assert "36 or fewer" in beaten[0].remedy
    for bad in (
        {"sensed": "wheel", "pulses_per_rev": 0, "circumference_m": 2},
        {"sensed": "wheel", "pulses_per_rev": 1},
        {"sensed": "driveline", "pulses_per_rev": 1, "circumference_m": 2},
    ):
        with pytest.raises(BadInput):
            pulses_per_km(**bad)


def test_magnets_and_reluctors():
    card = gap_card(Magnets(2, 0.1, 1.5, steel=False))
    assert any("180 degrees" in step for step in card)
    assert any("Aluminium" in step for step in card)
    assert any("balance" in step for step in gap_card(Magnets(1, 0.1, 1.5)))
    # 0.1 m at 20 turns a second: 0.1 x (2 pi 20)^2 / 9.80665 = 161 times the weight; 2 magnets there are 40 Hz.
    fast = gap_card(Magnets(2, 0.1, 1.5), 20.0, 30.0)
    assert any("161 times" in step for step in fast)
    assert any("no more than 1 of them" in step for step in fast)
    assert not any("At top speed" in step for step in card)
    assert reluctor_volts(2.0, 40, 10, gap_mm=2.0, gap_at_mm=1.0) == pytest.approx(0.125)
    with pytest.raises(BadInput):
        reluctor_volts(2.0, 0, 10)
    with pytest.raises(BadInput):
        roll_out_m(9.0, 0)


@pytest.mark.parametrize(
    ("runs", "refused"),
    [
        (((50, 55, None), (60, 66, None)), None),
        (((50, 1e-9, None),), "runs[0].shown_kmh"),
        (
            ((50, 55, None), (60, 66, 1e6)),
            "runs[0].shown_kmh",
        ),  # turned to the other's setting it is no speed
    ],
)
def test_runs_that_no_setting_explains_are_refused_where_they_are_kept(runs, refused):
    plain = [{"gps_kmh": g, "shown_kmh": s, "setting": own} for g, s, own in runs]
    if refused is None:
        assert read(RoadSetting, {"runs": plain, "driven_with": 8000.0}).turned_runs() == ((50, 55), (60, 66))
        return
    with pytest.raises(BadInput) as fault:
        read(RoadSetting, {"runs": plain, "driven_with": 8000.0})
    assert fault.value.field == refused


def test_a_channel_is_told_in_a_unit_of_its_own_kind():
    assert read(Channel, {"id": "o", "name": "Oil", "measurand": "oil_pressure", "unit": "psi"}).unit == "psi"
    with pytest.raises(BadInput) as fault:
        read(Channel, {"id": "o", "name": "Oil", "measurand": "oil_pressure", "unit": "degC"})
    assert fault.value.field == "unit"
