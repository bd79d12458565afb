"""Scaling in the browser: a row dragged, a sender measured, speed set by runs, a set-up sheet ticked off by keyboard."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of

BENCHES = {
    "single_seater": ["road speed", "engine speed", "gear", "mixture", "boost"],
    "fire_tender": ["fuel level"],
}


def held(bench):
    """The job as it is stored now."""
    return job_of(JobRecord.objects.get(pk=bench.job))


def strip(page):
    return page.locator("#curve-box").get_by_text("at most").text_content()


def test_a_row_is_dragged_and_the_error_follows_before_it_is_let_go(bench):
    page = bench.go("scaling/?channel=coolant")
    before = held(bench).chain("coolant").scaling.table
    good = strip(page)
    box = page.locator('[data-row="4"] .row-mark').bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 18, y - 30, steps=6)
    expect(page.locator("#curve-box").get_by_text("at most")).not_to_have_text(good)
    assert held(bench).chain("coolant").scaling.table == before
    page.mouse.up()
    expect(page.get_by_role("textbox", name="Table")).not_to_have_value(
        re.compile(re.escape(f"{before[4][0]:g}  {before[4][1]:g}\n"))
    )
    after = held(bench).chain("coolant").scaling.table
    assert after[4] != before[4]
    assert [row for i, row in enumerate(after) if i != 4] == [row for i, row in enumerate(before) if i != 4]
    expect(page.locator('[data-row="4"]')).to_be_focused()


def test_rows_move_by_the_arrows_and_come_back_best(bench):
    page = bench.go("scaling/?channel=coolant")
    before = held(bench).chain("coolant").scaling.table
    page.locator('[data-row="3"]').focus()
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(page.get_by_role("textbox", name="Table")).to_have_value(
        re.compile(f"{before[3][0]:g}  {before[3][1] + 3:g}")
    )
    assert held(bench).chain("coolant").scaling.table[3] == (before[3][0], before[3][1] + 3)
    page.get_by_label("Rows", exact=True).fill("10")
    page.get_by_role("button", name="Take the best rows").click()
    expect(page.get_by_text("Equally spaced they would be")).to_be_visible()
    assert held(bench).chain("coolant").scaling.table == before


def test_the_drawing_of_a_moved_row_comes_in_time(bench):
    """The bench redraws in place; five answers in a row, the quickest of them is looked at (the machine is shared)."""
    page = bench.go("scaling/?channel=coolant")
    took = page.evaluate(
        """async () => {
          const box = document.querySelector("[data-rows]"), took = [];
          for (let i = 0; i < 5; i++) {
            const query = new URLSearchParams({channel: box.dataset.channel, row: 2, x: 91, y: 127 + i});
            const from = performance.now();
            const answer = await fetch(`${box.dataset.try}?${query}`);
            box.innerHTML = await answer.text();
            took.push(performance.now() - from);
          }
          return took;
        }"""
    )
    assert len(took) == 5
    assert min(took) < 1000  # a page that hangs; the figure itself is measured in tests/benchmarks


def test_a_sender_is_measured_and_its_curve_taken(bench):
    page = bench.go("scaling/measured/?channel=gearbox")
    page.get_by_label("Measured", exact=True).fill("7150 0\n2200 25\n740 54\n232 92")
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_text("Which sender is this?")).to_be_visible()
    page.get_by_role("link", name="beta, two numbers").click()
    expect(page.get_by_text("beta = ")).to_be_visible()
    page.get_by_role("button", name="Take it as the sender's curve").click()
    expect(page.get_by_text("beta = ")).to_be_visible()
    curve = held(bench).sender("gearbox sender").curve
    assert (curve.r0_ohm, curve.beta_k) != (2200.0, 3600.0)
    assert curve.beta_k == pytest.approx(3700, abs=150)
    page.get_by_label("Measured", exact=True).fill("warm 3")
    page.get_by_role("button", name="Add").click()
    expect(page.get_by_text("Line 1")).to_be_visible()
    expect(page.get_by_label("Measured", exact=True)).to_have_value("warm 3")
    bench.complaints.clear()  # the console tells of every page that answers 422


def test_speed_is_set_by_runs_and_never_reads_under(bench):
    page = bench.at("sidecar").go("scaling/?channel=road+speed")
    for gps, shown in (("40", "41.5"), ("60", "62.1"), ("85", "88.2")):
        page.get_by_label("By GPS").fill(gps)
        page.get_by_label("Shown", exact=True).fill(shown)
        page.get_by_role("button", name="Add the run").click()
        expect(page.get_by_role("row").filter(has_text=gps).first).to_be_visible()
    expect(page.get_by_text("New setting")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Take [0-9]")).click()
    expect(page.get_by_text("This is what is set.")).to_be_visible()
    road = held(bench).chain("road speed").road
    assert road.setting < 2021
    assert all(run.shown_kmh * road.setting / road.driven_with >= run.gps_kmh - 0.3 for run in road.runs)


def test_a_set_up_sheet_is_ticked_off_by_keyboard(bench):
    page = bench.at("single_seater").go("scaling/menu/")
    first = page.get_by_label("Backlight, typed in")
    first.focus()
    page.keyboard.type("level 6")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Fuel, typed in")).to_be_focused()
    page.keyboard.type("E85")
    page.keyboard.press("Shift+Tab")
    page.keyboard.press("Space")
    page.get_by_label("Firmware").fill("4.2")
    page.get_by_role("button", name="Save the sheet").click()
    expect(page.get_by_text("1 of")).to_be_visible()
    settings = {s.name: (s.value, s.done) for s in held(bench).settings}
    assert settings == {"Backlight": ("level 6", False), "Fuel": ("E85", True)}


def test_a_false_alarm_is_seen_and_cured(bench):
    page = bench.go("scaling/warnings/?channel=oil+pressure")
    page.get_by_label("Least by engine speed").fill("")
    page.get_by_label("Warn below").fill("2.5")
    page.get_by_label("after, s", exact=True).fill("")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("for nothing")).to_be_visible()
    page.get_by_label("Warn below").fill("0.4")
    page.get_by_label("after, s", exact=True).fill("1")
    page.get_by_role("button", name="Save").click()
    expect(page.get_by_text("for nothing")).to_have_count(0)


@pytest.mark.parametrize("job", BENCHES)
def test_each_bench_is_accessible_and_fits_a_phone(job, bench):
    bench.at(job)
    for channel in BENCHES[job]:
        bench.page.set_viewport_size({"width": 1280, "height": 800})
        _looks_right(bench, bench.go(f"scaling/?channel={channel.replace(' ', '+')}"))


@pytest.mark.parametrize("address", ["/library/senders/", "/library/displays/"])
def test_the_library_is_accessible_and_fits_a_phone(address, bench):
    bench.page.goto(bench.base + address)
    _looks_right(bench, bench.page)


def _looks_right(bench, page):
    assert not bench.barriers()
    page.set_viewport_size({"width": 390, "height": 844})
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_a_file_of_columns_goes_into_its_field_as_if_pasted(bench, tmp_path):
    page = bench.go("scaling/?channel=coolant")
    path = tmp_path / "curve.csv"
    # Saved by a spreadsheet of another land: degree signs of an old code page, decimal commas.
    path.write_bytes("R [kohm];T [\u00b0C]\n3,33;20\n1,15;40\n0,36;80\n".encode("cp1252"))
    page.locator("[data-into=id_points]").set_input_files(path)
    expect(page.get_by_label("Points", exact=True)).to_have_value(re.compile("3,33;20"))
    page.get_by_role("button", name="Save the curve").click()
    expect(page.get_by_label("Points", exact=True)).to_have_value(re.compile(r"3330\s+20"))
    large = tmp_path / "large.csv"
    large.write_text("1;2\n" * 50_000)
    page.locator("[data-into=id_points]").set_input_files(large)
    expect(page.locator("#line-state")).to_contain_text("larger than 150 kB")
    assert not bench.complaints
