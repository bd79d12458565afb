"""How much of a thing there may be is stated in data and checked before room is made for it."""

from __future__ import annotations

import dataclasses
import resource
import time
import types
import typing

import pytest
from hypothesis import given
from hypothesis import strategies as st

from metrolex.acts import feeds
from metrolex.apart import done_apart
from metrolex.bus.description import read_description
from metrolex.errors import BadInput
from metrolex.intake import parse_json, read, read_anew
from metrolex.job import Circuit, Job
from metrolex.jobfile import example_job_data, job_from_data, job_to_text
from metrolex.limits import limit, most_of
from metrolex.quantities import parse_number
from metrolex.scaling.best_rows import best_rows
from metrolex.series import read_columns, read_gps
from tests.core.test_speed import nmea
from tests.jobs import van

# ---- lists of a job ------------------------------------------------------------------------------------------------


def lists_of(kind, seen):
    """The names of all lists in a record and all it is made of."""
    if kind in seen:
        return set()
    seen.add(kind)
    found = set()
    for field in dataclasses.fields(kind):
        if not field.init:
            continue
        for part in _parts(typing.get_type_hints(kind)[field.name]):
            if typing.get_origin(part) is tuple and typing.get_args(part)[-1] is Ellipsis:
                found.add(field.name)
            if dataclasses.is_dataclass(part):
                found |= lists_of(part, seen)
    return found


def _parts(hint):
    yield hint
    if isinstance(hint, types.UnionType) or typing.get_origin(hint) is not None:
        for inner in typing.get_args(hint):
            yield from _parts(inner)


def test_every_list_of_a_job_has_its_most():
    names = lists_of(Job, set())
    assert {"circuits", "conductors", "menu", "points", "gears"} <= names
    assert {name for name in names if most_of(name) is None} == set()


@pytest.mark.parametrize("name", ["channels", "circuits", "conductors", "zones", "ports"])
def test_a_job_file_with_one_too_many_is_refused_by_the_name_of_the_list(name):
    data = example_job_data("van") | {name: [3] * (most_of(name) + 1)}  # counted before one of them is read
    with pytest.raises(BadInput) as refusal:
        job_from_data(data)
    assert (refusal.value.field, f"at most {most_of(name)}" in refusal.value.message) == (name, True)


def test_lists_inside_parts_are_counted_too():
    data = example_job_data("van")
    data["senders"][0]["curve"]["points"] = [[float(i), float(i)] for i in range(5001)]
    with pytest.raises(BadInput) as refusal:
        job_from_data(data)
    assert refusal.value.field == "senders[0].curve.points"


def test_an_act_cannot_add_one_too_many():
    job = van()
    full = dataclasses.replace(
        job,
        circuits=(
            *job.circuits,
            *(Circuit(f"X{i}") for i in range(most_of("circuits") - len(job.circuits))),
        ),
    )
    assert read_anew(full, job) == full
    with pytest.raises(BadInput) as refusal:
        read_anew(feeds.add_circuit(full, Circuit("Y")), full)
    assert refusal.value.field == "circuits"


# ---- descriptions of a bus -----------------------------------------------------------------------------------------

FRAME = 'VERSION ""\nBO_ 100 ENG: 8 X\n SG_ rpm : 0|16@1+ (1,0) [0|8000] "rpm" X\n'
GIANTS = {
    "a frame without end": "BO_ 100 ENG: 30000000 X\n",
    "its length on a line of its own": "BO_ 100 ENG:\n30000000 X\n",
    "behind another on one line": FRAME.replace("\n", " ") + "BO_ 2 B : 100000 X",
    "a signal without end": 'BO_ 1 A : 8 X\n SG_\n r\n : 0|99999999@1+ (1,0) [0|1] "" X\n',
    "a signal beyond its frame": 'BO_ 1 A : 8 X\n SG_ r : 99999999|8@1+ (1,0) [0|1] "" X\n',
    "a length of a thousand digits": "BO_ 100 ENG: " + "9" * 1000 + " X\n",
    "signals without end": "BO_ 1 A : 8 X\n" + ' SG_ r : 0|8@1+ (1,0) [0|1] "" X\n' * 4001,
}


@pytest.mark.parametrize("words", GIANTS)
def test_a_description_of_giants_is_refused_at_once(words):
    before, start = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss, time.process_time()
    with pytest.raises(BadInput) as refusal:
        read_description(GIANTS[words])
    assert refusal.value.field == "description"
    assert time.process_time() - start < 2
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 100_000  # kB


def test_frames_of_64_bytes_are_read():
    assert read_description(FRAME.replace(": 8 X", ": 64 X"))[0].name == "rpm"


# ---- recordings ----------------------------------------------------------------------------------------------------


def shown(rows):
    return "\n".join(f"{second};{speed}" for second, speed in rows)


def test_of_a_recording_whose_clock_leaps_the_longest_stretch_is_taken():
    rows = [(i, 10) for i in range(5)] + [(10_000_000 + i, 50) for i in range(30)] + [(3, 9), (4, 9)]
    found = read_columns(shown(rows), "speed", "km/h", "shown")
    assert (len(found.seconds), found.length_s, set(found["speed"].tolist())) == (30, 29.0, {50.0})
    assert [finding.code for finding in found.findings] == ["clock_leaps"]


def test_a_gps_clock_that_leaps_does_not_make_a_recording_of_months():
    at = [*range(20), *(50_000 + i for i in range(40))]
    found = read_gps(nmea(at, [40.0] * 20 + [60.0] * 40))
    assert found.length_s < 60
    assert any(finding.code == "clock_leaps" for finding in found.findings)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (shown((i * 30, 10) for i in range(1700)), "h"),
        ("\n" * (int(limit("recording", "samples")) + 1), "lines"),
    ],
)
def test_a_recording_too_long_is_refused_at_its_field(text, words):
    with pytest.raises(BadInput) as refusal:
        read_columns(text, "speed", "km/h", "shown")
    assert (refusal.value.field, words in refusal.value.message) == ("shown", True)


# ---- steps of a table ----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("field", ["x_step", "y_step"])
@pytest.mark.parametrize("step", [1e-7, 1e-300, 0.009])
def test_steps_finer_than_any_display_takes_are_refused(field, step):
    start = time.process_time()
    with pytest.raises(BadInput) as refusal:
        best_rows(lambda x: x**2 / 1000, (0.0, 1000.0), 8, **{field: step})
    assert refusal.value.field == field
    assert time.process_time() - start < 1


@pytest.mark.thorough
@pytest.mark.parametrize("steps", [{"x_step": 0.01, "y_step": 0.01}, {"y_step": 0.01}, {"x_step": 0.01}])
def test_the_finest_steps_there_may_be_take_a_moment(steps):
    start = time.process_time()
    rows = best_rows(lambda x: x**2 / 1000, (0.0, 1000.0), 12, **steps)
    assert time.process_time() - start < 8
    free = best_rows(lambda x: x**2 / 1000, (0.0, 1000.0), 12)
    assert rows.max_error == pytest.approx(free.max_error, rel=0.05)


# ---- characters and digits -----------------------------------------------------------------------------------------


@pytest.mark.parametrize("wrong", ["\x00", "\x1b", "\ud800", "\ufffe", "\x85"])
def test_characters_nobody_can_mean_are_refused_where_they_stand(wrong):
    data = example_job_data("van")
    data["senders"][0]["name"] = f"NTC{wrong}"
    with pytest.raises(BadInput) as refusal:
        job_from_data(data)
    assert refusal.value.field == "senders[0].name"
    refusal.value.message.encode("utf-8")  # it can be told


def test_words_of_any_language_and_ends_of_line_are_read():
    data = example_job_data("van")
    data["ports"][0]["why"] = "näher\nам двигателе\t深い 🔧"
    assert job_from_data(data).ports[0].why == data["ports"][0]["why"]


@pytest.mark.parametrize("digits", ["²", "٣", "１２", "Ⅻ", "1²"])
def test_digits_that_are_none_are_no_number(digits):
    with pytest.raises(BadInput):
        parse_number(digits)


def test_a_number_of_five_thousand_digits_is_refused():
    with pytest.raises(BadInput):
        parse_json('{"a": ' + "9" * 5000 + "}")
    with pytest.raises(BadInput):
        read(
            Job,
            parse_json(
                '{"name": "x", "vehicle": {"identity": {"name": "v"}, "engine": {"cylinders": '
                + "9" * 300
                + "}}}"
            ),
        )


# ---- apart -----------------------------------------------------------------------------------------------------------


@pytest.mark.thorough
def test_what_is_read_apart_is_what_would_be_read_here():
    assert done_apart("job", job_to_text(van())) == van()
    assert done_apart("description", FRAME) == read_description(FRAME)


def test_what_is_refused_apart_is_refused_here():
    with pytest.raises(BadInput) as refusal:
        done_apart("job", '{"schema_version": 4, "name": ""}')
    with pytest.raises(BadInput) as here:
        job_from_data({"schema_version": 4, "name": ""})
    assert (refusal.value.field, refusal.value.message) == (here.value.field, here.value.message)


@pytest.mark.thorough
@pytest.mark.parametrize(
    ("name", "words"),
    [("forever", "longer than"), ("without_end", "more than"), ("and_dies", "could not be read")],
)
def test_what_takes_too_much_is_refused_and_whoever_asked_goes_on(monkeypatch, name, words):
    from metrolex import apart

    reading = apart.Reading(f"tests.too_much:{name}", str, "file")
    monkeypatch.setitem(apart.READINGS, "too_much", reading)
    monkeypatch.setattr(apart, "limit", lambda kind, what: {"seconds": 3.0, "megabytes": 768.0}[what])
    with pytest.raises(BadInput) as refusal:
        done_apart("too_much", "x")
    assert (refusal.value.field, words in refusal.value.message) == ("file", True)


@given(st.binary(max_size=200))
def test_no_bytes_at_all_break_the_reader_of_descriptions(data):
    try:
        read_description(data.decode("latin-1"))
    except BadInput as refusal:
        assert refusal.field == "description"
