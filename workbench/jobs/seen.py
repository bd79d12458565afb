"""Which version of a job a form was made from."""

from __future__ import annotations

from dataclasses import dataclass

from metrolex.characters import whole_number

__all__ = ["Seen"]


@dataclass(frozen=True, slots=True)
class Seen:
    """The version of a job a form was made from, and the last one whose clash the person has been told of since."""

    version: int
    told: int = 0

    @staticmethod
    def of(text: str) -> Seen | None:
        """What a form posts: '5', or '5.7' once told of version 7; None for anything else."""
        version, _, told = text.partition(".")
        seen = whole_number(version)
        return None if seen is None else Seen(seen, whole_number(told) or 0)

    def __str__(self) -> str:
        return f"{self.version}.{self.told}" if self.told else f"{self.version}"
