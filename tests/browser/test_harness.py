"""Runs dragged on the plan, the diagram at the key switch, the panel by keyboard."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from metrolex.harness.runs import plan_run
from metrolex.layout.routes import laid
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of


def middle(locator):
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_a_run_is_dragged_through_a_zone_and_length_and_cut_list_follow(bench):
    page = bench.go("harness/plan/?run=feed+run")
    figure = page.locator("#build-up .figure").first
    expect(figure).to_have_text("1.41")
    grip = page.locator("[data-run] circle").first
    zone = page.locator('[data-zone="dash centre"] rect')
    page.mouse.move(*middle(grip))
    page.mouse.down()
    page.mouse.move(*middle(zone), steps=5)
    expect(page.locator('[data-zone="dash centre"].under')).to_have_count(1)
    page.mouse.up()
    expect(page.get_by_role("button", name="No longer through Dash, centre")).to_be_visible()
    job = job_of(JobRecord.objects.get(pk=bench.job))
    length = plan_run(laid(job, job.run("feed run"))).length_m
    expect(figure).to_have_text(f"{length:.2f}")
    assert length > 2.3
    page.get_by_role("link", name="Runs and cuts").click()
    expect(page.locator("#wires tr", has_text="T2 at F22")).to_contain_text(f"{length:.2f} m")

    page.go_back()
    page.locator('[data-zone="dash centre"]').focus()
    page.keyboard.press("ArrowUp")
    expect(page.locator('[data-zone="dash right"]')).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="No longer through Dash, right")).to_be_visible()
    right = page.get_by_role("button", name="No longer through Dash, right")
    right.click()
    expect(right).to_have_count(0)
    assert job_of(JobRecord.objects.get(pk=bench.job)).run("feed run").via == ("dash centre",)
    bench.wait_for_answers()  # the chips are put in anew with each answer
    page.get_by_role("button", name="No longer through Dash, centre").click()
    expect(figure).to_have_text("1.41")


def test_the_diagram_while_cranking_shows_the_lamp_feed_dead(bench):
    page = bench.go("harness/diagram/")
    bench.turn("lamps", "park")
    lamp = page.locator("svg.wiring a", has_text="F14")
    expect(lamp.locator(".slip")).to_have_count(1)
    bench.turn("lamps", "off")
    bench.turn("key", "crank")
    expect(page.locator("svg.wiring")).to_contain_text("key crank")
    expect(lamp.locator(".slip-dead")).to_have_count(1)
    expect(page.locator("svg.wiring a", has_text="F22")).to_contain_text(re.compile(r"(9|10|11)\.\d"))
    lamp.click()
    expect(page.get_by_role("heading", name="tap T3 output")).to_be_visible()
    expect(page.locator("#node")).to_contain_text("On it now")


def test_the_panel_is_walked_by_the_arrows(bench):
    page = bench.go("feeds/")
    page.locator(".panel a", has_text="F9").first.focus()
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowDown")
    expect(page.locator(".panel a:focus")).to_contain_text("F25")
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("#slot-F25$"))


def test_a_wire_is_changed_in_the_form_it_opens(bench):
    page = bench.go("harness/")
    row = page.locator("#wires tr", has_text="W2 ").first
    row.get_by_text("Change").click()
    form = page.locator("#wires tr.opened:visible")
    expect(form.get_by_label("Size")).to_be_visible()
    form.get_by_label("Size").select_option("1.5")
    form.get_by_role("button", name="Save").click()
    expect(page.locator("#wires tr", has_text="W2 ").first).to_contain_text("1.5")
    assert next(w.size for w in job_of(JobRecord.objects.get(pk=bench.job)).conductors if w.id == "W2") == 1.5
    assert not bench.complaints
