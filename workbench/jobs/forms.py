"""Going past a finding, in writing."""

from __future__ import annotations

from django import forms


class WaiverForm(forms.Form):
    """Going past a stop: the reason is printed in the book."""

    code = forms.CharField(max_length=60, widget=forms.HiddenInput)
    subject = forms.CharField(max_length=120, widget=forms.HiddenInput)
    reason = forms.CharField(label="Why", max_length=2000, widget=forms.Textarea(attrs={"rows": 2}))
