"""Job files of earlier schema versions come up to the present one without loss."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from metrolex.job import State
from metrolex.jobfile import (
    EXAMPLES,
    SCHEMA_VERSION,
    job_from_data,
    job_from_text,
    job_to_text,
)
from metrolex.schema import brought_up
from metrolex.twin import build, readings, solve

FILES = Path(__file__).parents[1] / "files"
OLD = FILES / "schema_2"


@pytest.mark.parametrize("version", [2, 3])
@pytest.mark.parametrize("name", EXAMPLES)
def test_jobs_as_an_earlier_version_wrote_them_are_the_same_jobs(name, version):
    """The examples as they were when the present version came: what has been done to them since is another matter."""
    text = (FILES / f"schema_{version}" / f"{name}.json").read_text(encoding="utf-8")
    assert json.loads(text)["schema_version"] == version
    now = FILES / f"schema_{SCHEMA_VERSION}" / f"{name}.json"
    assert job_from_text(text) == job_from_text(now.read_text(encoding="utf-8"))


@pytest.mark.parametrize("name", EXAMPLES)
def test_what_was_brought_up_is_written_as_the_present_version(name):
    job = job_from_text((OLD / f"{name}.json").read_text(encoding="utf-8"))
    text = job_to_text(job)
    assert json.loads(text)["schema_version"] == SCHEMA_VERSION
    assert job_from_text(text) == job


@pytest.mark.parametrize("version", [2, 3])
@pytest.mark.parametrize("name", EXAMPLES)
def test_every_value_of_an_old_file_is_still_there(name, version):
    """Each figure and word of the old file stands somewhere in the new one: nothing is dropped on the way."""
    old = json.loads((FILES / f"schema_{version}" / f"{name}.json").read_text(encoding="utf-8"))
    new = job_from_text(json.dumps(old))
    assert not _leaves(old, skip=("schema_version", "test")) - _leaves(json.loads(job_to_text(new)), ())


def _leaves(data, skip):
    if isinstance(data, dict):
        return set().union(*(_leaves(value, skip) for key, value in data.items() if key not in skip))
    if isinstance(data, list):
        return set().union(*(_leaves(value, skip) for value in data))
    return {data}


def test_the_data_given_is_left_alone():
    data = json.loads((OLD / "van.json").read_text(encoding="utf-8"))
    before = json.dumps(data)
    brought_up(data, 2)
    assert json.dumps(data) == before


def test_volts_the_circuit_was_worked_out_with_outweigh_the_surveys():
    data = {
        "schema_version": 2,
        "name": "x",
        "vehicle": {"name": "v"},
        "supply": {"rest_v": 12.9},
        "survey": {"day": "2026-01-02", "rest_v": 12.1, "charging_v": 13.9},
    }
    state = job_from_data(data).vehicle.electrics.state
    assert (state.rest_v, state.charging_v, state.measured_on) == (12.9, 13.9, "2026-01-02")


@pytest.mark.parametrize(
    "data",
    [
        {"vehicle": 3},
        {"vehicle": {"name": "v"}, "supply": 3},
        {"vehicle": {"name": "v"}, "survey": []},
        {"observations": [3, {}, {"test": 4}]},
        {"vehicle": {"name": "v"}, "displays": 4, "observations": [{"test": "gone ohms"}]},
        {"vehicle": {"name": "v"}, "channels": [3]},
    ],
)
def test_what_cannot_be_meant_is_left_for_the_gate(data):
    from metrolex.errors import BadInput

    with pytest.raises(BadInput):
        job_from_data({"schema_version": 2, "name": "x", **data, "circuits": 3})


def test_an_observation_of_a_part_that_is_gone_goes():
    data = json.loads((OLD / "van.json").read_text(encoding="utf-8"))
    count = len(data["observations"])
    data["observations"].append(
        {"id": "O99", "test": "gauge 77 pin 2", "state": {"key": "run"}, "value": 3.0}
    )
    assert len(job_from_data(data).observations) == count


#: What stood on the faces with the engine running, as the commit before schema 3 worked it out of these files. Faces that show
#: the supply are left out: since then it is the supply that was measured.
FACES = {
    "van": {"gearbox": "85", "coolant": "91", "oil pressure": "3.5"},
    "single_seater": {
        "mixture": "1.00",
        "exhaust gas": "418",
        "boost": "-0.6",
        "oil pressure": "3.5",
        "engine oil": "95",
        "fuel pressure": "3.0",
        "coolant": "90",
        "engine speed": "850",
        "road speed": "0",
        "gear": "1",
    },
    "sidecar": {"cylinder head": "141", "road speed": "0", "engine speed": "850"},
    "fire_tender": {
        "oil pressure": "3.5",
        "coolant": "95",
        "fuel level": "60",
        "pump outlet": "8.0",
        "road speed": "0",
    },
}


@pytest.mark.parametrize("name", EXAMPLES)
def test_the_faces_show_what_they_showed(name):
    job = job_from_text((OLD / f"{name}.json").read_text(encoding="utf-8"))
    shown = readings(solve(build(job), State("run", "off", "running")))
    assert {key: shown[key].text for key in FACES[name]} == FACES[name]
