"""Displays moved by mouse and keys, an outline traced, faces moved, a drive played: in a real browser."""

from __future__ import annotations

import io

import pytest
from PIL import Image
from playwright.sync_api import expect

from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of


@pytest.fixture
def tender(bench):
    return bench.at("fire_tender")


def job(bench):
    return job_of(JobRecord.objects.get(pk=bench.job))


def mounting(bench, display="gauge 1"):
    return next(one for one in job(bench).mountings if one.display == display)


def test_a_display_is_dragged_and_the_verdict_follows(bench):
    page = bench.page
    bench.go("mount/")
    shown = page.locator(f'[data-mounting="{mounting(bench).id}"]')
    box = shown.locator(".bezel").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    other = page.locator(f'[data-mounting="{mounting(bench, "gauge 2").id}"] .bezel').bounding_box()
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, other["y"] + other["height"] / 2, steps=6)
    expect(page.locator("#verdict")).to_contain_text("lies on that of")
    assert mounting(bench).y == 96.0  # nothing is stored while it is held
    with page.expect_response(lambda answer: "mount/move" in answer.url):
        page.mouse.up()
    expect(page.locator("#findings")).to_contain_text("lies on that of")
    assert mounting(bench).y == pytest.approx(32.0, abs=3.0)


def test_a_display_is_moved_by_keys_and_keeps_the_focus(bench):
    page = bench.page
    bench.go("mount/")
    shown = page.locator(f'[data-mounting="{mounting(bench).id}"]')
    shown.focus()
    with page.expect_response(lambda answer: "mount/move" in answer.url):
        for _ in range(3):
            page.keyboard.press("ArrowRight")
        page.keyboard.press("Shift+ArrowDown")
    expect(shown).to_be_focused()
    assert (mounting(bench).x, mounting(bench).y) == (3.0, 86.0)


def test_an_outline_is_traced_over_a_photograph(bench):
    page = bench.page
    site = job(bench).sites[0]
    bench.go("mount/site/")
    held = io.BytesIO()
    Image.new("RGB", (400, 300), "#777").save(held, "JPEG")
    page.locator("#site-photo").set_input_files(
        {"name": "dash.jpg", "mimeType": "image/jpeg", "buffer": held.getvalue()}
    )
    page.get_by_role("button", name="Keep it").click()
    picture = page.locator(".trace svg")
    box = picture.bounding_box()

    def click(x, y):
        picture.click(position={"x": x * box["width"] / 400, "y": y * box["height"] / 300})

    click(100, 200)
    click(300, 200)
    page.locator("#traced-first_mm").fill("100 mm")
    page.get_by_role("button", name="Outline", exact=True).click()
    for dot in ((100, 200), (300, 200), (300, 100), (100, 100), (50, 50)):
        click(*dot)
    page.get_by_role("button", name="Take the last dot back").click()
    page.get_by_role("button", name="Take it as the outline").click()
    page.wait_for_load_state()
    traced = job(bench).site(site.id).outline
    assert len(traced) == 4
    wanted = ((0, 0), (100, 0), (100, 50), (0, 50))
    assert [value for point in traced for value in point] == pytest.approx(
        [value for point in wanted for value in point], abs=2.0
    )


def test_a_face_is_moved_by_keys_to_the_next_cell(tender):
    page = tender.page
    face = next(one for one in job(tender).faces if one.lamp == "oil")
    tender.go("dash/")
    with page.expect_response(lambda answer: "face/move" in answer.url):
        page.locator(f'[data-face="{face.id}"]').press("ArrowLeft")
    now = next(one for one in job(tender).faces if one.id == face.id)
    assert (now.column, now.row) == (face.column - 1, face.row)
    expect(page.locator("#findings")).to_contain_text("lie on one another")


def test_a_drive_is_played_and_the_mishap_lights_its_warning(tender):
    page = tender.page
    oil = next(one for one in job(tender).faces if one.channel == "oil pressure")
    tender.go("dash/")
    face = page.locator(f'[data-face="{oil.id}"]')
    expect(face.locator(".face-text")).to_have_text("3.5")
    page.locator("#mishap").select_option("oil")
    slider = page.locator(".play input[type=range]")
    expect(slider).to_have_attribute("max", "248")
    slider.fill("240")
    expect(page.locator("[data-words]")).to_contain_text("warning")
    expect(face.locator(".face-text")).to_have_text("0.2")
    expect(face.locator(".warned.lit")).to_have_count(1)
    page.get_by_role("button", name="Drive it").click()
    expect(page.get_by_role("button", name="Stop", exact=True)).to_be_visible()
    page.get_by_role("button", name="Stop", exact=True).click()
    slider.fill("100")
    expect(face.locator(".warned.lit")).to_have_count(0)
