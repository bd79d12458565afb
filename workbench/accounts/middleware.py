"""Which workshop a request speaks for. No membership, no workshop, no records."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.utils.functional import SimpleLazyObject

from workbench.accounts.models import Membership, Workshop


class WorkshopMiddleware:
    """Puts ``request.workshop`` there: the workshop of the person's first membership, or None."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.workshop = SimpleLazyObject(lambda: _workshop_of(request))
        return self.get_response(request)


def _workshop_of(request: HttpRequest) -> Workshop | None:
    if not request.user.is_authenticated:
        return None
    membership = Membership.objects.select_related("workshop").filter(user=request.user).first()
    return membership.workshop if membership else None
