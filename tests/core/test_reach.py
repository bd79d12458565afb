"""What is not there yet names itself: a length, a wire, a feed, a ground; nothing is called dark or 0 V for want of it."""

from __future__ import annotations

from dataclasses import replace

import networkx
import pytest

from metrolex.check.board import chain_board
from metrolex.check.stages import stages_of
from metrolex.job import End, State
from metrolex.jobfile import EXAMPLES
from metrolex.topology import at_pin, topology_of
from metrolex.topology.ends import plain
from metrolex.twin import build, expect, readings, solve
from metrolex.twin.check import twin_findings
from metrolex.twin.reach import missing_on_the_way, not_worked_out
from tests.jobs import shipped, van, with_part

RUN = State("run", "head", "running")


def unmeasured(job, *ids):
    """The job with some wires' lengths taken away, and the runs they lie in."""
    runs = {w.run for w in job.conductors if w.id in ids and w.run}
    return replace(
        job,
        conductors=tuple(
            replace(w, length_m=None, run=w.run) if w.id in ids or (w.run and w.run in runs) else w
            for w in job.conductors
        ),
        runs=tuple(replace(r, segments=(), start=None, finish=None) if r.id in runs else r for r in job.runs),
    )


def test_a_length_that_is_missing_is_named_on_the_face():
    job = unmeasured(van(), "W2")  # from the tap to the splice of all ignition pins
    wire = job.wire("W2")
    named = f"the run {job.run(wire.run).name}" if wire.run else "wire W2"
    for shown in readings(solve(build(job), RUN)).values():
        assert (shown.state, shown.reason) == ("unfinished", f"not worked out: {named} has no length")
    assert not [f for f in twin_findings(build(job)) if f.subject.startswith("gauge")]


def test_nothing_is_said_to_read_zero_behind_an_unknown_length():
    job = with_part(van(), "conductors", "W1", run=None, length_m=None)  # memory of three gauges
    told = {e.point.test.pin: e for e in expect(build(job), State("off")) if e.point.test.id == "gauge 2"}
    assert told["1"].value is None
    assert told["1"].word.startswith("not worked out: ")
    assert not [f for f in twin_findings(build(job)) if f.code == "memory_lost"]
    assert missing_on_the_way(job, job.display("gauge 2")) == ""  # it lives without its memory


def test_a_ground_and_a_feed_that_are_missing_are_named():
    job = van()
    without_ground = replace(job, conductors=tuple(w for w in job.conductors if w.id != "W4"))
    assert (
        missing_on_the_way(without_ground, job.display("gauge 1"))
        == "its ground wire does not reach a ground point yet"
    )
    unfed = with_part(job, "taps", "T2", circuit=None)
    assert missing_on_the_way(unfed, job.display("gauge 1")) == "its ignition tap is on no circuit yet"
    bare = replace(job, conductors=())
    assert missing_on_the_way(bare, job.display("gauge 1")) == "its ignition pin has no wire yet"


def test_a_display_that_goes_dark_by_its_circuit_still_says_its_volts():
    off = readings(solve(build(van()), State("off")))["coolant"]
    assert (off.state, off.reason) == ("dark", "key off")


@pytest.mark.parametrize("name", EXAMPLES)
def test_what_is_unmeasured_follows_from_walking_measured_wires_only(name):
    """Against networkx: joined to a feed or ground by all wires, but not by the measured ones alone."""
    whole = shipped(name)
    for dropped in range(0, len(whole.conductors), 3):
        job = unmeasured(whole, *(w.id for w in whole.conductors[dropped : dropped + 2]))
        wiring = topology_of(job)
        graph = networkx.Graph()
        for wire in job.conductors:
            if wire.id in wiring.lengths_m:
                graph.add_edge(plain(wire.a), plain(wire.b))
        for switch in job.switches:  # a switch is looked through, however it stands
            for contact in switch.contacts:
                graph.add_edge(End("switch", switch.id, contact.a), End("switch", switch.id, contact.b))
        for display in job.displays:
            for pin in display.pins:
                here = at_pin(display, pin)
                if pin.role not in ("ignition", "memory", "lamps", "ground") or not wiring.wired(here):
                    continue
                kinds = ("ground", "battery") if pin.role == "ground" else ("tap", "battery")
                reached = here in graph and any(
                    node.kind in kinds for node in networkx.node_connected_component(graph, here)
                )
                joined = any(end.kind in kinds for end in wiring.reaches(here))
                assert bool(not_worked_out(job, display, pin)) is (joined and not reached), (
                    display.id,
                    pin.id,
                )


def test_a_length_of_what_is_laid_is_open_at_the_harness():
    job = unmeasured(van(), "W1")
    network = build(job)
    rows = chain_board(network, solve(network, RUN), ())
    harness = next(stage for stage in stages_of(job, rows, ()) if stage.key == "harness")
    assert harness.count >= 1
    assert "to measure" in harness.words
