"""The signs of the states, drawn once in the sprite of every page."""

from __future__ import annotations

import functools

from django.utils.html import format_html
from django.utils.safestring import SafeString

__all__ = ["mark"]


@functools.lru_cache(256)
def mark(state: str, label: bool | str = False) -> SafeString:
    """The sign of a state, drawn once in the sprite, with its word for those who do not see it."""
    names = {
        "open": "open",
        "settled": "settled",
        "caution": "caution",
        "stop": "stop",
        "proved": "proved",
        "note": "note",
        "as expected": "proved",
        "off": "caution",
        "no figure": "open",
        "none": "none",
    }
    name = names.get(state, "open")
    if name == "none":
        return SafeString("")
    word = format_html(
        ' <span class="{}">{}</span>',
        "word" if label else "visually-hidden",
        label if isinstance(label, str) else state,
    )
    return format_html(
        '<svg class="sign {}" aria-hidden="true"><use href="#mark-{}"/></svg>{}', name, name, word
    )
