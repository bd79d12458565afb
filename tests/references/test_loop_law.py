"""The loop law held against the circuit solver, which is itself held against ngspice."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.circuit import GROUND, Resistor, VoltageSource, solve
from metrolex.inputs.heating import self_heating
from metrolex.inputs.loop import (
    Thevenin,
    loop_volts,
    ohm_from_volts,
    ohm_per_volt,
    sender_watt,
    thevenin_of,
    volts_from_ohm,
)
from metrolex.job import State
from metrolex.jobfile import EXAMPLES
from metrolex.twin import addresses, build
from metrolex.twin.build import elements_for
from tests.jobs import an_input, shipped

ohms = st.floats(0.5, 200_000.0)
inputs = st.lists(
    st.builds(Thevenin, st.sampled_from([0.0, 3.3, 5.0, 12.0]), st.floats(10.0, 1e6)), min_size=1, max_size=4
)


@given(ohms, inputs, st.floats(1e-3, 20.0), st.floats(-0.5, 0.5))
def test_any_loop_is_the_circuits(ohm, heard, wire, offset):
    """Inputs of any kind on one sender, with a wire and a ground offset, within 1 uV of the solver."""
    elements = [
        VoltageSource("offset", "foot", GROUND, offset),
        Resistor("sender", "far", "foot", ohm),
        Resistor("wire", "signal", "far", wire),
    ]
    for i, one in enumerate(heard):
        elements += [
            VoltageSource(f"v{i}", f"r{i}", GROUND, one.volt),
            Resistor(f"i{i}", f"r{i}", "signal", one.ohm),
        ]
    found = loop_volts(ohm, heard, wire, offset).item()
    assert found == pytest.approx(solve(elements).across("signal", GROUND), abs=1e-6, rel=1e-9)


@given(ohms, st.floats(10.0, 1e5), st.sampled_from([3.3, 5.0]))
def test_there_and_back_and_the_slope_between(ohm, pull_up, reference):
    volts = volts_from_ohm(ohm, pull_up, reference)
    assert ohm_from_volts(volts, pull_up, reference).item() == pytest.approx(ohm, rel=1e-6)
    step = 1e-6 * ohm
    slope = step / (volts_from_ohm(ohm + step, pull_up, reference) - volts).item()
    assert ohm_per_volt(ohm, pull_up, reference).item() == pytest.approx(slope, rel=1e-3)


@given(ohms, st.floats(10.0, 1e5))
def test_the_heat_in_a_sender_is_volts_squared_over_ohms(ohm, pull_up):
    volts = volts_from_ohm(ohm, pull_up, 5.0).item()
    assert sender_watt(ohm, pull_up, 5.0).item() == pytest.approx(volts**2 / ohm, rel=1e-9)
    assert self_heating(ohm, pull_up, 5.0, 4.0, "degC").item() == pytest.approx(
        1000 * volts**2 / ohm / 4.0, rel=1e-9
    )


def test_a_shorted_sender_is_no_division_by_nothing():
    assert loop_volts(0.0, [Thevenin(5.0, 1000.0)]).item() == 0.0
    assert np.isfinite(loop_volts([0.0, 1e12], [Thevenin(5.0, 1000.0), Thevenin(0.0, 1e6)])).all()


@pytest.mark.parametrize("name", EXAMPLES)
def test_the_twin_puts_in_what_the_input_is_for_its_wire(name):
    """Every input of every example: its resistor in the circuit is its Thevenin resistance, its source its volts."""
    network = build(shipped(name))
    awake = frozenset(d.id for d in network.job.displays)
    elements = {e.name: e for e in elements_for(network, State("run"), {}, awake)}
    seen = 0
    for display in network.job.displays:
        for stage in display.inputs:
            known = thevenin_of(stage)
            if known is None:
                assert addresses.pull_up(display.id, stage.id) not in elements
                continue
            seen += 1
            one = (
                elements.get(addresses.pull_up(display.id, stage.id))
                or elements[addresses.input_load(display.id, stage.id)]
            )
            assert one.ohm == known.ohm
            source = elements.get(addresses.reference_node(display.id, stage.id))
            assert (source.volt if source else 0.0) == known.volt
    assert seen


@pytest.mark.parametrize(
    ("stage", "known"),
    [
        (an_input("A", "pull_up", "1", 1000.0, 5.0), Thevenin(5.0, 1000.0)),
        (an_input("A", "volts", "1", input_ohm=47e3), Thevenin(0.0, 47e3)),
        (an_input("A", "supply"), None),
        (an_input("A", "data"), None),
        (an_input("A", "pulse", "1"), None),
        (an_input("A", "pulse", "1", 2200.0, 12.0), Thevenin(12.0, 2200.0)),
        (an_input("A", "thermocouple", "1", thermocouple_type="K"), Thevenin(0.0, 100_000.0)),
    ],
)
def test_what_an_input_is_for_its_wire(stage, known):
    assert thevenin_of(stage) == known
