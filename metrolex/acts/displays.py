"""What is changed at a display: what its maker says of an input, or of the whole of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from metrolex.acts.edit import display_called, replaced
from metrolex.errors import BadInput
from metrolex.job import Display, Job
from metrolex.job.within import replaced_within

__all__ = ["describe_as", "set_input"]


def set_input(job: Job, display_id: str, input_id: str, facts: Mapping[str, Any]) -> Job:
    """The named facts of an input of a display; every other as it stands. Raises BadInput."""
    display = display_called(job, display_id)
    stage = display.input_called(input_id)
    if stage is None:
        raise BadInput("input", input_id, ", ".join(one.id for one in display.inputs))
    fresh = replaced_within(stage, facts)
    inputs = tuple(fresh if one.id == input_id else one for one in display.inputs)
    return replace(job, displays=replaced(job.displays, replace(display, inputs=inputs)))


def describe_as(job: Job, display_id: str, name: str, library: Mapping[str, Display]) -> Job:
    """A display of the library described onto one of the job, which keeps its name. Raises BadInput where what is in use would be lost."""
    display = display_called(job, display_id)
    other = library.get(name)
    if other is None:
        raise BadInput("name", name, "a display of the library")
    used = {c.input for c in job.chains if c.display == display_id}
    missing = used - {i.id for i in other.inputs} - {None}
    if missing:
        raise BadInput(
            "name",
            name,
            "a display with the inputs in use",
            f"'{name}' has no input {', '.join(sorted(map(str, missing)))}, which this job uses.",
        )
    ends = (end for wire in job.conductors for end in (wire.a, wire.b))
    wired = {end.terminal for end in ends if (end.kind, end.id) == ("display", display_id)}
    lost = wired - {p.id for p in other.pins}
    if lost:
        raise BadInput(
            "name",
            name,
            "a display with the pins in use",
            f"'{name}' has no pin {', '.join(sorted(lost))}, which is wired here.",
        )
    fresh = replace(other, id=display.id, name=display.name, set_up=display.set_up)
    return replace(job, displays=replaced(job.displays, fresh))
