"""Which characters a text may hold, and what counts as a whole number: asked at the one gate all data passes."""

from __future__ import annotations

import re

__all__ = ["unfit", "unprinted", "whole_number"]

#: Controls but tab and ends of line; halves of a pair; what Unicode says is no character.
_UNFIT = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\ud800-\udfff\ufdd0-\ufdef\ufffe\uffff]")


def unfit(text: str) -> str:
    """The first character of a text that nobody can mean, as its code ('U+0000'); '' where there is none.

    >>> unfit('Radio, left'), unfit('Ra' + chr(0) + 'dio')
    ('', 'U+0000')
    """
    found = _UNFIT.search(text)
    return f"U+{ord(found[0]):04X}" if found else ""


def unprinted(text: str, longest: int = 80) -> str:
    """A text with such characters left out, short enough for an error."""
    return _UNFIT.sub("\ufffd", text[:longest])


def whole_number(text: str) -> int | None:
    """A whole number in plain digits, at most nine of them; None for anything else: '²' and '٣' are no digits to us.

    >>> whole_number('12'), whole_number('²'), whole_number('9' * 5000)
    (12, None, None)
    """
    return int(text) if re.fullmatch("[0-9]{1,9}", text) else None
