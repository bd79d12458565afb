"""Channels are called what the fitter calls them, and no two alike."""

from __future__ import annotations

from dataclasses import replace

import pytest

from metrolex.acts.channels import add_channel, name_channel
from metrolex.check.rules import find_all, still_standing
from metrolex.errors import BadInput
from metrolex.job import State, Waiver
from metrolex.kit import measurands
from metrolex.twin import build, readings, solve
from tests.jobs import van


def found(job):
    network = build(job)
    return find_all(network, solve(network, State("run")))


@pytest.mark.parametrize("facts", measurands(), ids=lambda facts: facts.id)
def test_two_like_channels_are_never_called_alike(facts):
    job = van()
    for _ in range(3):
        job = add_channel(job, facts.id)
    names = [channel.name for channel in job.channels]
    assert len(names) == len(set(names))
    assert len({run.name for run in job.runs if run.name.startswith(facts.name)}) in (0, 3, 4)


def test_a_name_is_a_name_and_nothing_else():
    job = name_channel(van(), "coolant", "  Coolant,   right ")
    assert job.chain("coolant").name == "Coolant, right"
    assert replace(job, channels=van().channels) == van()
    shown = (
        readings(solve(build(one), State("run", "off", "running")))["coolant"].text for one in (job, van())
    )
    assert len(set(shown)) == 1


def test_what_was_waived_for_it_stays_waived():
    job = van()
    job = job.with_chain(replace(job.chain("coolant"), warn_high=400.0))
    told = next(f for f in found(job) if f.subject == "Coolant")
    job = replace(job, waivers=(*job.waivers, Waiver(told.code, "Coolant", "known", "me")))
    named = name_channel(job, "coolant", "Water")
    assert told.code in {f.code for f in found(named) if f.subject == "Water"}
    assert not [f for f in still_standing(named, found(named)) if (f.code, f.subject) == (told.code, "Water")]


@pytest.mark.parametrize("name", ["oil pressure", "OIL  Pressure", "", "  ", "x" * 121, "a\x00b"])
def test_a_name_another_has_or_that_is_none_is_refused(name):
    with pytest.raises(BadInput) as refusal:
        name_channel(van(), "coolant", name)
    assert refusal.value.field == "name"
