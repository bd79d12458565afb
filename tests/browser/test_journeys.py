"""The fitter's ways through the real pages."""

from __future__ import annotations

import re

import pytest
from django.conf import settings
from playwright.sync_api import expect

from workbench.accounts.models import Membership
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of

PLACES = {
    "board": [""],
    "brief": [
        "brief/",
        "brief/plan/",
        "brief/survey/",
        "brief/cluster/",
        "brief/shopping/",
        "brief/estimate/",
    ],
    "mount and dash": [
        "mount/",
        "mount/fit/",
        "mount/site/",
        "dash/",
        "dash/lamps/",
        "dash/night/",
    ],
    "ports": [
        "ports/?channel=coolant",
        "ports/?channel=gearbox&pin=gearbox+cooler+line",
        "ports/paths/",
        "ports/fluids/",
    ],
    "feeds": ["feeds/", "feeds/grounds/", "feeds/backlight/"],
    "harness": [
        "harness/plan/?run=gearbox+run",
        "harness/plugs/",
        "harness/?run=gearbox+run",
        "harness/openings/",
        "harness/diagram/",
        "displays/?display=gauge+2",
        "switches/",
    ],
    "scaling": [
        "scaling/?channel=coolant",
        "scaling/measured/?channel=coolant",
        "scaling/error/?channel=coolant",
        "scaling/points/",
        "scaling/suits/?channel=coolant&with=gearbox",
        "scaling/warnings/?channel=oil+pressure",
        "scaling/fuel/?tank=50&inside=20&content=5&pump=E85&target=30",
        "scaling/menu/",
    ],
    "proving and handover": [
        "work/",
        "work/days/",
        "work/steps/?step=join+gauge+1",
        "work/goods/",
        "work/quote/",
        "proving/",
        "proving/plan/",
        "faults/",
        "handover/",
        "handover/later/",
    ],
}


def test_logging_in(bench):
    page = bench.page
    page.context.clear_cookies()
    bench.go()
    name, password = settings.DEMO_LOGIN
    page.locator("[name=username]").fill(name)
    page.locator("[name=password]").fill(password)
    page.get_by_role("button", name="Log in").click()
    expect(page.get_by_role("heading", name="Chain board")).to_be_visible()


def test_from_nothing_to_the_book(bench):
    page = bench.page
    page.get_by_role("link", name="New job").first.click()
    page.get_by_label("Job", exact=True).fill("Coolant in the outfit")
    page.get_by_label("Vehicle", exact=True).fill("Sidecar outfit")
    page.get_by_label("Coolant").check()
    page.get_by_role("button", name="Make the job").click()
    expect(page.get_by_role("heading", name="Chain board")).to_be_visible()
    expect(page.get_by_role("cell", name="open Choose a port")).to_be_visible()

    page.get_by_text("Choose a sender").click()
    page.get_by_role("button", name="NTC, one wire, 1/8-27 NPT").click()
    page.get_by_role("link", name=re.compile("Spare plug in the cylinder head")).click()
    page.get_by_role("button", name=re.compile("^Choose")).click()
    expect(page.get_by_text("chosen", exact=True)).to_be_visible()
    expect(page.get_by_text("New washer; nothing on the thread.")).to_be_visible()

    page.locator('.spine a[data-go="f"]').click()
    for key, purpose in (("F1", "Clock"), ("", "Windows"), ("", "Parking lamps")):
        page.locator("#probe-new [name=id]").fill(key)
        page.locator("#probe-new [name=purpose]").fill(purpose)
        page.locator("#probe-new [name=rating_a]").fill("10")
        page.locator("#probe-new [name=rating_a]").press("Enter")
        expect(page.locator("#probe-new [name=purpose]")).to_have_value("")
        expect(page.locator(f"input[value='{purpose}']")).to_be_visible()
    expect(page.get_by_role("rowheader", name="F3")).to_be_visible()
    page.get_by_label("F1 off").focus()
    sheet = ["12.6 12,6 12.5 10.7 12.6 12.5", "0 0 12.4 10.5 0 0", "dead dead dead dead 12.4 12.3"]
    for row in sheet:
        for volts in row.split():
            page.keyboard.type(volts)
            page.keyboard.press("Enter")
        page.keyboard.press("Enter")  # not read late
        page.keyboard.type("y")  # the select: dies with its fuse pulled
        page.keyboard.press("Enter")
    for i, word in enumerate(("constant", "run and crank", "lamps"), 1):
        expect(page.locator(f"#class-F{i}")).to_contain_text(word)
    taps = page.locator(".need h3", has_text=re.compile(r"T\d")).filter(has_text="from")
    page.locator(".need", has_text="not tapped yet").first.get_by_role("button", name="Tap it: best").click()
    expect(taps).to_have_count(1)
    page.get_by_role("button", name="Take the best for all needs").click()
    expect(taps).to_have_count(3)
    page.get_by_role("link", name="Grounds", exact=True).click()
    page.get_by_label("Ground point").fill("Frame lug")
    page.get_by_label("Battery positive to it").fill("12,6")
    page.get_by_role("button", name="Add", exact=True).last.click()
    expect(page.get_by_text("mV above battery negative now")).to_be_visible()
    expect(page.get_by_text("proved for the meter")).to_be_visible()

    page.locator('.spine a[data-go="h"]').click()
    page.get_by_role("button", name="Lay the missing wires").click()
    expect(page.get_by_text("5 wires laid by rule.")).to_be_visible()
    for run in ("Coolant sender to its gauge", "Feeds to the gauges"):
        page.get_by_role("link", name=run).click()
        page.locator("[name=segments-0-name]").fill("the way")
        page.locator("[name=segments-0-length_m]").fill("1,2 m")
        page.get_by_role("button", name="Save the way").click()
        expect(page.get_by_role("img", name=re.compile(f"{run}: 1.56 m needed"))).to_be_visible()

    page.locator(".spine a").first.click()
    bench.turn("engine", "running")
    face = page.locator(".shows big")
    expect(face).to_have_text(re.compile(r"^(89|9\d)$"))
    bench.turn("key", "off")
    expect(face).to_have_text("··")

    page.locator('.spine a[data-go="o"]').click()
    with page.expect_download() as download:
        page.get_by_role("link", name="A4: the book as PDF").click()
    assert download.value.suggested_filename == "coolant-in-the-outfit-book.pdf"
    assert download.value.path().read_bytes().startswith(b"%PDF-")


def test_the_switch_changes_every_figure_in_place(bench):
    page = bench.go()
    page.evaluate("window.stayed = true")
    coolant = page.locator(".board-row", has_text="Coolant").locator(".shows")
    expect(coolant.locator("big")).to_have_text("91")
    bench.turn("key", "crank")
    expect(coolant).to_contain_text("beyond its table")
    expect(page.get_by_text("A through T2 at F22")).to_be_visible()
    bench.turn("key", "off")
    expect(coolant.locator("big")).to_have_text("··")
    bench.turn("lamps", "park")
    expect(page.locator(".lead")).to_contain_text("key off, lamps park")
    assert page.evaluate("window.stayed")


def test_a_switch_of_the_job_and_the_operating_point_are_turned_in_the_line(bench):
    page = bench.go("switches/")
    page.locator("#into-name").fill("Gauge lights")
    page.locator("#into-wire").select_option("W3")
    page.locator("#into-after_m").fill("40 cm")
    page.get_by_role("button", name="Put it in").click()
    group = page.get_by_role("group", name="Gauge lights")
    group.get_by_role("button", name="on").click()
    expect(page.locator("#switch-state")).to_contain_text("Gauge lights at on")
    expect(group.get_by_role("button", name="on")).to_have_attribute("aria-pressed", "true")
    expect(group.get_by_role("button", name="off")).to_have_attribute("aria-pressed", "false")

    page = bench.go("")
    page.locator(".points-menu summary").click()
    page.get_by_role("button", name="engine at full load").click()
    expect(page.locator("#switch-state")).to_contain_text("engine at full load")
    expect(page.locator("#live")).to_contain_text("105")  # the gearbox oil, twenty above its warm idle
    expect(page.locator("#engine-running")).to_have_attribute("aria-pressed", "true")


def test_quick_fingers_lose_no_turn_of_the_switch(bench):
    page = bench.go()
    for button in ("#engine-stopped", "#key-acc", "#lamps-head", "#key-crank"):
        page.locator(button).click()
    expect(page.locator(".lead")).to_contain_text("key crank, lamps head")


def test_the_keyboard_alone(bench):
    page = bench.go()
    for key, heading in (
        ("f", "Feeds"),
        ("s", "Scaling"),
        ("v", "Proving"),
        ("h", "Harness"),
        ("p", "Ports"),
        ("b", "Brief"),
        ("w", "Work order"),
        ("o", "Handover"),
        ("c", "Chain board"),
    ):
        page.keyboard.press("g")
        page.keyboard.press(key)
        expect(page.get_by_role("heading", level=1, name=heading)).to_be_visible()
        page.wait_for_load_state()
    page.keyboard.press("k")
    expect(page.locator("#key-crank")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("l")
    expect(page.locator("#lamps-park")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("e")
    expect(page.locator("#engine-running")).to_have_attribute("aria-pressed", "true")
    expect(page.locator("#key-run")).to_have_attribute("aria-pressed", "true")
    page.keyboard.press("?")
    expect(page.locator("#keys")).to_be_visible()
    page.keyboard.press("Escape")
    page.keyboard.press("g")
    page.keyboard.press("s")
    expect(page.get_by_role("heading", level=1, name="Scaling")).to_be_visible()
    page.keyboard.press("]")
    expect(page.locator(".tabs [aria-current]")).to_have_text("Coolant")
    page.keyboard.press("[")
    expect(page.locator(".tabs [aria-current]")).to_have_text("Gearbox oil")


def test_a_button_the_keyboard_is_on_is_seen(bench):
    """It keeps its ground and its words' colour, and has a ring; Bootstrap's own focus would take all three."""
    page = bench.go("handover/")
    for name in ("A4: the book as PDF", "Job file"):
        button = page.get_by_role("link", name=name, exact=True)
        paint = "e => { const s = getComputedStyle(e); return [s.backgroundColor, s.color] }"
        before = button.evaluate(paint)
        assert before[0] != before[1]
        page.keyboard.press("Tab")  # from here on the keyboard is what is used
        button.focus()
        assert button.evaluate(paint) == before
        ring = button.evaluate(
            "e => { const s = getComputedStyle(e); return [s.outlineStyle, parseFloat(s.outlineWidth)] }"
        )
        assert ring[0] == "solid"
        assert ring[1] >= 2


def test_while_a_file_is_read_its_button_says_so(bench, tmp_path):
    page = bench.go()
    page.goto(bench.base + "/jobs/new/")
    page.route(
        "**/jobs/from-file/", lambda route: route.fulfill(status=204)
    )  # an answer that is long in coming
    file = tmp_path / "job.json"
    file.write_text("{}")
    page.get_by_label("Job file").set_input_files(file)
    page.get_by_role("button", name="Open it as a new job").click()
    button = page.get_by_role("button", name="Reading the file")
    expect(button).to_be_disabled()
    expect(button).to_have_attribute("aria-busy", "true")


def test_a_probe_cell_that_is_wrong_says_so_and_keeps_what_was_typed(bench):
    page = bench.go("feeds/")
    cell = page.get_by_label("F36 crank")
    cell.fill("900 V")
    cell.press("Enter")
    expect(page.locator("#wrong-F36-crank")).to_contain_text("Expected volts from -60 to 60")
    expect(cell).to_have_value("900 V")
    cell.fill("10,4")
    cell.press("Enter")
    expect(page.locator("#wrong-F36-crank")).to_be_empty()
    expect(page.locator("#class-F36")).to_contain_text("Not read yet: acc, park, head.")
    cell.press("ArrowUp")
    expect(page.get_by_label("F33 crank")).to_be_focused()


def test_the_wrong_choice_is_caught_and_moved(bench):
    page = bench.go("feeds/")
    expect(page.locator("#findings")).to_contain_text("Safety critical tap")
    tap = page.locator(".need", has_text="T4")
    tap.get_by_text("As fitted, or move it").click()
    tap.locator(".candidates li", has_text="F31").get_by_role("button").click()
    expect(page.locator("#findings")).not_to_contain_text("Safety critical tap")


def test_a_stop_is_gone_past_in_writing(bench):
    bench.tap_a_fuel_pump()
    page = bench.go("feeds/")
    page.get_by_text("Waive it, with a reason").click()
    page.get_by_label("Why", exact=True).fill("The drawing shows a spare slot")
    page.get_by_role("button", name="Waive it", exact=True).click()
    expect(page.locator("#findings")).to_contain_text("Waived by Demo Fitter")


def test_true_in_shown_out(bench):
    page = bench.go("scaling/?channel=coolant")
    expect(page.locator("#shown big")).to_have_text("91")
    page.get_by_label("True, °C").fill("120")
    expect(page.locator("#shown big")).not_to_have_text("91")
    page.get_by_label("True, °C").fill("hot")
    expect(page.locator("#shown")).to_contain_text("is not a temperature")
    page.get_by_label("Law").select_option("beta")
    expect(page.get_by_label("Beta, K")).to_be_visible()
    expect(page.get_by_role("textbox", name="Points")).to_be_hidden()


def test_proving_gives_its_verdict_at_once(bench):
    before = job_of(JobRecord.objects.get(pk=bench.job))
    page = bench.go("proving/")
    page.get_by_role("button", name=re.compile("^run ")).first.click()
    cell = page.get_by_label("Seen: gauge 1 pin 2 ignition to pin 4")
    cell.fill("12,2")
    cell.press("Enter")
    expect(page.locator("tr", has=cell).locator(".verdict")).to_contain_text("as expected")
    cell.fill("9.1")
    cell.press("Enter")
    expect(page.locator("tr", has=cell).locator(".verdict")).to_contain_text("below the band")
    cell.fill("")
    cell.press("Enter")
    expect(page.locator("tr", has=cell).locator(".verdict")).to_be_empty()
    assert job_of(JobRecord.objects.get(pk=bench.job)) == before


def test_what_a_fault_would_show_follows_the_key(bench):
    page = bench.go("proving/")
    page.locator(".what-ifs summary", has_text="Coolant").click()
    row = page.get_by_role("row", name=re.compile("signal wire W19 broken"))
    expect(row).to_contain_text("--")
    expect(row).to_contain_text("5.00 V")
    bench.turn("key", "off")
    page.locator(".what-ifs summary", has_text="Coolant").click()
    expect(row).to_contain_text("dark")


def test_a_job_file_out_and_in(bench, tmp_path):
    page = bench.go("handover/")
    with page.expect_download() as download:
        page.get_by_role("link", name="Job file").click()
    path = tmp_path / "job.json"
    download.value.save_as(path)
    page.goto(bench.base + "/jobs/new/")
    page.get_by_label("Job file").set_input_files(path)
    page.get_by_role("button", name="Open it as a new job").click()
    expect(page.get_by_role("heading", name="Chain board")).to_be_visible()
    first, second = (job_of(record) for record in JobRecord.objects.all())
    assert first == second


def test_the_load_test_answers_at_the_key_switch(bench):
    page = bench.go("proving/")
    bench.turn("key", "run")
    page.get_by_label("Lamp, W").fill("5")
    page.get_by_role("button", name="What should it show?").click()
    expect(page.locator("#lamp")).to_contain_text("both legs good")
    page.get_by_label("Lamp, W").fill("55")
    page.get_by_label("Lamp, W").press("Enter")
    expect(page.locator("#lamp")).to_contain_text("blows it")


@pytest.mark.parametrize("room", PLACES)
def test_each_place_is_accessible_by_day_and_night_and_fits_a_phone(room, bench):
    page, found = bench.page, []
    for place in PLACES[room]:
        page.set_viewport_size({"width": 390, "height": 844})
        bench.go(place)
        assert not bench.complaints, place
        if page.evaluate("document.documentElement.scrollWidth") > 390:
            found.append((place, "wider than a phone"))
        expect(page.locator(".switch-line")).to_be_visible()
        expect(page.locator(".spine")).to_be_in_viewport()
        page.set_viewport_size({"width": 1280, "height": 800})
        found += [(place, *barrier) for barrier in bench.barriers()]
    assert not found


def test_a_search_under_way_is_walked_and_fits_a_phone(bench):
    """What is found is typed, the suspects follow; by day, by night, on a phone."""
    bench.at("single_seater")
    page = bench.go("faults/")
    expect(page.locator("#suspects li").first).to_be_visible()
    assert not bench.barriers()
    before = page.locator(".do-this").text_content()
    page.get_by_label("Found", exact=True).fill("dashes" if "Look at" in before else "0,02")
    page.get_by_label("Found", exact=True).press("Enter")
    expect(page.locator("#found")).to_contain_text("dashes" if "Look at" in before else "0.02")
    page.set_viewport_size({"width": 390, "height": 844})
    bench.go("faults/")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.locator("#found").get_by_role("button", name="Take it back").last.click()
    expect(page.locator(".do-this")).to_have_text(before)


def test_on_a_phone_the_switch_is_one_line_that_opens_and_tells_how_it_stands(bench):
    page = bench.page
    page.set_viewport_size({"width": 390, "height": 844})
    bench.go()
    line = page.locator(".switch-line")
    expect(line).to_contain_text("key run")
    expect(page.locator("#key-crank")).to_be_hidden()
    assert page.locator("#key-switch").bounding_box()["height"] < 60
    line.focus()
    page.keyboard.press("Enter")
    expect(line).to_have_attribute("aria-expanded", "true")
    bench.turn("key", "crank")
    expect(line).to_contain_text("key crank")
    line.click()
    expect(page.locator("#key-crank")).to_be_hidden()
    page.set_viewport_size({"width": 1280, "height": 800})
    expect(page.locator("#key-crank")).to_be_visible()
    expect(line).to_be_hidden()


def test_a_reader_is_offered_nothing_that_would_be_refused(bench):
    Membership.objects.update(role="reader")
    page = bench.go("feeds/")
    expect(page.locator("#work")).to_contain_text("You may read here")
    expect(page.locator("input[data-cell]").first).to_be_disabled()
    expect(page.locator("#key-switch button").first).to_be_enabled()
    bench.turn("key", "off")
