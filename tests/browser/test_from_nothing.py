"""Jobs made from nothing in the browser: things to show, each to a proved chain, three in every run and six when the whole attack is asked for; the first one counted by acts and fields."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from metrolex.check import chain_board, find_all
from metrolex.job import State
from metrolex.twin import build, solve
from metrolex.twin import expect as expected
from tests.attack.how_much import some_of
from tests.browser.conftest import Bench
from workbench.jobs.models import JobRecord
from workbench.jobs.storage import job_of

RUNNING = State("run", "off", "running")
#: The panel as its lid says it, and what the probe finds: key off, acc, run, crank, park, head, later.
LID = "F1 10 Clock\nF2 10 Windows\nF3 10 Parking lamps"
FOUND = ("12.6 12,6 12.5 10.7 12.6 12.5 12.5", "0 0 12.4 10.5 0 0", "dead dead dead dead 12.4 12.3")


class Hand:
    """What a person does at the page: acts are what is pressed, fields what is filled in."""

    def __init__(self, bench: Bench) -> None:
        self.bench, self.page, self.acts, self.fields = bench, bench.page, 0, 0

    def press(self, locator) -> None:
        locator.click()
        self.acts += 1

    def fill(self, locator, text: str) -> None:
        locator.fill(text)
        self.fields += 1

    def go(self, letter: str) -> None:
        self.press(self.page.locator(f'.spine a[data-go="{letter}"]'))
        expect(self.page.locator(f'.spine a[data-go="{letter}"]')).to_have_attribute("aria-current", "page")


def started(hand: Hand, shown: str, display: str) -> int:
    page = hand.page
    hand.press(page.get_by_role("link", name="New job").first)
    hand.fill(page.get_by_label("Job", exact=True), f"{shown} from nothing")
    hand.fill(page.get_by_label("Vehicle", exact=True), "Orchard tractor")
    page.get_by_label(shown, exact=True).check()
    hand.fields += 1
    if display != "gauges":
        page.locator(f"input[name=display][value={display}]").check()
        hand.fields += 1
    hand.press(page.get_by_role("button", name="Make the job"))
    expect(page.get_by_role("heading", name="Chain board")).to_be_visible()
    expect(page.get_by_role("button", name="run", exact=True)).to_have_attribute("aria-pressed", "true")
    expect(page.get_by_role("button", name="stopped", exact=True)).to_have_attribute("aria-pressed", "true")
    expect(page.locator(".next-action")).to_be_visible()
    return int(page.url.rstrip("/").rsplit("/", 1)[1])


def chosen(hand: Hand) -> None:
    hand.go("p")
    choose = hand.page.get_by_role("button", name=re.compile("^Choose .( and its way in)?$"))
    expect(choose).to_be_visible()
    hand.press(choose)
    expect(hand.page.get_by_text("chosen", exact=True)).to_be_visible()


def fed(hand: Hand) -> None:
    page = hand.page
    hand.go("f")
    hand.fill(page.get_by_label("Its slots, one a line"), LID)
    hand.press(page.get_by_role("button", name="Lay it out"))
    for i, row in enumerate(FOUND, 1):
        page.get_by_label(f"F{i} off", exact=True).focus()
        for volts in row.split():
            page.keyboard.type(volts)
            page.keyboard.press("Enter")
            hand.fields += 1
        page.get_by_label(f"F{i} dies with its fuse pulled").select_option("yes")
        hand.fields += 1
    for i, word in enumerate(("constant", "run and crank", "lamps"), 1):
        expect(page.locator(f"#class-F{i}")).to_contain_text(word)
    hand.press(page.get_by_role("button", name="Take the best for all needs"))
    expect(page.locator(".need h3", has_text=re.compile(r"T\d.* from ")).first).to_be_visible()
    hand.press(page.get_by_role("link", name="Grounds", exact=True))
    hand.fill(page.get_by_label("Ground point"), "Frame lug")
    hand.fill(page.get_by_label("Battery positive to it"), "12,6")
    hand.press(page.get_by_role("button", name="Add", exact=True).last)
    expect(page.get_by_text("proved for the meter")).to_be_visible()


def wired(hand: Hand) -> None:
    page = hand.page
    hand.go("h")
    for field in page.locator(".lay input[type=text]").all():
        if not field.input_value():
            hand.fill(field, "1,2 m")
    hand.press(page.get_by_role("button", name=re.compile("^Lay the missing wires")))
    expect(page.get_by_text(re.compile(r"wires? laid"))).to_be_visible()


def scaled(hand: Hand) -> None:
    """What the display holds: as its leaflet says where the table is ours, else the best rows typed in."""
    hand.go("s")
    so = hand.page.get_by_role("button", name="It is so in the display")
    rows = hand.page.get_by_role("button", name=re.compile("best rows", re.IGNORECASE)).first
    with hand.page.expect_response(lambda answer: answer.request.method == "POST"):  # kept before one goes on
        hand.press(so if so.count() else rows)


def proved(hand: Hand, key: int) -> None:
    """The values a meter and the face would show, typed in: with the key off, and at the warm idle."""
    page = hand.page
    hand.go("v")
    for state in (State("off"), RUNNING):
        page.locator(f"#key-switch button[name=key][value={state.key}]").click()
        if state.running:
            page.locator("#key-switch button[name=engine][value=running]").click()
        expect(page.locator("#switch-state")).to_have_attribute("data-key", state.key)
        expect(page.locator("#switch-state")).to_have_attribute("data-engine", state.engine)
        hand.bench.wait_for_answers()
        page.reload()
        for test in expected(build(job_of(JobRecord.objects.get(pk=key))), state):
            seen = (
                {"--": "dashes", "- -": "flash", "dark": "dark"}.get(test.word, "")
                if test.value is None
                else f"{test.value:.6g}"
            )
            if not seen:
                continue
            cell = page.get_by_label(f"Seen: {test.point.name}", exact=True)
            cell.fill(seen)
            cell.press("Enter")
            expect(page.locator("tr", has=cell).locator(".verdict")).to_contain_text("as expected")


#: A resistance, volts on data, and a display that takes what comes; then like ones, which the journeys without a browser walk in every run too.
WALKED = (
    ("Coolant", "gauges"),
    ("Ethanol content", "dash"),
    ("Boost", "plain"),
    ("Exhaust gas", "gauges"),
    ("Oil pressure", "dash"),
    ("Fuel level", "gauges"),
)


@pytest.mark.parametrize(("shown", "display"), list(some_of(WALKED, 3)))
def test_to_a_proved_chain(shown, display, bench):
    hand = Hand(bench)
    key = started(hand, shown, display)
    chosen(hand)
    fed(hand)
    wired(hand)
    if shown == "Coolant":
        scaled(hand)
    if (shown, display) == ("Coolant", "gauges"):
        hand.go("o")
        with bench.page.expect_download() as download:
            hand.press(bench.page.get_by_role("link", name="A4: the book as PDF"))
        assert download.value.path().read_bytes().startswith(b"%PDF-")
        assert (hand.acts <= 20, hand.fields <= 35) == (True, True), (hand.acts, hand.fields)
    else:
        scaled(hand)
    proved(hand, key)
    job = job_of(JobRecord.objects.get(pk=key))
    network = build(job)
    solved = solve(network, RUNNING)
    found = find_all(network, solved)
    assert not [(f.code, f.reason) for f in found if f.grade == "stop"]
    for row in chain_board(network, solved, found):
        assert not [(c.link, c.fact) for c in row.cells if c.state == "open"]
        assert row.cell("proof").state == "proved"
    assert bench.complaints == []
