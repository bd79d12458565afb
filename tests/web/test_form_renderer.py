"""Fields written straight are the fields Django's own templates make."""

from __future__ import annotations

import re
from html.parser import HTMLParser

import pytest
from django import forms
from django.forms.renderers import TemplatesSetting

from workbench.form_renderer import Renderer


class Everything(forms.Form):
    words = forms.CharField(label='A "label" & more', help_text="Like 1 < 2", max_length=20, required=False)
    count = forms.IntegerField(min_value=1, max_value=9)
    hidden = forms.CharField(widget=forms.HiddenInput, required=False)
    notes = forms.CharField(widget=forms.Textarea(attrs={"rows": 2}), required=False)
    one = forms.ChoiceField(choices=[("", "none"), ("a", "A & B"), ("more", [("b", "<B>")])], required=False)
    several = forms.MultipleChoiceField(
        choices=[("x", "X"), ("y", "Y")], widget=forms.CheckboxSelectMultiple, required=False
    )
    which = forms.ChoiceField(
        choices=[("p", "P"), ("q", "Q")], widget=forms.RadioSelect, help_text="One of them"
    )
    ticked = forms.BooleanField(required=False)
    file = forms.FileField(required=False)


class _Parts(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.found: list[object] = []

    def handle_starttag(self, tag, attrs):
        self.found.append((tag, sorted((name, value or "") for name, value in attrs)))

    def handle_endtag(self, tag):
        self.found.append(("/", tag))

    def handle_data(self, data):
        if data.strip():
            self.found.append(re.sub(r"\s+", " ", data).strip())


def parts(html):
    reader = _Parts()
    reader.feed(html)
    return reader.found


@pytest.mark.parametrize(
    "data",
    [
        None,
        {},
        {
            "words": '<b>"x"',
            "count": "99",
            "notes": "a\n<c>",
            "one": "b",
            "several": ["y"],
            "which": "q",
            "ticked": "on",
        },
    ],
)
def test_widgets_are_djangos(data):
    for name in Everything.base_fields:
        ours = Everything(data, renderer=Renderer(), auto_id="at-%s")[name].as_widget()
        theirs = Everything(data, renderer=TemplatesSetting(), auto_id="at-%s")[name].as_widget()
        assert parts(ours) == parts(re.sub(r' maxlength="\d+"', "", theirs)), (
            name
        )  # ours tells, and does not cut


def test_a_field_has_its_label_its_help_and_its_complaint():
    form = Everything({"count": "99"}, renderer=Renderer())
    html = form["count"].as_field_group()
    assert '<label for="id_count">Count</label>' in html
    assert "less than or equal to 9" in html
    assert 'class="field wrong"' in html
    assert 'id="id_which_helptext"' in form["which"].as_field_group()
    assert "<fieldset" in form["which"].as_field_group()
    assert "A &quot;label&quot; &amp; more" in form["words"].as_field_group()
