"""Whatever a face can stand at can be written down as seen, and fits the suspect that shows it."""

from __future__ import annotations

import pytest

from metrolex.acts.proving import observe
from metrolex.cli.faults import DiagnoseInput, run_diagnose
from metrolex.errors import BadInput
from metrolex.faults.cases import NONE
from metrolex.faults.catalogue import catalogue
from metrolex.faults.likelihood import Seen, explain
from metrolex.faults.lineup import lineup_of
from metrolex.faults.probes import Probe
from metrolex.faults.written import said_of
from metrolex.intake import dump, read
from metrolex.job import State
from metrolex.jobfile import EXAMPLES, example_job_data
from metrolex.scaling.face_words import FACE_WORDS
from metrolex.twin import build, points_to_test
from tests.jobs import shipped

STATES = (State("run", "off", "running"), State("crank", "off", "stopped"))


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_text_and_state_of_a_face_can_be_seen(name):
    network = build(shipped(name))
    seen = set()
    for state in STATES:
        cases = (NONE, *range(0, len(catalogue(network)), 3))
        lineup = lineup_of(network, tuple((case, NONE) for case in cases))
        for chain in network.job.chains:
            probe = Probe("shown", on=chain.id)
            told = lineup.predict(state, probe)
            for i in range(len(cases)):
                for word in told.shows.words[told.shows.word[i]]:
                    if not word.replace(".", "").replace("-", "").isdigit() and word not in ("--", "- -"):
                        assert word in said_of(network.job, probe)
                        assert explain([told], [Seen(state, probe, word)], len(cases)).fits[0, i]
                        seen.add(word)
    assert {"dark", "dashes"} <= seen
    assert seen & {"open", "short"}


def test_a_gear_letter_is_seen_on_the_command_line_and_on_the_sheet():
    job = shipped("single_seater")
    letters = [one.gear for one in job.chain("gear").gears if not one.gear.isdigit()]
    assert letters
    asked = {"state": dump(STATES[0]), "test": {"kind": "shown", "channel": "gear"}, "value": letters[0]}
    answer = run_diagnose(
        read(DiagnoseInput, {"job": example_job_data("single_seater"), "observations": [asked]})
    )
    assert answer["suspects"]
    point = next(one for one in points_to_test(build(job)) if one.kind == "shown" and one.channel == "gear")
    after = observe(job, point.test.key, STATES[0], letters[0].lower(), "2026-11-29")
    assert after.observations[-1].value == letters[0]


@pytest.mark.parametrize("word", FACE_WORDS)
def test_every_word_of_a_face_is_taken_on_the_command_line(word):
    asked = {"state": dump(STATES[0]), "test": {"kind": "shown", "channel": "coolant"}, "value": word}
    assert run_diagnose(read(DiagnoseInput, {"job": example_job_data("van"), "observations": [asked]}))


@pytest.mark.parametrize("word", ["unfinished", "live", "N", "shrt"])
def test_a_word_no_face_shows_is_told_with_those_it_can(word):
    asked = {"state": dump(STATES[0]), "test": {"kind": "shown", "channel": "coolant"}, "value": word}
    with pytest.raises(BadInput) as refusal:
        run_diagnose(read(DiagnoseInput, {"job": example_job_data("van"), "observations": [asked]}))
    assert refusal.value.field == "observations[0].value"
    assert "short" in refusal.value.allowed
