"""Numbers sent over data pins: by a pair all share, and handed on in a chain."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.boxes import put_between
from metrolex.acts.channels import add_channel
from metrolex.acts.inputs import read_at
from metrolex.acts.ports import choose_sender
from metrolex.check import chain_board, find_all
from metrolex.harness.plan import Lengths, plan_wires
from metrolex.job import Conductor, Display, End, Input, InputCircuit, Job, Output, Pin, State
from metrolex.senders import LinearCurve
from metrolex.topology import hears_data, next_in_chain
from metrolex.twin import build, solve
from metrolex.twin.run import readings
from tests.jobs import a_vehicle, van

NUMBERS = LinearCurve(((0.0, -10_000.0), (5.0, 10_000.0)), "volt", "degC")
RUNNING = State("run", "off", "running")


def module(*data_pins):
    pins = (
        Pin("1", "ignition", "ignition", 0.05),
        Pin("2", "ground", "ground"),
        Pin("3", "temp in", "signal"),
        Pin("4", "return", "return"),
        *data_pins,
    )
    stage = Input("A", "pull_up", "3", InputCircuit(1000.0, 5.0))
    output = Output("A", data_pins[-1].id, NUMBERS, "temperature", "coolant_temperature")
    return Display("m", "Module", pins, (stage,), (output,), face=False, lead_m=0.6)


def display(*data_pins):
    pins = (Pin("1", "ignition", "ignition", 0.1), Pin("2", "ground", "ground"), *data_pins)
    return Display("d", "Screen", pins, (Input("data", "data"),))


PAIR = (Pin("8", "low", "can_low"), Pin("7", "high", "can_high"))
CHAIN_IN, CHAIN_OUT = Pin("7", "in", "data_in"), Pin("8", "out", "data_out")


def a_job(box, screen):
    base = van()
    job = add_channel(Job("j", a_vehicle()), "coolant_temperature")
    key = job.chains[0].id
    job = choose_sender(job, key, "NTC, two wires, 1/8-27 NPT")
    job = replace(job, displays=(*job.displays, screen))
    job = put_between(job, key, box)
    job = read_at(job, key, screen.id, "data")
    return replace(
        job,
        circuits=base.circuits,
        taps=base.taps,
        grounds=base.grounds,
        panels=base.panels,
        zones=base.zones,
    )


def shown(job):
    return readings(solve(build(job), RUNNING))[job.chains[0].id]


@pytest.mark.thorough
@pytest.mark.parametrize(
    ("box", "screen", "wires"),
    [(module(*PAIR), display(*PAIR), 2), (module(CHAIN_OUT), display(CHAIN_IN), 1)],
)
def test_a_box_that_sends_data_is_read_where_it_arrives(box, screen, wires):
    job = a_job(box, screen)
    assert "input_does_not_take_it" not in {f.code for f in find_all(build(job), solve(build(job), RUNNING))}
    laid = plan_wires(job, Lengths(feed_m=1.0)).job
    between = [w for w in laid.conductors if {w.a.id, w.b.id} == {screen.id, "box 1"}]
    assert len(between) == wires
    assert {w.sheath.twist for w in between} == ({"data pair"} if wires == 2 else {""})
    laid = replace(
        laid, conductors=tuple(w if w.length_m else replace(w, length_m=1.0) for w in laid.conductors)
    )
    face = shown(laid)
    assert face.state == "reading"
    assert face.value == pytest.approx(laid.chains[0].true_running, abs=1.5)
    cut = replace(laid, conductors=tuple(w for w in laid.conductors if w.id != between[0].id))
    assert "no data wire from Module" in shown(cut).reason
    unplugged = replace(
        laid, conductors=tuple(w for w in laid.conductors if "sender" not in (w.a.kind, w.b.kind))
    )
    assert shown(unplugged).state != "reading"
    row = next(iter(chain_board(build(laid), solve(build(laid), RUNNING), ())))
    assert row.cell("sender").state == "settled"


def test_data_is_handed_on_by_what_is_awake():
    first = replace(module(CHAIN_OUT), id="a")
    middle = replace(module(Pin("9", "in", "data_in"), CHAIN_OUT), id="b")
    last = replace(display(CHAIN_IN), id="c")
    wires = (
        Conductor("W1", End("display", "a", "8"), End("display", "b", "9"), 0.5, length_m=1.0),
        Conductor("W2", End("display", "b", "8"), End("display", "c", "7"), 0.5, length_m=1.0),
    )
    job = Job("j", a_vehicle(), displays=(first, middle, last), conductors=wires)
    assert next_in_chain(job, first) == ("b",)
    assert next_in_chain(job, last) == ()
    assert hears_data(job, first, last, frozenset({"a", "b", "c"}))
    assert not hears_data(job, first, last, frozenset({"a", "c"}))
    assert not hears_data(job, last, first, frozenset({"a", "b", "c"}))


def test_half_a_pair_carries_nothing():
    box, screen = replace(module(*PAIR), id="a"), replace(display(*PAIR), id="c")
    one = (Conductor("W1", End("display", "a", "7"), End("display", "c", "7"), 0.5, length_m=1.0),)
    both = (*one, Conductor("W2", End("display", "a", "8"), End("display", "c", "8"), 0.5, length_m=1.0))
    assert next_in_chain(Job("j", a_vehicle(), displays=(box, screen), conductors=one), box) == ()
    assert next_in_chain(Job("j", a_vehicle(), displays=(box, screen), conductors=both), box) == ("c",)
