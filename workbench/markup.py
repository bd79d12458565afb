"""Words put into markup that is written straight."""

from __future__ import annotations

import html
import re

from django.utils.safestring import SafeData

__all__ = ["escaped", "id_part", "text_escaped"]

_TO_ESCAPE = re.compile("[&<>\"']").search


def id_part(key: str) -> str:
    """A record's key, as odd as it may be, as part of the id of an element that scripts and answers look for; two keys never give one."""
    return re.sub(r"[^0-9A-Za-z_-]", lambda odd: f".{ord(odd[0]):x}.", key)


def text_escaped(text: str) -> str:
    """Text made harmless in markup, whatever it says it is."""
    return text if _TO_ESCAPE(text) is None else html.escape(text)


def escaped(words: object) -> str:
    """Words made harmless in markup, in text and between double quotes; what is marked as markup stays.

    What Django's ``conditional_escape`` gives, without its care for words that are translated later: a page holds thousands.
    """
    text = str(words)
    return text if isinstance(text, SafeData) else text_escaped(text)
