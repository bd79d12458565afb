"""What the log-in page may say."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.http import HttpRequest


def demo_login(request: HttpRequest) -> dict[str, Any]:
    """The demo's log-in, in demo settings only."""
    return {"demo_login": settings.DEMO_LOGIN}
