"""Findings that speak of one place."""

from __future__ import annotations

from metrolex.findings import Finding, Grade

__all__ = ["Voice"]


class Voice:
    """Makes the findings of one place for one channel."""

    def __init__(self, subject: str, channel: str, about: str) -> None:
        self.subject, self.channel, self.about = subject, channel, about

    def __call__(self, grade: Grade, code: str, reason: str, figure: str, remedy: str) -> Finding:
        return Finding(grade, code, self.subject, reason, figure, remedy, "ports", self.channel, self.about)
