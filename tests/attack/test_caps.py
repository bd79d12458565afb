"""A job as large as may be is stored, edited and looked at in seconds; the figures are in docs/security.md."""

from __future__ import annotations

import time

import pytest

from metrolex.jobfile import job_from_text, job_to_text
from metrolex.limits import most_of
from tests.attack.how_much import ALL, several
from tests.attack.test_pages import ROUTES
from tests.big import full_job
from workbench.jobs.door import import_job

pytestmark = [pytest.mark.django_db, pytest.mark.thorough]
#: Seconds of processor time; many times what was measured, since a test runs on busy machines: what grows with the square of a list takes minutes.
EDIT_S, PAGE_S, WARM_S = 15.0, 20.0, 3.0
#: Looked at in every run; the whole attack looks at everything.
USUAL = {"feeds/"}


def took(call):
    start = time.process_time()
    answer = call()
    return time.process_time() - start, answer


@pytest.mark.parametrize("seed", several(1, 4))
def test_a_job_at_its_caps_is_worked_with(seed, bay):
    job = full_job(seed)
    assert {name: len(getattr(job, name)) for name in ("channels", "circuits", "zones", "ways", "ports")} == {
        name: most_of(name) for name in ("channels", "circuits", "zones", "ways", "ports")
    }
    bay.record = import_job(bay.member, job_from_text(job_to_text(job)))  # as its file would come
    slow = []
    for route in ROUTES:
        tail = route.removeprefix("jobs/<int:job>/")
        if not ALL and tail not in USUAL:
            continue
        edit, answer = took(
            lambda tail=tail: bay.post(
                "feeds/probe/", circuit="XF3", state="later", reading=str(9 + len(tail) / 100)
            )
        )
        assert answer.status_code == 302
        cold, page = took(lambda tail=tail: bay.client.get(bay.path(tail)))
        warm, _ = took(lambda tail=tail: bay.client.get(bay.path(tail)))
        assert page.status_code in (200, 202, 302, 404, 405, 422), tail
        printed = tail.endswith((".pdf", "pdf/"))  # by the queue, where nobody waits
        if edit > EDIT_S or (not printed and (cold > PAGE_S or warm > WARM_S)):
            slow.append((tail, edit, cold, warm))
    assert not slow
