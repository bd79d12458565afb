"""Fields and widgets written straight, without a template for each attribute.

A page of the job holds some forty fields; as templates they cost more than all else on it. What comes out is what Django's own
templates make (``tests/web/test_form_renderer.py``); a widget not listed here is left to them.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from django.forms import BoundField
from django.forms.renderers import TemplatesSetting
from django.http import HttpRequest
from django.utils.html import format_html
from django.utils.safestring import SafeString, mark_safe

from workbench.marks import mark
from workbench.markup import escaped

__all__ = ["Renderer"]

Widget = Mapping[str, Any]


class Renderer(TemplatesSetting):
    """Django's renderer, with the common templates as functions."""

    def render(
        self, template_name: str, context: dict[str, Any], request: HttpRequest | None = None
    ) -> SafeString:
        make = _MADE.get(template_name)
        return make(context) if make else mark_safe(super().render(template_name, context, request))


def _field(context: Mapping[str, Any]) -> SafeString:
    field: BoundField = context["field"]
    classes = "field" + (" wrong" if field.errors else "") + (" group" if field.use_fieldset else "")
    errors = "".join(
        format_html('<div class="error" role="alert">{}{}</div>', mark("stop"), error)
        for error in field.errors
    )
    told = (
        f'<div class="help" id="{escaped(field.auto_id)}_helptext">{field.help_text}</div>'
        if field.help_text
        else ""
    )
    if field.use_fieldset:
        said_by = field.aria_describedby
        described = f' aria-describedby="{escaped(said_by)}"' if said_by else ""
        inner = f"<fieldset{described}><legend>{escaped(field.label)}</legend>{field}</fieldset>"
    else:
        inner = f'<label for="{escaped(field.id_for_label)}">{escaped(field.label)}</label>{field}'
    return mark_safe(f'<div class="{classes}">{inner}{told}{errors}</div>')


def _attributes(widget: Widget) -> str:
    found = []
    for name, value in widget["attrs"].items():
        if name == "maxlength":  # a browser would cut what is pasted and say nothing: we tell
            continue
        if value is True:
            found.append(f" {name}")
        elif value is not False:
            found.append(f' {name}="{escaped(value)}"')
    return "".join(found)


def _input_of(widget: Widget) -> str:
    value = widget["value"]
    said = "" if value is None else f' value="{escaped(value)}"'
    return f'<input type="{widget["type"]}" name="{escaped(widget["name"])}"{said}{_attributes(widget)}>'


def _input(context: Mapping[str, Any]) -> SafeString:
    return mark_safe(_input_of(context["widget"]))


def _textarea(context: Mapping[str, Any]) -> SafeString:
    widget = context["widget"]
    words = escaped(widget["value"]) if widget["value"] else ""
    return mark_safe(f'<textarea name="{escaped(widget["name"])}"{_attributes(widget)}>\n{words}</textarea>')


def _select(context: Mapping[str, Any]) -> SafeString:
    widget = context["widget"]
    found = [f'<select name="{escaped(widget["name"])}"{_attributes(widget)}>']
    for group, options, _ in widget["optgroups"]:
        if group:
            found.append(f'<optgroup label="{escaped(group)}">')
        for option in options:
            value, label = (escaped(option[key]) for key in ("value", "label"))
            found.append(f'<option value="{value}"{_attributes(option)}>{label}</option>')
        if group:
            found.append("</optgroup>")
    return mark_safe("".join([*found, "</select>"]))


def _many(context: Mapping[str, Any]) -> SafeString:
    """Radio buttons or ticks, each in its label."""
    widget = context["widget"]
    attrs = widget["attrs"]
    opened = "".join(f' {name}="{escaped(attrs[name])}"' for name in ("id", "class") if attrs.get(name))
    found = [f"<div{opened}>"]
    for group, options, _ in widget["optgroups"]:
        found.append(f"<div><label>{escaped(group)}</label>" if group else "")
        for option in options:
            key = option["attrs"].get("id")
            for_ = f' for="{escaped(key)}"' if key else ""
            label = escaped(option["label"])
            found.append(
                f"<div><label{for_}>{_input_of(option)} {label}</label></div>"
                if option["wrap_label"]
                else f"<div>{_input_of(option)}</div>"
            )
        found.append("</div>" if group else "")
    return mark_safe("".join([*found, "</div>"]))


_WIDGETS = "django/forms/widgets/"
_MADE: dict[str, Callable[[Mapping[str, Any]], SafeString]] = {
    "django/forms/field.html": _field,
    **{
        f"{_WIDGETS}{name}.html": _input
        for name in (
            "input",
            "text",
            "number",
            "hidden",
            "email",
            "url",
            "file",
            "checkbox",
            "date",
            "password",
        )
    },
    f"{_WIDGETS}textarea.html": _textarea,
    f"{_WIDGETS}select.html": _select,
    **{f"{_WIDGETS}{name}.html": _many for name in ("radio", "checkbox_select", "multiple_input")},
}
