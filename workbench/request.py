"""A request as the middleware hands it to a view."""

from __future__ import annotations

from typing import TYPE_CHECKING

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails

if TYPE_CHECKING:
    from workbench.accounts.models import Membership, Workshop
    from workbench.jobs.seen import Seen

__all__ = ["Request"]


class Request(HttpRequest):
    """``member`` is the person's place in the workshop they work for, ``workshop`` that workshop; both None for somebody of none.

    ``kept_typed`` says that the answer shows a form as it was typed, ``told`` of which clash the person is told in it,
    ``stored`` which version of a job was stored by it.
    """

    member: Membership | None
    workshop: Workshop | None
    htmx: HtmxDetails
    kept_typed: bool = False
    told: Seen | None = None
    stored: int | None = None
