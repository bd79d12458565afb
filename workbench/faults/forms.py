"""What was found at a probe."""

from __future__ import annotations

import json
from typing import Any

from django import forms
from django.core.exceptions import ValidationError

__all__ = ["FoundForm"]


class FoundForm(forms.Form):
    """The figure or word found; ``probe`` tells where, as plain data the core reads."""

    found = forms.CharField(label="Found", max_length=40)
    probe = forms.CharField(max_length=2000, widget=forms.HiddenInput)

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **{"auto_id": "found-%s"} | kwargs)

    def clean_probe(self) -> dict[str, Any]:
        try:
            plain = json.loads(self.cleaned_data["probe"])
        except (ValueError, RecursionError):
            plain = None
        if not isinstance(plain, dict):
            raise ValidationError("This test is not there any more: reload the page.")
        return plain

    def reading(self) -> dict[str, Any]:
        """The probe as plain data of a reading; its value comes with the act."""
        return {**self.cleaned_data["probe"], "value": 0.0}
