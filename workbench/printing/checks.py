"""What a server is told before it prints: whether there is anything to print with."""

from __future__ import annotations

import shutil
from typing import Any

from django.conf import settings
from django.core.checks import CheckMessage, Warning, register

__all__ = ["browser_is_there"]


@register
def browser_is_there(app_configs: Any, **_: Any) -> list[CheckMessage]:
    """No paper comes without the program that prints."""
    if shutil.which(settings.PRINTING_BROWSER):
        return []
    return [
        Warning(
            f"'{settings.PRINTING_BROWSER}' is not installed: no paper can be printed.",
            hint="Install chromium-headless-shell, or name the program in METROLEX_PRINTING_BROWSER.",
            id="printing.W001",
        )
    ]
