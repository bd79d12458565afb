"""Handing a job over: what it is held up by, a frozen version, what has been changed since."""

from __future__ import annotations

from typing import TypedDict

from django.db import IntegrityError, transaction
from django.db.models import Max
from django.utils import timezone

from metrolex.errors import BadInput
from metrolex.handover import Bar, bars_of, check_sum, since
from metrolex.jobfile import job_from_text, job_to_text
from workbench.accounts.models import Membership
from workbench.accounts.roles import may_write
from workbench.handover.models import Handed
from workbench.jobs.look import FIRST_SEEN, Look, look_at
from workbench.jobs.models import JobRecord

__all__ = ["HandedRow", "hand_over", "handed_of"]

_TRIES = 5


class HandedRow(TypedDict):
    """A handing over, and what is other today; only of the last one."""

    handed: Handed
    since: tuple[str, ...]


def hand_over(record: JobRecord, look: Look, by: Membership | None, to: str, reason: str) -> Handed:
    """Freeze the job as it stands. Raises BadInput: a reader, nobody to hand it to, bars without a reason, nothing new since the last time."""
    may_write(by)
    if not to.strip():
        raise BadInput("to", to, "who it is handed to")
    bars = bars_of(look.job, look_at(look.job, FIRST_SEEN).standing)
    final = next((bar for bar in bars if bar.final), None)
    if final is not None:
        raise BadInput(
            "to", to, "that put right first", f"{final.subject}: {final.reason} Put it right first."
        )
    if bars and not reason.strip():
        raise BadInput("reason", reason, "why it is handed over all the same", _why_asked(bars))
    text = job_to_text(look.job)
    summed = check_sum(job_from_text(text))
    last = Handed.objects.filter(record=record).first()
    if last is not None and last.check_sum == summed and last.to == to.strip():
        raise BadInput(
            "to",
            to,
            "something new",
            f"This very job was handed to {last.to} already, as version {last.number}.",
        )
    for _ in range(_TRIES):
        number = (Handed.objects.filter(record=record).aggregate(last=Max("number"))["last"] or 0) + 1
        try:
            with transaction.atomic():
                handed = Handed.objects.create(
                    record=record,
                    number=number,
                    by=by.user if by else None,
                    by_name=by.name if by else "",
                    to=to.strip(),
                    reason=reason.strip() if bars else "",
                    passed=[f"{bar.subject}: {bar.reason}" for bar in bars],
                    version=record.version,
                    check_sum=summed,
                    job_file=text,
                )
                JobRecord.objects.filter(pk=record.pk).update(updated=timezone.now())  # its pages show it
                return handed
        except IntegrityError:  # another hand took that number
            continue
    raise BadInput("to", to, "a quiet moment", "Somebody else is handing this job over just now: look again.")


def _why_asked(bars: tuple[Bar, ...]) -> str:
    many = f"{len(bars)} things bar" if len(bars) > 1 else "One thing bars"
    return f"{many} the handing over. Put it right, or write down why it is handed over all the same."


def handed_of(record: JobRecord, look: Look) -> list[HandedRow]:
    """Every handing over of a job, the last one first with what was changed since."""
    rows: list[HandedRow] = [
        {"handed": one, "since": ()} for one in Handed.objects.filter(record=record).defer("job_file")
    ]
    if rows:
        rows[0]["since"] = since(rows[0]["handed"].job, look.job)
    return rows
