"""Senders, displays and steps of work of a workshop's own, beside the generic ones."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from django.db import transaction

from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import Display, OwnStep, Sender, SetUp
from metrolex.kit import all_display_kits, all_sender_kits, sender_source
from workbench.accounts.models import Workshop
from workbench.jobs.models import Part
from workbench.library.models import ShelfPart

__all__ = [
    "ShelfDisplay",
    "ShelfSender",
    "displays_of",
    "keep",
    "keep_step",
    "own_displays",
    "own_senders",
    "own_steps_of",
    "remove",
    "senders_of",
]


@dataclass(frozen=True, slots=True)
class ShelfSender:
    """A sender to choose: generic or the workshop's own, where its curve comes from, in how many jobs it is used."""

    name: str
    sender: Sender
    own: bool
    source: str
    used_in: int


@dataclass(frozen=True, slots=True)
class ShelfDisplay:
    """A display to choose."""

    name: str
    display: Display
    own: bool
    used_in: int


def own_senders(workshop: Workshop | None) -> dict[str, Sender]:
    """The workshop's own senders by name."""
    return {
        row.name: read(Sender, row.body)
        for row in ShelfPart.objects.for_workshop(workshop).filter(kind="sender")
    }


def own_displays(workshop: Workshop | None) -> dict[str, Display]:
    """The workshop's own displays by name."""
    return {
        row.name: read(Display, row.body)
        for row in ShelfPart.objects.for_workshop(workshop).filter(kind="display")
    }


def senders_of(workshop: Workshop | None) -> tuple[ShelfSender, ...]:
    """Own senders first, then the generic ones."""
    used = _used(workshop, "senders")
    own = [
        ShelfSender(name, sender, True, "the workshop's own", used.get(name, 0))
        for name, sender in own_senders(workshop).items()
    ]
    return (
        *own,
        *(
            ShelfSender(name, sender, False, sender_source(name), used.get(name, 0))
            for name, sender in all_sender_kits().items()
        ),
    )


def displays_of(workshop: Workshop | None) -> tuple[ShelfDisplay, ...]:
    """Own displays first, then the generic ones."""
    used = _used(workshop, "displays")
    own = [
        ShelfDisplay(name, display, True, used.get(name, 0))
        for name, display in own_displays(workshop).items()
    ]
    return (
        *own,
        *(
            ShelfDisplay(name, display, False, used.get(name, 0))
            for name, display in all_display_kits().items()
        ),
    )


def _used(workshop: Workshop | None, kind: str) -> dict[str, int]:
    """In how many jobs of the workshop a part of each name stands."""
    if workshop is None:
        return {}
    found: dict[str, set[int]] = {}
    for job, body in Part.objects.filter(job__workshop=workshop, kind=kind).values_list("job_id", "body"):
        found.setdefault(body.get("name", ""), set()).add(job)
    return {name: len(jobs) for name, jobs in found.items()}


@transaction.atomic
def keep(workshop: Workshop, part: Sender | Display, name: str) -> str:
    """A sender or display of a job kept under a name; one of the same name is replaced. Raises BadInput."""
    words = name.strip()
    kind: Literal["sender", "display"] = "sender" if isinstance(part, Sender) else "display"
    if not words or len(words) > 120:
        raise BadInput("name", name[:120], "a name of 1 to 120 characters", "Give it a name to find it by.")
    generic = all_sender_kits() if kind == "sender" else all_display_kits()
    if words in generic:
        raise BadInput(
            "name",
            words,
            "a name no generic one has",
            f"'{words}' is a generic {kind}: give yours another name.",
        )
    clean = replace(part, id="kit", name=words)
    if isinstance(clean, Display):
        clean = replace(clean, set_up=SetUp())
    ShelfPart.objects.update_or_create(
        workshop=workshop, kind=kind, name=words, defaults={"body": dump(clean)}
    )
    return words


def own_steps_of(workshop: Workshop | None) -> dict[str, OwnStep]:
    """The workshop's own steps of work by name."""
    return {
        row.name: read(OwnStep, row.body)
        for row in ShelfPart.objects.for_workshop(workshop).filter(kind="step")
    }


def keep_step(workshop: Workshop, step: OwnStep) -> None:
    """A step of a job kept for other jobs, without what it comes after and before; one of the same name is replaced."""
    clean = replace(step, id="kit", after=(), before=())
    ShelfPart.objects.update_or_create(
        workshop=workshop, kind="step", name=step.name, defaults={"body": dump(clean)}
    )


@transaction.atomic
def remove(workshop: Workshop, kind: str, name: str) -> None:
    """One of the workshop's own out of the library. Raises BadInput for one that is not there."""
    gone, _ = ShelfPart.objects.for_workshop(workshop).filter(kind=kind, name=name).delete()
    if not gone:
        raise BadInput("name", name[:120], "a part of the workshop's own")
