"""What the command line needs to know of a calculation."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from metrolex.findings import Finding

__all__ = ["Calculation", "findings_out"]


@dataclass(frozen=True, slots=True)
class Calculation:
    """The dataclass a calculation reads, what it does, an input that works, the options it knows."""

    reads: type
    run: Callable[[Any, Sequence[str]], dict[str, Any] | str]
    example: dict[str, Any]
    flags: tuple[str, ...] = ()


def findings_out(findings: Sequence[Finding]) -> list[dict[str, str]]:
    """Findings as the command line prints them."""
    return [finding.as_dict() for finding in findings]
