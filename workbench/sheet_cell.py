"""One figure of a sheet: a form of its own in its cell, saved as it is left.

Written straight, as fields are (``form_renderer``): a sheet holds a hundred or more.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from django.utils.safestring import SafeString, mark_safe

from metrolex.quantities import typed
from workbench.markup import escaped

__all__ = ["SheetCell", "reading_typed"]


def reading_typed(reading: float | str | None) -> str:
    """A reading, in figures or in words, as it stands in its cell."""
    return reading if isinstance(reading, str) else typed(reading)


@dataclass(frozen=True, slots=True)
class SheetCell:
    """The figure ``typed`` in the field ``name``; ``sent`` with it is what tells which figure it is.

    ``label`` says it to who cannot see the sheet, ``wrong`` is the id of the element that says what is wrong with it. Enter goes from one to
    the next of the same ``walk``.
    """

    name: str
    typed: str
    label: str
    wrong: str
    sent: tuple[tuple[str, str], ...]
    keyboard: Literal["decimal", "text"] = "text"
    walk: str = ""

    def form(self, action: str, guards: SafeString) -> SafeString:
        """The form, posted to ``action`` with ``guards``, the hidden fields every form of the page carries; then what is wrong."""
        sent = "".join(
            f'<input type="hidden" name="{escaped(name)}" value="{escaped(value)}">'
            for name, value in self.sent
        )
        to, wrong = escaped(action), escaped(self.wrong)
        return mark_safe(
            f'<form hx-post="{to}" hx-trigger="change, submit" method="post" action="{to}">{guards}{sent}'
            f'<input class="figures" name="{escaped(self.name)}" value="{escaped(self.typed)}"'
            f' inputmode="{self.keyboard}" autocomplete="off" aria-label="{escaped(self.label)}"'
            f' aria-describedby="{wrong}" data-cell="{escaped(self.walk)}"></form><div class="error" id="{wrong}"></div>'
        )
