"""Set-up sheets: what is typed into each display's menu, ticked off while it is typed."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any, get_args

from django import forms
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_GET, require_POST

from metrolex.errors import BadInput
from metrolex.job import Channel, Display, Input, Job, MenuEntry, Setting
from metrolex.job.display import Asks
from metrolex.kit import all_display_kits
from metrolex.quantities import RESISTANCE, VOLTAGE
from metrolex.scaling.menu import menu_of, sheet_of
from workbench.jobs.fields import NumberField, QuantityField
from workbench.jobs.pages import act, kept, look_for, page_at, record_for, show_page
from workbench.jobs.services import Look, replaced
from workbench.jobs.storage import job_of
from workbench.library.parts import own_displays
from workbench.pdf import pdf_of
from workbench.scaling import services

KINDS = [
    ("pull_up", "a resistance, by a pull-up"), ("volts", "volts"), ("pulse", "pulses"), ("couple", "a thermocouple"), ("loop", "a 4 to 20 mA loop"), ("supply", "its own supply"),
    ("data", "data"),
]  # fmt: skip
ASKS = {
    "enabled": "whether it is on", "function": "what it reads", "sender": "which sender", "decimals": "digits after the point", "low": "range low", "high": "range high",
    "bar_low": "bar low", "bar_high": "bar high", "unit": "unit", "warn_low": "low warning", "warn_high": "high warning", "delay": "delay of the warning",
    "table": "the table", "pulses": "pulses", "fuel": "fuel", "backlight": "backlight", "note": "something of its own",
}  # fmt: skip
assert set(ASKS) == set(get_args(Asks))


class EntryForm(forms.Form):
    """An entry of a menu, in the menu's own word."""

    name = forms.CharField(label="Its word in the menu", max_length=120)
    asks = forms.ChoiceField(label="asks", choices=list(ASKS.items()))
    each = forms.ChoiceField(
        label="once", choices=[("input", "for each input"), ("display", "for the display")]
    )
    choices = forms.CharField(
        label="Words it takes",
        required=False,
        max_length=300,
        help_text="with commas between; any where empty",
    )
    digits = forms.IntegerField(label="Digits after the point", required=False, min_value=0, max_value=4)


class InputForm(forms.Form):
    """An input of a display: what it reads, by which parts, and what its table takes."""

    kind = forms.ChoiceField(label="Reads", choices=KINDS)
    pull_up = QuantityField(RESISTANCE, "ohm", label="Pull-up", required=False, low=1, high=1e7)
    pull_up_tolerance = NumberField(label="± %", required=False, low=0, high=50)
    reference = QuantityField(VOLTAGE, "V", label="Reference", required=False, low=0.1, high=30)
    reference_tolerance = NumberField(label="± %", required=False, low=0, high=50)
    bits = forms.IntegerField(label="Converter, bits", required=False, min_value=4, max_value=24)
    input_ohm = QuantityField(
        RESISTANCE, "ohm", label="Loads the line with", required=False, low=1, high=1e12
    )
    rows = forms.IntegerField(label="Rows in its table", required=False, min_value=2, max_value=256)
    x_step = NumberField(label="comes in, in steps of", required=False, low=0)
    y_step = NumberField(label="shown, in steps of", required=False, low=0)
    first = forms.ChoiceField(label="Typed first", choices=[("x", "what comes in"), ("y", "what is shown")])
    limit = NumberField(label="Counts up to, Hz", required=False, low=1, high=1e6)
    couple = forms.ChoiceField(
        label="Thermocouple",
        required=False,
        choices=[("", "none"), *((t, f"type {t}") for t in ("K", "J", "N", "T"))],
    )

    @staticmethod
    def of(stage: Input) -> InputForm:
        """The form of an input as it stands."""
        words = {
            "pull_up_tolerance": stage.pull_up_tolerance_pct, "reference_tolerance": stage.reference_tolerance_pct, "x_step": stage.x_step or None, "y_step": stage.y_step or None,
            "limit": stage.limit_hz,
        }  # fmt: skip
        start = {name: "" if value is None else f"{value:g}" for name, value in words.items()}
        start |= {
            "pull_up": f"{stage.pull_up_ohm:g} ohm" if stage.pull_up_ohm else "",
            "reference": f"{stage.reference_v:g} V" if stage.reference_v else "",
        }
        start |= {
            "kind": stage.kind,
            "bits": stage.adc_bits,
            "rows": stage.rows,
            "first": stage.first,
            "couple": stage.couple or "",
            "input_ohm": f"{stage.input_ohm:g} ohm",
        }
        return InputForm(initial=start, auto_id=f"in-{stage.id}-%s".replace(" ", "-"))

    def stage(self, before: Input) -> Input:
        """The input as it was typed. Raises BadInput."""
        data = self.cleaned_data
        return replace(
            before, kind=data["kind"], pull_up_ohm=data["pull_up"], reference_v=data["reference"], adc_bits=data["bits"], input_ohm=data["input_ohm"] or before.input_ohm,
            pull_up_tolerance_pct=data["pull_up_tolerance"] or 0.0, reference_tolerance_pct=data["reference_tolerance"] or 0.0, rows=data["rows"],
            x_step=data["x_step"] or 0.0, y_step=data["y_step"] or 0.0, first=data["first"], limit_hz=data["limit"], couple=data["couple"] or None,
        )  # fmt: skip

    def names(self) -> dict[str, str]:
        """Where the core's complaints belong."""
        return {"pull_up_ohm": "pull_up", "reference_v": "reference", "adc_bits": "bits", "pin": "kind"}


@require_GET
def show(request: HttpRequest, job: int) -> HttpResponse:
    """One display's sheet."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = _display(look.job, request.GET.get("display", ""))
    stage = display.input_called(request.GET.get("input", "")) if display else None
    opened = {stage.id: InputForm.of(stage)} if stage else None
    return show_page(
        request,
        "scaling/menu.html",
        record,
        look,
        "scaling",
        **_context(request, look, display, opened=opened),
    )


@require_GET
def input_form(request: HttpRequest, job: int) -> HttpResponse:
    """The form of one input, fetched when it is opened."""
    record = record_for(request, job)
    display = _display(look_for(request, record).job, request.GET.get("display", ""))
    stage = display.input_called(request.GET.get("input", "")) if display else None
    if display is None or stage is None:
        raise Http404
    form = InputForm.of(stage)
    return render(
        request,
        "scaling/_input_form.html",
        {"record": record, "display": display, "stage": stage, "form": form},
    )


def _context(
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
        for d, i in services.inputs_for(job, channel)
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
        display = before.display(display_id)
        if display is None:
            raise BadInput("display", display_id, ", ".join(d.id for d in before.displays))
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

    return _acted(request, job, put, display_id)


@require_POST
def entry(request: HttpRequest, job: int) -> HttpResponse:
    """An entry more in the display's menu."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = _display(look.job, request.POST.get("display", ""))
    if display is None:
        raise Http404
    form = EntryForm(request.POST)

    def put(before: Job) -> Job:
        now = before.display(display.id)
        assert now is not None
        data = form.cleaned_data
        words = tuple(word.strip() for word in data["choices"].split(",") if word.strip())
        fresh = MenuEntry(data["name"], data["asks"], data["each"], words, data["digits"])
        rest = tuple(e for e in menu_of(now) if e.name != fresh.name)
        return replace(before, displays=replaced(before.displays, replace(now, menu=(*rest, fresh))))

    if kept(record, form, put):
        return redirect(page_at("scaling:menu", job, display=display.id))
    return show_page(
        request, "scaling/menu.html", record, look, "scaling", 422, **_context(request, look, display, form)
    )


@require_POST
def entry_remove(request: HttpRequest, job: int) -> HttpResponse:
    """An entry less, or the generic menu back."""
    display_id, name = request.POST.get("display", ""), request.POST.get("name", "")

    def put(before: Job) -> Job:
        display = before.display(display_id)
        if display is None:
            raise BadInput("display", display_id, ", ".join(d.id for d in before.displays))
        rest = tuple(e for e in menu_of(display) if e.name != name) if name else ()
        return replace(before, displays=replaced(before.displays, replace(display, menu=rest)))

    return _acted(request, job, put, display_id)


@require_POST
def input_save(request: HttpRequest, job: int) -> HttpResponse:
    """An input of the display as its maker describes it."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = _display(look.job, request.POST.get("display", ""))
    stage = display.input_called(request.POST.get("input", "")) if display else None
    if display is None or stage is None:
        raise Http404
    form = InputForm(request.POST, auto_id=f"in-{stage.id}-%s".replace(" ", "-"))

    def put(before: Job) -> Job:
        now = before.display(display.id)
        assert now is not None
        fresh = form.stage(stage)
        inputs = tuple(fresh if i.id == stage.id else i for i in now.inputs)
        return replace(before, displays=replaced(before.displays, replace(now, inputs=inputs)))

    if kept(record, form, put, form.names()):
        return redirect(page_at("scaling:menu", job, display=display.id))
    return show_page(
        request,
        "scaling/menu.html",
        record,
        look,
        "scaling",
        422,
        **_context(request, look, display, opened={stage.id: form}),
    )


@require_POST
def read_at(request: HttpRequest, job: int) -> HttpResponse:
    """A channel read at another input, of this display or another."""
    display_id, _, input_id = request.POST.get("at", "").partition("|")
    key = request.POST.get("channel", "")
    return _acted(
        request, job, lambda before: services.read_at(before, key, display_id, input_id), display_id
    )


@require_POST
def describe(request: HttpRequest, job: int) -> HttpResponse:
    """A display of the library described onto this one: its menu, and its inputs where they have the same pins."""
    display_id, name = request.POST.get("display", ""), request.POST.get("name", "")
    known = all_display_kits() | own_displays(request.workshop)

    def put(before: Job) -> Job:
        display = before.display(display_id)
        if display is None or name not in known:
            raise BadInput("name", name, "a display of the library")
        other = known[name]
        used = {c.input for c in before.channels if c.display == display_id}
        missing = used - {i.id for i in other.inputs} - {None}
        if missing:
            raise BadInput(
                "name",
                name,
                "a display with the inputs in use",
                f"'{name}' has no input {', '.join(sorted(map(str, missing)))}, which this job uses.",
            )
        wired = {
            end.terminal
            for w in before.conductors
            for end in (w.a, w.b)
            if end.kind == "display" and end.id == display_id
        }
        lost = wired - {p.id for p in other.pins}
        if lost:
            raise BadInput(
                "name",
                name,
                "a display with the pins in use",
                f"'{name}' has no pin {', '.join(sorted(lost))}, which is wired here.",
            )
        fresh = replace(
            other, id=display.id, name=display.name, firmware=display.firmware, set_up_on=display.set_up_on
        )
        return replace(before, displays=replaced(before.displays, fresh))

    return _acted(request, job, put, display_id)


@require_GET
def paper(request: HttpRequest, job: int) -> HttpResponse:
    """The sheet on paper."""
    record = record_for(request, job)
    look = look_for(request, record)
    display = _display(look.job, request.GET.get("display", ""))
    if display is None:
        raise Http404
    html = render_to_string("scaling/menu_paper.html", {"job": look.job, **_context(request, look, display)})
    answer = HttpResponse(pdf_of(html), content_type="application/pdf")
    answer["Content-Disposition"] = (
        f'attachment; filename="{slugify(f"{record.name} {display.name}") or "set-up"}-set-up.pdf"'
    )
    return answer


def _acted(request: HttpRequest, job: int, put: Callable[[Job], Job], display: str) -> HttpResponse:
    """One act, then the sheet of its display, the first sheet where there is no such display."""
    known = job_of(record_for(request, job)).display(display) is not None
    return act(request, job, put, "scaling:menu", display=display if known else "")


def _display(job: Job, key: str) -> Display | None:
    """A display of the job, the first for ''; 404 for any other."""
    if not key:
        return job.displays[0] if job.displays else None
    found = job.display(key)
    if found is None:
        raise Http404
    return found
