"""The job file: lossless, and refused with the place of the fault."""

from __future__ import annotations

import json

import pytest

from metrolex.errors import BadInput
from metrolex.intake import dump
from metrolex.jobfile import SCHEMA_VERSION, example_job_data, job_from_data, job_from_text, job_to_text
from tests.jobs import small_job, van


@pytest.mark.parametrize("job", [van(), small_job()], ids=["van", "small"])
def test_out_and_in_again_is_the_same(job):
    text = job_to_text(job)
    assert job_from_text(text) == job
    assert job_to_text(job_from_text(text)) == text


def test_the_shipped_example_is_written_as_we_write():
    assert job_to_text(van()) == json.dumps(example_job_data(), indent=1, ensure_ascii=False) + "\n"


def broken(edit):
    data = example_job_data()
    edit(data)
    return data


def cut(data, *path):
    for key in path[:-1]:
        data = data[key]
    del data[path[-1]]


def put(value, *path):
    def edit(data):
        for key in path[:-1]:
            data = data[key]
        data[path[-1]] = value

    return edit


FAULTS = [
    (lambda d: cut(d, "schema_version"), "schema_version", "is this a job file"),
    (put(9, "schema_version"), "schema_version", "newer Metrolex"),
    (put(0, "schema_version"), "schema_version", "Expected 4"),
    (put("1", "schema_version"), "schema_version", "Expected 4"),
    (put("no such", "sources", 1, "sender"), "sources[1].sender", "There is no part 'no such'"),
    (put("coolant sendr", "sources", 1, "sender"), "sources[1].sender", "Did you mean 'coolant sender'?"),
    (put("B", "readouts", 1, "input"), "readouts[1].input", "There is no part 'B'"),
    (put("F99", "taps", 0, "circuit"), "taps[0].circuit", "F9"),
    (put("S9", "conductors", 0, "b", "id"), "conductors[0].b.id", "There is no part 'S9'"),
    (put("9", "conductors", 4, "b", "terminal"), "conductors[4].b.terminal", "There is no part '9'"),
    (put("9", "displays", 0, "inputs", 0, "pin"), "displays[0].inputs[0].pin", "There is no part '9'"),
    (put("F14", "circuits", 0, "id"), "circuits[1].id", "used twice"),
    (put(-2, "conductors", 3, "length_m"), "conductors[3].length_m", "above 0"),
    (put(900, "circuits", 0, "readings", "off"), "circuits[0].readings.off", "-60 to 60"),
    (put("bar", "channels", 1, "unit"), "channels[1].unit", "a unit of the same kind as degC"),
    (put(0.6, "conductors", 0, "size"), "conductors[0].size", "0.35, 0.5, 0.75"),
    (put("gauge 9", "settings", 0, "display"), "settings[0].display", "There is no part"),
    (put("x" * 10_000, "name"), "name", "characters"),
    (
        put([[100, 20], [100, 30]], "senders", 1, "curve", "points"),
        "senders[1].curve.points",
        "Two points stand at x = 100",
    ),
    (put([[100, 20]], "senders", 1, "curve", "points"), "senders[1].curve.points", "at least 2 points"),
    (put(1, "senders", 2, "wires"), "senders[2].curve", "a curve in ohm"),
]


@pytest.mark.parametrize(("edit", "field", "words"), FAULTS)
def test_a_fault_is_named_by_its_place(edit, field, words):
    with pytest.raises(BadInput) as refusal:
        job_from_data(broken(edit))
    assert refusal.value.field == field
    assert words in refusal.value.message


def test_a_truncated_file_is_refused():
    with pytest.raises(BadInput, match="not complete JSON"):
        job_from_text(job_to_text(van())[:5000])


def test_unsorted_points_are_sorted():
    data = dump(van())
    curve = data["senders"][1]["curve"]
    curve["points"] = curve["points"][::-1]
    assert job_from_data({"schema_version": SCHEMA_VERSION, **data}) == van()


@pytest.mark.parametrize(
    ("kind", "part"),
    [
        ("settings", {"display": "gauge 1", "name": "Warn high", "value": "1"}),
        ("waivers", {"code": "x", "subject": "F9", "reason": "because"}),
    ],
)
def test_what_stands_twice_is_told_and_not_dropped(kind, part):
    data = example_job_data("van")
    data[kind] = [part, part | {"value": "2"} if kind == "settings" else part | {"reason": "other"}]
    with pytest.raises(BadInput) as refusal:
        job_from_data(data)
    assert (refusal.value.field, "twice" in refusal.value.message) == (f"{kind}[1]", True)
