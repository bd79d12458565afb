"""Headers of every answer: a page keeps to its own files and asks the device for nothing; what is of a job is kept by no cache."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

__all__ = ["SafeHeaders"]

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; font-src 'self'; "
    "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
)
#: Nothing of the device is used.
DEVICE = ", ".join(
    f"{thing}=()"
    for thing in (
        "camera",
        "geolocation",
        "gyroscope",
        "accelerometer",
        "magnetometer",
        "microphone",
        "midi",
        "payment",
        "usb",
    )
)


class SafeHeaders:
    """Adds them to every answer but static files."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault("Permissions-Policy", DEVICE)
        response.headers.setdefault("Cache-Control", "no-store")
        return response
