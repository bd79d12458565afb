"""What a rule says when it fires: grade, reason, the figure behind it and the way out."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict, dataclass
from typing import Literal

from metrolex.places import KEYS

__all__ = ["Finding", "Grade", "worst_first"]

Grade = Literal["stop", "caution", "note"]
_ORDER = {"stop": 0, "caution": 1, "note": 2}


@dataclass(frozen=True, slots=True)
class Finding:
    """One rule that fired.

    ``code`` names the rule, ``subject`` the part of the job it speaks of, ``figure`` the number
    behind it (with its unit), ``remedy`` what to do. ``place`` is the stage of the job where the
    remedy is done, ``channel`` the id of the channel it holds up ('' where it is not one channel's).
    """

    grade: Grade
    code: str
    subject: str
    reason: str
    figure: str = ""
    remedy: str = ""
    place: str = ""
    channel: str = ""

    def __post_init__(self) -> None:
        if self.place not in KEYS:
            raise ValueError(f"{self.code}: there is no place '{self.place}'")

    def as_dict(self) -> dict[str, str]:
        """The form the command line prints: the six fixed keys, and the place and channel if known."""
        plain = asdict(self)
        return {key: value for key, value in plain.items() if value or key not in ("place", "channel")}


def worst_first(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """The findings in order of grade; within a grade as they came."""
    return tuple(sorted(findings, key=lambda finding: _ORDER[finding.grade]))
