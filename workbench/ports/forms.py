"""What was found at the chosen place."""

from __future__ import annotations

from django import forms


class PortForm(forms.Form):
    """Facts of the chosen port on this vehicle."""

    name = forms.CharField(label="Place", max_length=120)
    thread = forms.CharField(
        label="Thread there", max_length=120, required=False, help_text="Like M12x1.5 or 1/8-27 NPT"
    )
    way_in = forms.CharField(
        label="Way in", max_length=120, required=False, help_text="Adapter, washer, sealant"
    )
    grounded = forms.BooleanField(label="Metal all the way to the engine", required=False)
    why = forms.CharField(
        label="Why here", max_length=2000, required=False, widget=forms.Textarea(attrs={"rows": 2})
    )
