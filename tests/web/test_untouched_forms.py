"""Every page of a job whose ids are as odd as they may be is whole, and every form of it, saved as it came, leaves the job as it was."""

from __future__ import annotations

from urllib.parse import parse_qsl, urljoin, urlsplit

import pytest

from metrolex.intake import dump
from metrolex.jobfile import EXAMPLES
from tests.web.forms_of import read_page
from tests.web.odd_ids import ODD, with_odd_ids
from workbench.jobs.door import change, import_job

#: Forms that do something by being sent, whatever stands in them: they save nothing of what they show.
ACTS = {
    "feeds/tap/",
    "ports/place/",
    "ports/stack/",
    "scaling/rows/",
    "displays/describe/",
    "harness/plan/start/",
    "key-switch/",
    "faults/begin/",
    "faults/end/",
    "faults/say/",
    "mount/site/start/",
    "dash/face/add/",
}
#: Endings of what holds no form of its own.
FILES = (
    "/how-many/",
    ".pdf",
    ".dxf",
    ".jpg",
    ".svg",
    ".csv",
    ".json",
    ".ics",
    "/pdf/",
    "/csv/",
    "/scaling/card/",
)


def crawl(bay, start):
    """Pages of the job reached from its board, each once: (address, its forms)."""
    waiting, seen = [start], {same(start)}
    while waiting:
        address = waiting.pop(0)
        answer = bay.client.get(address)
        assert answer.status_code in (200, 202), (answer.status_code, address)
        if "html" not in answer.headers.get("Content-Type", ""):
            continue
        forms, links = read_page(answer.content.decode())
        yield address, forms
        for link in links:
            full = urljoin(address, link).split("#")[0]
            wanted = full.startswith(start) and not urlsplit(full).path.endswith(FILES) and "as=" not in full
            if wanted and same(full) not in seen:
                seen.add(same(full))
                waiting.append(full)


def same(address):
    """What tells one page from another: a way or zone is the same whichever run is looked at, a drawing the same at every point, a search the same whichever test it proposes, steps of a kind the same."""
    parts = urlsplit(address)
    query = dict(parse_qsl(parts.query))
    if query.keys() & {"way", "zone"}:
        query.pop("run", None)
    query.pop("other", None)
    if "step" in query:
        query["step"] = query["step"].partition(" ")[0]
    if parts.path.endswith("/diagram/"):
        query = {}
    return parts.path, tuple(sorted(query.items()))


@pytest.mark.parametrize("example", EXAMPLES)
def test_saved_untouched(example, bay):
    job = with_odd_ids(example)
    assert ODD in job.displays[0].id
    bay.record = import_job(bay.member, job)
    sent, changed, version = set(), [], bay.version
    for address, forms in list(crawl(bay, bay.path())):
        for form in forms:
            action = urljoin(address, form.action)
            tail = action.removeprefix(bay.path())
            key = (tail, tuple(sorted((name, tuple(values)) for name, values in form.fields.items())))
            if form.method != "post" or not form.typed or key in sent or tail in ACTS:
                continue
            sent.add(key)
            assert bay.client.post(action, form.fields).status_code in (200, 302, 422)
            if bay.version != version:  # nothing is stored without a new one
                changed.append((tail, form.fields, first_difference(job, bay.job)))
                change(bay.record, lambda _: job, by=None)
                version = bay.version
    assert len(sent) > 150
    assert not changed


def first_difference(before, after):
    """The first part in which two jobs differ: its name, as it was, as it is."""
    one, two = dump(before), dump(after)
    for key in sorted({*one, *two}):
        was, now = one.get(key), two.get(key)
        if was != now and isinstance(was, list) and isinstance(now, list):
            return (
                key,
                [part for part in was if part not in now][:2],
                [part for part in now if part not in was][:2],
            )
        if was != now:
            return key, was, now
    return None
