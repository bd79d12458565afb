"""Pages that belong to no place: what a person sees when something is not there or went wrong."""

from __future__ import annotations

import sys
from typing import Any

from django.contrib.auth.decorators import login_not_required
from django.db import DatabaseError, InterfaceError, OperationalError, connection
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string
from django.views.decorators.http import require_safe

from workbench.pdf import NotPrinted


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
    if database_is_away(sys.exc_info()[1]):
        return no_database(request)
    if isinstance(sys.exc_info()[1], NotPrinted):
        words = "This paper could not be printed; nothing was changed, and what went wrong stands in the server's log. The page itself prints from your browser."
        return render(request, "problem.html", {"title": "Not printed", "words": words}, status=500)
    words = "Something went wrong on our side; nothing was changed. It has been written to the server's log."
    return render(request, "problem.html", {"title": "Our fault", "words": words}, status=500)


def no_database(request: HttpRequest) -> HttpResponse:
    """Said at once and without asking the database anything: in a page, or in words to a script."""
    words = "The database is not there just now; nothing was changed. Keep this page and send it again in a minute."
    if request.headers.get("HX-Request"):
        answer = HttpResponse(words, status=503, content_type="text/plain; charset=utf-8")
    else:
        answer = HttpResponse(
            render_to_string("problem.html", {"title": "Not just now", "words": words}), status=503
        )
    answer["Retry-After"] = "30"
    return answer


def database_is_away(fault: BaseException | None) -> bool:
    """Whether an error, or what led to it, is that the database could not be reached."""
    while fault is not None:
        if isinstance(fault, (OperationalError, InterfaceError)):
            return True
        fault = fault.__cause__ or fault.__context__
    return False


@login_not_required
@require_safe
def health(request: HttpRequest) -> HttpResponse:
    """For a balancer: 200 while the database answers, 503 while it does not."""
    try:
        with connection.cursor() as cursor:
            cursor.execute("SELECT 1")
    except DatabaseError:
        return HttpResponse("no database\n", status=503, content_type="text/plain")
    return HttpResponse("well\n", content_type="text/plain")
