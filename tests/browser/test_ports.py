"""Pins on a flow path under mouse, finger and keys; the way in; the printed card; the library."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from metrolex.acts.ports import set_path
from workbench.jobs.door import change
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of


def pin(page, name):
    return page.get_by_role("slider", name=re.compile(re.escape(name)))


def at_m(bench, channel):
    job = job_of(JobRecord.objects.get(pk=bench.job))
    return job.port(job.chain(channel).port).spot.at_m


def drag(page, name, by_px):
    box = pin(page, name).locator("circle").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + by_px, y, steps=8)


def test_the_lambda_pin_is_dragged_from_a_bad_place_to_a_good_one(bench):
    page = bench.at("single_seater").go("ports/?channel=mixture")
    verdict = page.locator("#verdict")
    expect(verdict).to_contain_text("runs too hot")
    expect(page.locator("#findings")).to_contain_text("Lambda too close")
    drag(page, "Spare bung in the pipe", 90)
    expect(verdict).to_contain_text("good here")  # before it is let go
    assert at_m(bench, "mixture") == 0.6
    page.mouse.up()
    expect(page.locator("#findings")).not_to_contain_text("Lambda too close")
    expect(pin(page, "Spare bung in the pipe")).to_be_focused()
    assert 0.75 < at_m(bench, "mixture") < 0.95


def test_pins_move_by_arrow_keys_alone(bench):
    page = bench.at("single_seater").go("ports/?channel=exhaust+gas")
    bad = pin(page, "at the edge of the divider")
    bad.focus()
    expect(page.locator("#verdict")).to_contain_text("Manifold, just before the turbine")
    before = float(bad.get_attribute("data-at"))
    page.keyboard.press("ArrowRight")
    expect(page.locator("#verdict")).to_contain_text("behind the edge of the divider")
    page.keyboard.press("PageUp")
    expect(page.locator("#verdict")).not_to_contain_text("behind the edge of the divider")
    expect(bad).to_have_attribute("aria-valuenow", str(round(1000 * (before + 0.055))))
    expect(pin(page, "at the edge of the divider")).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name=re.compile("^Choose"))).to_be_visible()


def test_a_finger_drags_a_pin(bench):
    page = bench.at("single_seater").go("ports/?channel=mixture")
    box = pin(page, "Spare bung in the pipe").locator("circle").bounding_box()
    page.evaluate(
        """([x, y]) => {
          const pin = document.elementFromPoint(x, y).closest("[data-pin]");
          pin.setPointerCapture = () => {};
          const send = (kind, dx) => pin.dispatchEvent(new PointerEvent(kind, {bubbles: true, cancelable: true, pointerType: "touch", pointerId: 7, clientX: x + dx, clientY: y}));
          send("pointerdown", 0); send("pointermove", 40); send("pointermove", 90); send("pointerup", 90);
        }""",
        [box["x"] + box["width"] / 2, box["y"] + box["height"] / 2],
    )
    expect(page.locator("#findings")).not_to_contain_text("Lambda too close")
    assert at_m(bench, "mixture") > 0.75


def test_a_path_without_a_scale_says_so_and_moves_nothing(bench):
    bench.at("single_seater")
    record = JobRecord.objects.get(pk=bench.job)
    from dataclasses import replace

    change(record, lambda job: set_path(job, replace(job.path("exhaust"), length_m=None)), by=None)
    page = bench.go("ports/?channel=mixture")
    drag(page, "Spare bung in the pipe", 60)
    expect(page.locator("#verdict")).to_contain_text("measure its length")
    page.mouse.up()
    assert at_m(bench, "mixture") == 0.6


def test_the_fire_tender_s_look_alike_is_cured_by_an_adapter(bench):
    page = bench.at("fire_tender").go("ports/?channel=oil+pressure")
    expect(page.locator("#findings")).to_contain_text("Look alike thread")
    page.get_by_label("Put on").select_option("Adapter 1/8-28 BSPT to 1/8-27 NPT")
    page.get_by_role("button", name="Put on").click()
    expect(page.get_by_role("table").filter(has_text="Sealed by")).to_contain_text("1/8-28 BSPT")
    expect(page.locator("#findings .slip.stop")).to_have_count(0)
    with page.expect_download() as download:
        page.get_by_role("link", name="Card as PDF").click()
    assert download.value.path().read_bytes().startswith(b"%PDF-")


def test_a_vehicle_gets_its_paths_in_a_minute_and_is_measured(bench):
    page = bench.page
    page.goto(bench.base + "/jobs/new/")
    page.get_by_label("Job", exact=True).fill("Exhaust gas, van four")
    page.get_by_label("Vehicle", exact=True).fill("Rescue van four")
    page.get_by_label("Exhaust gas").check()
    page.get_by_text("More of the vehicle").click()
    page.get_by_label("Forced induction").select_option("turbo")
    page.get_by_label("Cylinders lie").select_option("vee")
    page.get_by_role("button", name="Make the job").click()
    page.locator('.spine a[data-go="p"]').click()
    page.get_by_role("button", name="Start the flow paths").click()
    expect(page.get_by_text("Exhaust, left bank, to scale")).to_be_visible()
    page.goto(page.url.split("?")[0].replace("ports/paths/", "ports/"))
    expect(page.get_by_role("group", name="Exhaust, common, in the direction of flow")).to_be_visible()
    page.get_by_role("link", name="Flow paths").click()
    row = page.locator("#exhaust-common")
    row.get_by_text("to be measured").click()
    row.get_by_label("Length along it").fill("11 ft")
    row.get_by_label("Measured on this vehicle").check()
    row.get_by_role("button", name="Save the path").click()
    expect(page.get_by_text("Exhaust, common saved.")).to_be_visible()
    expect(page.locator("#exhaust-common")).to_contain_text("measured")
    expect(page.locator("#exhaust-common svg.path")).to_contain_text("3000")


def test_the_survey_and_a_cluster_that_comes_out(bench):
    page = bench.go("brief/survey/")
    page.get_by_label("Charging").fill("12.1")
    page.get_by_label("Lamps lit with the engine running").fill("Engine fault")
    page.get_by_role("button", name="Save the survey").click()
    expect(page.locator("#findings")).to_contain_text("Charge fault")
    bench.go("scaling/?channel=coolant")
    expect(page.locator("#findings")).to_contain_text("Lamp lit before")
    bench.go("brief/cluster/")
    page.get_by_role("button", name="It comes out").click()
    page.get_by_label("Charge lamp will come from").select_option("lost")
    page.get_by_role("row", name=re.compile("Charge lamp")).get_by_role("button", name="Save").click()
    expect(page.locator("#findings")).to_contain_text("Must keep lost")


@pytest.mark.parametrize(
    "address",
    [
        "/library/fittings/?q=hose",
        "/jobs/{}/ports/card/?channel=coolant",
        "/jobs/{}/ports/card/?channel=gearbox&pin=gearbox+cooler+line",
    ],
)
def test_the_library_and_the_card_are_accessible_and_fit(address, bench):
    page = bench.page
    for width in (1280, 390):
        page.set_viewport_size({"width": width, "height": 844})
        page.goto(bench.base + address.format(bench.job))
        assert page.evaluate("document.documentElement.scrollWidth") <= width
    assert not bench.complaints
    assert not bench.barriers()
