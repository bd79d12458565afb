"""What the wires of a job may carry where they lie: heat of the run, loaded neighbours, insulation.

The factors themselves are held against IEC 60364-5-52 in tests/truth; here by hand: 0.5 mm2 is guarded by 7.5 A in cool air.
"""

from dataclasses import replace

import pytest

from metrolex.acts.feeds import choose_tap
from metrolex.harness.fusing import fuse_for_tap, load_findings
from metrolex.harness.heat import along, guarded_where_it_lies, heat_findings, surroundings_of, where_it_lies
from metrolex.harness.loads import wires_after
from metrolex.harness.plan import plan_wires
from metrolex.job import Conductor, Display, End, Pin, Run, Segment
from tests.jobs import van, with_facts


def hot(job, peak_degc, run="feed run"):
    way = (Segment("feeds", 2.0, peak_degc),)
    runs = tuple(replace(r, segments=way, start=None, finish=None) if r.id == run else r for r in job.runs)
    return replace(job, runs=runs)


@pytest.mark.parametrize(
    ("peak_degc", "insulation", "stands", "fuse_a"),
    [
        (30, "", 105, 7.5),
        (60, "", 105, 5.0),  # 7.5 x sqrt(45/75) = 5.8 A
        (100, "", 105, 1.0),  # 7.5 x sqrt(5/75) = 1.9 A
        (100, "C", 125, 3.0),  # 7.5 x sqrt(25/95) = 3.8 A
        (120, "", 125, 1.0),  # class C is what 120 degC asks for: 7.5 x sqrt(5/95) = 1.7 A
        (125, "", 125, 0.0),  # no room to warm itself
        # 7.5 x sqrt(25/120) x 0.8 = 2.7 A: in that heat the 0.95 A of W2 is more than 30 % of what it may carry among four
        (125, "D", 150, 2.0),
    ],
)
def test_heat_takes_from_what_a_wire_may_carry(peak_degc, insulation, stands, fuse_a):
    job = hot(van(), peak_degc)
    wire = with_facts(job.wire("W1"), insulation=insulation)
    job = replace(job, conductors=tuple(wire if w.id == "W1" else w for w in job.conductors))
    assert surroundings_of(job, wire).insulation_degc == stands
    assert guarded_where_it_lies(job, wire) == fuse_a


def test_a_hot_run_makes_the_fuse_too_large_and_says_why():
    job = van()
    job = replace(job, taps=tuple(replace(t, fuse_a=5.0) for t in job.taps))
    assert "fuse_over_wire" not in {f.code for f in load_findings(job)}
    found = [f for f in load_findings(hot(job, 100.0)) if f.code == "fuse_over_wire"]
    assert found
    assert "100 °C" in found[0].reason
    assert "insulation" in found[0].remedy
    tap = job.taps[1]
    heated = hot(job, 100.0)
    behind = [guarded_where_it_lies(heated, wire) for wire in wires_after(heated, tap)]
    assert fuse_for_tap(heated, tap).fuse_a == min(behind) == 2.0  # 0.75 mm2: 10 x sqrt(5/75) = 2.6 A


@pytest.mark.parametrize(("peak_degc", "said"), [(60, False), (125, True), (260, True)])
def test_a_tap_left_without_a_fuse_by_the_heat_says_why(peak_degc, said):
    job = hot(van(), float(peak_degc))
    tap = job.taps[1]
    job = choose_tap(job, tap.need, tap.circuit, tap.id)
    assert (job.tap(tap.id).fuse_a is None) is said
    found = [f for f in load_findings(job) if f.code == "fuse_over_wire" and tap.id in f.reason]
    assert bool(found) is said
    assert all(f.grade == "stop" and "may carry nothing" in f.reason for f in found)


def test_in_the_heat_a_smaller_load_warms_its_neighbours():
    """Along 90 degC two of 0.5 mm2 are rated 7.5 x sqrt(15/75) x 0.8 = 2.7 A each: 1 A is more than 30 % of that, but not of 6 A."""
    cool = loaded(4.0, 1.0)
    warm = hot(cool, 90.0, "loads")
    assert surroundings_of(cool, cool.wire("L0")).bundled == 1
    assert surroundings_of(warm, warm.wire("L0")).bundled == 2


def test_insulation_that_does_not_stand_the_run_is_a_stop():
    job = hot(van(), 110.0)
    assert not list(heat_findings(job))
    low = replace(
        job, conductors=tuple(with_facts(w, insulation="B") if w.id == "W1" else w for w in job.conductors)
    )
    assert [f.code for f in heat_findings(low)] == ["insulation_too_low"]


def loaded(*amps):
    """A display whose feed pins draw so much, each on a wire of its own from one tap along one run."""
    job = van()
    pins = tuple(Pin(str(i), f"feed {i}", "ignition", a) for i, a in enumerate(amps))
    tap = job.taps[1]
    wires = tuple(
        Conductor(f"L{i}", End("tap", tap.id), End("display", "big", pin.id), 0.5, run="loads")
        for i, pin in enumerate(pins)
    )
    run = Run("loads", "Loads", (Segment("cabin", 1.0, 30.0),))
    return replace(job, displays=(*job.displays, Display("big", "big", pins)), conductors=wires, runs=(run,))


@pytest.mark.parametrize(
    ("amps", "bundled"),
    [
        ((4.0,), 1),
        ((4.0, 4.0), 2),
        ((4.0, 4.0, 4.0), 3),
        # Of three in a bundle each is rated 7.5 x 0.7 = 5.25 A; 30 % of that is 1.575 A.
        ((4.0, 1.5, 1.5), 1),
        ((4.0, 1.6, 1.5), 2),
        ((4.0, 0.0), 1),
    ],
)
def test_only_wires_that_carry_something_warm_their_neighbours(amps, bundled):
    job = loaded(*amps)
    around = surroundings_of(job, job.wire("L0"))
    assert around.bundled == bundled
    assert (f"among {bundled} loaded wires" in where_it_lies(around)) is (bundled > 1)


def test_a_wire_without_a_run_lies_by_itself_in_cool_air():
    job = van()
    lone = next(w for w in job.conductors if w.run is None)
    around = surroundings_of(job, lone)
    assert (around.ambient_degc, around.bundled, around.insulation_degc) == (30.0, 1, 105.0)
    assert along(None).ambient_degc == 30.0


def test_laid_wires_are_sized_for_the_heat_of_their_run():
    """1.2 A wants a 2 A fuse: 0.5 mm2 along 100 degC is guarded by 1 A only."""
    job = hot(van(), 100.0)
    bare = replace(job, conductors=tuple(w for w in job.conductors if w.run != "feed run"), splices=())
    bare = replace(bare, conductors=tuple(w for w in bare.conductors if "splice" not in (w.a.kind, w.b.kind)))
    done = plan_wires(bare).job
    ignition = next(w for w in done.conductors if w.run == "feed run" and w.a == End("tap", "T2"))
    assert ignition.size > 0.5
    assert guarded_where_it_lies(done, ignition) >= 2.0
