"""Ids as odd as the gate lets through: every page of such a job is whole, and no form on it is broken."""

from __future__ import annotations

import json

import pytest

from metrolex.jobfile import EXAMPLES, example_job_data, job_from_data
from tests.web.test_untouched_forms import crawl
from workbench.jobs.door import import_job

ODD = "%s%d {x} <b> \"'&#/?|"


def with_odd_ids(name):
    """An example whose parts have odd ids, each still its own; names stay."""
    data = example_job_data(name)
    parts = [
        part for kind in data.values() if isinstance(kind, list) for part in kind if isinstance(part, dict)
    ]
    ids = {part["id"] for part in parts if "id" in part}
    pins = {pin["id"] for display in data["displays"] for pin in display.get("pins", ())}
    assert len(ids) > 20

    def odd(value, key=""):
        if isinstance(value, dict):
            return {word: odd(inner, word) for word, inner in value.items()}
        if isinstance(value, list):
            return [odd(inner, key) for inner in value]
        stays = key in ("name", "kind", "role", "measurand", "unit", "note", "colour", "word", "what", "side")
        stays = stays or key.endswith("unit")
        known = value in ids or (key in ("pin", "terminal", "id") and value in pins)
        return f"{value}{ODD}" if isinstance(value, str) and known and not stays else value

    return job_from_data(odd(json.loads(json.dumps(data))))


@pytest.mark.parametrize("name", EXAMPLES)
def test_odd_ids_break_no_page_and_no_form(name, bay):
    job = with_odd_ids(name)
    assert ODD in job.displays[0].id
    bay.record = import_job(bay.member, job)
    get = bay.client.get
    failed = []

    def told(address, *args, **kwargs):
        answer = get(address, *args, **kwargs)
        if answer.status_code != 200:
            failed.append((answer.status_code, address))
        return answer

    bay.client.get = told
    pages = [address for address, _ in crawl(bay, bay.path())]
    assert len(pages) > 60
    assert not failed
