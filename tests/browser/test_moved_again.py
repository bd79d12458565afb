"""What is redrawn in place goes on working: moved, and moved again, by mouse, keys and finger."""

from __future__ import annotations

import pytest
from playwright.sync_api import expect

from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of


def job(bench):
    return job_of(JobRecord.objects.get(pk=bench.job))


def mounting(bench, display="gauge 1"):
    return next(one for one in job(bench).mountings if one.display == display)


def middle(locator):
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(page, locator, dx, dy):
    x, y = middle(locator)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + dx, y + dy, steps=3)
    page.mouse.up()


def settled(bench):
    """Every move is sent, answered and drawn."""
    bench.page.wait_for_function("() => !window.hand.busy()")
    bench.wait_for_answers()


@pytest.fixture
def tender(bench):
    return bench.at("fire_tender")


def test_a_display_is_moved_twenty_times_by_mouse_and_keys(bench):
    page = bench.page
    bench.go("mount/")
    before = mounting(bench)
    shown = page.locator(f'[data-mounting="{before.id}"]')
    for turn in range(10):
        way = 1 if turn % 2 == 0 else -1
        with page.expect_response(lambda answer: "mount/move" in answer.url):
            drag(page, shown.locator(".bezel"), 40 * way, 0)
        settled(bench)
        with page.expect_response(lambda answer: "mount/move" in answer.url):
            shown.press("ArrowUp")
        settled(bench)
        expect(shown).to_be_focused()
    assert mounting(bench).y == pytest.approx(before.y + 10, abs=0.11)
    assert mounting(bench).x == pytest.approx(before.x, abs=1.0)
    row = page.locator("#mounted tr").filter(has_text=job(bench).display("gauge 1").name)
    expect(row).to_contain_text(f"{mounting(bench).y:.0f} mm")  # the table follows


def test_keys_that_do_not_wait_for_the_answers_are_all_counted(bench):
    """Two displays by turns, each move while the one before is still on its way."""
    page = bench.page
    bench.go("mount/")
    one, two = mounting(bench), mounting(bench, "gauge 2")
    for _ in range(6):
        page.locator(f'[data-mounting="{one.id}"]').press("ArrowUp")
        page.locator(f'[data-mounting="{two.id}"]').press("ArrowDown")
    settled(bench)
    assert (mounting(bench).y, mounting(bench, "gauge 2").y) == (one.y + 6, two.y - 6)


def test_a_link_pressed_right_after_a_move_waits_for_it(bench):
    page = bench.page
    bench.go("mount/")
    before = mounting(bench)
    page.locator(f'[data-mounting="{before.id}"]').press("ArrowUp")
    page.locator(".spine a[href$='/feeds/']").click()
    page.wait_for_url("**/feeds/**")
    assert mounting(bench).y == before.y + 1


def test_a_display_is_moved_by_a_finger_again_and_again(browser, bench):
    context = browser.new_context(has_touch=True, viewport={"width": 390, "height": 800})
    context.add_cookies(bench.page.context.cookies())
    page = context.new_page()
    faults = []
    page.on("pageerror", lambda fault: faults.append(str(fault)))
    page.goto(f"{bench.base}/jobs/{bench.job}/mount/")
    before = mounting(bench)
    finger = context.new_cdp_session(page)
    for _ in range(4):
        shown = page.locator(f'[data-mounting="{before.id}"] .bezel')
        shown.scroll_into_view_if_needed()
        x, y = middle(shown)
        with page.expect_response(lambda answer: "mount/move" in answer.url):
            for kind, points in (
                ("touchStart", [{"x": x, "y": y}]),
                ("touchMove", [{"x": x + 6, "y": y}]),
                ("touchMove", [{"x": x + 12, "y": y}]),
                ("touchEnd", []),
            ):
                finger.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})
        page.wait_for_function("() => !window.hand.busy()")
    assert mounting(bench).x > before.x + 10
    assert not faults
    context.close()


def test_a_face_goes_on_from_cell_to_cell(tender):
    page = tender.page
    face = next(one for one in job(tender).faces if one.lamp == "oil")
    tender.go("dash/")
    for key in ("ArrowLeft", "ArrowLeft", "ArrowRight", "ArrowLeft"):  # not waiting for the answers
        page.locator(f'[data-face="{face.id}"]').press(key)
    settled(tender)
    assert next(one for one in job(tender).faces if one.id == face.id).column == face.column - 2
    page.locator(f'[data-face="{face.id}"]').press("ArrowRight")
    settled(tender)
    assert next(one for one in job(tender).faces if one.id == face.id).column == face.column - 1


def test_a_pin_goes_on_along_its_path(bench):
    page = bench.page
    bench.go("ports/?channel=coolant")
    pin = page.locator("[data-pin][data-at]").first
    key, at = pin.get_attribute("data-pin"), float(pin.get_attribute("data-at"))
    for turn in range(1, 4):
        with page.expect_response(lambda answer: "ports/move" in answer.url):
            page.locator(f'[data-pin="{key}"]').press("ArrowRight")
        settled(bench)
        assert job(bench).port(key).spot.at_m == pytest.approx(at + 0.005 * turn)


def test_a_row_goes_on_along_its_curve(bench):
    page = bench.page
    bench.go("scaling/?channel=coolant")
    before = job(bench).chain("coolant").scaling.table[3]
    for turn in range(1, 4):
        with page.expect_response(lambda answer: "row" in answer.url and answer.request.method == "POST"):
            page.locator('[data-rows] [data-row="3"]').press("ArrowRight")
        settled(bench)
        assert job(bench).chain("coolant").scaling.table[3] == (before[0], before[1] + turn)


def test_a_run_is_led_through_one_zone_after_another(tender):
    page = tender.page
    run = next(one for one in job(tender).runs if one.start and one.finish)
    tender.go(f"harness/plan/?run={run.id}")
    led = []
    for zone in job(tender).zones:
        if zone.id in (run.start, run.finish, *run.via) or len(led) == 3:
            continue
        with page.expect_response(lambda answer: "plan/via" in answer.url):
            page.locator(f'[data-zone="{zone.id}"]').press("Enter")
        settled(tender)
        led.append(zone.id)
    now = job(tender).run(run.id)
    assert len(led) == 3
    assert set(led) <= set(now.via)
