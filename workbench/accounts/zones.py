"""Time zones: a workshop's, by which its hours of work and its days are; a person's, in which moments are shown.

The browser says where it is in a cookie (``static/js/theme.js``). Moments are stored as instants.
"""

from __future__ import annotations

import functools
import zoneinfo
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.utils import timezone

from metrolex.errors import BadInput
from workbench.accounts.models import Workshop
from workbench.request import Request

__all__ = [
    "COOKIE",
    "ZONES",
    "ZoneMiddleware",
    "adopt_zone",
    "set_zone",
    "zone_called",
    "zone_of",
    "zone_said",
]

COOKIE = "zone"
#: What can be chosen; the rest are older names of these.
ZONES = tuple(
    sorted(
        name
        for name in zoneinfo.available_timezones()
        if "/" in name and not name.startswith(("Etc/", "posix/", "right/"))
    )
)


@functools.lru_cache(maxsize=64)
def zone_called(name: str) -> zoneinfo.ZoneInfo | None:
    """The zone of a name; None for a name that is none.

    >>> zone_called("Pacific/Kiritimati"), zone_called("../etc/passwd"), zone_called("")
    (zoneinfo.ZoneInfo(key='Pacific/Kiritimati'), None, None)
    """
    return zoneinfo.ZoneInfo(name) if name in ZONES else None


def zone_of(workshop: Workshop | None) -> zoneinfo.ZoneInfo:
    """The zone of a workshop; UTC while it has said none."""
    return (zone_called(workshop.zone) if workshop else None) or zoneinfo.ZoneInfo("UTC")


def zone_said(request: HttpRequest) -> str:
    """The zone the browser says it is in; '' where it says none that there is."""
    name = request.COOKIES.get(COOKIE, "")
    return name if zone_called(name) else ""


def adopt_zone(workshop: Workshop, name: str) -> None:
    """Take a zone for a workshop that has none yet."""
    if zone_called(name) and not workshop.zone:
        Workshop.objects.filter(pk=workshop.pk, zone="").update(zone=name)
        workshop.zone = name


def set_zone(workshop: Workshop, name: str) -> None:
    """Another zone for a workshop: its hours and days are counted in it from now on. Raises BadInput."""
    if name != "UTC" and not zone_called(name):
        raise BadInput("zone", name, "a time zone", "There is no such time zone.")
    Workshop.objects.filter(pk=workshop.pk).update(zone=name)


class ZoneMiddleware:
    """Shows moments in the zone of whoever asks: their browser's, else the workshop's."""

    def __init__(self, get_response: Callable[[Request], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: Request) -> HttpResponse:
        timezone.activate(zone_called(zone_said(request)) or zone_of(request.workshop or None))
        try:
            return self.get_response(request)
        finally:
            timezone.deactivate()
