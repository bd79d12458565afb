"""A headless browser on a live server with the demo data."""

from __future__ import annotations

import functools
import os
from dataclasses import replace

import pytest
from axe_playwright_python.sync_playwright import Axe
from django.conf import settings
from django.test import Client
from playwright.sync_api import Page, Request, expect

from metrolex.job import Job
from tests.at_once import papers_at_once  # noqa: F401
from tests.jobs import shipped
from workbench.accounts.models import Membership
from workbench.jobs.door import change, import_job
from workbench.jobs.management.commands.prepare import demo_lead
from workbench.jobs.models import JobRecord
from workbench.work.demo import worked_into_day_two
from workbench.work.page import moment_now

os.environ.setdefault(
    "DJANGO_ALLOW_ASYNC_UNSAFE", "true"
)  # the browser's driver keeps a loop; we never use it
expect.set_options(timeout=20_000)  # a busy machine is slow, not wrong

FLAGS = [
    "--headless",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@pytest.fixture(scope="session")
def browser_type_launch_args():
    return {"executable_path": "/usr/bin/chromium-headless-shell", "args": FLAGS}


@pytest.fixture(scope="session")
def browser_context_args():
    # Bootstrap fades a button's colours; a checker that looks at once would measure the colours in between.
    return {"viewport": {"width": 1280, "height": 800}, "accept_downloads": True, "reduced_motion": "reduce"}


WCAG = ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]
CONTRAST = {"type": "rule", "values": ["color-contrast"]}  # by night nothing else is other than by day

#: Rows and parts built as two of their neighbours are: what is in somebody's way in them is in the way in those two.
MARK_ALIKE = """() => {
  const told = new WeakMap(), shown = ["class", "style", "type", "role", "fill", "stroke"];
  const build = element => {
    if (!told.has(element)) {
      const names = [...element.attributes].map(a => shown.includes(a.name) ? `${a.name}=${a.value}` : a.name).sort();
      const says = [...element.childNodes].some(node => node.nodeType === Node.TEXT_NODE && node.data.trim());
      told.set(element, `${element.tagName} ${names} ${says} (${[...element.children].map(build)})`);
    }
    return told.get(element);
  };
  const walk = element => {
    const seen = {};
    for (const child of element.children) {
      const how = build(child);
      seen[how] = (seen[how] || 0) + 1;
      if (child.children.length && seen[how] > 2) child.setAttribute("data-alike", "");
      else walk(child);
    }
  };
  walk(document.body);
}"""
NOT_ALIKE = {"include": [["html"]], "exclude": [["[data-alike]"]]}


class Bench:
    """The page, logged in, at the demo job; everything the console said and every request off the machine."""

    def __init__(self, page: Page, base: str, job: int) -> None:
        self.page, self.base, self.job = page, base, job
        self.complaints: list[str] = []
        page.on(
            "console", lambda m: self.complaints.append(m.text) if m.type in ("error", "warning") else None
        )
        page.on("pageerror", lambda fault: self.complaints.append(str(fault)))
        self.unanswered: set[Request] = set()
        page.on("request", self._asked)
        for end in ("requestfinished", "requestfailed"):
            page.on(end, self._answered)
        page.on(
            "request",
            lambda r: (
                self.complaints.append(r.url) if not r.url.startswith((base, "data:", "blob:")) else None
            ),
        )

    def go(self, tail: str = "") -> Page:
        self.page.goto(f"{self.base}/jobs/{self.job}/{tail}")
        return self.page

    def tap_a_fuel_pump(self) -> None:
        """The van's tap on the airbag stands on a fuel pump's circuit: a stop one can answer for."""
        purpose = lambda job: replace(  # noqa: E731
            job,
            circuits=tuple(
                replace(one, purpose="Fuel pump") if one.id == "F9" else one for one in job.circuits
            ),
        )
        record = JobRecord.objects.get(pk=self.job)
        change(record, purpose, by=Membership.objects.get(workshop=record.workshop_id))

    def at(self, name: str) -> Bench:
        """The same bench at another of the jobs that ship as examples."""
        self.job = import_job(Membership.objects.get(workshop__jobs=self.job), shipped(name)).pk
        return self

    def _asked(self, request: Request) -> None:
        self.unanswered.add(request)

    def _answered(self, request: Request) -> None:
        self.unanswered.discard(request)

    def wait_for_answers(self) -> None:
        """Until every request of the page has its whole answer, for 10 s at most."""
        for _ in range(200):
            if not self.unanswered:
                return
            self.page.wait_for_timeout(50)

    def barriers(self) -> list[tuple[str, str, list[str]]]:
        """What the page as it stands puts in somebody's way, by day and by night: theme, rule, the first elements."""
        found = []
        toggle = self.page.locator("[data-theme-toggle]")
        themes = [("day", WCAG), ("night", CONTRAST)]
        self.page.evaluate(MARK_ALIKE)
        for theme, only in themes if toggle.count() else themes[:1]:  # a paper is white by night too
            if (self.page.locator("html").get_attribute("data-bs-theme") == "dark") != (theme == "night"):
                toggle.click()
            options = {"runOnly": only, "resultTypes": ["violations"]}
            answer = Axe().run(self.page, context=NOT_ALIKE, options=options)
            self.complaints.clear()  # the checker itself sets styles that our policy refuses
            found += [
                (theme, v["id"], [n["html"][:160] for n in v["nodes"][:3]])
                for v in answer.response["violations"]
            ]
        return found

    def turn(self, name: str, word: str) -> None:
        """Turn the switch and wait until it stands there."""
        self.page.locator(f"#{name}-{word}").click()
        expect(self.page.locator(f"#{name}-{word}")).to_have_attribute("aria-pressed", "true")


@functools.cache
def van_at_work() -> Job:
    """The van as the demo has it, in its second day: one job for all, as the shipped ones are."""
    return worked_into_day_two(shipped("van"), moment_now(None))


@pytest.fixture
def bench(page, live_server):
    lead = demo_lead(*settings.DEMO_LOGIN)
    record = import_job(lead, van_at_work())
    client = Client()
    client.force_login(lead.user)
    session = client.cookies[settings.SESSION_COOKIE_NAME].value
    page.context.add_cookies(
        [{"name": settings.SESSION_COOKIE_NAME, "value": session, "url": live_server.url}]
    )
    page.goto(live_server.url)
    expect(page.get_by_role("heading", name="Shelf")).to_be_visible()
    found = Bench(page, live_server.url, record.pk)
    yield found
    found.wait_for_answers()  # what the server still works on would meet the emptying of the database
    assert not found.complaints
