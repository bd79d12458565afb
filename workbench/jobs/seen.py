"""Which version of a job a form was made from, and what its page has stored since."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.characters import whole_number

__all__ = ["Seen"]

#: Of more versions its page stored beside others than this the rest counts as foreign: told, never laid over.
_MOST_OWN = 400


@dataclass(frozen=True, slots=True)
class Seen:
    """The version of a job a form was made from, the versions its own page stored since, and the last one whose clash was told.

    What counts is what the page had seen, not who saved: two pages of one person are two.
    """

    version: int
    own: frozenset[int] = frozenset()
    told: int = 0

    @staticmethod
    def of(text: str) -> Seen | None:
        """What a form posts: '5', '5+6+8' once its page stored versions 6 and 8, '5.7' once told of version 7; None for anything else."""
        held, _, told = text.partition(".")
        versions = [whole_number(word) for word in held.split("+")[: _MOST_OWN + 1]]
        if None in versions:
            return None
        version, *own = versions
        return Seen(version or 0, frozenset(n for n in own if n), whole_number(told) or 0)

    def __str__(self) -> str:
        held = "+".join(map(str, (self.version, *sorted(self.own))))
        return f"{held}.{self.told}" if self.told else held
