"""Places of the twin are told apart by what they are, not by how they are spelt."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.errors import BadInput
from metrolex.job import State
from metrolex.jobfile import EXAMPLES, job_from_data
from metrolex.proving.proof import points_of
from metrolex.twin import build, expect, points_to_test, solve
from metrolex.twin.addresses import Address, address_called, printed
from metrolex.twin.run import currents_of, nodes_of
from metrolex.twin.spoken import FaultSaid, faults_meant
from tests.jobs import shipped, van

RUN = State("run", "off", "running")


def renamed(job, kind, old, new):
    """The job with one part called otherwise, wherever it is spoken of."""
    import json

    from metrolex.jobfile import job_to_data

    data = job_to_data(job)
    text = json.dumps(data)
    assert f'"{old}"' in text
    return job_from_data(json.loads(text.replace(f'"{old}"', f'"{new}"')))


def test_a_display_whose_name_begins_with_anothers_keeps_its_own_tests():
    """'gauge 1' does not collect the tests of 'gauge 1 b'."""
    job = renamed(van(), "displays", "gauge 2", "gauge 1 b")
    network = build(job)
    first = next(c for c in job.chains if c.display == "gauge 1")
    second = next(c for c in job.chains if c.display == "gauge 1 b")
    ids = {point.id for point in points_of(network, first)}
    assert ids
    assert not ids & {point.id for point in points_of(network, second)}
    assert not [key for key in ids if key.startswith("gauge 1 b")]


def test_a_ground_point_and_a_display_of_one_spelling_stay_apart():
    """A display called 'tap T2' beside the tap T2: each has its own volts, and each prints apart."""
    job = renamed(van(), "displays", "gauge 2", "tap T2")
    solved = solve(build(job), RUN)
    plain = solve(build(van()), RUN)
    assert solved.powered == {("tap T2" if key == "gauge 2" else key) for key in plain.powered}
    assert sorted(v for v in solved.solution.potentials.values()) == pytest.approx(
        sorted(v for v in plain.solution.potentials.values()), abs=1e-6
    )


def test_two_places_of_one_spelling_print_with_their_kind():
    names = printed(
        [
            Address("tap", "x", words="x out"),
            Address("sender", "x", "out"),
            Address("tap", "y", words="y out"),
        ]
    )
    assert list(names.values()) == ["x out (tap)", "x out (sender)", "y out"]


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_every_place_prints_apart_and_is_found_again_by_its_name(name):
    solved = solve(build(shipped(name)), RUN)
    for volts, places in (
        (nodes_of(solved), solved.solution.potentials),
        (currents_of(solved), solved.solution.currents),
    ):
        assert len(volts) == len(places)
        names = printed(places)
        assert len(set(names.values())) == len(names)
        for place, words in names.items():
            assert address_called(words, places, "point", "a node") == place


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_test_has_an_id_of_its_own(name):
    ids = [point.id for point in points_to_test(build(shipped(name)))]
    assert len(set(ids)) == len(ids)


def test_what_is_not_there_is_answered_with_the_nearest():
    solved = solve(build(van()), RUN)
    with pytest.raises(BadInput, match="Did you mean 'wire W19'") as refusal:
        faults_meant(solved, [FaultSaid("wire W9", "open"), FaultSaid("wier W19", "open")])
    assert refusal.value.field == "faults[1].element"


def test_a_node_asked_for_by_its_spelling_is_a_mistake_of_ours():
    """Words are looked up once, at the border: inside, a place that is only spelt is refused, not taken for one that floats."""
    with pytest.raises(TypeError):
        solve(build(van()), RUN).volts("ground GP1")


def test_a_sender_and_a_display_of_one_id_keep_their_tests_apart():
    job = van()
    coolant = next(c for c in job.chains if c.id == "coolant")
    job = renamed(job, "senders", coolant.sender, coolant.display)
    network = build(job)
    points = points_to_test(network)
    assert len({point.test for point in points}) == len(points)
    state = State("off")
    before = {e.point.kind: e.value for e in expect(build(van()), state) if e.point.channel == "coolant"}
    after = {e.point.kind: e.value for e in expect(network, state) if e.point.channel == "coolant"}
    assert before == after
    assert replace(job, name="x") != job
