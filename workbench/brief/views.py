"""Plan, survey, cluster inventory, shopping list."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from metrolex.acts import brief as acts
from metrolex.brief.planner import aims, needs_of, propose, sources_for
from metrolex.brief.shopping import shopping_list
from metrolex.brief.survey import cluster_facts, new_lamps, start_inventory
from metrolex.errors import BadInput
from metrolex.job import Job
from workbench.brief.forms import KitForm, SurveyForm
from workbench.jobs.fields import as_typed, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, carry_out, look_for, page_at, page_of_job, record_for, show_page
from workbench.request import Request
from workbench.sheets import csv_answer


@require_safe
@page_of_job
def plan(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What the owner fears or wants, the channels it takes, where each signal comes from."""
    rows = [
        {
            "channel": channel,
            "sources": sources_for(look.job, channel.measurand),
            "needs": needs_of(look.job, channel.measurand),
        }
        for channel in look.job.measured
    ]
    proposals = propose(look.job)
    chosen = [s for row in rows for s in row["sources"] if s.key == row["channel"].source]  # type: ignore[attr-defined]
    return show_page(
        request,
        "brief/plan.html",
        record,
        look,
        "brief",
        tab="plan",
        aims=aims(),
        proposals=proposals,
        rows=rows,
        hours=sum(s.hours for s in chosen),
        holes=sum(s.holes for s in chosen),
        missing=sum(not proposal.there for proposal in proposals),
    )


@require_POST
def set_aims(request: Request, job: int) -> HttpResponse:
    """What the owner fears or wants."""
    wanted = request.POST.getlist("aim")
    return act(request, job, lambda before: acts.set_aims(before, wanted), "brief:plan")


@require_POST
def add_proposed(request: Request, job: int) -> HttpResponse:
    """All channels proposed."""
    return act(request, job, acts.add_proposed, "brief:plan")


@require_POST
def source(request: Request, job: int) -> HttpResponse:
    """Where a channel's signal comes from."""
    key, chosen = request.POST.get("channel", ""), request.POST.get("source", "")
    return act(request, job, lambda before: acts.choose_source(before, key, chosen), "brief:plan")


@require_POST
def answer(request: Request, job: int) -> HttpResponse:
    """Whether the vehicle has what a channel needs."""
    word, there = request.POST.get("word", ""), request.POST.get("there", "")
    return act(request, job, lambda before: acts.answer(before, word, there), "brief:plan")


@require_http_methods(["GET", "HEAD", "POST"])
@page_of_job
def survey(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The vehicle before anyone touches it, and the same look at handover."""
    form = SurveyForm(
        request.POST or None, initial=SurveyForm.start(look.job.survey, look.job.vehicle.electrics.state)
    )
    if request.method == "POST" and form.is_valid():
        try:
            carry_out(request, record, lambda before: _with_survey(before, form))
            messages.success(request, "Survey saved.")
            return redirect(page_at("brief:survey", record.pk))
        except BadInput as fault:
            refuse(form, fault)
    return show_page(
        request,
        "brief/survey.html",
        record,
        look,
        "brief",
        422 if form.is_bound else 200,
        form=form,
        tab="survey",
        new_lamps=new_lamps(look.job),
    )


def _with_survey(job: Job, form: SurveyForm) -> Job:
    data = form.data_of()
    return acts.measure_vehicle(acts.set_survey(job, data), form.volts(), data["day"])


@require_safe
@page_of_job
def cluster(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What the factory cluster tells, and where each of it will come from."""
    keep = {fact.key for fact in cluster_facts() if fact.keep}
    rows = [{"item": item, "keep": item.function in keep} for item in look.job.cluster]
    open_count = sum(not row["item"].comes_from for row in rows)  # type: ignore[attr-defined]
    return show_page(
        request,
        "brief/cluster.html",
        record,
        look,
        "brief",
        tab="cluster",
        rows=rows,
        open_count=open_count,
        choices=CHOICES,
    )


CHOICES = [
    ("", "not said yet"),
    ("display", "new display"),
    ("lamp", "lamp of its own"),
    ("kept", "old one stays"),
    ("lost", "lost"),
    ("never", "never had it"),
]


@require_POST
def cluster_start(request: Request, job: int) -> HttpResponse:
    """The factory cluster comes out: start the inventory; or it stays after all."""
    stays = request.POST.get("do") == "stay"
    return act(request, job, acts.stop_removing if stays else start_inventory, "brief:cluster")


@require_POST
def cluster_item(request: Request, job: int) -> HttpResponse:
    """Where one thing will come from; one thing more; one the vehicle never had."""
    do, key = request.POST.get("do", ""), request.POST.get("item", "")
    comes_from, how, name = (request.POST.get(word, "") for word in ("comes_from", "how", "name"))
    if do == "never":
        return act(request, job, lambda before: acts.never_had(before, key), "brief:cluster")
    if do == "add":
        return act(request, job, lambda before: acts.add_cluster_item(before, name), "brief:cluster")
    return act(request, job, lambda before: acts.set_cluster(before, key, comes_from, how), "brief:cluster")


@require_safe
@page_of_job
def shopping(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What the job needs against what is at hand."""
    return _shopping(request, record, look)


def _shopping(request: Request, record: JobRecord, look: Look, bad: KitForm | None = None) -> HttpResponse:
    items = shopping_list(look.job)
    rows = []
    for i, item in enumerate(items):
        refused = bad if bad is not None and bad.data.get("item") == item.key else None
        start = {"item": item.key, "have": as_typed(item.have), "price": as_typed(item.price)}
        fresh = KitForm(initial=start, auto_id=f"id_{i}_%s")
        typed = {
            "have": refused.data.get("have", "") if refused else f"{item.have:g}",
            "price": refused.data.get("price", "") if refused else as_typed(item.price),
        }
        rows.append({"item": item, "form": refused or fresh, "typed": typed})
    return show_page(
        request,
        "brief/shopping.html",
        record,
        look,
        "brief",
        422 if bad else 200,
        tab="shopping",
        rows=rows,
        buy=sum(item.buy > 0 for item in items),
    )


@require_POST
def kit(request: Request, job: int) -> HttpResponse:
    """How many of a thing are at hand."""
    record = record_for(request, job)
    form = KitForm(request.POST)
    if form.is_valid():
        try:
            carry_out(
                request,
                record,
                lambda before: acts.set_kit(
                    before,
                    form.cleaned_data["item"],
                    form.cleaned_data["have"] or 0.0,
                    form.cleaned_data["price"],
                ),
            )
            return redirect(page_at("brief:shopping", job))
        except BadInput as fault:
            refuse(form, fault)
    return _shopping(request, record, look_for(request, record), form)


@require_safe
def shopping_csv(request: Request, job: int) -> HttpResponse:
    """The list as CSV, one row a thing."""
    record = record_for(request, job)
    rows = [
        [
            item.group,
            item.name,
            as_typed(item.need),
            as_typed(item.have),
            as_typed(item.buy),
            item.unit,
            as_typed(item.price),
            "; ".join(item.used_for),
        ]
        for item in shopping_list(look_for(request, record).job)
    ]
    return csv_answer(
        f"{record.name} shopping",
        ["group", "thing", "need", "have", "buy", "unit", "price", "used for"],
        rows,
    )
