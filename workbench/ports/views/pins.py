"""Where each sender goes in: the path with its pins, places compared, facts, fittings, section."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any, TypedDict

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils.safestring import SafeString
from django.views.decorators.http import require_POST, require_safe

from metrolex.acts import ports as acts
from metrolex.errors import BadInput
from metrolex.fittings.fitting import Fitting
from metrolex.job import Display, FlowPath, Job, MeasuringChain, Port, Sender
from metrolex.job.changes import Path
from metrolex.ports.assembly import MadeJoint, joints_made
from metrolex.ports.compare import (
    CRITERIA,
    PRESETS,
    Candidate,
    candidates_for,
    weights_of,
    why_first,
)
from metrolex.ports.facts import Facts, facts_of, hanging_on, senders_in
from metrolex.ports.paths import beside_words
from metrolex.ports.places import places_for
from metrolex.ports.practices import Topic, practice_of, topic_called, topics_for
from metrolex.ports.rules import lambda_practice
from metrolex.ports.section import Section, section_of
from metrolex.ports.zones import zones_of
from metrolex.quantities import parse_number
from workbench.jobs.fields import as_typed, refuse
from workbench.jobs.look import Look
from workbench.jobs.models import JobRecord
from workbench.jobs.name_ends import NAME_ENDS
from workbench.jobs.pages import (
    act,
    at_channel,
    carry_out,
    channel_or_404,
    kept,
    look_for,
    page_at,
    page_of_job,
    record_for,
    show_page,
)
from workbench.library.parts import own_senders
from workbench.library.services import Library, library_of
from workbench.ports.forms import AntennaForm, PinForm, PortForm, WeightsForm
from workbench.ports.path_drawing import path_drawing
from workbench.ports.section_drawing import section_drawing
from workbench.ports.views.readers import ReaderForm, joints_of
from workbench.request import Request


@require_safe
@page_of_job
def show(request: Request, record: JobRecord, look: Look) -> HttpResponse:
    """The places for one channel, drawn along their path and compared."""
    channel = channel_or_404(look, request.GET.get("channel", ""))
    context = _context(look, channel, library_of(request.workshop), request.GET.get("pin", ""))
    return show_page(request, "ports/show.html", record, look, "ports", **context)


class PlacesPage(TypedDict, total=False):
    """The places for one channel compared, and the way in at the one looked at; a job without channels has none of it."""

    channel: MeasuringChain | None
    tab: str
    sender: Sender | None
    marks: tuple[str, ...]
    body_name: str
    kits: tuple[str, ...]
    chosen_kit: str
    kit_for_it: str
    antenna_form: AntennaForm | None
    own_lead: Display | None
    reader_form: ReaderForm
    reader_joints: list[dict[str, Any]]
    candidates: Sequence[Candidate]
    criteria: Mapping[str, str]
    why_first: str
    at: Candidate | None
    presets: Mapping[str, Mapping[str, float]]
    wants_path: bool
    weights: WeightsForm
    preset_now: str
    practices: list[dict[str, Any]]
    drawings: list[SafeString]
    form: PortForm | None
    form_open: bool
    pin_form: PinForm
    pin_open: bool
    facts: Facts
    section: Section | None
    joints: tuple[MadeJoint, ...]
    offered: bool
    stock: frozenset[str]
    chain: tuple[Fitting, ...]
    options: tuple[Fitting, ...]
    library_size: int
    section_svg: SafeString | str


def _context(
    look: Look,
    channel: MeasuringChain | None,
    library: Library,
    pin: str = "",
    form: PortForm | None = None,
    pin_form: PinForm | None = None,
) -> PlacesPage:
    if channel is None:
        return {"channel": None}
    job, sender = look.job, look.job.sender(channel.sender)
    found = candidates_for(job, channel, library.fittings)
    at = next((c for c in found if c.port.id == pin), None) or next(
        (c for c in found if c.chosen), found[0] if found else None
    )
    under = (job.path(c.port.spot.path) for c in found)
    kinds = {place.path for place in places_for(channel.measurand)} | {path.kind for path in under if path}
    paths = [path for path in job.paths if path.kind in kinds]
    return {
        "channel": channel,
        "tab": "places",
        "sender": sender,
        "marks": NAME_ENDS,
        "body_name": host.called if sender and (host := job.sender(sender.in_body)) else "",
        "kits": acts.offered_senders(look.job, channel, library.senders),
        "chosen_kit": acts.chosen_choice(look.job, channel, library.senders),
        "kit_for_it": acts.suggested_sender(job, channel, at.port, library.fittings, library.senders)
        if at
        else "",
        "antenna_form": AntennaForm.of(job.bus.antenna) if channel.source == "gps" else None,
        "own_lead": _own_lead(job, channel),
        "reader_form": ReaderForm(auto_id="reader-%s"),
        "reader_joints": joints_of(job, channel),
        "candidates": found,
        "criteria": CRITERIA,
        "why_first": why_first(found),
        "at": at,
        "presets": PRESETS,
        "wants_path": bool(kinds - {""}) and not paths,
        "weights": WeightsForm(initial={name: as_typed(value) for name, value in weights_of(job).items()}),
        "preset_now": next((name for name, w in PRESETS.items() if w == weights_of(job)), ""),
        "practices": [{"topic": t, "now": practice_of(job, t.key)} for t in _topics(job, channel, at)],
        "drawings": [_drawn(job, channel, path, found, at) for path in paths],
        "form": form or (_facts_form(job, channel, at) if at else None),
        "form_open": form is not None,
        "pin_form": pin_form or PinForm(paths=paths, initial={"path": paths[0].id if paths else ""}),
        "pin_open": pin_form is not None,
        **(_way_in(job, channel, at, sender, library) if at else {}),
    }


def _own_lead(job: Job, channel: MeasuringChain) -> Display | None:
    """The box or display a sender plugs into by its maker's lead."""
    reader, stage = job.sender_wired_to(channel)
    return reader if stage is not None and stage.kind == "own_lead" else None


def _drawn(
    job: Job, channel: MeasuringChain, path: FlowPath, found: Sequence[Candidate], at: Candidate | None
) -> SafeString:
    return path_drawing(
        path,
        zones_of(channel.measurand, path, job.paths, lambda_practice(job)),
        found,
        at.port.id if at else "",
        beside=beside_words(path, job.paths),
        others=hanging_on(job, path, but=channel),
    )


def _facts_form(job: Job, channel: MeasuringChain, at: Candidate) -> PortForm:
    return PortForm(initial=PortForm.start(at.port, facts_of(job, channel, at.port)), paths=job.paths)


def _topics(job: Job, channel: MeasuringChain, at: Candidate | None) -> list[Topic]:
    found = list(topics_for(job, channel.measurand))
    entry = at.port.spot.entry if at else None
    found += [topic_called("tap_drill")] if entry == "drilled" else []
    return found + ([topic_called("compression_turns")] if entry == "cut_line" else [])


def _way_in(
    job: Job, channel: MeasuringChain, at: Candidate, sender: Sender | None, library: Library
) -> PlacesPage:
    """The chain at the place looked at: the one chosen, else the best that the library offers."""
    port, facts = at.port, facts_of(job, channel, at.port)
    shown = port if port.stack or not at.fittings else replace(port, stack=at.fittings)
    section = _section(job, channel, shown, sender)
    return {
        "facts": facts,
        "section": section,
        "joints": joints_made(job, channel, shown, section) if section else (),
        "offered": not port.stack and bool(at.fittings),
        "stock": library.stock,
        "chain": shown.stack,
        "options": acts.fitting_options(port, library.fittings)[:80],
        "library_size": len(library.fittings),
        "section_svg": section_drawing(
            section,
            facts.material,
            f"Section at {at.letter}",
            beside=[c.name for c in senders_in(job, port) if c.sender != channel.sender],
        )
        if section and section.stack.found
        else "",
    }


def _section(job: Job, channel: MeasuringChain, port: Port, sender: Sender | None) -> Section | None:
    if sender is None or not sender.body.thread or not port.thread:
        return None
    try:
        return section_of(job, channel, port, sender)
    except BadInput:
        return None


@require_safe
def verdict(request: Request, job: int) -> HttpResponse:
    """What a pin would be told at a distance: nothing is stored."""
    _, look, channel = at_channel(request, job)
    try:
        after = acts.move_pin(
            look.job, channel.id, request.GET.get("pin", ""), parse_number(request.GET.get("at", ""))
        )
    except BadInput as fault:
        return render(request, "ports/_verdict.html", {"problem": fault.message}, status=200)
    pin = request.GET.get("pin", "")
    at = next(
        (
            c
            for c in candidates_for(after, channel, library_of(request.workshop).fittings)
            if c.port.id == pin
        ),
        None,
    )
    return render(request, "ports/_verdict.html", {"at": at})


@require_POST
def move(request: Request, job: int) -> HttpResponse:
    """Leave a pin where it was dragged to."""
    pin, at = request.POST.get("pin", ""), request.POST.get("at", "")
    return _act(request, job, lambda before, key: acts.move_pin(before, key, pin, parse_number(at)), pin)


@require_POST
def add(request: Request, job: int) -> HttpResponse:
    """A place of the fitter's own."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    look = look_for(request, record)
    form = PinForm(request.POST, paths=look.job.paths)
    if form.is_valid():
        clean = form.cleaned_data
        try:
            carry_out(
                request,
                record,
                lambda before: acts.add_pin(before, key, clean["name"], clean["path"], clean["at_m"]),
            )
            return redirect(page_at("ports:show", job, channel=key))
        except BadInput as fault:
            refuse(form, fault)
    channel = channel_or_404(look, key)
    return show_page(
        request,
        "ports/show.html",
        record,
        look,
        "ports",
        422,
        **_context(look, channel, library_of(request.workshop), pin_form=form),
    )


@require_POST
def remove(request: Request, job: int) -> HttpResponse:
    """Take a place that was only considered off the list."""
    pin = request.POST.get("pin", "")
    return _act(request, job, lambda before, key: acts.remove_pin(before, key, pin))


@require_POST
def sender(request: Request, job: int) -> HttpResponse:
    """Choose a sender."""
    kit, own = request.POST.get("kit", ""), own_senders(request.workshop)
    return _act(
        request,
        job,
        lambda before, key: acts.choose_sender(before, key, kit, own),
        request.POST.get("pin", ""),
        acts.parts_of_choice,
    )


@require_POST
def place(request: Request, job: int) -> HttpResponse:
    """Place, sender and way in, in one act."""
    library, pin, kit = library_of(request.workshop), request.POST.get("pin", ""), request.POST.get("kit", "")

    def settled(before: Job, key: str) -> Job:
        return acts.settle_place(before, key, pin, kit, library.fittings, library.stock, library.senders)

    return _act(request, job, settled, pin)


@require_POST
def mark(request: Request, job: int) -> HttpResponse:
    """What tells a sender from its like."""
    words, key = request.POST.get("mark", ""), request.POST.get("channel", "")
    pin = request.POST.get("pin", "")
    return act(
        request, job, lambda before: acts.mark_sender(before, key, words), "ports:show", typed=words, pin=pin
    )


@require_POST
def antenna(request: Request, job: int) -> HttpResponse:
    """Where the GPS antenna sits."""
    record, key = record_for(request, job), request.POST.get("channel", "")
    form = AntennaForm(request.POST, auto_id="antenna-%s")
    if kept(request, record, form, lambda before: acts.set_antenna(before, form.cleaned_data)):
        return redirect(page_at("ports:show", job, channel=key))
    look = look_for(request, record)
    context = _context(look, channel_or_404(look, key), library_of(request.workshop))
    return show_page(
        request, "ports/show.html", record, look, "ports", 422, **(context | {"antenna_form": form})
    )


@require_POST
def facts(request: Request, job: int) -> HttpResponse:
    """What was found at a place."""
    record, key, pin = record_for(request, job), request.POST.get("channel", ""), request.POST.get("pin", "")
    look = look_for(request, record)
    form = PortForm(request.POST, paths=look.job.paths)
    if form.is_valid():
        try:
            carry_out(request, record, lambda before: acts.set_port_facts(before, key, pin, form.facts()))
            return redirect(page_at("ports:show", job, channel=key, pin=pin))
        except BadInput as fault:
            refuse(form, fault, {"pin": ""})
    channel = channel_or_404(look, key)
    context = _context(look, channel, library_of(request.workshop), pin, form)
    return show_page(request, "ports/show.html", record, look, "ports", 422, **context)


@require_POST
def stack(request: Request, job: int) -> HttpResponse:
    """The chain of fittings: the best one taken, one put on, one off."""
    pin, do, name = (request.POST.get(word, "") for word in ("pin", "do", "name"))
    library = library_of(request.workshop)

    def edit(before: Job, key: str) -> Job:
        if do == "best":
            return acts.solve_way_in(before, key, pin, library.fittings, library.stock)
        return acts.change_stack(before, key, pin, do, name, library.fittings)

    return _act(request, job, edit, pin)


@require_POST
def weights(request: Request, job: int) -> HttpResponse:
    """What counts when places are compared."""
    preset = PRESETS.get(request.POST.get("preset", ""))
    form = WeightsForm(request.POST)

    def edit(before: Job, _key: str) -> Job:
        if preset is not None:
            return acts.set_weights(before, preset)
        if not form.is_valid():
            raise BadInput("weights", None, "0 to 5", "Each criterion counts from 0 to 5.")
        return acts.set_weights(before, form.cleaned_data)

    return _act(request, job, edit, request.POST.get("pin", ""))


@require_POST
def practice(request: Request, job: int) -> HttpResponse:
    """The practice followed where practitioners disagree."""
    topic, chosen = request.POST.get("topic", ""), request.POST.get("practice", "")
    return _act(
        request,
        job,
        lambda before, _key: acts.choose_practice(before, topic, chosen),
        request.POST.get("pin", ""),
    )


def _act(
    request: Request,
    job: int,
    edit: Callable[[Job, str], Job],
    pin: str = "",
    as_one: Callable[[Job, str], Sequence[Path]] = lambda job, key: (),
) -> HttpResponse:
    key = request.POST.get("channel", "")
    return act(
        request,
        job,
        lambda before: edit(before, key),
        "ports:show",
        as_one=lambda before: as_one(before, key),
        pin=pin,
    )
