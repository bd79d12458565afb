"""Pages that belong to no place: what a person sees when something is not there or went wrong."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render


def not_found(request: HttpRequest, exception: Any = None) -> HttpResponse:
    return render(
        request,
        "problem.html",
        {"title": "Not here", "words": "There is no such page in your workshop."},
        status=404,
    )


def bad_request(request: HttpRequest, exception: Any = None) -> HttpResponse:
    words = "The request could not be read. Go back, your page still holds what you typed."
    return render(request, "problem.html", {"title": "Not understood", "words": words}, status=400)


def forbidden(request: HttpRequest, exception: Any = None) -> HttpResponse:
    return render(
        request, "problem.html", {"title": "Not allowed", "words": "You may not do this here."}, status=403
    )


def csrf_failure(request: HttpRequest, reason: str = "") -> HttpResponse:
    words = "This page was open too long. Go back, reload it and send it again."
    return render(request, "problem.html", {"title": "Page out of date", "words": words}, status=403)


def server_error(request: HttpRequest) -> HttpResponse:
    words = "Something went wrong on our side; nothing was changed. It has been written to the server's log."
    return render(request, "problem.html", {"title": "Our fault", "words": words}, status=500)
