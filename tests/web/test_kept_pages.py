"""A kept page is the page that would be made now: for everything it is made of, and for nobody else."""

from __future__ import annotations

import datetime
import re

import pytest
from django.contrib.auth import get_user_model
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from metrolex.acts.harness import set_wire
from metrolex.acts.work import note_step
from metrolex.fittings.library import generic_fittings
from metrolex.intake import dump
from tests.jobs import van
from tests.pages import PAGES
from tests.web.conftest import Bay
from workbench.accounts.models import Membership
from workbench.jobs import kept_pages, pages
from workbench.jobs.door import change, import_job
from workbench.jobs.templatetags.metrolex import clock
from workbench.library import parts, services
from workbench.work.page import moment_now

#: What a kept page may still ask the database for: the session, the person in their workshop, the record; on the pages of the work what else the workshop noted.
QUERIES = 3
_TOKEN = re.compile(r'(csrfmiddlewaretoken" value="|X-CSRFToken": ")([A-Za-z0-9]+)')


def tokens(answer) -> set[str]:
    return {token for _, token in _TOKEN.findall(answer.content.decode())}


def bare(answer) -> str:
    """A page without its tokens."""
    return _TOKEN.sub(r"\1", answer.content.decode())


@pytest.fixture
def no_rendering(monkeypatch):
    """From its call on, a page can only come from those kept."""

    def stop():
        def refuse(*_):
            raise AssertionError("the page was made again")

        monkeypatch.setattr(pages, "render_to_string", refuse)

    return stop


@pytest.mark.parametrize("page", PAGES)
def test_asked_again_it_is_the_page_made_anew_and_asks_no_more_of_the_database(page, bay):
    first = bay.get(page)
    with CaptureQueriesContext(connection) as queries:
        again = bay.get(page)
    kept_pages.PAGES.pages.clear()
    anew = bay.get(page)
    assert bare(first) == bare(again) == bare(anew)
    assert not any(kept_pages.TOKEN.encode() in answer.content for answer in (first, again, anew))
    whole = b"<html" in first.content and "/book/" not in page
    assert not whole or len(queries) <= QUERIES + page.startswith("work/"), [q["sql"] for q in queries]


def test_it_is_not_rendered_twice(bay, no_rendering):
    first = bay.get("feeds/")
    no_rendering()
    assert bare(bay.get("feeds/")) == bare(first)
    with pytest.raises(AssertionError, match="made again"):
        bay.get("harness/")


def test_each_person_gets_a_token_of_their_own_that_is_taken(bay, client_factory):
    bay.client.handler.enforce_csrf_checks = True
    mate = client_factory(enforce_csrf_checks=True)
    user = get_user_model().objects.create_user("mate", password="long enough words")
    Membership.objects.create(user=user, workshop=bay.workshop)
    mate.force_login(user)
    for client in (bay.client, mate):
        for _ in range(2):
            page = client.get(bay.path("feeds/"))
            (token,) = tokens(page)
            posted = {"circuit": "F9", "state": "run", "reading": "12.1", "csrfmiddlewaretoken": token}
            assert client.post(bay.path("feeds/probe/"), posted).status_code == 302
        wrong = posted | {"csrfmiddlewaretoken": "x" * 64}
        assert client.post(bay.path("feeds/probe/"), wrong).status_code == 403


def test_an_act_a_turn_of_the_key_and_a_new_name_make_another_page(bay):
    change(bay.record, lambda job: set_wire(job, "W3", {"length_m": 3.3}), by=None)
    seen = [bare(bay.get("harness/"))]
    change(bay.record, lambda job: set_wire(job, "W3", {"length_m": 3.4}), by=None)
    seen.append(bare(bay.get("harness/")))
    bay.post("key-switch/", key="off", next=bay.path())
    seen.append(bare(bay.get("harness/")))
    bay.workshop.name = "Scree Lane and Sons"
    bay.workshop.save()
    seen.append(bare(bay.get("harness/")))
    bay.user.first_name = "Ada"
    bay.user.save()
    seen.append(bare(bay.get("harness/")))
    bay.member.role = Membership.Role.READER
    bay.member.save()
    bay.get("harness/")
    assert len(set(seen)) == len(seen)


def test_what_the_workshop_noted_on_another_job_makes_another_page_of_the_work(bay, text):
    other = import_job(bay.member, van())
    assert "turned by what this workshop took" not in text(bay.get("work/quote/"))
    at = moment_now(None)
    for step in ("mount gauge 1", "mount gauge 2", "mount gauge 3", "mount gauge 4"):
        change(other, lambda job, step=step: note_step(job, step, "40", at), by=bay.member)
    assert "turned by what this workshop took" in text(bay.get("work/quote/"))


def test_what_rests_is_over_when_its_time_is(bay, text, monkeypatch):
    at = moment_now(None)
    change(bay.record, lambda job: note_step(job, "fit coolant", "done", at), by=bay.member)
    before = text(bay.get("work/"))
    later = timezone.localtime() + datetime.timedelta(days=3)
    monkeypatch.setattr("workbench.work.page.timezone.localtime", lambda *_, **__: later)
    assert "rests until" in before
    assert "rests until" not in text(bay.get("work/"))


def test_a_minute_in_which_nothing_ends_leaves_the_page_of_the_work(bay, no_rendering, monkeypatch):
    change(bay.record, lambda job: note_step(job, "fit coolant", "done", moment_now(None)), by=bay.member)
    now = timezone.localtime().replace(hour=12)
    monkeypatch.setattr("workbench.work.page.timezone.localtime", lambda *_, **__: now)
    first = bay.get("work/")
    monkeypatch.setattr(
        "workbench.work.page.timezone.localtime", lambda *_, **__: now + datetime.timedelta(minutes=1)
    )
    no_rendering()
    assert bare(bay.get("work/")) == bare(first)


@pytest.mark.parametrize(
    ("days", "said"), [(0, "15:20"), (1, "tomorrow 15:20"), (2, "Thu 3 Dec 15:20"), (-1, "Mon 30 Nov 15:20")]
)
def test_a_clock_says_its_day_where_it_is_another(days, said, monkeypatch):
    monkeypatch.setattr(timezone, "localdate", lambda: datetime.date(2026, 12, 1))
    assert (
        clock(datetime.datetime(2026, 12, 1, 15, 20, tzinfo=datetime.UTC) + datetime.timedelta(days=days))
        == said
    )


def test_a_message_is_shown_once_and_not_kept(bay, text):
    bay.get("feeds/")
    assert bay.post("feeds/probe/", circuit="no such", state="run", reading="12").status_code == 302
    said = text(bay.get("feeds/"))
    assert "message error" in said
    assert "message error" not in text(bay.get("feeds/"))


def test_another_workshop_is_still_turned_away(bay, other_bay):
    bay.get("feeds/")
    assert other_bay.client.get(bay.path("feeds/")).status_code == 404


def test_the_book_says_the_address_it_was_asked_at(bay, settings):
    settings.ALLOWED_HOSTS = ["*"]
    one = bay.client.get(bay.path("handover/book/"), headers={"Host": "bench.example"})
    two = bay.client.get(bay.path("handover/book/"), headers={"Host": "office.example"})
    assert b"office.example" in two.content
    assert b"bench.example" in one.content
    assert b"bench.example" not in two.content


LIBRARY_CHANGES = {
    "a fitting of its own": lambda w, job: services.add_fitting(
        w, dump(generic_fittings()[0]) | {"name": "Ours"}
    ),
    "stock": lambda w, job: services.set_stock(w, generic_fittings()[0].name, 3),
    "one left out": lambda w, job: services.remove_fitting(w, generic_fittings()[0].name),
    "all left out": lambda w, job: services.leave_out_generic(w),
    "a sender": lambda w, job: parts.keep(w, job.senders[0], "Our sender"),
    "a display": lambda w, job: parts.keep(w, job.displays[0], "Our display"),
}


@pytest.mark.parametrize("words", LIBRARY_CHANGES)
def test_a_change_of_the_library_makes_every_page_anew(words, bay, no_rendering):
    bay.get("ports/?channel=coolant")
    LIBRARY_CHANGES[words](bay.workshop, bay.job)
    no_rendering()
    with pytest.raises(AssertionError, match="made again"):
        bay.get("ports/?channel=coolant")


def test_what_is_taken_back_or_out_of_the_library_makes_them_anew_too(bay):
    def version() -> int:
        bay.workshop.refresh_from_db()
        return bay.workshop.library_version

    parts.keep(bay.workshop, bay.job.senders[0], "Our sender")
    services.leave_out_generic(bay.workshop)
    services.add_fitting(bay.workshop, dump(generic_fittings()[0]) | {"name": "Ours"})
    for undo in (
        lambda: parts.remove(bay.workshop, "sender", "Our sender"),
        lambda: services.take_generic_back(bay.workshop),
        lambda: services.remove_fitting(bay.workshop, "Ours"),
    ):
        before = version()
        undo()
        assert version() > before


def test_the_bound_is_kept_and_a_page_above_it_is_still_sent(bay, monkeypatch):
    monkeypatch.setattr(pages, "PAGES", kept_pages.KeptPages(300_000))
    for page in PAGES:
        bay.get(page)
        assert pages.PAGES.pages.currsize <= 300_000
    assert pages.PAGES.pages
    monkeypatch.setattr(pages, "PAGES", kept_pages.KeptPages(10))
    assert bay.get("feeds/").status_code == 200
    assert not pages.PAGES.pages


def test_no_two_bays_share_a_page(bay, client_factory):
    twin = Bay("Fell Side", client_factory())
    assert bare(bay.get("brief/")) != bare(twin.get("brief/"))
