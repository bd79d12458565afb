"""Which workshop a request speaks for. No membership, no workshop, no records."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.utils.functional import SimpleLazyObject

from workbench.accounts.models import Membership


class WorkshopMiddleware:
    """Puts ``request.member`` there, the person's first membership or None, and ``request.workshop``, the one it is of."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        request.member = SimpleLazyObject(lambda: _member(request))
        request.workshop = SimpleLazyObject(lambda: request.member.workshop if request.member else None)
        return self.get_response(request)


def _member(request: HttpRequest) -> Membership | None:
    if not request.user.is_authenticated:
        return None
    return Membership.objects.select_related("workshop", "user").filter(user=request.user).first()
