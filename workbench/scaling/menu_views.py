"""Set-up sheets: what is typed into each display's menu, ticked off while it is typed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from metrolex.acts import displays
from metrolex.acts.edit import display_called, replaced
from metrolex.errors import BadInput
from metrolex.job import Channel, Display, Job, MenuEntry, Setting
from metrolex.kit import all_display_kits
from metrolex.scaling.menu import menu_of, sheet_of
from metrolex.scaling.seating import inputs_for
from workbench.jobs.pages import act, kept, look_for, page_at, record_for, show_page
from workbench.jobs.services import Look
from workbench.jobs.storage import job_of
from workbench.library.parts import own_displays
from workbench.pdf import pdf_of
from workbench.scaling.menu_forms import KINDS, EntryForm, InputForm


@require_GET
def show(request: HttpRequest, job: int) -> HttpResponse:
    """One display's sheet."""
    record = record_for(request, job)
    look = look_for(request, record)
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


def sheet_context(
    request: HttpRequest,
    look: Look,
    display: Display | None,
    form: EntryForm | None = None,
    opened: dict[str, InputForm] | None = None,
) -> dict[str, Any]:
    job = look.job
    found: dict[str, Any] = {
        "tab": "menu",
        "display": display,
        "channel": None,
        "entry_form": form or EntryForm(),
    }
    if display is None:
        return found
    lines = sheet_of(job, display)
    known = {line.name for line in lines}
    rows = [{"line": line, "shown": line.typed} for line in lines]
    others = [s for s in job.settings if s.display == display.id and s.name not in known]
    return found | {
        "rows": rows, "others": others, "done": sum(line.done for line in lines), "total": len(lines), "entries": menu_of(display), "own_menu": bool(display.menu),
        "groups": _groups(rows, display), "inputs": [{"stage": s, "form": (opened or {}).get(s.id)} for s in display.inputs],
        "seats": [_seat(job, channel) for channel in job.channels if channel.display == display.id], "describable": [*own_displays(request.workshop), *all_display_kits()],
    }  # fmt: skip


def _seat(job: Job, channel: Channel) -> dict[str, Any]:
    """Where a channel is read, and where else it may be."""
    kinds = dict(KINDS)
    options = [
        {"value": f"{d.id}|{i.id}", "here": (d.id, i.id) == (channel.display, channel.input), "words": f"{d.name}, input {i.id}{f', pin {i.pin}' if i.pin else ''}: {kinds[i.kind]}"}
        for d, i in inputs_for(job, channel)
    ]  # fmt: skip
    return {"channel": channel, "options": options, "free": not any(o["here"] for o in options)}


def _groups(rows: list[dict[str, Any]], display: Display) -> list[dict[str, Any]]:
    """The lines under the display, then under each input."""
    found: list[dict[str, Any]] = []
    for row in rows:
        line = row["line"]
        stage = next((s for s in display.inputs if s.id == line.stage), None)
        if not found or found[-1]["key"] != line.stage:
            pin = next((p for p in display.pins if stage and p.id == stage.pin), None)
            found.append({"key": line.stage, "pin": pin, "channel": line.channel, "rows": []})
        found[-1]["rows"].append(row)
    return found


@require_POST
def save(request: HttpRequest, job: int) -> HttpResponse:
    """What was typed and ticked; firmware and date."""
    display_id = request.POST.get("display", "")

    def put(before: Job) -> Job:
        display = display_called(before, display_id)
        names = request.POST.getlist("name")
        values = [value.strip()[:120] for value in request.POST.getlist("value")]
        done = set(request.POST.getlist("done"))
        # Ticked with nothing typed means: as the job wants it.
        wanted = {line.name: line.wanted or "" for line in sheet_of(before, display)}
        fresh = tuple(
            Setting(
                display.id, name[:120], value or (wanted.get(name, "") if name in done else ""), name in done
            )
            for name, value in zip(names, values, strict=False)
            if value or name in done
        )
        more, word = (
            request.POST.get("more_name", "").strip()[:120],
            request.POST.get("more_value", "").strip()[:120],
        )
        if more:
            fresh = (*(s for s in fresh if s.name != more), Setting(display.id, more, word))
        elif word:
            raise BadInput("more_name", "", "the menu's own word", "Which entry of the menu is it?")
        kept_settings = tuple(s for s in before.settings if s.display != display.id)
        noted = replace(
            display,
            firmware=request.POST.get("firmware", "").strip()[:120],
            set_up_on=request.POST.get("set_up_on", "").strip()[:120],
        )
        return replace(before, settings=(*kept_settings, *fresh), displays=replaced(before.displays, noted))

    return sheet_after(request, job, put, display_id)


@require_POST
def entry(request: HttpRequest, job: int) -> HttpResponse:
    """An entry more in the display's menu."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = display_or_404(look.job, request.POST.get("display", ""))
    if display is None:
        raise Http404
    form = EntryForm(request.POST)

    def put(before: Job) -> Job:
        now = display_called(before, display.id)
        data = form.cleaned_data
        words = tuple(word.strip() for word in data["choices"].split(",") if word.strip())
        fresh = MenuEntry(data["name"], data["asks"], data["each"], words, data["digits"])
        rest = tuple(e for e in menu_of(now) if e.name != fresh.name)
        return replace(before, displays=replaced(before.displays, replace(now, menu=(*rest, fresh))))

    if kept(record, form, put):
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
def entry_remove(request: HttpRequest, job: int) -> HttpResponse:
    """An entry less, or the generic menu back."""
    display_id, name = request.POST.get("display", ""), request.POST.get("name", "")

    def put(before: Job) -> Job:
        display = display_called(before, display_id)
        rest = tuple(e for e in menu_of(display) if e.name != name) if name else ()
        return replace(before, displays=replaced(before.displays, replace(display, menu=rest)))

    return sheet_after(request, job, put, display_id)


@require_POST
def describe(request: HttpRequest, job: int) -> HttpResponse:
    """A display of the library described onto this one: its menu, and its inputs where they have the same pins."""
    display_id, name = request.POST.get("display", ""), request.POST.get("name", "")
    known = all_display_kits() | own_displays(request.workshop)

    def put(before: Job) -> Job:
        if name not in known:
            raise BadInput("name", name, "a display of the library")
        return displays.describe_as(before, display_id, name, known[name])

    return sheet_after(request, job, put, display_id)


@require_GET
def paper(request: HttpRequest, job: int) -> HttpResponse:
    """The sheet on paper."""
    record = record_for(request, job)
    look = look_for(request, record)
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


def sheet_after(request: HttpRequest, job: int, put: Callable[[Job], Job], display: str) -> HttpResponse:
    """One act, then the sheet of its display, the first sheet where there is no such display."""
    known = job_of(record_for(request, job)).display(display) is not None
    return act(request, job, put, "scaling:menu", display=display if known else "")


def display_or_404(job: Job, key: str) -> Display | None:
    """A display of the job, the first for ''; 404 for any other."""
    if not key:
        return job.displays[0] if job.displays else None
    found = job.display(key)
    if found is None:
        raise Http404
    return found
