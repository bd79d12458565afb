"""Switches and relays: what each is, what is on it, where it stands."""

from __future__ import annotations

from typing import TypedDict

from django.http import HttpResponse
from django.shortcuts import redirect
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import switches as acts
from metrolex.harness.cut_list import end_words
from metrolex.job import Conductor, End, Job, Switch
from metrolex.topology import topology_of
from metrolex.twin import Solved, addresses
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.pages import act, kept, look_for, page_at, page_of_job, record_for, show_page
from workbench.request import Request
from workbench.switches.forms import KINDS, IntoWireForm, ShareForm, SwitchForm


class TerminalRow(TypedDict):
    """A terminal, what stands there now, its wires with where each goes."""

    terminal: str
    volts: float | None
    wires: list[tuple[Conductor, str]]


class SwitchRow(TypedDict):
    """A switch, its kind in words, where it stands, its terminals, its form."""

    switch: Switch
    kind: str
    stands: str
    terminals: list[TerminalRow]
    form: SwitchForm


class SwitchesPage(TypedDict):
    """All switches of the job, and what can be added."""

    tab: str
    switches: list[SwitchRow]
    new_switch: SwitchForm
    into_form: IntoWireForm | None
    share_form: ShareForm | None


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """All of them."""
    return _page(request, record, look)


def _page(
    request: Request,
    record: JobRecord,
    look: Look,
    refused: SwitchForm | IntoWireForm | ShareForm | None = None,
) -> HttpResponse:
    job = look.job
    at = str(refused["switch"].value() or "") if isinstance(refused, SwitchForm) else None
    context: SwitchesPage = {
        "tab": "switches",
        "switches": [
            _row(job, look.solved, one, refused if isinstance(refused, SwitchForm) and at == one.id else None)
            for one in job.switches
        ],
        "new_switch": refused if isinstance(refused, SwitchForm) and not at else SwitchForm.new(),
        "into_form": refused
        if isinstance(refused, IntoWireForm)
        else IntoWireForm(job)
        if job.conductors
        else None,
        "share_form": refused
        if isinstance(refused, ShareForm)
        else ShareForm(job)
        if len(job.chains) > 1
        else None,
    }
    return show_page(
        request, "switches/show.html", record, look, "harness", 422 if refused else 200, **context
    )


def _row(job: Job, solved: Solved, switch: Switch, refused: SwitchForm | None) -> SwitchRow:
    wiring = topology_of(job)
    ends = [End("switch", switch.id, terminal) for terminal in switch.terminals]
    thrown = switch.id in (solved.pulled if switch.kind == "relay" else solved.state.thrown)
    return {
        "switch": switch,
        "kind": KINDS[switch.kind],
        "stands": switch.position(thrown=thrown),
        "terminals": [
            {
                "terminal": end.terminal,
                "volts": solved.volts(addresses.switch_node(switch.id, end.terminal)),
                "wires": [(wire, end_words(job, wiring.far_end(wire, end))) for wire in wiring.wires_at(end)],
            }
            for end in ends
        ],
        "form": refused or SwitchForm.of(switch),
    }


@require_POST
def save(request: Request, job: int) -> HttpResponse:
    """A switch as it is; one more where it names none."""
    record = record_for(request, job)
    form, key = SwitchForm.typed(request.POST), request.POST.get("switch", "")
    done = kept(
        request,
        record,
        form,
        lambda before: (
            acts.set_switch(before, key, form.facts()) if key else acts.add_switch(before, form.facts())
        ),
        {"positions": "thrown"},
    )
    return (
        redirect(page_at("switches:show", job))
        if done
        else _page(request, record, look_for(request, record), form)
    )


@require_POST
def into_wire(request: Request, job: int) -> HttpResponse:
    """A switch put into a wire."""
    record = record_for(request, job)
    look = look_for(request, record)
    form = IntoWireForm(look.job, request.POST)
    done = kept(
        request,
        record,
        form,
        lambda before: acts.into_wire(
            before,
            form.cleaned_data["wire"],
            form.facts(),
            form.cleaned_data["to_m"],
            form.cleaned_data["after_m"],
        ),
    )
    return redirect(page_at("switches:show", job)) if done else _page(request, record, look, form)


@require_POST
def share(request: Request, job: int) -> HttpResponse:
    """Two readings on one dial."""
    record = record_for(request, job)
    look = look_for(request, record)
    form = ShareForm(look.job, request.POST)
    done = kept(
        request,
        record,
        form,
        lambda before: acts.share_dial(
            before, form.cleaned_data["first"], form.cleaned_data["other"], form.cleaned_data["name"]
        ),
        {"channel": "first"},
    )
    return redirect(page_at("switches:show", job)) if done else _page(request, record, look, form)


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """A switch less; a wire it was put into is whole again."""
    key = request.POST.get("switch", "")
    return act(request, job, lambda before: acts.take_switch(before, key), "switches:show")
