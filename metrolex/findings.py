"""What a rule says when it fires: grade, reason, the figure behind it and the way out."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import asdict, dataclass, replace
from typing import Literal

from metrolex.places import KEYS

__all__ = ["Finding", "Grade", "about", "worst_first"]

Grade = Literal["stop", "caution", "note"]
_ORDER = {"stop": 0, "caution": 1, "note": 2}


@dataclass(frozen=True, slots=True)
class Finding:
    """One rule that fired.

    ``code`` names the rule, ``subject`` the part of the job it speaks of, ``figure`` the number
    behind it (with its unit), ``remedy`` what to do. ``place`` is the stage of the job where the
    remedy is done, ``channel`` the id of the channel it holds up ('' where it is not one channel's). ``about`` is the thing it is about by
    kind and id, 'tap T3', where the subject is a name or another thing's id. ``final``: no reason takes one past it.
    """

    grade: Grade
    code: str
    subject: str
    reason: str
    figure: str = ""
    remedy: str = ""
    place: str = ""
    channel: str = ""
    about: str = ""
    final: bool = False

    @property
    def key(self) -> str:
        """What of the job it is about, and of no other thing of that rule: what a waiver holds on to."""
        return self.about or self.subject

    def __post_init__(self) -> None:
        if self.place not in KEYS:
            raise ValueError(f"{self.code}: there is no place '{self.place}'")

    def as_dict(self) -> dict[str, str]:
        """The form the command line prints: the six fixed keys, and the place and channel if known."""
        plain = asdict(self)
        del plain["final"]
        return {
            key: value for key, value in plain.items() if value or key not in ("place", "channel", "about")
        }


def about(part: str, findings: Iterable[Finding]) -> Iterator[Finding]:
    """The findings of one part of a job, by kind and id; those that name a part of their own keep it."""
    for finding in findings:
        yield finding if finding.about else replace(finding, about=part)


def worst_first(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """The findings in order of grade; within a grade as they came."""
    return tuple(sorted(findings, key=lambda finding: _ORDER[finding.grade]))
