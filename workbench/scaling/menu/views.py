"""Set-up sheets: what is typed into each display's menu, ticked off while it is typed."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, TypedDict

from django.http import Http404, HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import displays
from metrolex.acts import menu as acts
from metrolex.job import Display, Input, Job, MeasuringChain, MenuEntry, Pin, Setting
from metrolex.kit import all_display_kits
from metrolex.scaling.inputs import inputs_for
from metrolex.scaling.menu import Line, menu_of, sheet_of
from workbench.jobs.cache import JOBS
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.library.parts import own_displays
from workbench.pdf import pdf_of
from workbench.request import Request
from workbench.scaling.menu.forms import KINDS, EntryForm, InputForm


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """One display's sheet."""
    display = display_or_404(look.job, request.GET.get("display", ""))
    stage = display.input_called(request.GET.get("input", "")) if display else None
    opened = {stage.id: InputForm.of(stage)} if stage else None
    return show_page(
        request,
        "scaling/menu.html",
        record,
        look,
        "scaling",
        **sheet_context(request, look, display, opened=opened),
    )


class LineRow(TypedDict):
    """A line of the set-up sheet, and what was typed there."""

    line: Line
    shown: str


class LineGroup(TypedDict):
    """Lines that belong to one input, or to the display itself."""

    key: str
    pin: Pin | None
    channel: MeasuringChain | None
    rows: list[LineRow]


class Assignment(TypedDict):
    """Where a channel is read, and where else it may be."""

    channel: MeasuringChain
    options: list[dict[str, Any]]
    free: bool


class InputRow(TypedDict):
    """An input of the display; its form where it is open."""

    stage: Input
    form: InputForm | None


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
    inputs: list[InputRow]
    assignments: list[Assignment]
    describable: list[str]


def sheet_context(
    request: Request,
    look: Look,
    display: Display | None,
    form: EntryForm | None = None,
    opened: dict[str, InputForm] | None = None,
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
    lines = sheet_of(job, display)
    known = {line.name for line in lines}
    rows: list[LineRow] = [{"line": line, "shown": line.typed} for line in lines]
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
        "inputs": [{"stage": s, "form": (opened or {}).get(s.id)} for s in display.inputs],
        "assignments": [_assignment(job, channel) for channel in job.chains if channel.display == display.id],
        "describable": [*own_displays(request.workshop), *all_display_kits()],
    }


def _assignment(job: Job, channel: MeasuringChain) -> Assignment:
    """Where a channel is read, and where else it may be."""
    kinds = dict(KINDS)
    options = [
        {
            "value": f"{d.id}|{i.id}",
            "here": (d.id, i.id) == (channel.display, channel.input),
            "words": f"{d.name}, input {i.id}{f', pin {i.pin}' if i.pin else ''}: {kinds[i.kind]}",
        }
        for d, i in inputs_for(job, channel)
    ]
    return {"channel": channel, "options": options, "free": not any(o["here"] for o in options)}


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

    names = [name[:120] for name in request.POST.getlist("name")]
    values = [value.strip()[:120] for value in request.POST.getlist("value")]
    more = tuple(request.POST.get(word, "").strip()[:120] for word in ("more_name", "more_value"))
    sheet = acts.Sheet(
        tuple(zip(names, values, strict=False)),
        frozenset(request.POST.getlist("done")),
        (more[0], more[1]),
        request.POST.get("firmware", "").strip()[:120],
        request.POST.get("set_up_on", "").strip()[:120],
    )
    return sheet_after(request, job, lambda before: acts.save_sheet(before, display_id, sheet), display_id)


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
        **sheet_context(request, look, display, form),
    )


@require_POST
def entry_remove(request: Request, job: int) -> HttpResponse:
    """An entry less, or the generic menu back."""
    display_id, name = request.POST.get("display", ""), request.POST.get("name", "")

    return sheet_after(request, job, lambda before: acts.remove_entry(before, display_id, name), display_id)


@require_POST
def describe(request: Request, job: int) -> HttpResponse:
    """A display of the library described onto this one: its menu, and its inputs where they have the same pins."""
    display_id, name = request.POST.get("display", ""), request.POST.get("name", "")
    known = all_display_kits() | own_displays(request.workshop)

    return sheet_after(
        request, job, lambda before: displays.describe_as(before, display_id, name, known), display_id
    )


@require_safe
@page_of_job
def paper(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The sheet on paper."""
    display = display_or_404(look.job, request.GET.get("display", ""))
    if display is None:
        raise Http404
    html = render_to_string(
        "scaling/menu_paper.html", {"job": look.job, **sheet_context(request, look, display)}
    )
    answer = HttpResponse(pdf_of(html), content_type="application/pdf")
    answer["Content-Disposition"] = (
        f'attachment; filename="{slugify(f"{record.name} {display.name}") or "set-up"}-set-up.pdf"'
    )
    return answer


def sheet_after(request: Request, job: int, put: Callable[[Job], Job], display: str) -> HttpResponse:
    """One act, then the sheet of its display, the first sheet where there is no such display."""
    known = JOBS.job_of(record_for(request, job)).display(display) is not None
    return act(request, job, put, "scaling:menu", display=display if known else "")


def display_or_404(job: Job, key: str) -> Display | None:
    """A display of the job, the first for ''; 404 for any other."""
    if not key:
        return job.displays[0] if job.displays else None
    found = job.display(key)
    if found is None:
        raise Http404
    return found
