"""Every form of every page, sent with something in it nobody would mean: told, never a fault of ours, and the job stays whole."""

from __future__ import annotations

import random
from urllib.parse import urljoin

import pytest

from metrolex.jobfile import job_from_text, job_to_text
from tests.attack.how_much import ALL, some_of
from tests.web.test_untouched_forms import crawl

pytestmark = [pytest.mark.django_db, pytest.mark.thorough]
NASTY = (
    "", " ", "\x00", "a\x00b", "\x1b[31m", "\x85", "\ufffe", "²", "٣", "１２", "9" * 5000, "-1", "1e308", "-1e308", "NaN", "inf",
    "1/0", "0x10", "--1", "1,000", "<script>alert(1)</script>", "' OR 1=1 --", "{{ 7*7 }}", "%s%n", "../../etc/passwd", "x" * 100_000,
    "\u202e", "🔧" * 500, "None", "null", "[]", "\r\nSet-Cookie: a=b", "=1+1",
)  # fmt: skip


def mutated(fields, draw):
    """The fields with one to three of them changed, left out, doubled, or one more than was asked for."""
    sent = {name: list(values) for name, values in fields.items()}
    for name in draw.sample(sorted(sent), min(len(sent), draw.choice((1, 1, 2, 3)))):
        what = draw.random()
        if what < 0.8:
            sent[name] = [draw.choice(NASTY)]
        elif what < 0.9:
            del sent[name]
        else:
            sent[name] = [*sent[name], draw.choice(NASTY)]
    if draw.random() < 0.05:
        sent[draw.choice(("id", "kind", "workshop", "record", "seen"))] = [draw.choice(NASTY)]
    return sent


def test_nothing_sent_is_a_fault_of_ours(bay):
    pages = some_of(crawl(bay, bay.path()), 60)
    forms = [(urljoin(at, form.action), form) for at, found in pages for form in found]
    posts = [
        (action, form)
        for action, form in forms
        if form.method == "post" and form.fields and action.startswith(bay.path())
    ]
    draw = random.Random(7)
    faults = []
    for _ in range(3000 if ALL else 40):
        action, form = draw.choice(posts)
        fields = mutated(form.fields, draw)
        headers = {"HX-Request": "true"} if draw.random() < 0.3 else {}
        try:
            answer = bay.client.post(action, fields, headers=headers)
        except BaseException as fault:
            faults.append((action, {k: [v[:40] for v in vs] for k, vs in fields.items()}, repr(fault)[:200]))
            continue
        assert answer.status_code in (200, 204, 302, 400, 403, 404, 405, 413, 422), (action, fields)
    assert not faults, f"{len(faults)}: {faults[:4]}"
    assert job_from_text(job_to_text(bay.job)) == bay.job
    assert bay.get().status_code == 200
