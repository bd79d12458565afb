"""What the job costs: the list complete, parts at their prices, hours by what there is to do, ways side by side."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts import brief as acts
from metrolex.acts import switches
from metrolex.brief.estimate import estimate, hours_of, looms, ways
from metrolex.brief.shopping import shopping_list
from metrolex.errors import BadInput
from metrolex.harness.cut_list import purchases
from metrolex.intake import dump, read
from metrolex.job import Job
from tests.jobs import van


def item(job: Job, name: str):
    return next(one for one in shopping_list(job) if one.name == name)


def test_the_list_has_the_wire_by_colour_and_what_ends_it():
    job = van()
    metres = {
        f"Wire {p.size} {p.colour}{f'/{p.stripe}' if p.stripe else ''}": p.needed_m for p in purchases(job)
    }
    listed = {one.name: one.need for one in shopping_list(job) if one.group == "wire"}
    assert set(listed) == set(metres)
    for name, need in listed.items():
        assert metres[name] <= need < metres[name] + 0.1 + 1e-9
    grounds = sum("ground" in (w.a.kind, w.b.kind) for w in job.conductors)
    rings = sum(one.need for one in shopping_list(job) if one.name.startswith("Ring terminal"))
    assert rings >= grounds > 0
    assert item(job, "Splice, glued sleeve").need >= len(job.splices)


def test_a_fuse_has_its_spare_said():
    job = van()
    fuse = next(one for one in shopping_list(job) if one.name.startswith("Fuse ") and "tap" not in one.name)
    assert fuse.need == 2 * fuse.spare > 0


def test_a_switch_and_its_terminals_are_on_the_list():
    job = switches.add_switch(van(), {"name": "Fan relay", "kind": "relay", "limit_a": 30.0})
    assert item(job, "Relay, 30 A").need == 1


def test_prices_make_the_parts_and_what_has_none_is_named():
    job = van()
    first, second = [one for one in shopping_list(job) if one.buy][:2]
    job = acts.set_kit(job, first.key, 0.0, 12.5)
    job = acts.set_kit(job, second.key, second.need, 99.0)  # at hand: costs nothing more
    found = estimate(job)
    assert found.parts == pytest.approx(first.buy * 12.5)
    assert first.name not in found.unpriced
    assert second.name not in found.unpriced
    assert found.labour is None
    assert found.total is None


def test_a_price_alone_is_kept_and_goes_when_it_is_taken_back():
    job = van()
    wanted = next(one for one in shopping_list(job) if one.buy)
    priced = acts.set_kit(job, wanted.key, 0.0, 5.0)
    assert item(priced, wanted.name).price == 5.0
    assert acts.set_kit(priced, wanted.key, 0.0).kit == job.kit
    with pytest.raises(BadInput):
        acts.set_kit(job, wanted.key, 0.0, -1.0)


def test_hours_follow_the_work_and_the_loom():
    job = van()
    by_hand = {line.words: line for line in hours_of(job)}
    assert by_hand["Wires ended"].hours == pytest.approx(0.12 * len(job.conductors))
    assert by_hand["Feeds tapped"].hours == pytest.approx(0.2 * len(job.taps))
    totals = {key: sum(line.hours for line in hours_of(job, key)) for key in looms()}
    assert totals["plug"] < totals["ready"] < totals["bare"]
    with_rate = acts.set_rate(job, "EUR", 60.0, "ready")
    found = estimate(with_rate)
    assert found.hours == pytest.approx(totals["ready"])
    assert found.total == pytest.approx(found.parts + 60 * totals["ready"])


def test_ways_stand_side_by_side():
    job = acts.set_rate(van(), "EUR", 50.0, "")
    job = acts.add_alternative(job, "One dash in place of four gauges", 900.0, 9.0)
    listed = ways(job)
    assert [way.chosen for way in listed].count(True) == 1
    assert listed[-1].total == pytest.approx(900 + 50 * 9)
    assert read(Job, dump(job)) == job
    assert acts.take_alternative(job, job.brief.alternatives[0].id).brief.alternatives == ()
    for wrong in (lambda: acts.take_alternative(job, "no"), lambda: acts.add_alternative(job, " ", 1.0, 1.0)):
        with pytest.raises(BadInput):
            wrong()
    with pytest.raises(BadInput):
        acts.set_rate(job, "EUR", 50.0, "golden")


def test_an_empty_job_costs_little_and_breaks_nothing():
    job = replace(
        van(),
        channels=(),
        readouts=(),
        displays=(),
        senders=(),
        taps=(),
        conductors=(),
        splices=(),
        runs=(),
        openings=(),
        grounds=(),
        ports=(),
        sources=(),
        connectors=(),
    )
    assert [line.words for line in hours_of(job)] == ["Battery off and on, trim, clean up"]
