"""Which workshop a request speaks for. No membership, no workshop, no records."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from django.http import HttpResponse
from django.shortcuts import render
from django.utils.functional import SimpleLazyObject

from workbench.accounts.models import Membership, User, Workshop
from workbench.log import workshop_seen
from workbench.request import Request


class WorkshopMiddleware:
    """Puts ``request.member`` there, the person's first membership or None, and ``request.workshop``, the one it is of."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        request.member = cast(Membership | None, SimpleLazyObject(lambda: _member(request)))
        workshop = SimpleLazyObject(lambda: request.member.workshop if request.member else None)
        request.workshop = cast(Workshop | None, workshop)
        return self.get_response(request)

    def process_view(
        self, request: Request, view: Callable[..., HttpResponse], *_: object
    ) -> HttpResponse | None:
        """A person of no workshop is told what to do; nothing else here is for them but to log out."""
        if not getattr(view, "login_required", True):
            return None
        member = request.member or None  # a lazy None is not None
        if member is None:
            if request.resolver_match and request.resolver_match.app_name == "accounts":
                return None
            return render(request, "accounts/no_workshop.html", status=403)
        workshop_seen(member.workshop_id)
        return None


def _member(request: Request) -> Membership | None:
    return request.user.member if isinstance(request.user, User) else None
