"""What an act changed: found, taken back, said in words, laid over another's work."""

from __future__ import annotations

from dataclasses import fields, replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.acts.channels import add_channel, remove_channel
from metrolex.acts.harness import remove_run, remove_wire, set_run, set_wire
from metrolex.acts.ports import choose_sender, parts_of_choice
from metrolex.intake import dump, read
from metrolex.job import LISTS, Job, KitItem, Segment, Setting
from metrolex.job.changes import (
    CALLED,
    Change,
    changes_between,
    changes_of,
    done_again,
    merged,
    part_of,
    undone,
    words_of,
)
from metrolex.job.within import value_within
from metrolex.jobfile import EXAMPLES
from tests.jobs import shipped, small_job, van, with_facts


def plain(job):
    return dump(job, whole=True)


def test_a_whole_dump_reads_as_the_same_job():
    for name in EXAMPLES:
        job = shipped(name)
        assert read(Job, plain(job)) == job


def test_a_field_of_a_part_of_a_list_is_one_change():
    job = van()
    after = replace(job, grounds=(replace(job.grounds[0], surface="sanded"), *job.grounds[1:]))
    found = changes_between(plain(job), plain(after))
    assert [c.path for c in found] == [("grounds", job.grounds[0].id, "surface")]
    assert words_of(found).startswith(f"ground point {job.grounds[0].id}: surface ")


def test_inputs_of_one_display_are_followed_apart():
    job = shipped("single_seater")
    dash = next(d for d in job.displays if len(d.inputs) > 1)
    inputs = (with_facts(dash.inputs[0], pull_up_ohm=777.0), *dash.inputs[1:])
    after = replace(job, displays=tuple(replace(d, inputs=inputs) if d is dash else d for d in job.displays))
    (change,) = changes_between(plain(job), plain(after))
    assert change.path[:4] == ("displays", dash.id, "inputs", dash.inputs[0].id)


@pytest.mark.parametrize(
    "act",
    [
        lambda job: add_channel(job, "oil_temperature"),
        lambda job: remove_channel(job, "coolant"),
        lambda job: remove_wire(job, job.conductors[3].id),
        lambda job: replace(job, name="Another", circuits=job.circuits[::-1]),
        lambda job: replace(job, settings=(), waivers=()),
        lambda job: small_job(),
    ],
)
def test_what_was_changed_can_be_taken_back(act):
    before = van()
    after = act(before)
    changes = [Change.of(c.plain()) for c in changes_between(plain(before), plain(after))]
    earlier = undone(plain(after), changes)
    # Parts taken out come back at the end: the same parts, not always in the same order.
    assert not [c for c in changes_between(earlier, plain(before)) if c.path not in _lists(before)]
    for name, parts in plain(before).items():
        if isinstance(parts, list):
            assert sorted(map(repr, parts)) == sorted(map(repr, earlier[name]))


def _lists(job):
    return {(name,) for name, value in plain(job).items() if isinstance(value, list)}


def laid_over(base, theirs, act, untold=None, as_one=()):
    foreign = changes_between(plain(base), plain(theirs))
    out, clashes = merged(
        plain(base), plain(theirs), plain(act(theirs)), foreign, foreign if untold is None else untold, as_one
    )
    return read(Job, out), clashes


WIRE = "W3"


def form_of_wire(job, **typed):
    """The wire's form as it was loaded from a job, with what was typed."""
    wire = job.wire(WIRE)
    data = {name: value_within(wire, name) for name in ("size", "colour", "length_m", "mark")} | typed
    return lambda before: set_wire(before, WIRE, data)


def test_other_fields_of_the_same_part_both_hold():
    base = van()
    theirs = form_of_wire(base, length_m=3.3)(base)
    out, clashes = laid_over(base, theirs, form_of_wire(base, mark="WH"))
    assert not clashes
    assert (out.wire(WIRE).length_m, out.wire(WIRE).look.mark) == (3.3, "WH")


def test_half_of_my_choice_and_half_of_theirs_is_not_kept():
    """Of a probe with an amplifier they take another probe, I take it without the amplifier: it is one choice, and I am told."""
    base = shipped("single_seater")
    probe, by_amplifier = (
        "exhaust probe 3.2 mm, type K, bare leads",
        ", by thermocouple amplifier, type K, 0 to 5 V",
    )
    assert base.sender(base.chain("exhaust gas").sender).name == probe
    theirs = choose_sender(base, "exhaust gas", probe.replace("3.2", "6") + by_amplifier)

    def mine(job):
        return choose_sender(job, "exhaust gas", probe)

    as_one = parts_of_choice(base, "exhaust gas")
    out, clashes = laid_over(base, theirs, mine, as_one=as_one)
    assert {clash.path[:2] for clash in clashes} == {("senders", "exhaust gas sender")}
    out, clashes = laid_over(base, theirs, mine, untold=(), as_one=as_one)
    assert not clashes
    assert out.sender("exhaust gas sender").name == probe
    assert out.chain("exhaust gas").box is None


def test_the_same_field_is_told_with_both_values_and_then_mine_holds():
    base = van()
    theirs = form_of_wire(base, length_m=3.3)(base)
    out, (clash,) = laid_over(base, theirs, form_of_wire(base, length_m=4.4))
    assert out == theirs
    assert "3.3 m" in clash.words("Ana (10:42)")
    assert "4.4 m" in clash.words("Ana (10:42)")
    out, clashes = laid_over(base, theirs, form_of_wire(base, length_m=4.4), untold=())
    assert not clashes
    assert out.wire(WIRE).length_m == 4.4


def test_both_saying_the_same_is_no_clash():
    base = van()
    theirs = form_of_wire(base, length_m=3.3)(base)
    assert laid_over(base, theirs, form_of_wire(base, length_m=3.3)) == (theirs, ())


def test_taking_out_what_another_changed_is_told():
    base = van()
    theirs = form_of_wire(base, length_m=3.3)(base)
    out, (clash,) = laid_over(base, theirs, lambda job: remove_wire(job, WIRE))
    assert out == theirs
    assert f"wire {WIRE}" in clash.words("Ana")


def test_what_goes_with_a_part_taken_out_goes_though_another_added_it_meanwhile():
    base = van()
    run = base.runs[0]
    wire = replace(base.conductors[0], id="W999", run=run.id)
    theirs = replace(base, conductors=(*base.conductors, wire))
    out, clashes = laid_over(base, theirs, lambda job: remove_run(job, run.id))
    assert not clashes
    assert out.wire("W999").run is None


def test_a_list_of_values_is_one_value():
    start = van()
    run = replace(
        start.runs[0], segments=(Segment("dash", 1.0), Segment("bay", 2.0)), start=None, finish=None, via=()
    )
    base = replace(start, runs=(run, *start.runs[1:]))

    def measured(job, first_m, **typed):
        kept = (replace(run.segments[0], length_m=first_m), *run.segments[1:])
        form = {
            "name": run.name,
            "slack_pct": run.slack_pct,
            "ends_m": run.ends_m,
            "supplied_m": run.supplied_m,
        }
        return set_run(job, run.id, kept, form | typed)

    theirs = measured(base, 9.0)
    out, clashes = laid_over(
        base, theirs, lambda job: measured(job, run.segments[0].length_m, slack_pct=12.0)
    )
    assert not clashes
    assert out.run(run.id).segments[0].length_m == 9.0
    assert out.run(run.id).slack_pct == 12.0
    _, clashes = laid_over(base, theirs, lambda job: measured(job, 8.0))
    assert [c.path[-1] for c in clashes] == ["segments"]


values = st.recursive(
    st.none() | st.integers(0, 3) | st.sampled_from("ab"),
    lambda inner: (
        st.dictionaries(st.sampled_from("pqr"), inner, max_size=3)
        | st.lists(inner, max_size=2)
        | st.lists(
            st.fixed_dictionaries({"id": st.sampled_from("xyz"), "v": inner}),
            max_size=3,
            unique_by=lambda i: i["id"],
        )
    ),
    max_leaves=12,
)
trees = st.dictionaries(st.sampled_from("pqr"), values, max_size=3)


@given(trees, trees)
def test_any_tree_can_be_taken_back(before, after):
    """Held on drawn trees: what is undone differs from what was by nothing (the order of parts put back aside)."""
    earlier = undone(after, changes_between(before, after))
    assert _sorted(earlier) == _sorted(before)


def _sorted(value):
    if isinstance(value, dict):
        return {k: _sorted(v) for k, v in value.items()}
    if isinstance(value, list):
        items = [_sorted(v) for v in value]
        return (
            sorted(items, key=repr)
            if items and all(isinstance(v, dict) and "id" in v for v in items)
            else items
        )
    return value


LIKE_ANY = {
    "a value": lambda job: set_wire(job, job.conductors[0].id, {"length_m": 3.3}),
    "a part more": lambda job: replace(job, kit=(*job.kit, KitItem("reel", "Reel of wire", 4.0))),
    "a part less": lambda job: replace(job, conductors=job.conductors[1:]),
    "one for another": lambda job: replace(
        job, conductors=(replace(job.conductors[0], id="W99"), *job.conductors[1:])
    ),
    "another order": lambda job: replace(job, conductors=job.conductors[::-1]),
    "a setting": lambda job: replace(
        job, settings=(*job.settings[1:], Setting(job.displays[0].id, "bright", "7"))
    ),
    "nothing": lambda job: job,
    "the same anew": lambda job: read(Job, dump(job)),
}


@pytest.mark.parametrize("words", LIKE_ANY)
@pytest.mark.parametrize("example", EXAMPLES)
def test_what_both_share_is_not_gone_through_and_nothing_is_missed(words, example):
    """``changes_of``, which passes over what both jobs share, against all of both written out."""
    job = shipped(example)
    after = LIKE_ANY[words](job)
    assert changes_of(job, after) == changes_between(plain(job), plain(after))


def test_every_field_of_a_job_has_a_word_and_every_list_is_one():
    """A part that is added to a job and named here nowhere would be missing from the history and from what changed since handover."""
    filled = [field.name for field in fields(Job) if field.init]
    assert set(CALLED) == set(filled)
    lists = {name for name in filled if isinstance(getattr(shipped("van"), name), tuple)}
    assert set(LISTS) == lists


@pytest.mark.parametrize("name", LISTS)
def test_a_part_of_any_list_is_named_when_it_goes(name):
    job = next((shipped(example) for example in EXAMPLES if getattr(shipped(example), name)), None)
    if job is None:
        return
    parts = getattr(job, name)
    found = changes_between(plain(job), plain(replace(job, **{name: parts[1:]})))
    assert len(found) == 1
    said = words_of(found)
    assert said.startswith(f"{CALLED[name]} ")
    assert said.endswith(" taken out")
    assert part_of(found[0]) == found[0].path[:2]


def test_made_again_is_what_it_was():
    before, after = plain(van()), plain(add_channel(van(), "coolant_temperature"))
    found = changes_between(before, after)
    assert done_again(undone(after, found), found) == after
