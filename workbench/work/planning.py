"""What goes round the steps: days and hours, ways to do it, own steps and changed ones, tools and parts, the quote."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.utils.text import slugify
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import work as acts
from metrolex.errors import BadInput, CircuitError
from metrolex.intake import dump
from metrolex.workorder.calendar import calendar_of_work
from metrolex.workorder.left import days_left
from metrolex.workorder.plan import MANY, plan_of_work, planned_steps, whole_steps
from metrolex.workorder.quote import actual_of, quote_of
from metrolex.workorder.schools import schools, ways_chosen
from metrolex.workorder.sheet import sheet_of_work
from workbench.accounts.roles import may_write, workshop_to_change
from workbench.accounts.zones import ZONES, set_zone, zone_of
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_also_of, record_for, show_page, tell_refused
from workbench.library.parts import keep_step, own_steps_of, remove
from workbench.request import Request
from workbench.work.forms import AlterForm, HoursForm, OwnStepForm
from workbench.work.goods_page import goods_of
from workbench.work.learned import factors_for, factors_in_words, noted_elsewhere
from workbench.work.page import hours_said, made_by_the_minute, made_of, moment_now
from workbench.work.papers import QUOTE, SHEET, TOOLS, at_for_paper

SIZES = {"A4": "A4", "letter": "Letter"}


def _page(
    request: Request,
    record: JobRecord,
    look: Look,
    template: str,
    made: Callable[[], dict[str, Any]],
    status: int = 200,
) -> HttpResponse:
    """A page of the work order; where the steps have no order it says why instead."""
    try:
        context = made()
    except (BadInput, CircuitError) as fault:
        context = {"problem": str(fault)}
    return show_page(request, template, record, look, "work", status, **context)


@require_safe
@page_also_of(made_by_the_minute)
def days(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The order cut into days, and the hours there is work."""
    return _days(request, record, look)


def _days(request: Request, record: JobRecord, look: Look, form: HoursForm | None = None) -> HttpResponse:
    hours = look.job.work_hours

    def made() -> dict[str, Any]:
        sheet = sheet_of_work(look.network, moment_now(record.workshop), factors_for(record))
        return {
            "tab": "days",
            "days": days_left(look.job, sheet, moment_now(record.workshop)),
            "form": form or HoursForm.of(hours),
            "zone": str(zone_of(record.workshop)),
            "zone_now": moment_now(record.workshop),
            "zones": ("UTC", *ZONES),
            "schools": [(one, dict(ways_chosen(hours))[one.key]) for one in schools()],
            "lost": hours_said(sheet.lost_min) if sheet.lost_min >= 1 else "",
        }

    return _page(request, record, look, "work/days.html", made, 422 if form else 200)


@require_POST
def hours(request: Request, job: int) -> HttpResponse:
    """When there is work."""
    record, form = record_for(request, job), HoursForm(request.POST, auto_id="hours-%s")
    if kept(request, record, form, lambda before: acts.set_hours(before, form.facts())):
        return redirect("work:days", job)
    return _days(request, record, look_for(request, record), form)


@require_POST
def zone(request: Request, job: int) -> HttpResponse:
    """The time zone of the workshop, for all its jobs."""
    record, name = record_for(request, job), request.POST.get("zone", "")
    try:
        may_write(request.member or None)
        set_zone(record.workshop, name)
    except BadInput as fault:
        messages.error(request, fault.message)
    return redirect("work:days", job)


@require_POST
def school(request: Request, job: int) -> HttpResponse:
    """Another way of a thing fitters do differently."""
    key, way = request.POST.get("school", ""), request.POST.get("way", "")
    return act(request, job, lambda before: acts.choose_school(before, key, way), "work:days")


@require_safe
@page_also_of(noted_elsewhere)
def compare(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """How long each way takes, the others as chosen."""

    def made() -> dict[str, Any]:
        factors, chosen = factors_for(record), ways_chosen(look.job.work_hours)
        rows = []
        for one in schools():
            for way in one.ways:
                ways = tuple((key, way.key if key == one.key else other) for key, other in chosen)
                planned = planned_steps(look.network, factors, ways)
                hours = hours_said(sum(step.step.minutes for step in planned))
                entries = None  # of a job of very many steps nobody waits for six orders
                if len(planned) <= MANY:
                    entries = sum(plan_of_work(look.network, factors, ways).ordered.setups.values())
                rows.append((one, way, dict(chosen)[one.key] == way.key, hours, entries))
        return {"tab": "days", "rows": rows}

    return _page(request, record, look, "work/compare.html", made)


@require_safe
@page_also_of(noted_elsewhere)
def steps(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Own steps, what is offered in the same teardown, what is changed of the steps the job makes."""
    return _steps(request, record, look)


def _steps(
    request: Request,
    record: JobRecord,
    look: Look,
    own: OwnStepForm | None = None,
    altered: AlterForm | None = None,
) -> HttpResponse:
    def made() -> dict[str, Any]:
        planned = whole_steps(look.network)
        changes = {one.step: one for one in look.job.altered_steps}
        chosen = request.GET.get("step", "") or (altered["step"].value() if altered else "")
        mine = {f"own {one.id}": one for one in look.job.own_steps}
        editing = mine.get(str(chosen))
        of_the_job = next((one for one in planned if one.key == chosen and not one.own), None)
        return {
            "tab": "steps",
            "own": [one for one in planned if one.own],
            "offered": acts.offered_maintenance(look.job),
            "form": own or OwnStepForm.of(planned, editing),
            "editing": editing,
            "planned": [one for one in planned if not one.own],
            "changed": set(changes),
            "altering": of_the_job,
            "alter": altered
            or (AlterForm.of(planned, of_the_job.key, changes.get(of_the_job.key)) if of_the_job else None),
            "library": own_steps_of(request.workshop),
            "opened": own is not None or editing is not None,
        }

    return _page(request, record, look, "work/steps.html", made, 422 if own or altered else 200)


@require_POST
def own_step(request: Request, job: int) -> HttpResponse:
    """A step of the fitter's own, new or changed."""
    record = record_for(request, job)
    look, key = look_for(request, record), request.POST.get("step", "")
    old = next((one for one in look.job.own_steps if one.id == key), None)
    form = OwnStepForm.of(whole_steps(look.network), old, request.POST)
    if kept(
        request, record, form, lambda before: acts.set_own_step(before, key if old else "", form.facts())
    ):
        return redirect("work:steps", job)
    return _steps(request, record, look_for(request, record), own=form)


@require_POST
def remove_own_step(request: Request, job: int) -> HttpResponse:
    """A step of the fitter's own taken out."""
    key = request.POST.get("step", "")
    return act(request, job, lambda before: acts.remove_own_step(before, key), "work:steps")


@require_POST
def alter(request: Request, job: int) -> HttpResponse:
    """What is changed of a step the job makes."""
    record = record_for(request, job)
    look, key = look_for(request, record), request.POST.get("step", "")
    old = next((one for one in look.job.altered_steps if one.step == key), None)
    form = AlterForm.of(whole_steps(look.network), key, old, request.POST)
    if kept(request, record, form, lambda before: acts.alter_step(before, key, form.facts())):
        return redirect("work:steps", job)
    return _steps(request, record, look_for(request, record), altered=form)


@require_POST
def maintenance(request: Request, job: int) -> HttpResponse:
    """Something offered in the same teardown made a step."""
    name = request.POST.get("name", "")
    return act(request, job, lambda before: acts.add_maintenance(before, name), "work:steps")


@require_POST
def to_library(request: Request, job: int) -> HttpResponse:
    """A step of the fitter's own kept for other jobs."""
    record, key = record_for(request, job), request.POST.get("step", "")
    one = next((own for own in look_for(request, record).job.own_steps if own.id == key), None)
    try:
        if one is None:
            raise BadInput("step", key, "a step of your own")
        keep_step(workshop_to_change(request), one)
    except BadInput as fault:
        tell_refused(request, fault.message)
    else:
        messages.success(request, f"{one.name}: in the library, for other jobs.")
    return redirect("work:steps", job)


@require_POST
def from_library(request: Request, job: int) -> HttpResponse:
    """A step of the library put into this job, or out of the library."""
    record_for(request, job)
    name = request.POST.get("name", "")
    found = own_steps_of(request.workshop).get(name)
    if request.POST.get("do") == "forget":
        try:
            remove(workshop_to_change(request), "step", name)
        except BadInput as fault:
            tell_refused(request, fault.message)
        return redirect("work:steps", job)
    if found is None:
        tell_refused(request, "That step is not in the library any more.")
        return redirect("work:steps", job)
    data = {key: value for key, value in dump(found).items() if key not in ("id", "after", "before")}
    return act(request, job, lambda before: acts.set_own_step(before, "", data), "work:steps")


@require_safe
@page_also_of(made_of)
def goods(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Tools by name and size, what is to be got before which step."""

    def made() -> dict[str, Any]:
        sheet = sheet_of_work(look.network, moment_now(record.workshop), factors_for(record))
        return {"tab": "goods", **goods_of(look.job, sheet)}

    return _page(request, record, look, "work/goods.html", made)


@require_POST
def have(request: Request, job: int) -> HttpResponse:
    """A tool or a small thing at hand, or not."""
    name, there = request.POST.get("name", ""), request.POST.get("have") == "yes"
    return act(request, job, lambda before: acts.have_tool(before, name, have=there), "work:goods")


@require_safe
@page_also_of(noted_elsewhere)
def quote(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """Hours with a band, and what was really worked."""

    def made() -> dict[str, Any]:
        factors = factors_for(record)
        return {
            "tab": "quote",
            "quote": quote_of(look.network, factors),
            "factors": factors,
            "factors_said": factors_in_words(factors),
            "worked_h": actual_of(look.job) / 60,
            "off": off_the_plan(look),
        }

    return _page(request, record, look, "work/quote.html", made)


def off_the_plan(look: Look) -> list[tuple[str, float, float]]:
    """Steps that took other than planned: (name, planned, really), furthest off first."""
    names = {one.key: one.step.name for one in planned_steps(look.network)}
    rows = [
        (names.get(one.step, one.step), one.usual, one.minutes)
        for one in look.job.work
        if one.state == "done" and one.minutes is not None and one.usual is not None
    ]
    return sorted(rows, key=lambda row: -abs(row[2] - row[1]))[:12]


@require_safe
def paper(request: Request, job: int, name: str) -> HttpResponse:
    """The job sheet, the tool list or the quote on paper."""
    record = record_for(request, job)
    wanted = {"sheet": SHEET, "tools": TOOLS, "quote": QUOTE}[name]
    size = request.GET.get("size", "")
    about: dict[str, Any] = {"size": size} if size in SIZES else {}
    about["factors"] = [list(pair) for pair in factors_for(record)]
    about["at"] = at_for_paper(record)
    return wanted.sent(request, record, f"{slugify(record.name) or 'job'}-{name}.pdf", **about)


@require_safe
def calendar(request: Request, job: int) -> HttpResponse:
    """The days of work, what rests, and the rechecks after the handing over, for a calendar."""
    record = record_for(request, job)
    look, at = look_for(request, record), moment_now(record.workshop)
    try:
        sheet = sheet_of_work(look.network, at, factors_for(record))
        file = calendar_of_work(
            look.job, sheet, days_left(look.job, sheet, at), timezone.now(), f"work-{record.pk}"
        )
    except (BadInput, CircuitError) as fault:
        tell_refused(request, str(fault))
        return redirect("work:show", job)
    name = f"{slugify(record.name) or 'job'}-work.ics"
    return HttpResponse(
        file,
        content_type="text/calendar; charset=utf-8",
        headers={"Content-Disposition": f'attachment; filename="{name}"'},
    )
