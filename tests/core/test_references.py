"""What becomes of a job when a part is taken out: nothing is left pointing nowhere, and nothing else changes."""

from __future__ import annotations

from dataclasses import fields

import pytest

from metrolex.acts.channels import remove_channel
from metrolex.errors import BadInput
from metrolex.job import PARTS, Job
from metrolex.job.references import LIST_OF_END, REFERENCES, check_references, without
from metrolex.jobfile import EXAMPLES
from tests.jobs import shipped

JOBS = {name: shipped(name) for name in EXAMPLES}
CASES = [(name, kind) for name in EXAMPLES for kind in PARTS if getattr(JOBS[name], kind)]


def names_of(job):
    """Every id of the job by list."""
    return {kind: {part.id for part in getattr(job, kind)} for kind in PARTS}


@pytest.mark.parametrize(("name", "kind"), CASES)
def test_any_part_can_go_and_the_job_still_holds_together(name, kind):
    job = JOBS[name]
    for part in getattr(job, kind):
        after = without(job, kind, part.id)
        check_references(after)
        assert part.id not in {other.id for other in getattr(after, kind)}
        gone = {k: ids - names_of(after)[k] for k, ids in names_of(job).items()}
        assert gone[kind] >= {part.id}
        # Only wires that end on it, and what the table says is nothing without it, go along.
        allowed = {kind, "conductors"} | {r.kind for r in REFERENCES if r.goes}
        assert {k for k, ids in gone.items() if ids} <= allowed
        for wire in job.conductors:
            ends = {(LIST_OF_END.get(end.kind), end.id) for end in (wire.a, wire.b)}
            lost = any(end_kind in gone and key in gone[end_kind] for end_kind, key in ends)
            assert (wire.id in gone["conductors"]) == (lost or (kind, part.id) == ("conductors", wire.id))


def test_what_is_not_there_changes_nothing():
    job = JOBS["van"]
    assert without(job, "taps", "no such tap") is job


def test_the_table_knows_every_field_that_holds_an_id():
    """Each list's parts are read for fields named like another list's part; a new one must be entered in the table."""
    known = {(r.kind, r.field) for r in REFERENCES}
    singular = {
        "display": "displays",
        "sender": "senders",
        "port": "ports",
        "run": "runs",
        "panel": "panels",
        "zone": "zones",
        "opening": "openings",
        "path": "paths",
        "circuit": "circuits",
        "channel": "channels",
    }
    for kind, part in PARTS.items():
        for field in fields(part):
            if field.name in singular:
                assert (kind, field.name) in known, (kind, field.name)


@pytest.mark.parametrize("name", EXAMPLES)
def test_a_channel_takes_only_its_own_things_with_it(name):
    job = JOBS[name]
    for channel in job.chains:
        after = remove_channel(job, channel.id)
        check_references(after)
        for other in after.chains:
            assert other == job.chain(other.id)
    empty = job
    for channel in job.chains:
        empty = remove_channel(empty, channel.id)
    check_references(empty)
    assert not empty.chains
    assert not empty.displays or not any(c.display for c in empty.chains)


def test_a_channel_that_is_not_there_is_refused_by_name():
    with pytest.raises(BadInput) as refusal:
        remove_channel(JOBS["van"], "no such")
    assert refusal.value.field == "channel"
    assert isinstance(JOBS["van"], Job)
