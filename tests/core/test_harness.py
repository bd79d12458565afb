"""Wires, runs, and the wires laid by rule."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.errors import BadInput
from metrolex.harness.conductors import choose_wire, find_gauge, wire_ohm
from metrolex.harness.loads import wires_after
from metrolex.harness.plan import plan_wires
from metrolex.harness.runs import plan_run
from metrolex.job import End, Run, Segment, State, Tap
from metrolex.job.references import check_references
from metrolex.layout.routes import laid
from metrolex.topology import topology_of
from metrolex.twin import build, readings, solve
from tests.jobs import small_job, unfinished_van, van

WIRES = [
    # current, length, drop, system, by wire -> size. 80 % of the largest fuse, then the drop.
    (1.8, 3.2, 0.3, "mm2", True, 0.75),
    (1.8, 3.2, 0.3, "mm2", False, 0.5),
    (6.0, 1.0, 1.0, "mm2", False, 0.75),
    (6.1, 1.0, 1.0, "mm2", False, 0.75),
    (40.0, 1.0, 2.0, "mm2", False, 6.0),
    (41.0, 1.0, 2.0, "mm2", False, None),
    (5.0, 30.0, 0.2, "mm2", True, None),
    (1.8, 3.2, 0.3, "awg", True, 18.0),
    (0.01, 1.0, 0.5, "awg", False, 22.0),
]


@pytest.mark.parametrize(("amps", "length", "drop", "system", "by_wire", "size"), WIRES)
def test_wire_choice(amps, length, drop, system, by_wire, size):
    choice = choose_wire(amps, length, drop, 20.0, system, by_wire)
    if size is None:
        assert choice.gauge is None
        assert [f.code for f in choice.findings] == ["no_size_will_do"]
        return
    assert choice.gauge.size == size
    assert choice.drop_v == pytest.approx(amps * wire_ohm(size, system, length * (2 if by_wire else 1)))
    assert choice.drop_v <= drop


def test_an_unknown_size_lists_the_sizes():
    with pytest.raises(BadInput, match=r"0\.35, 0\.5, 0\.75"):
        find_gauge(0.6, "mm2")


def run(supplied=None, *segments, slack=5.0, ends=0.3):
    return Run(
        "r", "Lead", tuple(Segment(f"s{i}", *s) for i, s in enumerate(segments)), slack, ends, supplied
    )


RUNS = [
    # (1 + 2) x 1.05 + 0.3 = 3.45; a moving stretch adds 0.05 m after the slack.
    (run(None, (1.0,), (2.0,)), 3.45, 3.45, 0.0, "A", set()),
    (run(4.0, (1.0,), (2.0,)), 3.45, 0.0, 0.55, "A", {"spare_not_said"}),
    (run(3.0, (1.0, 110.0, True), (2.0,)), 3.5, 0.5, 0.0, "C", {"lead_short", "slack_where_it_moves"}),
    (run(3.45, (1.0,), (2.0,)), 3.45, 0.0, 0.0, "A", set()),
    (
        run(
            9.0,
            (1.0, 260.0),
        ),
        1.35,
        0.0,
        7.65,
        None,
        {"too_hot_for_insulation", "spare_not_said"},
    ),
]


@pytest.mark.parametrize(("lead", "length", "missing", "spare", "insulation", "codes"), RUNS)
def test_runs(lead, length, missing, spare, insulation, codes):
    plan = plan_run(lead)
    assert (plan.length_m, plan.extension_m, plan.spare_m) == pytest.approx((length, missing, spare))
    assert plan.insulation_class == insulation
    assert {f.code for f in plan.findings} == codes


def test_a_wire_is_as_long_as_measured_else_as_its_run():
    job = van()
    assert topology_of(job).lengths_m["W19"] == pytest.approx(
        plan_run(laid(job, job.run("coolant run"))).length_m
    )
    assert topology_of(job).lengths_m["W4"] == 0.4
    unmeasured = replace(job, runs=tuple(replace(r, segments=(), start=None) for r in job.runs))
    assert "W19" not in topology_of(unmeasured).lengths_m


def test_power_is_followed_through_splices():
    assert {w.id for w in wires_after(van(), van().taps[1])} == {"W2", "W6", "W10", "W13", "W17"}


def bare(job):
    return replace(job, conductors=(), splices=())


@pytest.mark.parametrize("job", [small_job(), van()], ids=["small", "van"])
def test_laid_by_rule_a_bare_job_comes_alive(job):
    measured = replace(
        bare(job),
        runs=tuple(r if r.segments else replace(r, segments=(Segment("way", 2.0),)) for r in job.runs),
    )
    plan = plan_wires(measured)
    check_references(plan.job)
    assert plan.added == len(plan.job.conductors) > 4
    if plan.job.run("feed run") and not plan.job.run("feed run").segments:
        plan = replace(
            plan,
            job=replace(
                plan.job, runs=tuple(replace(r, segments=(Segment("way", 1.0),)) for r in plan.job.runs)
            ),
        )
    job = replace(
        plan.job,
        conductors=tuple(w if w.run or w.length_m else replace(w, length_m=2.0) for w in plan.job.conductors),
    )
    faces = readings(solve(build(job), State("run", "off", "running")))
    assert {face.state for face in faces.values()} == {"reading"}
    assert not plan_wires(plan.job).added


def test_what_cannot_be_laid_is_said():
    plan = plan_wires(replace(bare(small_job()), taps=(), grounds=()))
    assert set(plan.missing) == {"no tap for constant yet", "no tap for ignition yet", "no ground point yet"}
    assert [w.a.terminal for w in plan.job.conductors] == ["5", "6"]


def test_a_second_gauge_is_spliced_into_a_wire_that_went_straight():
    job = small_job()
    second = replace(job.displays[0], id="gauge 2", name="Another")
    plan = plan_wires(replace(job, displays=(*job.displays, second)))
    check_references(plan.job)
    ends = {
        end.id for w in wires_after(plan.job, plan.job.taps[1]) for end in (w.a, w.b) if end.kind == "display"
    }
    assert ends == {"gauge", "gauge 2"}


def test_a_tap_taken_out_and_found_again_is_wired_to_the_splice_that_hangs_loose():
    job = van()
    loose = replace(
        job,
        taps=tuple(t for t in job.taps if t.id != "T2"),
        conductors=tuple(w for w in job.conductors if w.id != "W2"),
    )
    again = replace(loose, taps=(*loose.taps, Tap("T9", "ignition_crank", "F22", 2.0)))
    plan = plan_wires(again)
    trunk = next(w for w in plan.job.conductors if w.a == End("tap", "T9"))
    assert trunk.b == End("splice", "S2")
    fed = {
        end.id
        for w in wires_after(plan.job, plan.job.taps[-1])
        for end in (w.a, w.b)
        if end.kind == "display"
    }
    assert fed == {"gauge 1", "gauge 2", "gauge 3", "gauge 4"}


def test_the_vans_own_gaps_are_laid_and_nothing_else():
    before = unfinished_van()
    plan = plan_wires(before)
    new = {(w.a.id, w.b.id, w.b.terminal) for w in plan.job.conductors[21:]}
    sender = {("gauge 3", "oil pressure sender", t) for t in ("signal", "return", "supply")}
    assert new == sender | {("S1", "gauge 4", "1"), ("S3", "gauge 4", "3")}
    assert plan.job.conductors[:21] == before.conductors
    assert plan_wires(van()).added == 0
