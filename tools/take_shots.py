"""Drive a headless browser over the demo and take one picture of each main view."""

from __future__ import annotations

import sys
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

FLAGS = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync",
]  # fmt: skip

#: Picture -> (address below the job, key switch before it is taken).
VIEWS: dict[str, tuple[str, dict[str, str]]] = {
    "chain-board": ("", {"key": "run", "engine": "running"}),
    "brief": ("brief/", {}),
    "ports": ("ports/?channel=gearbox", {}),
    "feeds": ("feeds/", {"key": "run", "engine": "stopped"}),
    "harness-plan": ("harness/plan/?run=gearbox+run", {}),
    "mount": ("mount/", {"key": "run", "engine": "running"}),
    "wiring": ("harness/diagram/", {"key": "run", "engine": "stopped", "lamps": "park"}),
    "scaling": ("scaling/?channel=coolant", {"key": "run", "engine": "running", "lamps": "off"}),
    "error": ("scaling/error/?channel=coolant", {}),
    "work-order": ("work/", {}),
    "proving": ("proving/plan/?phase=engine_running", {}),
}

#: Picture -> (words of another job of the demo, address below it, what to scroll to).
OTHERS = {
    "handover": ("Dash for the hill climb", "handover/", ""),
    "faults": ("Dash for the hill climb", "faults/", ""),
    "speed": ("Dash for the hill climb", "scaling/?channel=road+speed", ""),
    "way-in": ("Dash for the hill climb", "ports/?channel=exhaust+gas", ".section-sheet"),
    "dash": ("Dash for the hill climb", "dash/", ""),
    "plugs": ("New cluster for the fire tender", "harness/plugs/", ""),
}


def main(base: str, folder: str, only: str) -> None:
    out = Path(folder)
    out.mkdir(parents=True, exist_ok=True)
    _wait_for(base + "/log-in/")
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path="/usr/bin/chromium-headless-shell", args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(base + "/log-in/")
        page.fill("[name=username]", "fitter")
        page.fill("[name=password]", "bench-book-52")
        page.click("main button")
        page.wait_for_selector(".jobs")
        if only in ("", "shelf"):
            page.screenshot(path=out / "shelf.png")
        job = page.locator(".jobs a").first.get_attribute("href") or ""
        for name, (path, switch) in VIEWS.items():
            if only in ("", name):
                page.goto(base + job)
                _turn(page, switch)
                page.goto(base + job + path, wait_until="networkidle")
                page.screenshot(path=out / f"{name}.png")
        for name, (title, path, anchor) in OTHERS.items():
            if only in ("", name):
                page.goto(base)
                page.get_by_role("link", name=title).click()
                page.goto(page.url + path, wait_until="networkidle")
                if anchor:
                    page.locator(anchor).evaluate(
                        "part => window.scrollTo(0, part.getBoundingClientRect().top + window.scrollY - 76)"
                    )
                page.screenshot(path=out / f"{name}.png")
        if only in ("", "chain-board-phone"):
            page.set_viewport_size({"width": 390, "height": 844})
            page.goto(base + job)
            page.screenshot(path=out / "chain-board-phone.png")
        browser.close()


def _turn(page: Page, switch: dict[str, str]) -> None:
    for name, word in switch.items():
        button = page.locator(f"#{name}-{word}")
        if button.get_attribute("aria-pressed") != "true":
            button.click()
            page.wait_for_selector(f"#{name}-{word}[aria-pressed=true]")


def _wait_for(address: str) -> None:
    for _ in range(100):
        try:
            urllib.request.urlopen(address, timeout=10).read()
            return
        except OSError:  # refused, or too slow for now
            time.sleep(0.1)
    raise SystemExit(f"nothing answers at {address}")


if __name__ == "__main__":
    main(*sys.argv[1:4])
