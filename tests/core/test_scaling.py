"""From input volts to digits; the error strip; rows from a curve."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from metrolex.errors import BadInput
from metrolex.inputs.converter import quantised
from metrolex.inputs.loop import ohm_from_volts, volts_from_ohm
from metrolex.job import Behaviour, Scaling
from metrolex.quantities import in_unit
from metrolex.scaling.error import table_error
from metrolex.scaling.reading import read_supply, read_volts
from metrolex.scaling.suggest import shared_span, suggest_rows, typeable_steps
from metrolex.senders import LinearCurve, is_monotonic
from tests.jobs import CURVE, an_input, shipped, small_job, with_chain, with_facts

PULL_UP = an_input("A", "pull_up", "5", 1000.0, 5.0, 10)
TABLE = Scaling(CURVE.points, "ohm", 0, 20, 120)


def test_pull_up_by_hand():
    # 250 ohm against 1 kohm from 5 V: 5 x 250/1250 = 1 V; with 10 ohm of wire 5 x 260/1260.
    assert volts_from_ohm(250.0, 1000.0, 5.0).item() == pytest.approx(1.0)
    assert volts_from_ohm(250.0, 1000.0, 5.0, wire_ohm=10.0).item() == pytest.approx(5 * 260 / 1260)
    # The sender's ground 0.1 V up: 0.1 + 4.9 x 250/1250 = 1.08 V.
    assert volts_from_ohm(250.0, 1000.0, 5.0, ground_offset_v=0.1).item() == pytest.approx(1.08)
    assert ohm_from_volts([1.0, 5.0], 1000.0, 5.0).tolist() == [250.0, np.inf]


def test_converter_by_hand():
    # 10 bits of 5 V: 1.0 V is code 204.8, so 204 x 5/1024 = 0.99609375 V; full scale is held at 1023.
    assert quantised([1.0, 5.0, -0.1], 5.0, 10).tolist() == [0.99609375, 1023 * 5 / 1024, 0.0]


@pytest.mark.parametrize(
    ("volts", "text", "state"),
    [
        (1.0, "80", "reading"),
        (5.0, "--", "open"),
        (0.0, "--", "short"),
        (2.6, "20", "reading"),
        (4.9, "20", "reading"),
        (0.3, "120", "reading"),
    ],
)
def test_the_face_at_input_volts(volts, text, state):
    face = read_volts(volts, PULL_UP, TABLE, Behaviour())
    assert (face.text, face.state) == (text, state)


def test_a_table_in_volts_needs_no_pull_up():
    face = read_volts(
        2.5, an_input("A", "volts", "5"), Scaling(((0.5, 0.0), (4.5, 10.0)), "volt", 1), Behaviour()
    )
    assert face.text == "5.0"
    with pytest.raises(BadInput, match="needs an input with a pull-up"):
        read_volts(2.5, an_input("A", "volts", "5"), TABLE, Behaviour())


def test_a_supply_reading_may_be_corrected_by_a_table():
    assert read_supply(12.34, Scaling(decimals=1), Behaviour()).text == "12.3"
    assert read_supply(12.34, Scaling(((0.0, 0.2), (20.0, 20.2)), "volt", 1), Behaviour()).text == "12.5"
    assert read_supply(12.34, Scaling(decimals=1, low=13, high=18), Behaviour()).state == "below"


def test_a_face_of_the_senders_own_points_errs_by_rounding_and_converter_only():
    job = small_job()
    strip = table_error(job.chains[0], job.senders[0], with_facts(job.displays[0].inputs[0], adc_bits=None))
    assert strip.largest == pytest.approx(0.5, abs=0.02)
    coarse = table_error(job.chains[0], job.senders[0], with_facts(job.displays[0].inputs[0], adc_bits=8))
    assert coarse.largest > 1.5


def test_the_error_strip_is_what_the_reading_says():
    job = small_job()
    channel = replace(job.chains[0], scaling=Scaling(((100.0, 120.0), (1000.0, 20.0)), "ohm", 1, 20, 120))
    strip = table_error(channel, job.senders[0], job.displays[0].inputs[0])
    at = int(np.abs(strip.error).argmax())
    ohm = np.interp(strip.true[at], [20, 50, 80, 120], [1000, 500, 250, 100])
    face = read_volts(
        volts_from_ohm(ohm, 1000.0, 5.0).item(), job.displays[0].inputs[0], channel.scaling, Behaviour()
    )
    assert face.value - strip.true[at] == pytest.approx(strip.error[at], abs=0.051)


def test_rows_suggested_for_a_channel():
    """The sender of the small job is straight between 100, 250, 500 and 1000 ohm: four rows hold it without error."""
    job = small_job()
    channel, sender, stage = job.chains[0], job.senders[0], job.displays[0].inputs[0]
    four = suggest_rows(channel, sender, stage, 4)
    assert four.max_error < 1e-6
    assert [x for x, _ in four.rows] == pytest.approx([100, 250, 500, 1000], rel=1e-6)
    stepped = suggest_rows(channel, sender, stage, 3, x_step=10, y_step=1)
    assert all(x % 10 == 0 and y == round(y) for x, y in stepped.rows)
    assert stepped.max_error <= stepped.equal_error
    in_volts = replace(
        channel, scaling=replace(channel.scaling, table=((0.4, 120.0), (2.5, 20.0)), x_unit="volt")
    )
    volts = suggest_rows(in_volts, sender, stage, 8)
    assert 0 < volts.rows[0][0] < volts.rows[-1][0] < 5
    for count, scaling in ((5, Scaling(low=200, high=300)), (1, channel.scaling), (500, channel.scaling)):
        with pytest.raises(BadInput):
            suggest_rows(replace(channel, scaling=scaling), sender, stage, count)


@pytest.mark.thorough
@pytest.mark.parametrize("name", ["van", "single_seater", "sidecar", "fire_tender"])
def test_rows_can_be_typed_and_never_leave_face_and_sender(name):
    """By default every number goes in as the display takes it, none asks for what face or sender cannot have; straight is two rows."""
    job, tables = shipped(name), 0
    for channel in job.chains:
        sender, stage = job.sender(channel.sender), job.input_of(channel)
        if sender is None or stage is None or stage.kind == "data" or not is_monotonic(sender.curve):
            continue
        low, high = shared_span(channel, sender)
        for steps in (typeable_steps(channel, sender, stage), (0.0, 0.0)):
            found = suggest_rows(channel, sender, stage, 8, x_step=steps[0], y_step=steps[1])
            xs, ys = (np.array(column) for column in zip(*found.rows, strict=True))
            assert low - 1e-9 <= ys.min() <= ys.max() <= high + 1e-9, (channel.id, steps, found.rows)
            if isinstance(sender.curve, LinearCurve) and channel.scaling.x_unit != "ohm":
                assert len(found.rows) == 2
            for column, step in zip((xs, ys), steps, strict=True):
                assert not step or np.abs(column / step - np.round(column / step)).max() < 1e-6
                assert not step or all(len(f"{v:g}") <= 6 for v in column.tolist())
        tables += 1
    assert tables


def test_a_channel_in_another_unit_than_its_sender():
    assert in_unit(100.0, "degC", "degF") == pytest.approx(212.0)
    job = with_chain(
        small_job(), unit="degF", scaling=Scaling(((100.0, 248.0), (250.0, 176.0), (1000.0, 68.0)), "ohm", 0)
    )
    strip = table_error(job.chains[0], job.senders[0], job.displays[0].inputs[0])
    assert (strip.true[0], strip.true[-1]) == pytest.approx((68.0, 248.0))
    with pytest.raises(BadInput, match="same kind"):
        in_unit(1.0, "degC", "bar")


@pytest.mark.parametrize(
    ("make", "field"),
    [
        (lambda: Scaling(((1.0, 2.0),)), "points"),
        (lambda: Scaling(((-1.0, 2.0), (5.0, 3.0))), "table"),
        (lambda: Scaling(low=5, high=5), "high"),
        (lambda: an_input("A", "pull_up", "5", reference_v=5.0), "circuit.pull_up_ohm"),
        (lambda: an_input("A", "volts"), "pin"),
        (lambda: an_input("A", "volts", "5", adc_bits=10), "circuit.reference_v"),
    ],
)
def test_what_cannot_be_entered(make, field):
    with pytest.raises(BadInput) as refusal:
        make()
    assert refusal.value.field == field
