"""A job from nothing says nothing about what nobody entered: every measurand on a gauge and on a dash, without a sender and with each one offered."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts import scaling as acts
from metrolex.acts.channels import add_channel
from metrolex.acts.ports import choose_sender
from metrolex.check.board import chain_board
from metrolex.check.rules import find_all
from metrolex.job import Identity, Job, State, Vehicle
from metrolex.kit import body_of, measurands
from metrolex.scaling.error import table_error
from metrolex.twin import build, solve
from tests.jobs import van

STATES = (State("run"), State("run", "off", "running"))
CASES = [
    (facts.id, sender, on_dash)
    for facts in measurands()
    for sender in (None, *facts.senders)
    for on_dash in (False, True)
]
#: What is true of the choice itself, whoever made it: it is said.
TRUE_OF_THE_CHOICE = {"input_does_not_take_it", "no_carrier"}


def an_eighth_quickly(cases):
    """All cases, of which every eighth stands in the quick run."""
    return [
        pytest.param(*case, marks=[pytest.mark.thorough] if i % 8 else []) for i, case in enumerate(cases)
    ]


def new_job(measurand, sender=None, on_dash=False):
    job = add_channel(Job("new", Vehicle(Identity("any"))), measurand, on_dash=on_dash)
    if sender and body_of(sender):  # it sits in the body of another, which comes first
        job = add_channel(job, "oil_pressure", on_dash=on_dash)
        job = choose_sender(job, job.chains[1].id, body_of(sender))
    return choose_sender(job, job.chains[0].id, sender) if sender else job


@pytest.mark.parametrize(("measurand", "sender", "on_dash"), an_eighth_quickly(CASES))
def test_our_own_defaults_are_never_a_finding(measurand, sender, on_dash):
    job = new_job(measurand, sender, on_dash)
    network = build(job)
    found = {
        (f.code, f.figure)
        for state in STATES
        for f in find_all(network, solve(network, state))
        if f.grade != "note" and f.code not in TRUE_OF_THE_CHOICE
    }
    if sender == "pressure, 0.5 to 4.5 V, 1 bar" and measurand == "fuel_pressure":
        assert found == {
            ("warning_out_of_reach", "2 bar")
        }  # a sender for a carburettor in an injected engine's line
        return
    assert not found


@pytest.mark.parametrize(("measurand", "sender", "on_dash"), an_eighth_quickly([c for c in CASES if c[1]]))
def test_an_assumed_table_follows_its_sender_over_the_whole_face(measurand, sender, on_dash):
    job = new_job(measurand, sender, on_dash)
    chain = job.chains[0]
    part, stage = job.sender(chain.sender), job.input_of(chain)
    if not chain.scaling.assumed or part.rides or stage.kind not in ("pull_up", "volts", "loop"):
        return
    if (stage.kind, part.curve.x_unit) == ("volts", "milliampere") or part.curve.x_unit == "millivolt":
        return  # the input does not take it: that is said
    strip = table_error(chain, part, stage)
    span = chain.scaling.high - chain.scaling.low
    # Twelve rows, the digits of the face, the converter's steps.
    assert strip.largest <= 0.01 * span + 0.51 * 10.0**-chain.scaling.decimals
    for level in (chain.warn_low, chain.warn_high):
        if level is not None and sender != "pressure, 0.5 to 4.5 V, 1 bar":
            assert chain.scaling.low < level < chain.scaling.high


def test_it_stays_open_until_somebody_compares_it_and_follows_no_sender_after():
    job = new_job("coolant_temperature", "NTC, two wires, 1/8-27 NPT")
    key = job.chains[0].id

    def cell(job):
        network = build(job)
        return chain_board(network, solve(network, STATES[0]), ())[0].cell("scaling")

    assert (cell(job).state, cell(job).fact) == ("open", "Compare its table")
    other = choose_sender(job, key, "NTC, one wire, M10x1")
    assert other.chains[0].scaling.table != job.chains[0].scaling.table
    compared = acts.confirm_table(job, key)
    assert cell(compared).state == "settled"
    kept = choose_sender(compared, key, "NTC, one wire, M10x1")
    assert kept.chains[0].scaling.table == job.chains[0].scaling.table
    network = build(kept)
    assert "table_off_curve" in {f.code for f in find_all(network, solve(network, STATES[0]))}


def test_what_was_typed_is_not_assumed_and_a_form_saved_untouched_changes_nothing():
    job = new_job("coolant_temperature", "NTC, two wires, 1/8-27 NPT")
    chain = job.chains[0]
    levels = acts.Levels(chain.warn_low, chain.warn_high, chain.true_stopped, chain.true_running)
    untouched = acts.set_scaling(job, chain.id, replace(chain.scaling, assumed=False), levels)
    assert untouched == job
    (x, y), *rest = chain.scaling.table
    rows = ((x, y - 1), *rest)
    typed = acts.set_scaling(job, chain.id, replace(chain.scaling, table=rows, assumed=False), levels)
    assert typed.chains[0].scaling.table == rows
    assert typed.chains[0].scaling.assumed is False
    for act in (
        lambda: acts.take_rows(job, chain.id, acts.Asked(8)),
        lambda: acts.move_row(job, chain.id, 0, chain.scaling.table[0][0] + 1, chain.scaling.table[0][1]),
    ):
        assert act().chains[0].scaling.assumed is False


def test_jobs_there_are_are_assumed_of_nothing():
    assert not any(chain.scaling.assumed for chain in van().chains)
