"""Which version of a job a form was made from."""

from __future__ import annotations

from dataclasses import dataclass

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
        if not (version.isascii() and version.isdigit() and len(text) < 20):
            return None
        return Seen(int(version), int(told) if told.isascii() and told.isdigit() else 0)

    def __str__(self) -> str:
        return f"{self.version}.{self.told}" if self.told else f"{self.version}"
