"""The work order at the vehicle: ticked with one hand, out of range of the network, with clocks that run."""

from __future__ import annotations

import re

from django.contrib.auth import get_user_model
from playwright.sync_api import expect

from metrolex.acts.work import note_step
from workbench.accounts.models import Membership
from workbench.jobs.cache import JOBS
from workbench.jobs.door import change
from workbench.jobs.models import JobRecord
from workbench.work.page import moment_now


def job_of(bench):
    return JOBS.job_of(JobRecord.objects.get(pk=bench.job))


def noted(bench, step):
    return next((one for one in job_of(bench).work if one.step == step), None)


def test_the_step_at_hand_is_begun_paused_and_done(bench):
    bench.at("sidecar")
    page = bench.go("work/")
    now = page.locator(".now-step")
    name = now.locator(".do-this").text_content()
    now.get_by_role("button", name="Start").click()
    expect(now.locator("h2")).to_contain_text("Begun")
    now.get_by_role("button", name="Pause").click()
    expect(now.get_by_role("button", name="Go on")).to_be_visible()
    now.get_by_label("How it went").fill("could not")
    now.get_by_role("button", name="Note it").click()
    expect(page.locator("#wrong-now")).to_contain_text("Say why")
    now.get_by_role("button", name="Done").click()
    expect(now.locator(".do-this")).not_to_have_text(name)
    expect(page.locator(".steps-list .verdict").first).to_contain_text("done")


def test_what_is_ticked_without_a_network_is_kept_and_sent(bench):
    bench.at("sidecar")
    page = bench.go("work/")
    now = page.locator(".now-step")
    step = now.locator("input[name=step]").first.input_value()
    page.context.set_offline(True)
    now.get_by_role("button", name="Done").click()
    kept = page.locator(".kept-here")
    expect(kept).to_contain_text("Kept here until there is a network")
    assert noted(bench, step) is None
    page.context.set_offline(False)
    expect(kept).to_be_hidden()
    bench.wait_for_answers()
    assert noted(bench, step).state == "done"
    expect(page.locator(".steps-list .verdict").first).to_contain_text("done")
    bench.complaints.clear()  # what could not be loaded while there was no network


def test_what_another_noted_meanwhile_is_shown_and_ones_own_not_lost(bench):
    bench.at("sidecar")
    page = bench.go("work/")
    now = page.locator(".now-step")
    step = now.locator("input[name=step]").first.input_value()
    page.context.set_offline(True)
    now.get_by_label("How it went").fill("could not: seized")
    now.get_by_role("button", name="Note it").click()
    kept = page.locator(".kept-here")
    expect(kept).to_contain_text("could not: seized")
    record = JobRecord.objects.get(pk=bench.job)
    user = get_user_model().objects.create_user("ana", password="long enough words", first_name="Ana")
    ana = Membership.objects.create(user=user, workshop=record.workshop, role=Membership.Role.FITTER)
    change(record, lambda job: note_step(job, step, "31", moment_now(None)), by=ana)
    page.context.set_offline(False)
    expect(kept).to_contain_text("Ana")
    expect(kept).to_contain_text("could not: seized")
    assert noted(bench, step).minutes == 31.0
    kept.get_by_role("button", name="Send mine all the same").click()
    expect(kept).to_be_hidden()
    bench.wait_for_answers()
    assert noted(bench, step).state == "could not"
    bench.complaints.clear()


def test_a_clock_of_what_rests_runs_while_the_page_stays(bench):
    page = bench.go("work/days/")
    expect(page.get_by_role("heading", name="Hours of work")).to_be_visible()
    page = bench.go("work/")
    row = page.locator(".steps-list tr", has_text=re.compile("to rest")).first
    cell = row.locator("[data-cell]")
    cell.fill("")
    cell.press("Enter")
    expect(row.locator(".verdict")).not_to_contain_text("done")
    cell.fill("20")
    cell.press("Enter")
    expect(row.locator(".verdict")).to_contain_text("rests until")
    expect(page.locator(".resting [data-until]")).to_have_text(re.compile(r"\d+ min"))


def test_days_own_steps_and_tools_by_hand(bench):
    page = bench.go("work/steps/")
    page.get_by_text("+ A step of your own").click()
    page.get_by_label("What is done").fill("Radiator hose changed")
    page.locator("#own").get_by_label("Minutes").fill("20")
    page.get_by_role("button", name="Add it").click()
    expect(page.get_by_role("link", name="Radiator hose changed")).to_be_visible()
    page.get_by_role("link", name="Tools and parts").click()
    page.get_by_role("button", name="At hand: trim tools", exact=True).click()
    expect(page.get_by_role("button", name="Not at hand: trim tools", exact=True)).to_be_visible()
    page.get_by_role("link", name="Days and ways").click()
    page.get_by_role("button", name=re.compile("On the bench")).click()
    expect(page.get_by_role("button", name=re.compile("On the bench"))).to_have_attribute(
        "aria-pressed", "true"
    )


def test_a_note_written_while_its_step_is_done_stays_with_that_step(bench):
    bench.at("sidecar")
    page = bench.go("work/")
    now = page.locator(".now-step")
    step = now.locator("input[name=step]").first.input_value()
    name = now.locator(".do-this").text_content()
    now.get_by_label("How it went").fill("could not: seized")
    now.get_by_role("button", name="Done").click()
    expect(now.locator(".do-this")).not_to_have_text(name)
    left = page.locator(".note-left")
    expect(left).to_contain_text(name)
    left.get_by_role("button", name="Note it").click()
    expect(left.locator(".error")).to_contain_text("You (")  # it was typed before Done was known
    following = now.locator("input[name=step]").first.input_value()
    assert noted(bench, step).state == "done"
    assert noted(bench, following) is None
    left.get_by_role("button", name="Note it").click()
    expect(left).to_have_count(0)
    bench.wait_for_answers()
    assert noted(bench, step).why == "seized"


def test_a_start_and_a_done_without_a_network_are_two_notes(bench):
    bench.at("sidecar")
    page = bench.go("work/")
    now = page.locator(".now-step")
    step = now.locator("input[name=step]").first.input_value()
    page.context.set_offline(True)
    now.get_by_role("button", name="Start").click()
    expect(page.locator(".kept-here li")).to_have_count(1)
    now.get_by_role("button", name="Done").click()
    expect(page.locator(".kept-here li")).to_have_count(2)
    page.context.set_offline(False)
    expect(page.locator(".kept-here")).to_be_hidden()
    bench.wait_for_answers()
    done = noted(bench, step)
    assert (done.state, done.minutes) == ("done", 0.0)  # begun, and done in the same minute
    bench.complaints.clear()
