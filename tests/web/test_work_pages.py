"""Work order: shown, noted step by step, on paper and as a list."""

from __future__ import annotations

import csv
import io
from dataclasses import replace

import pytest

from metrolex.job import OwnStep
from metrolex.jobfile import EXAMPLES
from metrolex.twin import build
from metrolex.workorder.sheet import sheet_of_work
from tests.jobs import shipped
from workbench.jobs.door import create_job, import_job
from workbench.pdf import printed_pages
from workbench.work.page import step_row
from workbench.work.papers import SHEET


@pytest.mark.parametrize("name", EXAMPLES)
def test_every_step_of_every_example_stands_on_its_page(name, bay, text):
    bay.record = import_job(bay.member, shipped(name))
    page = text(bay.get("work/"))
    sheet = sheet_of_work(build(bay.job))
    for row in sheet.rows:
        assert f"{row.number}. {row.planned.step.name}" in page
    assert f"0 of {len(sheet.rows)} steps done" in page
    assert "No order enters fewer states" in page


def test_a_step_is_noted_and_the_next_one_comes(bay, text):
    first, second = sheet_of_work(build(bay.job)).rows[:2]
    answer = bay.post("work/noted/", htmx=True, step=first.planned.key, found="31")
    assert "done" in text(answer)
    assert answer["HX-Trigger"]
    assert (bay.job.work[0].state, bay.job.work[0].minutes) == ("done", 31.0)
    live = text(bay.get("work/sheet/"))
    assert f'<p class="do-this">{second.planned.step.name}</p>' in live
    assert 'value="31"' in text(bay.get("work/"))
    bay.post("work/noted/", step=first.planned.key, found="")
    assert bay.job.work == ()


def test_what_could_not_be_done_holds_up_what_waits_for_it(bay, text):
    bay.post("work/noted/", step="fit coolant", found="could not: the bung comes tomorrow")
    rows = {row.planned.key: row.stands for row in sheet_of_work(build(bay.job)).rows}
    assert rows["fit coolant"] == "could not"
    assert rows["refill coolant"] == rows["fuses fuses"] == "held up"
    assert rows["mount gauge 1"] == "open"
    page = text(bay.get("work/"))
    assert "the bung comes tomorrow" in page
    assert "1 could not" in text(bay.get(""))


@pytest.mark.parametrize(
    ("step", "typed", "words"),
    [
        ("fit coolant", "perhaps", "done, minutes"),
        ("fit coolant", "could not", "Say why"),
        ("fit coolant", "-5", "minutes from 0"),
        ("fit nothing", "done", "not there any more"),
    ],
)
def test_what_cannot_be_meant_is_told(step, typed, words, bay, text):
    before = bay.job
    assert words in text(bay.post("work/noted/", htmx=True, step=step, found=typed))
    assert bay.post("work/noted/", step=step, found=typed).status_code == 302
    assert typed in text(bay.get("work/"))
    assert bay.job == before


def test_the_list_and_the_paper_have_every_step(bay):
    rows = list(csv.reader(io.StringIO(bay.get("work/steps.csv").content.decode())))
    sheet = sheet_of_work(build(bay.job))
    assert [row[1] for row in rows[1:]] == [row.planned.step.name for row in sheet.rows]
    html = SHEET.html(bay.record, bay.job, at="2026-11-29T10:00", size="letter")
    assert "size:letter" in html
    for row in sheet.rows:
        assert f"{row.number}. " in html
    _, pages = printed_pages(html)
    assert pages >= 2


def test_a_job_with_nothing_planned_says_so(bay, text):
    from metrolex.job import Job
    from tests.jobs import a_vehicle

    bay.record = create_job(bay.member, Job("Empty", a_vehicle()), [])
    assert "Nothing is planned yet" in text(bay.get("work/"))


def test_every_page_a_step_leads_to_is_there(bay):
    for row in sheet_of_work(build(bay.job)).rows:
        page = step_row(row, bay.record.pk)["page"]
        if page:
            assert bay.client.get(page).status_code in (200, 202), page


def test_the_longest_work_there_may_be_is_drawn(bay):
    steps = tuple(OwnStep(f"long {i}", f"Long one {i}", minutes=100_000) for i in range(3))
    bay.record = import_job(bay.member, replace(shipped("van"), own_steps=steps))
    for page in ("work/", "work/days/", "work/sheet.pdf", "work/work.ics"):
        assert bay.get(page).status_code == 200, page
