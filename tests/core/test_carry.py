"""What was solved of a job is handed on to its next version only where that makes the same circuit."""

from __future__ import annotations

import itertools
import sys
import threading
from collections.abc import Iterator
from dataclasses import fields, replace
from typing import Any

import pytest

from metrolex.acts import proving, sheet
from metrolex.check import chain_board, find_all, still_standing
from metrolex.errors import BadInput
from metrolex.faults import what_if
from metrolex.intake import dump, read
from metrolex.job import Job, KitItem, State, Waiver
from metrolex.job.references import check_references
from metrolex.jobfile import EXAMPLES, example_job_data, job_from_data
from metrolex.twin import build, expect, solve
from metrolex.twin.build import elements_for
from metrolex.twin.carry import BESIDE, carry_over, same_circuit
from metrolex.twin.error_budget import channel_budget
from metrolex.twin.expectations import STATES
from metrolex.twin.grounds import ground_layouts
from metrolex.twin.run import true_values
from tests.jobs import van

RUNNING = State("run", "off", "running")


def everything(job: Job) -> tuple[Any, ...]:
    """All that pages show of the circuit of a job."""
    network = build(job)
    solved = solve(network, RUNNING)
    findings = find_all(network, solved)
    rows = chain_board(network, solved, still_standing(job, findings))
    tests = [expect(network, state) for state in STATES]
    faults = [what_if(network, RUNNING, channel) for channel in job.chains]
    budgets = [channel_budget(network, RUNNING, channel) for channel in job.chains]
    return findings, rows, tests, faults, ground_layouts(network), [repr(budget) for budget in budgets]


def anew(job: Job) -> Job:
    """The same job, with nothing worked out of it yet."""
    return read(Job, dump(job))


SEEN = van().observations[0]

ASIDE = {
    "a reading that leaves the class": lambda job: sheet.set_reading(job, "F14", "later", "0.3"),
    "a fuse pulled": lambda job: sheet.prove_circuit(job, "F14", "no"),
    "what was seen": lambda job: proving.observe(job, SEEN.test.key, SEEN.state, "3.3", "2026-01-02"),
    "a stop waived": lambda job: replace(
        job, waivers=(*job.waivers, Waiver("safety_critical_tap", "T4", "spare slot", "Demo Fitter"))
    ),
    "a name": lambda job: replace(job, name="Another name"),
    "a thing at hand": lambda job: replace(job, kit=(*job.kit, KitItem("spare reel", "Reel of wire", 4.0))),
    "hours left": lambda job: replace(job, brief=replace(job.brief, hours_left=3.0)),
}


@pytest.mark.thorough
@pytest.mark.parametrize("words", ASIDE)
def test_what_lies_beside_the_circuit_leaves_what_was_solved(words):
    before = van()
    everything(before)
    after = ASIDE[words](before)
    assert after != before
    assert carry_over(before, after)
    assert build(after).plain[RUNNING].solution is build(before).plain[RUNNING].solution
    assert build(after).plain[RUNNING].network is build(after)
    assert everything(after) == everything(anew(after))


def test_what_was_seen_is_judged_anew():
    before = van()
    everything(before)
    after = proving.observe(before, SEEN.test.key, SEEN.state, "3.3", "2026-01-02")
    carry_over(before, after)
    assert everything(after)[1] != everything(before)[1] or everything(after)[0] != everything(before)[0]


def test_a_reading_that_alters_the_class_is_solved_anew():
    before = van()
    everything(before)
    after = sheet.set_reading(before, "F14", "run", "12.4")
    assert not carry_over(before, after)
    assert not build(after).plain
    assert everything(after) == everything(anew(after))


#: Circuits enough to have some of every kind; one is like another.
FEW = 8


def altered(data: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[tuple[Any, ...], Any]]:
    """The plain data with each of its values altered alone: a number a tenth more, a text longer, a yes to a no, a part left out."""
    whole, at = data, data
    for key in path:
        at = at[key]
    if isinstance(at, dict):
        for key in at:
            yield from altered(data, (*path, key))
    elif isinstance(at, list):
        if len(path) == 1 and at:
            yield path, changed(whole, path, at[:-1])
        for i in range(len(at)):
            yield from altered(data, (*path, i))
    elif isinstance(at, bool):
        yield path, changed(whole, path, not at)
    elif isinstance(at, (int, float)):
        yield path, changed(whole, path, at * 1.1 + (at == 0))
    elif isinstance(at, str):
        yield path, changed(whole, path, at + "x")


def changed(data: Any, path: tuple[Any, ...], value: Any) -> Any:
    """The data with another value at a path; what lies beside the path is shared."""
    if not path:
        return value
    key, *rest = path
    inner = changed(data[key], tuple(rest), value)
    if isinstance(data, dict):
        return data | {key: inner}
    return [*data[:key], inner, *data[key + 1 :]]


@pytest.mark.thorough
@pytest.mark.parametrize("example", EXAMPLES)
def test_no_value_that_is_said_to_leave_the_circuit_alters_it(example):
    """Every value beside the circuit, and of the probe sheet, altered alone: where the circuit is called the same, it is, in each state."""
    whole = job_from_data(example_job_data(example))
    data = dump(replace(whole, circuits=whole.circuits[:FEW], taps=(), conductors=(), splices=()))
    job = read(Job, data)
    first = circuit(job)
    same = tried = 0
    for key in sorted(BESIDE | {"circuits"}):
        for path, other in altered(data, (key,)) if key in data else ():
            after = meant(other)
            if after is None:
                continue
            tried += 1
            if same_circuit(job, after):
                same += 1
                assert circuit(after) == first, path
    assert tried > same > 10


def test_any_other_value_makes_another_circuit():
    data = dump(van())
    job = read(Job, data)
    for key in set(data) - BESIDE - {"circuits"}:
        for path, other in altered(data, (key,)):
            if (after := meant(other)) is not None:
                assert not same_circuit(job, after), path
                break


def meant(data: Any) -> Job | None:
    """The job of plain data; None where it cannot be meant."""
    try:
        job = read(Job, data)
        check_references(job)
    except BadInput:
        return None
    return job


def circuit(job: Job) -> list[Any]:
    """All parts of a job's circuit with their values, in a few states of the key, and the lengths of its wires."""
    network = build(job)
    awake = frozenset(display.id for display in job.displays)
    parts = [elements_for(network, state, true_values(job, state), awake) for state in STATES[::4]]
    return [*parts, dict(network.lengths_m)]


def test_every_field_beside_the_circuit_is_one_of_a_job():
    assert {field.name for field in fields(Job)} >= BESIDE


def test_a_page_of_the_version_before_may_be_working_something_out_meanwhile():
    """Another thread adds to what the old version keeps while it is handed on: nothing is torn, and what was there comes along."""
    old = van()
    network = build(old)
    solve(network, RUNNING)
    stop = threading.Event()

    def work_out() -> None:
        for i in itertools.count():
            if stop.is_set():
                return
            network.kept[(channel_budget, i % 2000)] = i
            network.kept.pop((channel_budget, (i + 1000) % 2000), None)

    slice_of_time = sys.getswitchinterval()
    page = threading.Thread(target=work_out)
    sys.setswitchinterval(1e-6)
    try:
        page.start()
        for _ in range(100):
            new = replace(old, name="Another name")
            assert carry_over(old, new)
            assert RUNNING in build(new).plain
    finally:
        stop.set()
        page.join()
        sys.setswitchinterval(slice_of_time)
