"""What is taken to the bench: wiring diagram, cut list, labels, reels."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import redirect
from django.template.loader import render_to_string
from django.utils.text import slugify
from django.views.decorators.http import require_safe

from metrolex.characters import whole_number
from metrolex.errors import BadInput
from metrolex.harness.cut_list import cut_list, label_for, purchases
from metrolex.harness.label_sheets import label_sheets, laid_out
from metrolex.intake import dump, read
from metrolex.job import Job, State
from metrolex.twin import build, solve
from metrolex.twin.point import facts_of
from workbench.harness import wires
from workbench.harness.wiring_drawing import WIDE, wiring_diagram, wiring_strips, wiring_svg
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import page_of_job, record_for, show_page, tell_refused
from workbench.jobs.state import state_of
from workbench.printing.papers import paper
from workbench.request import Request
from workbench.sheets import csv_answer


@require_safe
@page_of_job
def diagram(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The wiring diagram with its volts; ``?node=`` asks for one point of it."""
    node = request.GET.get("node", "")
    context: dict[str, Any] = {
        "tab": "diagram",
        "drawing": wiring_svg(look.network, look.state, clickable=True),
        "wires": wires.cut_list(look.solved),
        "facts": facts_of(look.network, look.state, node) if node else None,
    }
    return show_page(request, "harness/diagram.html", record, look, "harness", **context)


@require_safe
@page_of_job
def diagram_file(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The diagram as an SVG file."""
    return _file(
        f"{_name(record)}-wiring-{look.state.key}.svg",
        str(wiring_diagram(look.job, look.solved)),
        "image/svg+xml",
    )


@require_safe
def diagram_pdf(request: Request, job: int) -> HttpResponse:
    """The diagram on one sheet of paper, with the cut list behind it."""
    record = record_for(request, job)
    state = state_of(request, record.pk)
    return DIAGRAM.sent(request, record, f"{_name(record)}-wiring-{state.key}.pdf", state=dump(state))


def _diagram_sheet(record: JobRecord, job: Job, *, state: Any) -> str:
    solved = solve(build(job), read(State, state))
    context = {
        "job": job,
        "state": solved.state,
        "strips": wiring_strips(solved.network, solved.state, WIDE),
        "wires": wires.cut_list(solved),
    }
    return render_to_string("harness/diagram_sheet.html", context)


DIAGRAM = paper("wiring", "The wiring", "harness:diagram_pdf", _diagram_sheet)


@require_safe
@page_of_job
def cut_list_file(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The cut list as CSV."""
    rows = []
    for cut in cut_list(look.job):
        w = cut.wire
        length = "" if cut.length_m is None else f"{cut.length_m:.2f}"
        rows.append(
            [
                w.id,
                cut.a,
                cut.b,
                f"{w.size:g}",
                w.system,
                w.look.colour,
                w.look.stripes,
                length,
                w.run or "",
                cut.a_terminal,
                cut.b_terminal,
                w.look.mark,
            ]
        )
    head = [
        "wire",
        "from",
        "to",
        "size",
        "system",
        "colour",
        "stripe",
        "length_m",
        "run",
        "terminal_from",
        "terminal_to",
        "mark",
    ]
    return csv_answer(f"{record.name or 'job'} cut list", head, rows)


@require_safe
@page_of_job
def reels_file(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """What to buy, as CSV."""
    rows = [
        [
            p.size,
            p.colour,
            p.stripe,
            f"{p.needed_m:.2f}",
            " + ".join(f"{m:g}" for m in p.reels_m),
            f"{sum(p.reels_m):g}",
        ]
        for p in purchases(look.job)
    ]
    return csv_answer(
        f"{record.name or 'job'} wire to buy",
        ["size", "colour", "stripe", "needed_m", "reels_m", "bought_m"],
        rows,
    )


@require_safe
def labels(request: Request, job: int) -> HttpResponse:
    """Labels for both ends of every wire: to cut out, or on a ``sheet`` of labels from its ``first`` free place on."""
    record = record_for(request, job)
    about: dict[str, Any] = {}
    if key := request.GET.get("sheet", ""):
        try:
            about = {"sheet": key, "first": _first_free(key, request.GET.get("first", ""))}
        except BadInput as fault:
            tell_refused(request, f"Wire labels: {fault.message}", request.GET.get("first", ""))
            return redirect("handover:show", job)
    return LABELS.sent(request, record, f"{_name(record)}-labels.pdf", **about)


def _first_free(key: str, typed: str) -> int:
    """The place of the first label on a sheet. Raises BadInput."""
    sheet = label_sheets().get(key)
    if sheet is None:
        raise BadInput("sheet", key, ", ".join(label_sheets()))
    first = whole_number(typed or "1")
    if first is None or not 1 <= first <= sheet.count:
        raise BadInput("first", typed, f"1 to {sheet.count}")
    return first


def _labels_sheet(record: JobRecord, job: Job, *, sheet: str = "", first: int = 1) -> str:
    rows = [label_for(cut, end) for cut in cut_list(job) for end in ("a", "b")]
    if not sheet:
        return render_to_string("harness/labels_sheet.html", {"job": job, "labels": rows})
    kind = label_sheets()[sheet]
    context = {"job": job, "sheet": kind, "pages": laid_out(kind, rows, first)}
    return render_to_string("harness/labels_bought.html", context)


LABELS = paper("labels", "The wire labels", "harness:labels", _labels_sheet)


def _name(record: JobRecord) -> str:
    return slugify(record.name) or "job"


def _file(name: str, content: str | bytes, kind: str) -> HttpResponse:
    return HttpResponse(
        content, content_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'}
    )
