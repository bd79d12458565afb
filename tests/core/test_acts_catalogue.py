"""Acts by name, as the command line gives them."""

from __future__ import annotations

import pytest

from metrolex.acts.catalogue import act_called, all_acts
from metrolex.acts.harness import set_wire
from metrolex.errors import BadInput
from metrolex.intake import dump
from metrolex.job import Job
from metrolex.jobfile import EXAMPLES
from tests.jobs import shipped, van


def test_an_act_by_name_is_the_act():
    by_name = act_called("harness.set_wire").on(van(), {"key": "W3", "data": {"length_m": 3.3}})
    assert by_name == set_wire(van(), "W3", {"length_m": 3.3})


@pytest.mark.parametrize(
    ("name", "given", "field", "words"),
    [
        ("harness.set_wyre", {}, "act", "harness.set_wire"),
        ("harness.set_wire", {"key": "W3"}, "with.data", "needs"),
        ("harness.set_wire", {"key": 3, "data": {}}, "with.key", "text"),
        ("harness.set_wire", {"key": "W3", "data": {}, "more": 1}, "with.more", "key"),
        ("feeds.set_tap", {"key": "T1", "data": {"limit_a": -2}}, "taps[0].limit_a", ""),
        ("brief.set_electrics", {"fields": {"rest_v": "much"}}, "vehicle.electrics.state.rest_v", "number"),
    ],
)
def test_what_an_act_cannot_take_is_said_at_its_field(name, given, field, words):
    with pytest.raises(BadInput) as refusal:
        act_called(name).on(van(), given)
    assert refusal.value.field == field
    assert words in refusal.value.message


@pytest.mark.thorough
@pytest.mark.parametrize("example", EXAMPLES)
def test_acts_that_need_nothing_make_a_job_of_every_example(example):
    job = shipped(example)
    done = 0
    for act in all_acts().values():
        if act.needed:
            continue
        try:
            after = act.on(job, {})
        except BadInput:
            continue  # said in words why not
        assert isinstance(after, Job)
        assert dump(after)
        done += 1
    assert done >= 4
