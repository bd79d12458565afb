"""Two people on every form: loaded by one, saved by the other, then saved by the first. Either both hold, or the second is told."""

from __future__ import annotations

import functools
import html
import random
import re
from urllib.parse import urljoin

import pytest
from django.contrib.messages import get_messages
from django.test import Client

from metrolex.intake import dump
from metrolex.job.changes import ABSENT, changes_between, undone
from metrolex.jobfile import EXAMPLES
from tests.attack.how_much import ALL, some_of
from tests.jobs import shipped
from tests.web.test_untouched_forms import ACTS, crawl
from workbench.jobs.door import change, import_job
from workbench.jobs.models import JobRecord

pytestmark = [pytest.mark.django_db, pytest.mark.thorough]
#: What is neither kept with the job nor changes it in a way of its own.
ASIDE = {
    "seen",
    "csrfmiddlewaretoken",
    "next",
    "channel",
    "display",
    "input",
    "pin",
    "chosen",
    "run",
    "way",
    "zone",
}

#: What every page fills in anew.
EACH_TIME = {"seen", "csrfmiddlewaretoken", "next"}


def altered(form, name, by, options):
    """What the form sends with one field changed: a figure by some of itself, a word by one more, a choice by another."""
    fields = {key: list(values) for key, values in form.fields.items()}
    old = fields.get(name, [""])[0]
    number = re.match(r"-?[0-9]+([.][0-9]+)?", old)
    if options:
        fields[name] = [next((o for o in options[by:] + options if o != old), old)]
    elif number:
        fields[name] = [f"{float(number[0]) * (1 + by / 100):.4g}{old[number.end() :]}"]
    else:
        fields[name] = [f"{old} {'xyz'[by]}".strip()]
    return fields


def options_of(page, name):
    """The values of a field that is a choice."""
    found = re.search(rf'<select name="{re.escape(name)}".*?</select>', page, re.DOTALL)
    return re.findall(r'value="([^"]+)"', found[0]) if found else []


def lies_on(one, other):
    return any(a.path[: len(b.path)] == b.path or b.path[: len(a.path)] == a.path for a in one for b in other)


def within(plain, key):
    """A field by its name, a part of a list by its id."""
    return plain[key] if isinstance(plain, dict) else next(part for part in plain if part["id"] == key)


def holds(job, changes):
    """Whether a job has the values the changes gave it; a part that was added may have got another id."""
    plain = dump(job, whole=True)
    added = [c for c in changes if len(c.path) > 1 and c.before is ABSENT and isinstance(c.after, dict)]
    nameless = [{**part, "id": ""} for c in added for part in functools.reduce(within, c.path[:-1], plain)]
    if any({**c.after, "id": ""} not in nameless for c in added):
        return False
    changes = [c for c in changes if c not in added]
    return not changes_between(plain, undone(plain, [type(c)(c.path, c.after, c.before) for c in changes]))


PAIRS_OF_A_FORM = 3  # the same field twice, or two of them


@pytest.mark.parametrize("name", EXAMPLES if ALL else ("van",))
def test_both_hold_or_the_second_is_told(name, bay, mate):
    start = shipped(name)
    bay.record = import_job(bay.member, start)
    draw, cases, known = random.Random(12), [], set()
    for address, forms in some_of(crawl(bay, bay.path()), 60):
        for form in forms:
            action = urljoin(address, form.action)
            tail = action.removeprefix(bay.path())
            typed = sorted(form.typed - ASIDE)
            sent = (
                action,
                *sorted((key, *values) for key, values in form.fields.items() if key not in EACH_TIME),
            )
            if sent in known:
                continue  # it stands on several pages
            known.add(sent)
            if form.method == "post" and typed and tail not in ACTS and "seen" in form.fields:
                pairs = [(one, other) for one in typed for other in typed]
                for one, other in draw.sample(pairs, min(len(pairs), PAIRS_OF_A_FORM)):
                    cases.append((address, action, form, one, other))
    chosen = cases if ALL else draw.sample(cases, 8)
    tried, lost, pages = 0, [], {}
    for address, action, form, one, other in chosen:
        if address not in pages:
            _reset(bay, start)
            pages[address] = bay.client.get(address).content.decode()
        page = pages[address]
        outcome = _tried(bay, mate, start, action, form, (one, other), page)
        tried += outcome is not None
        if outcome:
            lost.append((action, one, other, outcome))
    assert tried >= len(chosen) // 10
    print(f"{name}: {tried} of {len(chosen)} pairs of saves")
    assert not lost, f"{len(lost)} of {tried}: {lost[:5]}"


def _tried(bay, second, start, action, form, names, page):
    """None where one of the two saves is refused by itself or changes nothing; '' where all is well; else what was lost."""
    one, other = names
    theirs = altered(form, one, 1, options_of(page, one))
    mine = altered(form, other, 2, options_of(page, other))
    plain = dump(start, whole=True)
    _reset(bay, start)
    _sent(bay.client, bay, action, mine)
    my_change = changes_between(plain, dump(bay.job, whole=True))
    version = _reset(bay, start)
    _sent(second.client, bay, action, theirs, version)
    after_theirs = bay.job
    their_change = changes_between(plain, dump(after_theirs, whole=True))
    if not my_change or not their_change:
        return None
    answer = _sent(bay.client, bay, action, mine, version)
    final = bay.job
    told = "after you opened this page" in _said(bay.client, answer)
    refused = answer.status_code == 422 and final == after_theirs  # what it spoke of is gone, and it says so
    if told or refused:
        return "" if final == after_theirs else "told, and stored all the same"
    if holds(final, their_change) and holds(final, my_change):
        return ""
    if lies_on(my_change, their_change):
        return "the same value was stored over, and nobody was told"
    return "one of two values is gone"


def _reset(bay, start):
    change(bay.record, lambda _: start, by=None)
    return JobRecord.objects.get(pk=bay.record.pk).version


def _sent(client: Client, bay, action, fields, version=None):
    seen = version if version is not None else JobRecord.objects.get(pk=bay.record.pk).version
    return client.post(action, fields | {"seen": [str(seen)]})


def _said(client: Client, answer):
    """What the answer says, or the page it leads to would; after that it is said."""
    words = [answer.content.decode(), *(str(one) for one in get_messages(answer.wsgi_request))]
    client.cookies.pop("messages", None)
    session = client.session
    if session.pop("_messages", None):
        session.save()
    return html.unescape(" ".join(words))
