"""The few errors the core raises, each named after the user's problem."""

from __future__ import annotations

__all__ = ["BadInput", "CircuitError", "MetrolexError"]


class MetrolexError(Exception):
    """Base of every error the core raises on purpose."""


class BadInput(MetrolexError):
    """A value that cannot be meant: which field, what it was, what is allowed.

    ``field`` is the path of the key as the user wrote it (``runs[0].length_m``), ``input`` when
    the whole text is at fault.
    """

    def __init__(self, field: str, value: object, allowed: str, message: str = "") -> None:
        self.field = field
        self.value = value
        self.allowed = allowed
        self.message = message or f"Expected {allowed}, but got {_short(value)}."
        super().__init__(f"{field}: {self.message}")

    def within(self, path: str) -> BadInput:
        """The same complaint seen from one level further out."""
        if not path:
            return self
        joint = "" if self.field.startswith("[") or not self.field else "."
        return BadInput(f"{path}{joint}{self.field}", self.value, self.allowed, self.message)

    def as_dict(self) -> dict[str, object]:
        """The form the command line prints."""
        return {
            "field": self.field,
            "value": _plain(self.value),
            "allowed": self.allowed,
            "message": self.message,
        }


class CircuitError(MetrolexError):
    """A network that has no single answer, explained in words."""


def _short(value: object) -> str:
    text = repr(value)
    return text if len(text) <= 60 else text[:57] + "..."


def _plain(value: object) -> object:
    if isinstance(value, float) and not (abs(value) < float("inf")):
        return str(value)
    if isinstance(value, str) and len(value) > 200:
        return value[:200] + "…"
    return value if isinstance(value, (str, int, float, bool, type(None))) else _short(value)
