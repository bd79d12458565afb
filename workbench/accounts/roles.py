"""What a person's role lets them do."""

from __future__ import annotations

from django.http import Http404

from metrolex.errors import BadInput
from workbench.accounts.models import Membership, Workshop
from workbench.request import Request

__all__ = ["may_write", "workshop_to_change", "workshop_to_read"]


def may_write(by: Membership | None) -> None:
    """Raises BadInput for a reader; ``by`` None is the program itself."""
    if by is not None and by.role == Membership.Role.READER:
        raise BadInput(
            "job",
            None,
            "a fitter or a lead",
            "You may read here, but not change anything: ask a lead of the workshop.",
        )


def workshop_to_read(request: Request) -> Workshop:
    """The workshop this person looks at; 404 for a person of none."""
    if request.workshop is None:
        raise Http404
    return request.workshop


def workshop_to_change(request: Request) -> Workshop:
    """The workshop whose library this person changes. Raises BadInput for a reader."""
    may_write(request.member)
    return workshop_to_read(request)
