"""People and workshops: made at the terminal, told what to do without one, kept out where they do not belong."""

from __future__ import annotations

import datetime
import io

import pytest
from django.contrib.auth import get_user_model
from django.core.checks import run_checks
from django.core.management import CommandError, call_command
from django.test import RequestFactory
from django.utils import timezone

from workbench.accounts.address import address_of
from workbench.accounts.models import Membership, Workshop
from workbench.jobs.management.commands import prepare
from workbench.jobs.management.commands.prepare import load_demo

GOOD = "bench lamp over the vice"


def told(*command, typed="", monkeypatch=None):
    if monkeypatch:
        monkeypatch.setattr("sys.stdin", io.StringIO(f"{typed}\n"))
    out = io.StringIO()
    call_command(*command, stdout=out)
    return out.getvalue()


# ---- made at the terminal --------------------------------------------------------------------------------------------


def test_a_workshop_and_its_people_are_made_at_the_terminal(db, client, monkeypatch):
    assert "add_person" in told("add_workshop", "Tarn Works")
    assert "lead of 'Tarn Works'" in told(
        "add_person", "ada", "--workshop", "Tarn Works", "--role", "lead", typed=GOOD, monkeypatch=monkeypatch
    )
    assert client.post("/log-in/", {"username": "ada", "password": GOOD}).status_code == 302
    assert client.get("/").status_code == 200
    assert Membership.objects.get().role == "lead"


def test_a_password_made_up_is_printed_once_and_works(db, client):
    told("add_workshop", "Tarn Works")
    words = told("add_person", "ada", "--workshop", "Tarn Works", "--make-password")
    first = words.rsplit(" ", 1)[1].strip()
    assert client.post("/log-in/", {"username": "ada", "password": first}).status_code == 302
    second = told("set_password", "ada", "--make-password").rsplit(" ", 1)[1].strip()
    assert client.get("/").status_code == 302  # logged out by it
    assert client.post("/log-in/", {"username": "ada", "password": first}).status_code == 200
    assert client.post("/log-in/", {"username": "ada", "password": second}).status_code == 302


@pytest.mark.parametrize(
    ("command", "typed", "words"),
    [
        (("add_workshop", " "), "", "name of 1 to 120"),
        (("add_workshop", "x\x00"), "", "name of 1 to 120"),
        (("add_workshop", "Tarn Works"), "", "already"),
        (("add_person", "ada", "--workshop", "Elsewhere"), GOOD, "There are: Tarn Works"),
        (("add_person", "ada", "--workshop", "Tarn Works"), "short", "too short"),
        (("add_person", "a b;c", "--workshop", "Tarn Works"), GOOD, "valid username"),
        (("set_password", "nobody"), GOOD, "nobody called"),
    ],
)
def test_what_cannot_be_made_is_told_and_nothing_is_stored(db, command, typed, words, monkeypatch):
    Workshop.objects.create(name="Tarn Works")
    with pytest.raises(CommandError, match=words):
        told(*command, typed=typed, monkeypatch=monkeypatch)
    assert not get_user_model().objects.exists()
    assert Workshop.objects.count() == 1


def test_a_person_taken_into_a_second_workshop_keeps_their_password(db, client, monkeypatch):
    told("add_workshop", "One")
    told("add_workshop", "Two")
    told("add_person", "ada", "--workshop", "One", typed=GOOD, monkeypatch=monkeypatch)
    told("add_person", "ada", "--workshop", "Two", "--role", "reader")
    assert client.post("/log-in/", {"username": "ada", "password": GOOD}).status_code == 302
    assert Membership.objects.filter(user__username="ada").count() == 2


# ---- without a workshop ------------------------------------------------------------------------------------------------


def test_a_person_of_no_workshop_is_told_what_to_do(db, client, bay):
    person = get_user_model().objects.create_user("ada", password=GOOD)
    client.force_login(person)
    for address in ("/", "/jobs/new/", "/library/senders/", bay.path(), bay.path("feeds/")):
        answer = client.get(address)
        assert (answer.status_code, b"You belong to no workshop yet" in answer.content) == (403, True), (
            address
        )
    assert client.post(bay.path("feeds/probe/"), {"circuit": "F1"}).status_code == 403
    assert client.post("/log-out/").status_code == 302


# ---- the demo's person -------------------------------------------------------------------------------------------------


def test_the_demos_person_cannot_log_in_elsewhere(db, client, settings):
    load_demo()
    name, password = settings.DEMO_LOGIN
    assert client.post("/log-in/", {"username": name, "password": password}).status_code == 302
    assert client.get("/").status_code == 200
    assert not run_checks(databases=["default"])
    settings.DEMO_LOGIN = None
    assert client.get("/").status_code == 302  # a session of before holds no longer
    assert client.post("/log-in/", {"username": name, "password": password}).status_code == 200
    assert [found.id for found in run_checks(databases=["default"])] == ["accounts.E001"]


def test_the_demo_is_not_loaded_where_it_does_not_belong(db, settings):
    Workshop.objects.create(name="Tarn Works")
    with pytest.raises(CommandError, match="workshops of its own"):
        call_command("prepare", "--demo")
    settings.DATABASES["default"]["HOST"], kept = "db.example", settings.DATABASES["default"]["HOST"]
    try:
        with pytest.raises(CommandError, match=r"another machine \(db.example\)"):
            call_command("prepare", "--demo")
    finally:
        settings.DATABASES["default"]["HOST"] = kept
    settings.DEMO_LOGIN = None
    with pytest.raises(CommandError, match="demo's settings only"):
        call_command("prepare", "--demo")
    assert not get_user_model().objects.exists()


def test_static_files_are_collected_anew_for_another_storage(settings, tmp_path):
    """A server that names files by their content finds no page's if they were collected plain, as for the tests."""
    settings.STATIC_ROOT = tmp_path / "static"
    for backend, listed in (
        ("django.contrib.staticfiles.storage.StaticFilesStorage", False),
        ("whitenoise.storage.CompressedManifestStaticFilesStorage", True),
    ):
        settings.STORAGES = {**settings.STORAGES, "staticfiles": {"BACKEND": backend}}
        for _ in range(2):
            prepare._collect_static()
            assert (settings.STATIC_ROOT / "staticfiles.json").exists() == listed
            assert (settings.STATIC_ROOT / "mark.svg").exists()


# ---- where a request comes from, and how often it may try ------------------------------------------------------------------


@pytest.mark.parametrize(
    ("near", "told_of", "trusted", "found"),
    [
        ("10.0.0.9", "", [], "10.0.0.9"),
        ("10.0.0.9", "1.2.3.4", [], "10.0.0.9"),  # nobody said that it is a proxy
        ("10.0.0.1", "1.2.3.4", ["10.0.0.1"], "1.2.3.4"),
        (
            "10.0.0.1",
            "6.6.6.6, 1.2.3.4",
            ["10.0.0.1"],
            "1.2.3.4",
        ),  # what the stranger put in front is not believed
        ("10.0.0.1", "1.2.3.4, 10.0.0.2", ["10.0.0.1", "10.0.0.2"], "1.2.3.4"),
        ("10.0.0.1", "not an address", ["10.0.0.1"], "10.0.0.1"),
        ("", "1.2.3.4", ["10.0.0.1"], "0.0.0.0"),
        ("10.0.0.7", "1.2.3.4", ["10.0.0.0/24"], "1.2.3.4"),
        ("10.0.1.7", "1.2.3.4", ["10.0.0.0/24"], "10.0.1.7"),
        ("2001:db8::1", "1.2.3.4", ["2001:0db8:0000::0001"], "1.2.3.4"),  # one address, spelt two ways
    ],
)
def test_only_a_trusted_proxy_is_believed(near, told_of, trusted, found, settings):
    settings.TRUSTED_PROXIES = trusted
    request = RequestFactory().get("/", REMOTE_ADDR=near, HTTP_X_FORWARDED_FOR=told_of)
    assert address_of(request) == found


def test_a_stranger_elsewhere_locks_nobody_out(bay, client):
    for _ in range(9):
        client.post(
            "/log-in/", {"username": bay.user.username, "password": "wrong"}, REMOTE_ADDR="203.0.113.5"
        )
    locked = client.post(
        "/log-in/",
        {"username": bay.user.username, "password": "long enough words"},
        REMOTE_ADDR="203.0.113.5",
    )
    assert locked.status_code == 429
    mine = client.post(
        "/log-in/",
        {"username": bay.user.username, "password": "long enough words"},
        REMOTE_ADDR="198.51.100.7",
    )
    assert mine.status_code == 302


def test_one_password_over_many_names_is_noticed_and_slowed(bay, client, settings, caplog):
    def tried(name, password="autumn2026"):
        data = {"username": name, "password": password}
        return client.post("/log-in/", data, REMOTE_ADDR="203.0.113.5").status_code

    codes = [tried(f"name {i}") for i in range(settings.LOGIN_NAMES_MOST + 3)]
    assert codes == [200] * settings.LOGIN_NAMES_MOST + [429] * 3
    assert tried(bay.user.username, "long enough words") == 429
    from axes.models import AccessAttempt

    past = timezone.now() - datetime.timedelta(seconds=settings.LOGIN_PAUSE_S + 1)
    AccessAttempt.objects.update(attempt_time=past)
    assert tried(bay.user.username, "long enough words") == 302  # slow, not closed
    assert "many names" in caplog.text or "names" in caplog.text
    assert "name 1" not in caplog.text


def test_a_reader_is_told_on_every_page_of_a_job(bay):
    assert "data-reads" not in bay.get("feeds/").content.decode()
    Membership.objects.filter(pk=bay.member.pk).update(role="reader")
    page = bay.get("feeds/").content.decode()
    assert "data-reads" in page
    assert "not change anything" in page
