"""Words put into markup that is written straight."""

from __future__ import annotations

import html

from django.utils.safestring import SafeData

__all__ = ["escaped"]


def escaped(words: object) -> str:
    """Words made harmless in markup, in text and between double quotes; what is marked as markup stays.

    What Django's ``conditional_escape`` gives, without its care for words that are translated later: a page holds thousands.
    """
    text = str(words)
    return text if isinstance(text, SafeData) else html.escape(text)
