"""One workshop never sees another's records: every address of the URL configuration is walked."""

from __future__ import annotations

import importlib

import pytest
from django.contrib.auth import get_user_model
from django.core.exceptions import ImproperlyConfigured
from django.urls import URLPattern, URLResolver, get_resolver

from workbench.jobs.models import JobRecord, Part


def walk(resolver=None, prefix=""):
    for entry in (resolver or get_resolver()).url_patterns:
        route = prefix + str(entry.pattern)
        if isinstance(entry, URLResolver):
            yield from walk(entry, route)
        elif isinstance(entry, URLPattern):
            for stem, named in (
                ("<slug:key>", "book"),
                ("<slug:kind>", "tyres"),
                ("<int:number>", "1"),
                ("<int:photo>", "1"),
            ):
                route = route.replace(stem, named)
            yield route


ROUTES = sorted(walk())
OF_A_JOB = [route for route in ROUTES if "<int:job>" in route]
OPEN = {"log-in/", "log-out/", "health/"}
LIBRARY = (
    {f"library/fittings/{tail}" for tail in ("", "add/", "stock/", "remove/", "generic/")}
    | {f"library/{tail}" for tail in ("senders/", "displays/", "parts/keep/", "parts/remove/")}
    | {f"library/displays/{tail}" for tail in ("one/", "new/", "change/", "take/")}
)


def test_the_walk_finds_the_places():
    assert len(OF_A_JOB) > 95
    assert set(ROUTES) - set(OF_A_JOB) == {"", "quick/", "jobs/new/", "jobs/from-file/", *LIBRARY, *OPEN}


def test_another_workshops_job_is_not_there(bay, other_bay):
    before = list(Part.objects.order_by("pk").values_list("pk", "version"))
    for route in OF_A_JOB:
        address = "/" + route.replace("<int:job>", str(other_bay.record.pk))
        answers = [
            bay.client.get(address),
            bay.client.post(address, {"name": "x"}),
            bay.client.post(address, headers={"HX-Request": "true"}),
        ]
        assert {answer.status_code for answer in answers} <= {404, 405}, route
        assert 404 in {answer.status_code for answer in answers}, route
        assert b"Ridge Rescue" not in b"".join(answer.content for answer in answers), route
        assert list(Part.objects.order_by("pk").values_list("pk", "version")) == before, route


def test_a_stranger_is_sent_to_the_log_in(bay, client):
    for route in (route for route in ROUTES if route not in OPEN):
        address = "/" + route.replace("<int:job>", str(bay.record.pk))
        for answer in (client.get(address), client.post(address)):
            assert answer.status_code == 302, route
            assert answer.url.startswith("/log-in/"), route


def test_looking_never_writes(bay, monkeypatch):
    monkeypatch.setattr("workbench.printing.tasks.printed_pages", lambda html: (b"%PDF-", 1))
    for route in OF_A_JOB:
        bay.client.get("/" + route.replace("<int:job>", str(bay.record.pk)))
        record = JobRecord.objects.get(pk=bay.record.pk)
        assert (record.version, record.updated) == (1, bay.record.updated), route


def test_a_person_without_a_workshop_has_no_jobs(bay, client):
    client.force_login(get_user_model().objects.create_user("loner"))
    for route in ROUTES:
        if route not in OPEN:
            address = "/" + route.replace("<int:job>", str(bay.record.pk))
            for answer in (client.get(address), client.post(address, {"name": "a", "vehicle": "b"})):
                assert answer.status_code in (403, 405), address
                assert b"Four gauges" not in answer.content
    assert JobRecord.objects.count() == 1


def test_the_shelf_holds_ones_own_jobs_only(bay, other_bay):
    JobRecord.objects.filter(pk=other_bay.record.pk).update(name="Not yours")
    page = bay.client.get("/")
    assert b"Four gauges" in page.content
    assert b"Not yours" not in page.content


def test_log_in_and_out(bay, client):
    good = client.post("/log-in/", {"username": bay.user.username, "password": "long enough words"})
    assert (good.status_code, good.url) == (302, "/")
    assert client.get(bay.path()).status_code == 200
    assert client.post("/log-out/").status_code == 302
    assert client.get(bay.path()).status_code == 302


def test_a_wrong_password_keeps_the_name_and_is_slowed_down(bay, client):
    for _ in range(7):
        answer = client.post("/log-in/", {"username": bay.user.username, "password": "wrong"})
        assert bay.user.username.encode() in answer.content
    assert client.post("/log-in/", {"username": bay.user.username, "password": "wrong"}).status_code == 429


def test_the_demo_log_in_is_printed_in_demo_settings_only(db, client, settings):
    assert b"bench-book-52" in client.get("/log-in/").content
    settings.DEMO_LOGIN = None
    assert b"bench-book-52" not in client.get("/log-in/").content


GOOD = {
    "METROLEX_SECRET_KEY": "tW4mXr9-Qk2vZb7_Hd1sLc8.Ny5gUf3,Ej6pAo0=Vi",
    "METROLEX_ALLOWED_HOSTS": "metrolex.example",
}
BAD = [
    {"METROLEX_SECRET_KEY": ""},
    {"METROLEX_SECRET_KEY": "short"},
    {"METROLEX_SECRET_KEY": "ab" * 40},
    {"METROLEX_SECRET_KEY": "0123456789abcdefghij" * 3},
    {"METROLEX_SECRET_KEY": "0123456789abcdefghijkl" * 2 + "0123"},
    {"METROLEX_SECRET_KEY": "django-insecure-" + "x" * 40},
    {"METROLEX_DEBUG": "1"},
    {"DEBUG": "true"},
    {"METROLEX_ALLOWED_HOSTS": ""},
    {"METROLEX_ALLOWED_HOSTS": "*"},
    {"METROLEX_TRUSTED_PROXIES": "10.0.0.1,the proxy"},
]


@pytest.mark.parametrize("wrong", BAD, ids=str)
def test_production_refuses_to_start_unsafely(wrong, monkeypatch):
    for name, value in (GOOD | wrong).items():
        monkeypatch.setenv(name, value)
    with pytest.raises(ImproperlyConfigured):
        importlib.reload(importlib.import_module("workbench.settings.production"))


def test_production_starts_when_all_is_said(monkeypatch):
    for name, value in GOOD.items():
        monkeypatch.setenv(name, value)
    production = importlib.reload(importlib.import_module("workbench.settings.production"))
    assert production.DEBUG is False
    assert production.DEMO_LOGIN is None
    assert production.SESSION_COOKIE_SECURE


def test_every_page_is_kept_to_its_own_files(bay):
    policy = bay.get().headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
