"""Round the steps: days and hours, ways, own steps and changed ones, tools and parts, the quote, photographs, the calendar."""

from __future__ import annotations

import datetime
import io
import zoneinfo
from dataclasses import replace

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from icalendar import Calendar
from PIL import Image

from metrolex.handover import rechecks_of
from metrolex.job import Job, Worked
from metrolex.limits import limit
from metrolex.twin import build
from metrolex.workorder.plan import plan_of_work
from tests.jobs import a_vehicle, shipped
from workbench.jobs.door import create_job, import_job
from workbench.printing import papers
from workbench.printing.models import Printed
from workbench.work.demo import worked_into_day_two
from workbench.work.models import StepPhoto
from workbench.work.page import moment_now

#: A Monday that is still to come, whatever day it is.
_TODAY = datetime.date.today()
FIRST_DAY = _TODAY + datetime.timedelta(days=28 - _TODAY.weekday())
HOURS = {
    "first_day": FIRST_DAY.isoformat(),
    "begins": "07:30",
    "ends": "16:00",
    "pause_min": "30",
    "closed": ["4", "5", "6"],
    "helper": "on",
    "margin": "10",
}
OWN = {
    "step": "",
    "name": "Radiator hose changed",
    "minutes": "20",
    "wait_minutes": "",
    "hands": "1",
    "place": "bay",
    "states": ["drained coolant"],
    "after": ["open coolant"],
    "before": ["refill coolant"],
    "tools": "clamp pliers",
    "goods": "hose\nclamps",
    "caution": "",
}


def test_the_hours_are_kept_and_the_days_follow(bay, text):
    assert bay.post("work/hours/", **HOURS).status_code == 302
    hours = bay.job.work_hours
    assert (hours.begins, hours.ends, hours.closed, hours.margin) == ("07:30", "16:00", (4, 5, 6), 10.0)
    page = text(bay.get("work/days/"))
    assert f"{FIRST_DAY:%A}, {FIRST_DAY.day} {FIRST_DAY:%B}" in page
    assert "Not to be driven" in page
    assert "Friday," not in page.replace("Friday</label>", "")


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"ends": "06:00"}, "an hour at least"),
        ({"begins": "dawn"}, "time of day"),
        ({"closed": [str(day) for day in range(7)]}, "must be open"),
        ({"pause_min": "-5"}, "0"),
        ({"first_day": "soon"}, "valid date"),
    ],
)
def test_hours_nobody_works_are_told_and_stay_typed(typed, words, bay, text):
    answer = bay.post("work/hours/", **(HOURS | typed))
    assert answer.status_code == 422
    assert words in text(answer)
    assert f'value="{FIRST_DAY}"' in text(answer) or "first_day" in typed
    assert bay.job.work_hours.begins == "08:00"


def test_another_way_is_chosen_and_compared(bay, text):
    assert bay.post("work/school/", school="loom", way="bench").status_code == 302
    assert bay.job.work_hours.schools == ("loom=bench",)
    page = text(bay.get("work/compare/"))
    assert "on the bench, by the planned lengths" in page
    assert page.count("as chosen") == 4  # the lead, and one of each school
    bay.post("work/school/", school="loom", way="nowhere")
    assert bay.job.work_hours.schools == ("loom=bench",)


def test_an_own_step_is_added_changed_kept_for_others_and_taken_out(bay, text):
    assert bay.post("work/steps/own/", **OWN).status_code == 302
    (own,) = bay.job.own_steps
    assert (own.after, own.before, own.goods) == (("open coolant",), ("refill coolant",), ("hose", "clamps"))
    assert "Radiator hose changed" in text(bay.get("work/"))
    assert "Clamps" in text(bay.get("work/goods/"))
    bay.post("work/steps/own/", **(OWN | {"step": own.id, "minutes": "35 min"}))
    assert bay.job.own_steps[0].minutes == 35.0
    bay.post("work/steps/keep/", step=own.id)
    bay.post("work/steps/out/", step=own.id)
    assert bay.job.own_steps == ()
    assert "from the library" in text(bay.get("work/steps/"))
    bay.post("work/steps/take/", name="Radiator hose changed")
    assert (bay.job.own_steps[0].minutes, bay.job.own_steps[0].after) == (35.0, ())
    bay.post("work/steps/take/", name="Radiator hose changed", do="forget")
    assert "from the library" not in text(bay.get("work/steps/"))


def test_a_circle_is_told_at_the_form_with_what_was_typed(bay, text):
    answer = bay.post("work/steps/own/", **(OWN | {"after": ["refill coolant"], "before": ["open coolant"]}))
    assert answer.status_code == 422
    assert "wait for one another" in text(answer)
    assert 'value="Radiator hose changed"' in text(answer)
    assert bay.job.own_steps == ()


def test_a_step_of_the_job_is_changed_and_split(bay, text):
    page = text(bay.get("work/steps/?step=join%20gauge%201"))
    assert "Joints and terminals of Gearbox oil gauge" in page
    change = {
        "step": "join gauge 1",
        "minutes": "50",
        "wait_minutes": "",
        "hands": "2",
        "first_minutes": "20",
    }
    assert bay.post("work/steps/change/", **change, first="Four wires", second="").status_code == 302
    sheet = text(bay.get("work/"))
    assert "Four wires" in sheet
    assert "6 wires: the rest" in sheet
    answer = bay.post("work/steps/change/", **(change | {"first_minutes": "90"}), first="", second="")
    assert answer.status_code == 422
    assert "must leave something" in text(answer)
    assert bay.post("work/steps/change/", step="join gauge 1").status_code == 302
    assert bay.job.altered_steps == ()


def test_what_is_offered_joins_the_teardown(bay, text):
    bay.post("work/steps/also/", name="Thermostat and its seal changed")
    assert bay.job.own_steps[0].states == ("drained coolant",)
    bay.post("work/steps/also/", name="Gold plating")
    assert len(bay.job.own_steps) == 1


def test_a_tool_at_hand(bay, text):
    page = text(bay.get("work/goods/"))
    assert "Not at hand: drill" not in page
    bay.post("work/goods/have/", name="drill", have="yes")
    assert "Not at hand: drill" in text(bay.get("work/goods/"))
    bay.post("work/goods/have/", name="drill", have="no")
    assert bay.job.kit == shipped("van").kit


def test_the_quote_learns_from_other_jobs_of_this_workshop_alone(bay, other_bay, text):
    assert "turned by what this workshop took" not in text(bay.get("work/quote/"))
    for member, minutes in ((bay.member, 40.0), (other_bay.member, 99.0)):
        job = shipped("sidecar")
        notes = tuple(Worked(f"K{i}", f"lay {i}", "done", minutes=minutes, usual=20.0) for i in range(3))
        import_job(member, replace(job, work=notes))
    page = text(bay.get("work/quote/"))
    assert "laying leads × 2" in page
    assert "4.95" not in page


def test_planned_and_really_stand_beside_one_another(bay, text):
    bay.post("work/noted/", step="find_feeds feeds", found="55")
    page = text(bay.get("work/quote/"))
    assert "Planned and really" in page
    assert ">55<" in page


def test_start_pause_and_done_from_the_step_at_hand(bay, text):
    data = {"step": "find_feeds feeds", "where": "now"}
    answer = bay.post("work/noted/", htmx=True, **data, found="start")
    assert "begun" in text(answer)
    assert "Begun" in text(bay.get("work/sheet/"))
    bay.post("work/noted/", htmx=True, **data, found="pause")
    assert "Go on" in text(bay.get("work/sheet/"))
    answer = bay.post("work/noted/", htmx=True, **data, found="could not")
    assert 'id="wrong-now"' in text(answer)
    assert "Say why" in text(answer)


def test_a_note_kept_on_a_telephone_is_as_old_as_it_says_within_reason(bay):
    def ended():
        return datetime.datetime.fromisoformat(bay.job.work[0].ended)

    now = moment_now(None)
    ago = now - datetime.timedelta(hours=3)
    bay.post("work/noted/", step="find_feeds feeds", found="done", at=ago.isoformat())
    assert ended() == ago
    abroad = ago.astimezone(zoneinfo.ZoneInfo("Pacific/Kiritimati"))
    bay.post("work/noted/", step="find_feeds feeds", found="")
    bay.post("work/noted/", step="find_feeds feeds", found="done", at=abroad.isoformat())
    assert ended() == ago  # the same instant, wherever the telephone is
    years = datetime.timedelta(days=30 * 365)
    for said in ((now - years).isoformat(), (now + years).isoformat(), "soon", f"{ago:%Y-%m-%dT%H:%M}"):
        bay.post("work/noted/", step="find_feeds feeds", found="")
        bay.post("work/noted/", step="find_feeds feeds", found="done", at=said)
        assert abs(moment_now(None) - ended()) <= datetime.timedelta(minutes=2)


@pytest.mark.parametrize(("off", "words"), [(60, "1 h 00 min fast"), (-143, "2 h 23 min slow"), (0, "")])
def test_a_telephone_whose_clock_is_wrong_is_put_right_and_told(off, words, bay, text):
    now = datetime.datetime.now(datetime.UTC)
    ago, wrong = now - datetime.timedelta(minutes=30), datetime.timedelta(minutes=off)
    sent = {"at": (ago + wrong).isoformat(), "clock": (now + wrong).isoformat()}
    answer = bay.post("work/noted/", htmx=True, step="find_feeds feeds", found="done", **sent)
    ended = datetime.datetime.fromisoformat(bay.job.work[0].ended)
    assert abs(ended - ago) <= datetime.timedelta(minutes=1)
    assert words in text(answer)
    assert ("put right" in text(answer)) == bool(off)


def test_a_late_note_is_not_laid_over_a_newer_one(bay, text):
    """Two telephones of one log-in: the start of two hours ago comes after the done of one hour ago."""
    step, now = "find_feeds feeds", moment_now(None)
    two, one = (now - datetime.timedelta(hours=hours) for hours in (2, 1))
    bay.post("work/noted/", step=step, found="done", at=one.isoformat())
    answer = bay.post("work/noted/", htmx=True, step=step, found="start", at=two.isoformat())
    assert "noted at" in text(answer)
    assert bay.job.work[0].state == "done"
    bay.post("work/noted/", htmx=True, step=step, found="start", at=two.isoformat(), over="1")
    assert bay.job.work[0].state == "begun"


@pytest.mark.parametrize("late", ["could not: seized", "pause", "", "start", "31"])
def test_a_page_that_had_not_seen_it_done_does_not_undo_it(late, bay, text):
    """One person on two pages: the older one knows nothing of the minutes and the note."""
    step, old = "find_feeds feeds", str(bay.version)
    bay.post("work/noted/", htmx=True, step=step, found="25: joint cleaned", seen=old)
    answer = bay.post("work/noted/", htmx=True, step=step, found=late, seen=old)
    assert "You (" in text(answer) or "start it first" in text(answer)
    work = bay.job.work[0]
    assert (work.state, work.minutes, work.note) == ("done", 25.0, "joint cleaned")


def test_a_pause_of_what_nobody_is_at_is_told(bay, text):
    answer = bay.post("work/noted/", htmx=True, step="find_feeds feeds", found="pause")
    assert "start it first" in text(answer)
    assert not bay.job.work


def test_moments_are_kept_as_instants_and_shown_in_the_zone_of_who_looks(bay, text):
    bay.workshop.zone = "America/St_Johns"
    bay.workshop.save()
    now = datetime.datetime.now(datetime.UTC)
    bay.post("work/noted/", htmx=True, step="find_feeds feeds", found="start")
    begun = bay.job.work[0].begun
    there = now.astimezone(zoneinfo.ZoneInfo("America/St_Johns"))
    assert abs(datetime.datetime.fromisoformat(begun) - now) < datetime.timedelta(minutes=2)
    assert begun[-6:] == f"{there:%z}"[:3] + ":" + f"{there:%z}"[3:]
    bay.client.cookies["zone"] = "Pacific/Kiritimati"
    shown = datetime.datetime.fromisoformat(begun).astimezone(zoneinfo.ZoneInfo("Pacific/Kiritimati"))
    assert f"Begun {shown:%H:%M}" in text(bay.get("work/"))
    bay.client.cookies["zone"] = "../../etc/passwd"
    assert f"Begun {there:%H:%M}" in text(bay.get("work/")).replace(f"{there:%H}:{there.minute + 1:02d}", "x")


def test_the_first_job_asks_for_the_zone_of_the_browser(bay, text):
    bay.client.cookies["zone"] = "America/St_Johns"
    page = bay.client.get("/jobs/new/").content.decode()
    assert '<option value="America/St_Johns" selected>' in page
    asked = {"name": "One", "vehicle": "Sidecar outfit", "zone": "America/St_Johns"}
    assert bay.client.post("/jobs/new/", asked).status_code == 302
    bay.workshop.refresh_from_db()
    assert bay.workshop.zone == "America/St_Johns"
    assert "Time zone" not in text(bay.client.get("/jobs/new/"))
    bay.post("work/zone/", zone="Pacific/Kiritimati")
    bay.workshop.refresh_from_db()
    assert bay.workshop.zone == "Pacific/Kiritimati"
    bay.post("work/zone/", zone="Nowhere/Land")
    bay.workshop.refresh_from_db()
    assert bay.workshop.zone == "Pacific/Kiritimati"


def test_what_cannot_be_done_says_what_can_and_what_is_lost(bay, text):
    bay.post("work/noted/", step="fit coolant", found="could not until tomorrow: the bung comes")
    page = text(bay.get("work/"))
    assert "can be done now" in page
    assert "the bung comes" in page
    assert "until tomorrow" not in text(bay.get("work/days/"))


def photo(kind="JPEG", size=(3000, 2000)):
    out = io.BytesIO()
    Image.new("RGB", size, (90, 120, 60)).save(out, kind, exif=_exif() if kind == "JPEG" else b"")
    return SimpleUploadedFile("step.jpg", out.getvalue(), content_type="image/jpeg")


def _exif():
    found = Image.Exif()
    found[0x010E] = "where it was taken"
    return found.tobytes()


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_a_photograph_is_kept_small_and_without_what_the_camera_wrote(kind, bay, other_bay):
    path = bay.path("work/photo/")
    answer = bay.client.post(path, {"step": "find_feeds feeds", "photo": photo(kind)})
    assert answer.status_code == 302
    (kept,) = StepPhoto.objects.filter(job=bay.record)
    shown = bay.get(f"work/photo/{kept.pk}.jpg")
    assert shown["Content-Type"] == "image/jpeg"
    with Image.open(io.BytesIO(shown.content)) as found:
        assert max(found.size) == 1600
        assert not found.getexif()
    shown_at = f'src="{bay.path(f"work/photo/{kept.pk}.jpg")}"'
    assert bay.get("work/").content.decode().count(shown_at) == 1
    bay.post("work/noted/", step="find_feeds feeds", found="done")  # at its step still, once that is done
    assert bay.get("work/").content.decode().count(shown_at) == 1
    assert other_bay.client.get(bay.path(f"work/photo/{kept.pk}.jpg")).status_code == 404
    other_bay.client.post(bay.path("work/photo/out/"), {"photo": kept.pk})
    assert StepPhoto.objects.count() == 1
    bay.post("work/photo/out/", photo=str(kept.pk))
    assert StepPhoto.objects.count() == 0


@pytest.mark.parametrize(
    "sent",
    [b"", b"not a picture", b"\xff\xd8\xff" + b"\0" * 2000, b"\x89PNG\r\n\x1a\n" + b"\0" * 64],
)
def test_what_is_no_photograph_is_refused_in_words(sent, bay, text):
    file = SimpleUploadedFile("x.jpg", sent, content_type="image/jpeg")
    answer = bay.client.post(
        bay.path("work/photo/"), {"step": "find_feeds feeds", "photo": file}, follow=True
    )
    assert answer.status_code == 200
    assert "photograph" in text(answer)
    assert not StepPhoto.objects.exists()


def test_a_picture_of_too_many_dots_is_refused_before_it_is_unpacked(bay, text):
    side = int(limit("photo", "pixels") ** 0.5) + 500
    out = io.BytesIO()
    Image.new("1", (side, side)).save(out, "PNG")
    file = SimpleUploadedFile("x.png", out.getvalue(), content_type="image/png")
    answer = bay.client.post(
        bay.path("work/photo/"), {"step": "find_feeds feeds", "photo": file}, follow=True
    )
    assert "no photograph that can be read" in text(answer)


def test_a_photograph_of_no_step_is_refused(bay, text):
    answer = bay.client.post(bay.path("work/photo/"), {"step": "own S9", "photo": photo()}, follow=True)
    assert "not there any more" in text(answer)
    assert "Choose or take" in text(bay.client.post(bay.path("work/photo/"), {"step": "x"}, follow=True))


def test_the_calendar_has_the_days_what_rests_and_the_rechecks(bay):
    found = Calendar.from_ical(bay.get("work/work.ics").content)
    days = [event for event in found.walk("VEVENT") if str(event["summary"]).endswith(": gauges")]
    assert len(days) >= 2
    summaries = " ".join(str(event["summary"]) for event in found.walk("VEVENT"))
    assert rechecks_of(bay.job)
    assert all(one.name.lower() in summaries for one in rechecks_of(bay.job))
    glued = next(one for one in plan_of_work(build(bay.job)).planned if one.step.wait_minutes)
    bay.post("work/noted/", step=glued.key, found="done")
    again = Calendar.from_ical(bay.get("work/work.ics").content)
    assert any("rested long enough" in str(event["summary"]) for event in again.walk("VEVENT"))


@pytest.mark.queue
@pytest.mark.parametrize("size", ["", "letter", "poster"])
def test_papers_of_the_work_are_asked_for(size, bay):
    for name in ("sheet", "tools", "quote"):
        assert bay.get(f"work/{name}.pdf?size={size}").status_code == 202
    for asked in Printed.objects.filter(record=bay.record):
        assert "<h" in papers.PAPERS[asked.paper].html(bay.record, bay.job, **asked.about)


def test_the_demo_van_is_in_its_second_day(bay, text):
    job = worked_into_day_two(shipped("van"), moment_now(None))
    bay.record = import_job(bay.member, job)
    page = text(bay.get("work/"))
    assert "Begun" in page
    assert "could not" in page
    assert "can be done now" in page


def test_a_job_with_nothing_planned_has_all_its_rooms(bay):
    bay.record = create_job(bay.member, Job("Empty", a_vehicle()), [])
    for room in ("", "days/", "steps/", "goods/", "quote/", "compare/", "work.ics", "steps.csv"):
        assert bay.get(f"work/{room}").status_code == 200
