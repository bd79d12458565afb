"""Forms of the work order: the hours of work, a step of the fitter's own, what is changed of a step."""

from __future__ import annotations

from typing import Any

from django import forms

from metrolex.job import PLACES_OF_WORK, AlteredStep, OwnStep, WorkHours
from metrolex.job.work import WEEKDAYS
from metrolex.workorder.planned import Planned, states_at_work
from workbench.jobs.fields import (
    NumberField,
    OpenMultipleChoiceField,
    RecordForm,
    as_typed,
    field_ids,
    set_choices,
)

__all__ = ["AlterForm", "HoursForm", "OwnStepForm"]

HANDS = [("0", "goes on by itself"), ("1", "one person"), ("2", "two people")]
LONGEST_MIN = 10_000


def _lines(label: str, help_text: str) -> forms.CharField:
    return forms.CharField(
        label=label,
        required=False,
        max_length=2000,
        widget=forms.Textarea(attrs={"rows": 2}),
        help_text=help_text,
    )


def _split(text: str) -> list[str]:
    return [line.strip() for line in text.splitlines() if line.strip()]


class HoursForm(forms.Form):
    """When there is work on this vehicle."""

    first_day = forms.DateField(
        label="First day", required=False, widget=forms.DateInput(attrs={"type": "date"}, format="%Y-%m-%d")
    )
    begins = forms.CharField(label="From", max_length=5)
    ends = forms.CharField(label="To", max_length=5)
    pause_min = NumberField(label="Pause", unit="min", low=0, high=240)
    closed = forms.MultipleChoiceField(
        label="No work on",
        required=False,
        choices=[(str(i), name) for i, name in enumerate(WEEKDAYS)],
        widget=forms.CheckboxSelectMultiple,
    )
    helper = forms.BooleanField(label="A second person can be called", required=False)
    margin = NumberField(label="Added to a quote, %", low=0, high=200, help_text="For what nobody foresees")

    @staticmethod
    def of(hours: WorkHours) -> HoursForm:
        """The form of the hours as they stand."""
        return HoursForm(
            initial={
                "first_day": hours.first_day,
                "begins": hours.begins,
                "ends": hours.ends,
                "pause_min": as_typed(hours.pause_min, "min"),
                "closed": [str(day) for day in hours.closed],
                "helper": hours.helper,
                "margin": as_typed(hours.margin),
            },
            auto_id="hours-%s",
        )

    def facts(self) -> dict[str, Any]:
        """What was said, by the core's names."""
        data = self.cleaned_data
        day = data["first_day"]
        return {
            **data,
            "first_day": day.isoformat() if day else "",
            "closed": [int(d) for d in data["closed"]],
        }


class OwnStepForm(RecordForm):
    """A step of the fitter's own."""

    step = forms.CharField(widget=forms.HiddenInput, max_length=60, required=False)
    name = forms.CharField(label="What is done", max_length=120, help_text="Like: radiator hose changed")
    minutes = NumberField(label="Minutes", unit="min", low=0, high=LONGEST_MIN)
    wait_minutes = NumberField(label="Then it rests", unit="min", low=0, high=LONGEST_MIN, required=False)
    hands = forms.ChoiceField(label="Who", choices=HANDS, initial="1")
    place = forms.ChoiceField(label="Where", choices=list(PLACES_OF_WORK.items()), required=False)
    states = OpenMultipleChoiceField(label="The vehicle is", required=False)
    after = OpenMultipleChoiceField(label="Comes after", required=False)
    before = OpenMultipleChoiceField(label="Comes before", required=False)
    tools = _lines("Tools", "One a line")
    goods = _lines("What it takes", "One a line: filter, hose clamps")
    caution = forms.CharField(label="Heed", max_length=2000, required=False)

    def __init__(self, planned: tuple[Planned, ...], *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        known = states_at_work()
        states = [(name, known[name].words) for name in known]
        ended = [(f"not {name}", f"{known[name].words}: ended") for name in ("battery off", "lifted")]
        set_choices(self, "states", [*states, *ended])
        mine = f"own {self['step'].value() or ''}"
        steps = [(one.key, one.step.name) for one in planned if one.key != mine]
        set_choices(self, "after", steps)
        set_choices(self, "before", steps)

    @staticmethod
    def of(planned: tuple[Planned, ...], step: OwnStep | None, data: Any = None) -> OwnStepForm:
        """The form of a step as it stands, of a new one for None; with what was sent of it."""
        one = step or OwnStep("new", "new")
        start = {
            "step": step.id if step else "",
            "name": step.name if step else "",
            "minutes": as_typed(one.minutes, "min"),
            "wait_minutes": as_typed(one.wait_minutes, "min") if one.wait_minutes else "",
            "hands": str(one.hands),
            "place": one.place,
            "states": list(one.states),
            "after": list(one.after),
            "before": list(one.before),
            "tools": "\n".join(one.tools),
            "goods": "\n".join(one.goods),
            "caution": one.caution,
        }
        return OwnStepForm(planned, data, initial=start, auto_id=field_ids("own", step.id if step else ""))

    def facts(self) -> dict[str, Any]:
        """What was said, by the core's names."""
        data = {key: value for key, value in self.cleaned_data.items() if key != "step"}
        return data | {
            "wait_minutes": data["wait_minutes"] or 0.0,
            "hands": int(data["hands"]),
            "tools": _split(data["tools"]),
            "goods": _split(data["goods"]),
        }


class AlterForm(RecordForm):
    """What is changed of a step the job makes; a blank is as the recipe has it."""

    step = forms.CharField(widget=forms.HiddenInput, max_length=160)
    minutes = NumberField(label="Minutes", unit="min", low=0, high=LONGEST_MIN, required=False)
    wait_minutes = NumberField(label="Then it rests", unit="min", low=0, high=LONGEST_MIN, required=False)
    hands = forms.ChoiceField(label="Who", choices=[("", "as usual"), *HANDS], required=False)
    after = OpenMultipleChoiceField(label="Comes after, besides", required=False)
    first_minutes = NumberField(
        label="Split after",
        unit="min",
        low=0,
        high=LONGEST_MIN,
        required=False,
        help_text="In two, today and tomorrow",
    )
    first = forms.CharField(label="The first part", max_length=120, required=False)
    second = forms.CharField(label="The second part", max_length=120, required=False)

    def __init__(self, planned: tuple[Planned, ...], *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        mine = str(self["step"].value() or "")
        set_choices(self, "after", [(one.key, one.step.name) for one in planned if one.key != mine])

    @staticmethod
    def of(
        planned: tuple[Planned, ...], step: str, change: AlteredStep | None, data: Any = None
    ) -> AlterForm:
        """The form of a step's changes as they stand; with what was sent of it."""
        one = change or AlteredStep("new", step)
        start = {
            "step": step,
            "minutes": as_typed(one.minutes, "min"),
            "wait_minutes": as_typed(one.wait_minutes, "min"),
            "hands": "" if one.hands is None else str(one.hands),
            "after": list(one.after),
            "first_minutes": as_typed(one.first_minutes, "min"),
            "first": one.first,
            "second": one.second,
        }
        return AlterForm(planned, data, initial=start, auto_id=field_ids("alter", step))

    def facts(self) -> dict[str, Any]:
        """What was said, by the core's names."""
        data = {key: value for key, value in self.cleaned_data.items() if key != "step"}
        return data | {"hands": int(data["hands"]) if data["hands"] else None}
