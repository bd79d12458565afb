"""What a sender and an input are off by themselves: own warmth, cold junction, the converter's zero, the reference."""

from dataclasses import replace

import pytest

from metrolex.inputs.heating import self_heating
from metrolex.job import State
from metrolex.scaling.budget import Tolerances, budget
from metrolex.scaling.chain import Chain
from metrolex.scaling.reference import cancels, fed_by_its_display
from metrolex.senders import BetaCurve, LinearCurve, ThermocoupleCurve
from metrolex.twin import build, expect, readings, solve
from metrolex.twin.error_budget import channel_budget
from tests.jobs import shipped, shown_by, with_facts

NTC = BetaCurve(r0_ohm=1000.0, t0_degc=25.0, beta_k=3500.0, x_range=(40.0, 10000.0))
RAMP = LinearCurve(points=((0.5, 0.0), (4.5, 10.0)), x_unit="volt", y_unit="bar")
#: Type K at whole degrees, NIST Monograph 175, from memory of its table: mV against 0 degC.
TYPE_K = {24: 0.960, 26: 1.041, 799: 33.234, 801: 33.316}


def van(**changes):
    return replace(shipped("van"), **changes)


def test_own_warmth_by_hand():
    """Half of 5 V across 1 kohm is 6.25 mW; at 5 mW for each kelvin that is 1.25 K (P = V^2 / R)."""
    assert self_heating(1000.0, 1000.0, 5.0, 5.0, "degC").item() == pytest.approx(2.5**2 / 1000 * 1000 / 5)
    assert self_heating(1000.0, 1000.0, 5.0, 5.0, "degF").item() == pytest.approx(1.8 * 1.25)
    assert self_heating(1000.0, 1000.0, 5.0, 5.0, "bar").item() == 0


def test_own_warmth_is_a_shift_upwards():
    ohms = [100.0, 300.0, 1000.0, 3000.0]
    table = tuple(sorted((ohm, float(y)) for ohm, y in zip(ohms, _degc(ohms), strict=True)))
    chain = Chain(NTC, table, 1000.0, 5.0, table_in_ohm=True, dissipation_mw_per_k=5.0)
    found = budget(chain, Tolerances(), 25.0)
    slope = (table[2][1] - table[1][1]) / (1000 - 300)  # the table is straight between its rows
    cooler = 1000 - 1000 * 3500 / 298.15**2 * 1.25  # dR/dT of a beta law at its T0
    assert found.terms["self_heating"][0] == pytest.approx(slope * (cooler - 1000), rel=0.03)
    assert found.terms["self_heating"][0] > 0
    assert found.shift[0] == pytest.approx(found.terms["self_heating"][0] + found.terms["table"][0])


def _degc(ohms):
    from metrolex.senders import y_at

    return y_at(NTC, ohms)


def test_own_warmth_stands_in_the_circuit_as_in_the_budget():
    plain = van()
    channel = next(c for c in plain.chains if c.id == "coolant")
    warm = van(
        senders=tuple(
            with_facts(s, dissipation_mw_per_k=2.0) if s.id == channel.sender else s for s in plain.senders
        ),
        **shown_by(
            tuple(
                replace(c, scaling=replace(c.scaling, decimals=3)) if c.id == "coolant" else c
                for c in plain.chains
            )
        ),
    )
    cold = replace(warm, senders=tuple(with_facts(s, dissipation_mw_per_k=None) for s in warm.senders))
    state = State("run", engine="running")
    shown = [readings(solve(build(job), state))["coolant"].value for job in (warm, cold)]
    term = channel_budget(build(warm), state, channel, channel.true_running)[0].terms["self_heating"]
    assert shown[0] - shown[1] == pytest.approx(float(term[0]), abs=0.5)
    assert shown[0] - shown[1] > 1


def test_the_converters_zero_by_hand():
    """Two steps of 5 V / 1024 through 2.5 bar a volt."""
    chain = Chain(RAMP, ((0.5, 0.0), (4.5, 10.0)), reference_v=5.0, adc_bits=10)
    found = budget(chain, Tolerances(adc_offset_lsb=2.0), 5.0)
    assert found.terms["converter_offset"][0] == pytest.approx(2 * 5 / 1024 * 2.5)


def test_a_cold_junction_counts_by_the_slopes_of_the_couple():
    """One kelvin at 25 degC gives as many millivolts as this many degrees at 800 (published table)."""
    law = tuple((mv, float(degc)) for degc, mv in ((799, TYPE_K[799]), (801, TYPE_K[801])))
    chain = Chain(ThermocoupleCurve(type="K"), law)
    found = budget(chain, Tolerances(cold_junction_k=1.0), 800.0)
    at_25, at_800 = (TYPE_K[26] - TYPE_K[24]) / 2, (TYPE_K[801] - TYPE_K[799]) / 2
    assert found.terms["cold_junction"][0] == pytest.approx(at_25 / at_800, rel=0.03)


@pytest.mark.parametrize("reference_pct", [1.0, 5.0])
def test_a_ratiometric_input_does_not_care_for_its_reference(reference_pct):
    for curve, table, pull_up in (
        (RAMP, ((0.5, 0.0), (4.5, 10.0)), None),
        (NTC, ((1.0, 100.0), (4.0, 0.0)), 1000.0),
    ):
        at = 5.0 if pull_up is None else 60.0
        plain = Chain(curve, table, pull_up, 5.0)
        by_share = with_facts(plain, ratiometric=True)
        parts = Tolerances(reference_pct=reference_pct, decimals=6)
        assert budget(by_share, parts, at).terms["reference"][0] == pytest.approx(0, abs=1e-9)
        assert budget(plain, parts, at).terms["reference"][0] > 0
        # A lifted ground is no share of the reference: it stays.
        lifted = replace(by_share, ground_offset_v=0.1)
        assert budget(lifted, parts, at).half_95[0] > budget(by_share, parts, at).half_95[0]


def _with_reference(job, share, believed):
    off = replace(
        job,
        displays=tuple(
            replace(
                d,
                inputs=tuple(
                    with_facts(i, reference_v=i.circuit.reference_v * share) if i.circuit.reference_v else i
                    for i in d.inputs
                ),
            )
            for d in job.displays
        ),
    )
    return readings(solve(build(off), State("run", engine="running")), believed=believed)


@pytest.mark.parametrize("ratiometric", [True, False])
def test_the_circuit_agrees(ratiometric):
    job = van()
    job = replace(
        job,
        displays=tuple(
            replace(d, inputs=tuple(with_facts(i, ratiometric=ratiometric) for i in d.inputs))
            for d in job.displays
        ),
        **shown_by(tuple(replace(c, scaling=replace(c.scaling, decimals=2)) for c in job.chains)),
    )
    true, high = (_with_reference(job, share, job) for share in (1.0, 1.03))
    moved = {key: abs(high[key].value - true[key].value) for key in ("coolant", "oil pressure")}
    if ratiometric:
        assert moved["coolant"] < 0.5  # the steps of its converter, the ground of the pull-up's return
        assert moved["oil pressure"] < 0.05
    else:
        assert moved["coolant"] > 0.8
        assert moved["oil pressure"] > 0.08


def test_who_feeds_it():
    job = van()
    oil = next(c for c in job.chains if c.id == "oil pressure")
    assert fed_by_its_display(job, oil)
    assert cancels(job, oil)
    own = replace(job, senders=tuple(with_facts(s, ratiometric=False) for s in job.senders))
    assert not cancels(own, oil)
    fed = [w for w in job.conductors if "supply" in (w.a.terminal, w.b.terminal)]
    assert fed
    bare = replace(job, conductors=tuple(w for w in job.conductors if w not in fed))
    assert fed_by_its_display(bare, oil)  # nothing wired yet: it will be
    sender_end = next(end for w in fed for end in (w.a, w.b) if end.terminal == "supply")
    elsewhere = replace(
        fed[0], a=sender_end, b=replace(sender_end, kind="tap", id=job.taps[0].id, terminal="")
    )
    assert not fed_by_its_display(replace(job, conductors=(*bare.conductors, elsewhere)), oil)


def test_a_band_holds_what_the_input_itself_is_off_by():
    job = van()
    wide = replace(
        job,
        displays=tuple(
            replace(d, inputs=tuple(with_facts(i, adc_offset_lsb=30.0) for i in d.inputs))
            for d in job.displays
        ),
    )
    bands = [
        {
            e.point.channel: e.high - e.low
            for e in expect(build(one), State("run"))
            if e.point.kind == "shown" and e.value is not None
        }
        for one in (job, wide)
    ]
    assert bands[1]["oil pressure"] > bands[0]["oil pressure"] + 0.2
