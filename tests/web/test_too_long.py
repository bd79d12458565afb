"""Texts longer than they may be: told, with what was typed still there; never cut, in the browser or here."""

from __future__ import annotations

from urllib.parse import urljoin

import pytest

from tests.jobs import shipped
from tests.web.forms_of import read_page
from tests.web.test_untouched_forms import crawl
from workbench.jobs.door import import_job

pytestmark = pytest.mark.django_db
LONG = "y" * 30_000
#: What is not typed in words (sliders), what stays on the page the answer goes into, what the chosen law does not ask for.
ELSEWHERE = {"ports/weights/", "scaling/read-back/"}
NOT_ASKED = {("scaling/curve/", "points")}


def test_what_is_too_long_is_told_and_given_back(bay):
    bay.record = import_job(bay.member, shipped("sidecar"))
    before, seen, lost = bay.job, set(), []
    for at, forms in crawl(bay, bay.path()):
        for form in forms:
            action = urljoin(at, form.action)
            tail = action.split("?")[0].removeprefix(bay.path())
            if form.method != "post" or tail in ELSEWHERE or not action.startswith(bay.path()):
                continue
            for name in form.written:
                if (tail, name) in seen | NOT_ASKED:
                    continue
                seen.add((tail, name))
                answer = bay.client.post(action, form.fields | {name: [LONG]}, follow=True)
                if LONG not in answer.content.decode():
                    lost.append((tail, name, answer.status_code))
    assert not lost
    assert len(seen) > 120
    assert bay.job == before


def test_no_field_of_the_shelf_cuts_what_is_pasted(bay):
    """Those of a job's pages are held to it wherever its forms are read (``read_page``)."""
    for address in ("/", "/jobs/new/", "/library/senders/", "/library/fittings/"):
        assert read_page(bay.client.get(address).content.decode())[0], address
