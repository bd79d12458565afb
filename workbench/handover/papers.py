"""The papers of Handover: the book, as it stands and as it was handed over, the owner's card, the label of the fuse box."""

from __future__ import annotations

import functools
import io
from typing import Any

import segno
from django.template.loader import render_to_string
from django.utils.safestring import SafeString, mark_safe

from metrolex.handover import rechecks_of, what_to_do, will_see
from metrolex.job import Job
from metrolex.scaling.reading import ends
from metrolex.twin.expected_table import expected_table
from workbench.handover.book import book_of, fuse_card
from workbench.handover.handing_over import handed_of
from workbench.handover.models import Handed
from workbench.jobs.look import FIRST_SEEN, Look, look_at
from workbench.jobs.models import JobRecord
from workbench.printing.papers import paper

__all__ = ["AS_HANDED", "BOOK", "CARD", "FUSES", "SETTINGS", "SIZES", "printed_book"]

#: Sizes of paper, the usual one first; words of CSS.
SIZES = ("A4", "letter")


def printed_book(record: JobRecord, look: Look, address: str, handed: Handed | None = None) -> dict[str, Any]:
    """What the book is made of beside the job; ``address`` is where its job stands, ``handed`` the handing over it is the book of."""
    rows = [] if handed else handed_of(record, look)
    return {
        **book_of(look),
        "address": address,
        "qr": _qr(address),
        "as_handed": handed,
        "last_handed": rows[0]["handed"] if rows else None,
        "since_handed": rows[0]["since"] if rows else (),
    }


def _book(record: JobRecord, job: Job, *, address: str, size: str = SIZES[0]) -> str:
    """The book of a job as it is first looked at, wherever somebody's key switch stands."""
    return _as_file(record, job, address, size, None)


def _as_handed(record: JobRecord, job: Job, *, number: int, address: str, size: str = SIZES[0]) -> str:
    handed = Handed.objects.get(record=record, number=number)
    return _as_file(record, handed.job, address, size, handed)


def _as_file(record: JobRecord, job: Job, address: str, size: str, handed: Handed | None) -> str:
    look = look_at(job, FIRST_SEEN)
    context = {
        "record": record,
        "look": look,
        "job": job,
        **printed_book(record, look, address, handed),
        "as_file": True,
        "size": size,
        "expected": expected_table(look.network),
    }
    return render_to_string("handover/book.html", context)


def _card(record: JobRecord, job: Job, *, size: str = SIZES[0]) -> str:
    """One page for whoever drives."""
    look = look_at(job, FIRST_SEEN)
    context = {
        "job": job,
        "workshop": record.workshop.name,
        "will_see": will_see(look.network),
        "warned": what_to_do(job),
        "fuse_card": fuse_card(job),
        "rechecks": rechecks_of(job),
        "last_handed": Handed.objects.filter(record=record).defer("job_file").first(),
        "size": size,
    }
    return render_to_string("handover/card.html", context)


def _fuses(record: JobRecord, job: Job, *, size: str = SIZES[0]) -> str:
    """A label for the lid of the fuse box, to cut out."""
    return render_to_string("handover/fuses.html", {"job": job, "fuse_card": fuse_card(job), "size": size})


def _settings(record: JobRecord, job: Job, *, size: str = SIZES[0]) -> str:
    """What is entered in each display, to enter it again."""
    return render_to_string("handover/settings.html", {"job": job, "sheets": _sheets(job), "size": size})


def _sheets(job: Job) -> list[dict[str, Any]]:
    """Each display with its entries and what it shows."""
    warned = what_to_do(job)
    found = []
    for display in job.displays:
        chains = [chain for chain in job.chains if chain.display == display.id]
        shown = [
            {
                "channel": chain,
                "low": ends(chain.scaling)[0],
                "high": ends(chain.scaling)[1],
                "warned": [one.level for one in warned if one.chain.id == chain.id],
            }
            for chain in chains
        ]
        entries = [one for one in job.settings if one.display == display.id]
        if shown or entries:
            found.append({"display": display, "settings": entries, "channels": shown})
    return found


BOOK = paper("book", "The book", "handover:book_pdf", _book)
AS_HANDED = paper("handed", "The book as it was handed over", "handover:show", _as_handed)
CARD = paper("card", "The owner's card", "handover:card_pdf", _card)
SETTINGS = paper("settings", "The settings sheet", "handover:settings_pdf", _settings)
FUSES = paper("fuses", "The label of the fuse box", "handover:fuses_pdf", _fuses)


@functools.lru_cache(256)
def _qr(address: str) -> SafeString:
    out = io.BytesIO()
    segno.make(address, error="m").save(
        out,
        kind="svg",
        xmldecl=False,
        svgns=True,
        scale=3,
        border=2,
        omitsize=True,
        svgclass="qr",
        lineclass=None,
    )
    return mark_safe(out.getvalue().decode())
