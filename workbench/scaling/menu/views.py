"""Set-up sheets: what is typed into each display's menu, ticked off while it is typed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import TypedDict

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import menu as acts
from metrolex.dash.sheet import lines_of
from metrolex.errors import BadInput
from metrolex.job import Display, Job, MeasuringChain, MenuEntry, Pin, Setting
from metrolex.scaling.menu import Line, menu_of
from workbench.displays.page import display_or_404
from workbench.jobs.cache import JOBS
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, carry_out, kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.pdf import pdf_of
from workbench.request import Request
from workbench.scaling.menu.forms import EntryForm


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """One display's sheet."""
    display = display_or_404(look.job, request.GET.get("display", ""))
    return show_page(
        request,
        "scaling/menu.html",
        record,
        look,
        "scaling",
        **sheet_context(look, display),
    )


class LineRow(TypedDict):
    """A line of the set-up sheet, and what was typed there."""

    line: Line
    shown: str
    ticked: bool
    wrong: str


class LineGroup(TypedDict):
    """Lines that belong to one input, or to the display itself."""

    key: str
    pin: Pin | None
    channel: MeasuringChain | None
    rows: list[LineRow]


class MenuPage(TypedDict, total=False):
    """The set-up sheet of one display."""

    tab: str
    display: Display | None
    channel: None
    entry_form: EntryForm
    rows: list[LineRow]
    others: list[Setting]
    done: int
    total: int
    entries: Sequence[MenuEntry]
    own_menu: bool
    groups: list[LineGroup]
    refused: acts.Sheet
    wrong: str


def sheet_context(
    look: Look,
    display: Display | None,
    form: EntryForm | None = None,
) -> MenuPage:
    job = look.job
    found: MenuPage = {
        "tab": "menu",
        "display": display,
        "channel": None,
        "entry_form": form or EntryForm(),
    }
    if display is None:
        return found
    lines = lines_of(job, display)
    known = {line.name for line in lines}
    rows: list[LineRow] = [
        {"line": line, "shown": line.typed, "ticked": line.done, "wrong": ""} for line in lines
    ]
    others = [s for s in job.settings if s.display == display.id and s.name not in known]
    return {
        **found,
        "rows": rows,
        "others": others,
        "done": sum(line.done for line in lines),
        "total": len(lines),
        "entries": menu_of(display),
        "own_menu": bool(display.menu),
        "groups": _groups(rows, display),
    }


def _groups(rows: list[LineRow], display: Display) -> list[LineGroup]:
    """The lines under the display, then under each input."""
    found: list[LineGroup] = []
    for row in rows:
        line = row["line"]
        stage = next((s for s in display.inputs if s.id == line.stage), None)
        if not found or found[-1]["key"] != line.stage:
            pin = next((p for p in display.pins if stage and p.id == stage.pin), None)
            found.append({"key": line.stage, "pin": pin, "channel": line.channel, "rows": []})
        found[-1]["rows"].append(row)
    return found


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """What was typed and ticked; firmware and date."""
    display_id = request.POST.get("display", "")

    names = request.POST.getlist("name")
    values = [value.strip() for value in request.POST.getlist("value")]
    more, firmware, day = (
        request.POST.get(word, "").strip() for word in ("more_value", "firmware", "set_up_on")
    )
    sheet = acts.Sheet(
        tuple(zip(names, values, strict=False)),
        frozenset(request.POST.getlist("done")),
        (request.POST.get("more_name", "").strip(), more),
        firmware,
        day,
    )
    record = record_for(request, job)
    try:
        carry_out(request, record, lambda before: acts.save_sheet(before, display_id, sheet))
    except BadInput as fault:
        look = look_for(request, record)
        display = look.job.display(display_id)
        if display is None:
            messages.error(request, fault.message)
            return redirect("scaling:menu", job)
        context = _as_typed(sheet_context(look, display), sheet, fault)
        return show_page(request, "scaling/menu.html", record, look, "scaling", 422, **context)
    return redirect(page_at("scaling:menu", job, display=display_id))


def _as_typed(page: MenuPage, sheet: acts.Sheet, fault: BadInput) -> MenuPage:
    """The page with what was typed, and what is wrong in it."""
    typed = dict(sheet.typed)
    for row in page["rows"]:
        row["shown"] = typed.get(row["line"].name, row["shown"])
        row["ticked"] = row["line"].name in sheet.done
        row["wrong"] = fault.message if fault.field == row["line"].name else ""
    page["others"] = [
        replace(s, value=typed.get(s.name, s.value), done=s.name in sheet.done) for s in page["others"]
    ]
    page["refused"] = sheet
    page["wrong"] = fault.message  # at the head as well: on a phone the cell may lie out of sight
    return page


@require_POST
def entry(request: Request, job: int) -> HttpResponse:
    """An entry more in the display's menu."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = display_or_404(look.job, request.POST.get("display", ""))
    if display is None:
        raise Http404
    form = EntryForm(request.POST)

    if kept(request, record, form, lambda before: acts.set_entry(before, display.id, form.entry())):
        return redirect(page_at("scaling:menu", job, display=display.id))
    return show_page(
        request,
        "scaling/menu.html",
        record,
        look,
        "scaling",
        422,
        **sheet_context(look, display, form),
    )


@require_POST
def entry_remove(request: Request, job: int) -> HttpResponse:
    """An entry less, or the generic menu back."""
    display_id, name = request.POST.get("display", ""), request.POST.get("name", "")

    return sheet_after(request, job, lambda before: acts.remove_entry(before, display_id, name), display_id)


@require_safe
@page_of_job
def paper(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The sheet on paper."""
    display = display_or_404(look.job, request.GET.get("display", ""))
    if display is None:
        raise Http404
    html = render_to_string("scaling/menu_paper.html", {"job": look.job, **sheet_context(look, display)})
    answer = HttpResponse(pdf_of(html), content_type="application/pdf")
    answer["Content-Disposition"] = (
        f'attachment; filename="{slugify(f"{record.name} {display.name}") or "set-up"}-set-up.pdf"'
    )
    return answer


def sheet_after(request: Request, job: int, put: Callable[[Job], Job], display: str) -> HttpResponse:
    """One act, then the sheet of its display, the first sheet where there is no such display."""
    known = JOBS.job_of(record_for(request, job)).display(display) is not None
    return act(request, job, put, "scaling:menu", display=display if known else "")
