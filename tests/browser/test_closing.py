"""Proving phase by phase and the handing over, by a hand on the page."""

from __future__ import annotations

from playwright.sync_api import expect

from workbench.handover.models import Handed


def test_a_check_is_tapped_or_typed(bench):
    page = bench.go("proving/plan/?phase=battery_off")
    rows = page.locator(".checks tbody tr")
    first = rows.first
    first.get_by_role("button", name="ok", exact=True).click()
    expect(first.locator(".verdict")).to_contain_text("good")
    expect(first.locator("[data-cell]")).to_have_value("ok")
    second = rows.nth(1).locator("[data-cell]")
    second.fill("not done: box sealed")
    second.press("Enter")
    expect(rows.nth(1).locator(".verdict")).to_contain_text("box sealed")
    expect(rows.nth(2).locator("[data-cell]")).to_be_focused()
    rows.nth(2).locator("[data-cell]").fill("4,7")
    rows.nth(2).locator("[data-cell]").press("Enter")
    expect(rows.nth(2).locator(".verdict a")).to_contain_text("find the cause")
    expect(page.locator("#counts [aria-current]")).to_contain_text("1 off")
    rows.nth(3).locator("[data-cell]").fill("perhaps")
    rows.nth(3).locator("[data-cell]").press("Enter")
    expect(rows.nth(3).locator(".error")).to_contain_text("not done: why")
    page.reload()
    expect(rows.nth(1).locator("[data-cell]")).to_have_value("not done: box sealed")


def test_it_is_handed_over_and_changed_later(bench):
    bench.tap_a_fuel_pump()
    page = bench.go("handover/")
    page.get_by_label("Handed to").fill("Station two")
    page.get_by_role("button", name="Hand it over").click()
    expect(page.locator(".field .error")).to_contain_text("bars the handing over")
    bench.complaints.clear()  # the refused form itself
    page.get_by_label("Why it is handed over all the same").fill("The pump's feed moves at the next visit")
    page.get_by_role("button", name="Hand it over").click()
    expect(page.locator(".handed h3")).to_contain_text("Version 1")
    assert Handed.objects.count() == 1
    page.get_by_role("link", name="Changed later").click()
    page.get_by_label("New tyres").fill("215/65R16")
    page.get_by_role("button", name="Write it down").first.click()
    expect(page.locator(".later-page h2")).to_contain_text("215/65R16")
    page.get_by_role("link", name="Handover").first.click()
    expect(page.locator(".handed summary")).to_contain_text("changed since")


def test_a_part_that_does_not_come_is_said_to_be_missing(bench):
    page = bench.page
    page.route("**/handover/book/", lambda route: route.fulfill(status=503, body="busy"))
    page.goto(bench.base + f"/jobs/{bench.job}/handover/")
    expect(page.locator("#line-state")).to_have_text("Part of this page is missing (503). Load it again.")
    page.unroute("**/handover/book/")
    page.get_by_role("link", name="by itself").click()
    expect(page.locator(".book h3").first).to_be_visible()
    bench.complaints.clear()  # the refused part itself
