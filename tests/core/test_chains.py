"""Channel, source and readout: three things kept apart, followed together."""

from __future__ import annotations

import dataclasses
from dataclasses import replace

import pytest

from metrolex.acts.channels import remove_channel
from metrolex.check import chain_board, find_all
from metrolex.intake import dump
from metrolex.job import PARTS, Conductor, End, Readout, State
from metrolex.job.chain import joined, taken_apart
from metrolex.job.changes import changes_between
from metrolex.job.references import check_references
from metrolex.jobfile import EXAMPLES
from metrolex.twin import build, expect, readings, solve
from tests.jobs import shipped, van

RUN = State("run", "off", "running")
JOBS = {name: shipped(name) for name in EXAMPLES}


@pytest.mark.parametrize("name", EXAMPLES)
def test_a_chain_put_back_changes_nothing(name):
    job = JOBS[name]
    assert len(job.chains) == len(job.channels)
    for chain in job.chains:
        assert joined(*taken_apart(chain)) == chain
        assert job.with_chain(chain) == job


def test_each_fact_goes_where_it_is_kept():
    """A change of one field of a chain is one change of one of the three."""
    job = van()
    chain = job.chain("coolant")
    for change, path in (
        ({"true_running": 93.0}, ("channels", "coolant", "true_running")),
        ({"signal": "x"}, ("sources", "coolant", "signal")),
        ({"page": "race"}, ("readouts", "coolant", "page")),
        ({"warn_high": 113.0}, ("readouts", "coolant", "alarm", "high")),
    ):
        after = job.with_chain(replace(chain, **change))
        found = changes_between(dump(job, whole=True), dump(after, whole=True))
        assert [c.path for c in found] == [path]


def on_two_displays():
    """The van's coolant on its gauge and on a second one beside it, whose signal wire is joined to the first's."""
    job = van()
    first = job.chain("coolant")
    old = job.display(first.display)
    second = replace(old, id="gauge 9", name="Second gauge")
    pin = next(i.pin for i in old.inputs if i.id == first.input)
    wires = [
        replace(w, id=f"{w.id} again", **{side: End("display", "gauge 9", getattr(w, side).terminal)})
        for w in job.conductors
        for side in ("a", "b")
        if getattr(w, side).id == old.id and getattr(w, side).terminal != pin
    ]
    joint = Conductor("W99", End("display", old.id, pin), End("display", "gauge 9", pin), length_m=0.3)
    readout = Readout(
        "coolant on gauge 9", "coolant", "gauge 9", first.input, scaling=replace(first.scaling, decimals=1)
    )
    return replace(
        job,
        displays=(*job.displays, second),
        conductors=(*job.conductors, *wires, joint),
        readouts=(*job.readouts, readout),
    )


def test_one_channel_stands_on_two_displays():
    job = on_two_displays()
    check_references(job)
    assert [c.id for c in job.chains if c.channel == "coolant"] == ["coolant", "coolant on gauge 9"]
    assert [c.id for c in job.measured if c.channel == "coolant"] == ["coolant"]
    network = build(job)
    solved = solve(network, RUN)
    faces = readings(solved)
    alone = readings(solve(build(van()), RUN))
    assert faces["coolant"].state == faces["coolant on gauge 9"].state == "reading"
    assert "." in faces["coolant on gauge 9"].text
    # Two pull-ups on one sender: both see more volts than one alone would make, the same on either.
    assert faces["coolant"].value == pytest.approx(faces["coolant on gauge 9"].value, abs=0.6)
    assert faces["coolant"].value != alone["coolant"].value
    rows = chain_board(network, solved, find_all(network, solved))
    assert [row.channel.id for row in rows if row.channel.channel == "coolant"] == [
        "coolant",
        "coolant on gauge 9",
    ]
    tests = [e.point.test for e in expect(network, RUN)]
    assert len(set(tests)) == len(tests)
    assert {t.id for t in tests if t.what == "shown"} >= {"coolant", "coolant on gauge 9"}


def test_a_change_of_what_is_measured_shows_on_both():
    job = on_two_displays()
    after = job.with_chain(replace(job.chain("coolant on gauge 9"), true_running=77.0))
    assert {c.true_running for c in after.chains if c.channel == "coolant"} == {77.0}
    other = job.with_chain(replace(job.chain("coolant on gauge 9"), warn_high=99.0))
    assert other.chain("coolant") == job.chain("coolant")


def test_a_channel_goes_with_all_its_readouts_and_its_source():
    job = on_two_displays()
    after = remove_channel(job, "coolant on gauge 9")
    check_references(after)
    assert not [c for c in after.chains if c.channel == "coolant"]
    assert "coolant" not in {s.id for s in after.sources}
    assert not {"gauge 9", job.chain("coolant").display} & {d.id for d in after.displays}


def test_a_channel_nobody_shows_yet_has_a_chain_all_the_same():
    job = replace(van(), readouts=tuple(r for r in van().readouts if r.channel != "coolant"))
    check_references(job)
    chain = job.chain("coolant")
    assert (chain.display, chain.sender) == (None, "coolant sender")
    assert readings(solve(build(job), RUN))["coolant"].reason == "no display chosen"
    shown = job.with_chain(replace(chain, display="gauge 2", input="A"))
    assert [r.id for r in shown.readouts if r.channel == "coolant"] == ["coolant"]


def test_a_display_taken_out_leaves_the_channel_unshown():
    from metrolex.job.references import without

    job = without(on_two_displays(), "displays", "gauge 9")
    check_references(job)
    assert job.chain("coolant on gauge 9").display is None
    assert job.chain("coolant").display == "gauge 2"


def test_records_are_of_about_ten_fields():
    """What a job stores, record by record; the job itself, a display's input and the older records of issue 13 aside."""
    from metrolex.job import Vehicle

    seen, waiting = {}, [Vehicle, *(PARTS[name] for name in ("channels", "sources", "readouts"))]
    while waiting:
        kind = waiting.pop()
        seen[kind.__name__] = len(dataclasses.fields(kind))
        waiting += [
            type(f.default)
            for f in dataclasses.fields(kind)
            if dataclasses.is_dataclass(f.default) and type(f.default).__name__ not in seen
        ]
    assert {name: count for name, count in seen.items() if count > 11} == {}
