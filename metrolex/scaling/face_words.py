"""The words a face is told by: what it shows, why, where on its scale it stands, a gear's letter.

A driver says 'dashes' or 'it stands at the top'; the display itself knows that its input is open. All of it may be written down.
"""

from __future__ import annotations

from collections.abc import Sequence

from metrolex.job import MeasuringChain
from metrolex.scaling.reading import Shown, ends

__all__ = ["FACE_WORDS", "LAMP_WORDS", "face_word", "face_words", "sayable", "word_meant"]

_TEXTS = {"--": "dashes", "- -": "flash"}
_STATES = {"above": "high", "below": "low"}
#: Words that can be said of any face.
LAMP_WORDS = ("live", "dead")  # of a test lamp, in place of volts
FACE_WORDS = ("dark", *_TEXTS.values(), *_STATES.values(), "open", "short")

_WRITTEN = {**_TEXTS, "flashes": "flash", "off": "dark", "shorted": "short", "ol": "open"}


def word_meant(text: str, said: Sequence[str]) -> str:
    """The word of ``said`` that was typed, as spelt there; '' for none.

    >>> word_meant("--", FACE_WORDS), word_meant("n", ("N",)), word_meant("OL", ("open",)), word_meant("12", FACE_WORDS)
    ('dashes', 'N', 'open', '')
    """
    known = {word.lower(): word for word in said}
    plain = text.strip().lower()
    return known.get(_WRITTEN.get(plain, plain), "")


def face_word(face: Shown) -> str:
    """The one word for a face that shows no number; a gear without a number is its own text.

    >>> face_word(Shown("--", None, "open")), face_word(Shown("N", None, "reading")), face_word(Shown("", None, "dark"))
    ('dashes', 'N', 'dark')
    """
    if face.state in ("dark", "reading"):
        return face.text if face.state == "reading" else "dark"
    return _TEXTS.get(face.text) or _STATES.get(face.state, face.state)


def face_words(face: Shown, chain: MeasuringChain) -> tuple[str, ...]:
    """All that may be said of a face as it stands; nothing of one that is not finished."""
    if face.state == "unfinished":
        return ()
    low, high = ends(chain.scaling)
    end = "" if face.value is None else "high" if face.value == high else "low" if face.value == low else ""
    state = "" if face.state == "reading" else _STATES.get(face.state, face.state)
    found = (_TEXTS.get(face.text, ""), state, end, face.text)
    return tuple(dict.fromkeys(filter(None, found)))


def sayable(chain: MeasuringChain | None) -> tuple[str, ...]:
    """Every word that can be written down of a chain's face: those of any face, and the letters of the gears it was taught."""
    gears = chain.gears if chain else ()
    return (*FACE_WORDS, *(gear.gear for gear in gears if not gear.gear.isdigit()))
