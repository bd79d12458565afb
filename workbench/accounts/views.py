"""Log in: slowly from an address that tries many names."""

from __future__ import annotations

import datetime
import logging
from typing import Any

from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth.signals import user_logged_in
from django.contrib.auth.views import LoginView
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

from workbench.accounts.address import address_of
from workbench.accounts.models import Workshop
from workbench.accounts.zones import adopt_zone, zone_said

__all__ = ["LogIn"]

_LOG = logging.getLogger(__name__)


class LogIn(LoginView):
    """Django's, but for the address that tries one password over many names: it gets one try in a while."""

    template_name = "accounts/login.html"
    redirect_authenticated_user = True

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """A try."""
        if _must_wait(address_of(request)):
            answer = render(request, "accounts/slow.html", {"seconds": settings.LOGIN_PAUSE_S}, status=429)
            answer["Retry-After"] = str(settings.LOGIN_PAUSE_S)
            return answer
        return super().post(request, *args, **kwargs)


@receiver(user_logged_in)
def _zone_of_the_first(request: HttpRequest, user: Any, **_: Any) -> None:
    """A workshop with jobs from before it was asked is where its people log in."""
    for workshop in Workshop.objects.filter(memberships__user=user, zone="", jobs__isnull=False).distinct():
        adopt_zone(workshop, zone_said(request))


def _must_wait(address: str) -> bool:
    now = timezone.now()
    failed = AccessAttempt.objects.filter(
        ip_address=address, attempt_time__gt=now - settings.AXES_COOLOFF_TIME
    )
    names = failed.values("username").distinct().count()
    if names < settings.LOGIN_NAMES_MOST:
        return False
    last = failed.order_by("-attempt_time").values_list("attempt_time", flat=True)[0]
    waits: bool = now - last < datetime.timedelta(seconds=settings.LOGIN_PAUSE_S)
    if not waits:
        _LOG.warning("one address failed to log in by %d names", names)
    return waits
