"""A slow line and a quick hand: what was typed into a sheet is kept whatever is pressed next."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from metrolex.job import State
from metrolex.twin import build
from metrolex.twin.expectations import points_at
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of


@pytest.fixture
def slow(bench):
    """Every answer half a second late."""
    line = bench.page.context.new_cdp_session(bench.page)
    line.send("Network.enable")
    line.send(
        "Network.emulateNetworkConditions",
        {"offline": False, "latency": 500, "downloadThroughput": -1, "uploadThroughput": -1},
    )
    return bench


def stored(bench):
    return job_of(JobRecord.objects.get(pk=bench.job))


def typed(page, labels: list[str], figures: list[str]) -> None:
    for label, figure in zip(labels, figures, strict=True):
        cell = page.get_by_label(label, exact=True)
        cell.fill(figure)
        cell.press("Enter")


def test_the_key_turned_before_the_sheet_was_answered(slow):
    page = slow.go("proving/")
    key = page.locator("#switch-state").get_attribute("data-key")
    state = State(
        key,
        page.locator("#switch-state").get_attribute("data-lamps"),
        page.locator("#switch-state").get_attribute("data-engine"),
    )
    names = [p.name for p in points_at(build(stored(slow)), state) if p.unit == "V"][:3]
    before = len(stored(slow).observations)
    typed(page, [f"Seen: {name}" for name in names], ["11.91", "11.92", "11.93"])
    other = "off" if key != "off" else "run"
    page.locator(f"#key-switch button[name=key][value={other}]").click()
    expect(page.locator("#switch-state")).to_have_attribute("data-key", other)
    slow.wait_for_answers()
    seen = {o.value: o.state.key for o in stored(slow).observations}
    assert [seen.get(volts) for volts in (11.91, 11.92, 11.93)] == [key] * 3
    assert len(stored(slow).observations) >= before
    assert not page.locator("#live").evaluate("el => el.inert")


def test_a_link_pressed_before_the_sheet_was_answered(slow):
    page = slow.go("feeds/")
    typed(page, ["F31 off", "F31 acc", "F31 run"], ["0.11", "0.12", "11.13"])
    page.get_by_role("link", name="Grounds", exact=True).click()
    expect(page.get_by_role("heading", name="Star or chain")).to_be_visible()
    readings = stored(slow).circuit("F31").readings
    assert (readings.off, readings.acc, readings.run) == (0.11, 0.12, 11.13)


def test_a_button_pressed_before_the_sheet_was_answered(slow):
    page = slow.go("feeds/")
    typed(page, ["F31 off", "F31 acc"], ["0.21", "0.22"])
    page.get_by_label("One more column").fill("after 20 min")
    page.get_by_role("button", name="Add the column").click()
    expect(page.get_by_label("F31 after 20 min", exact=True)).to_be_visible()
    readings = stored(slow).circuit("F31").readings
    assert (readings.off, readings.acc) == (0.21, 0.22)


def test_a_figure_that_is_refused_keeps_the_page(slow):
    page = slow.go("feeds/")
    typed(page, ["F31 head", "F31 acc", "F31 off"], ["0.31", "0.32", "900 V"])
    page.get_by_role("link", name="Grounds", exact=True).click()
    expect(page.locator("#wrong-F31-off")).to_contain_text("Expected volts from -60 to 60")
    expect(page.get_by_label("F31 off", exact=True)).to_be_focused()
    expect(page.get_by_label("F31 off", exact=True)).to_have_value("900 V")
    slow.wait_for_answers()
    assert stored(slow).circuit("F31").readings.acc == 0.32  # what was typed before it is kept
    page.get_by_role("link", name="Grounds", exact=True).click()
    expect(page.get_by_role("heading", name="Star or chain")).to_be_visible()


def test_a_row_begun_and_not_added_holds_nothing_up(slow):
    page = slow.go("feeds/")
    page.get_by_label("Name of the slot").fill("Trailer, left")
    page.get_by_label("Fuse in ampere", exact=True).fill("10")
    expect(page.locator("form[data-due]")).to_have_count(0)
    page.get_by_role("link", name="Grounds", exact=True).click()
    expect(page.get_by_role("heading", name="Star or chain")).to_be_visible()
