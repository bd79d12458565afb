"""What is done of the work: a step begun, paused, done or not, as it is typed; the fitter's own steps, what he changes of others, the hours."""

from __future__ import annotations

import datetime
from dataclasses import replace
from typing import Any

from metrolex.acts.edit import free_id, replaced, with_fields
from metrolex.acts.ports import record_fluid
from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import AlteredStep, FluidRecord, Job, KitItem, OwnStep, Worked, WorkHours
from metrolex.job.work import moment_of
from metrolex.ports.places import place_of
from metrolex.tables import load_table
from metrolex.twin import build
from metrolex.workorder.days import worked_minutes
from metrolex.workorder.goods import kit_key
from metrolex.workorder.moments import on_the_wall
from metrolex.workorder.noted import Typed, read_worked, written
from metrolex.workorder.plan import plan_of_work, planned_steps
from metrolex.workorder.planned import Planned, states_at_work

__all__ = [
    "add_maintenance",
    "alter_step",
    "choose_school",
    "have_tool",
    "note_step",
    "offered_maintenance",
    "remove_own_step",
    "set_hours",
    "set_own_step",
]


def note_step(job: Job, step: str, text: str, at: datetime.datetime, *, over: bool = False) -> Job:
    """Write down how a step went at a moment, in the zone of the workshop; a blank takes it back. Raises BadInput (field ``found``).

    What was noted before something else that stands there is not laid over it, unless ``over``: a telephone without a network may send late.
    'start', 'pause', 'done', minutes, 'done: note', '25, 3.4 m', '0.8 L out', 'could not: why', 'could not until tomorrow: why', 'left out: why'.
    """
    planned = {one.key: one for one in planned_steps(build(job))}
    if step not in planned:
        raise BadInput(
            "found", step, "a step of this job", "This step is not there any more: reload the page."
        )
    old = next((one for one in job.work if one.step == step), None)
    later = moment_of(old.noted) if old else None
    if old is not None and later is not None and at < later and not over:
        raise BadInput(
            "found",
            text,
            "what is newer than what stands there",
            f"'{written(old)}' was noted at {on_the_wall(later, at.tzinfo):%H:%M}, after this.",
        )
    if not text.strip():
        return replace(job, work=tuple(one for one in job.work if one is not old)) if old else job
    said = read_worked(text, at.date())
    job = _with_fluid(job, planned[step], said)
    fresh = _noted(
        old or Worked(free_id("K1", (one.id for one in job.work)), step, "begun"),
        said,
        job,
        planned[step],
        at,
    )
    if old is not None and replace(fresh, seen=old.seen) == old:
        return job
    fresh = replace(fresh, noted=_moment(at))
    return replace(job, work=replaced(job.work, read(Worked, dump(fresh))))


def _with_fluid(job: Job, planned: Planned, said: Typed) -> Job:
    """The litres noted at a step, put down of its fluid. Raises BadInput at a step that lets none out."""
    if said.out_l is None and said.in_l is None:
        return job
    fluid = _fluid_at(job, planned)
    if fluid is None:
        raise BadInput(
            "found",
            None,
            "a step at which a fluid comes out or goes in",
            "No fluid comes out or goes in at this step.",
        )
    old = next((one for one in job.fluids if one.id == fluid), FluidRecord(fluid))
    out_l, in_l = said.out_l, said.in_l
    return record_fluid(
        job, fluid, old.lost_l if out_l is None else out_l, old.returned_l if in_l is None else in_l, old.kind
    )


def _fluid_at(job: Job, planned: Planned) -> str | None:
    if planned.kind == "refill":
        return planned.part
    chain = next((one for one in job.measured if one.channel == planned.part), None)
    port = job.port(chain.port) if chain else None
    if planned.kind not in ("open", "fit") or chain is None or port is None:
        return None
    place = place_of(chain.measurand, port)
    return place.fluid or None if place else None


def _noted(old: Worked, said: Typed, job: Job, planned: Planned, at: datetime.datetime) -> Worked:
    now, day = _moment(at), at.date().isoformat()
    begun = moment_of(old.begun) if old.state == "begun" else None
    so_far = old.minutes or 0.0
    if begun is not None:
        so_far = round(so_far + worked_minutes(job.work_hours, on_the_wall(begun, at.tzinfo), at), 1)
    if said.doing == "start":
        if old.begun and old.state == "begun":
            return old
        kept = old.minutes if old.state in ("paused", "done") else None
        return replace(old, state="begun", begun=now, minutes=kept, ended="", why="", until="", seen=day)
    if said.doing == "pause":
        if old.state == "paused":
            return old
        if begun is None:
            raise BadInput(
                "found", "pause", "a step that is begun", "Nobody is at this step: start it first."
            )
        return replace(old, state="paused", begun="", minutes=so_far, seen=day)
    if said.doing == "done":
        if old.state == "done" and said == Typed("done"):
            return old
        counted = so_far if begun is not None or old.state == "paused" else None
        return replace(
            old,
            state="done",
            minutes=said.minutes
            if said.minutes is not None
            else counted
            if old.state != "done"
            else old.minutes,
            begun="",
            ended=old.ended or now,
            usual=planned.step.minutes,
            why="",
            until="",
            note=said.why or old.note,
            metres=said.metres if said.metres is not None else old.metres,
            seen=day,
        )
    return replace(
        old,
        state=said.doing,
        minutes=so_far or None,
        why=said.why,
        seen=day,
        begun="",
        ended="",
        until=said.until,
    )


def _moment(at: datetime.datetime) -> str:
    return at.isoformat(timespec="minutes")


def set_own_step(job: Job, step: str, data: dict[str, Any]) -> Job:
    """A step of the fitter's own, added ('' for ``step``) or its named fields changed. Raises BadInput, also for needs in a circle."""
    key = step or free_id("S1", (one.id for one in job.own_steps))
    states = data.get("states", ())
    known = states_at_work()
    for state in states if isinstance(states, (list, tuple)) else ():
        if str(state).removeprefix("not ") not in known:
            raise BadInput("states", state, ", ".join(known))
    after = replace(job, own_steps=with_fields(job.own_steps, OwnStep, key, data))
    plan_of_work(build(after))  # a circle is told here
    return after


def remove_own_step(job: Job, step: str) -> Job:
    """A step of the fitter's own taken out, with what was written down of it; others do not name it any more."""
    gone = f"own {step}"

    def without(keys: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(key for key in keys if key != gone)

    return replace(
        job,
        own_steps=tuple(
            replace(one, after=without(one.after), before=without(one.before))
            for one in job.own_steps
            if one.id != step
        ),
        altered_steps=tuple(replace(one, after=without(one.after)) for one in job.altered_steps),
        work=tuple(one for one in job.work if one.step != gone),
    )


def alter_step(job: Job, step: str, data: dict[str, Any]) -> Job:
    """What is changed of a step the job makes: minutes, wait, hands, what it comes after, where it is split; all blank takes the change back.

    Raises BadInput: no such step, a split outside its minutes, needs in a circle.
    """
    steps = {one.key: one for one in planned_steps(build(replace(job, altered_steps=())))}
    if step not in steps or steps[step].own:
        raise BadInput("step", step, "a step the job makes")
    old = next((one for one in job.altered_steps if one.step == step), None)
    key = old.id if old else free_id("A1", (one.id for one in job.altered_steps))
    fresh = with_fields(job.altered_steps, AlteredStep, key, {**data, "step": step})
    change = next(one for one in fresh if one.id == key)
    if change == AlteredStep(key, step):
        return replace(job, altered_steps=tuple(one for one in fresh if one.id != key))
    minutes = steps[step].step.minutes if change.minutes is None else change.minutes
    if change.first_minutes is not None and not 0 < change.first_minutes < minutes:
        raise BadInput(
            "first_minutes",
            change.first_minutes,
            f"more than 0 and less than {minutes:g}",
            f"The first part must leave something: this step has {minutes:g} min.",
        )
    after = replace(job, altered_steps=fresh)
    plan_of_work(build(after))
    return after


def have_tool(job: Job, name: str, *, have: bool) -> Job:
    """Whether a tool or a small thing of the work is at hand, in the kit of the job. Raises BadInput for a thing no step wants."""
    planned = planned_steps(build(job))
    known = states_at_work()
    wanted = {thing for one in planned for thing in (*one.tools, *one.goods)}
    wanted |= {
        tool for one in planned for need in one.step.needs if need in known for tool in known[need].tools
    }
    if name not in wanted:
        raise BadInput("name", name, "a tool or a thing the steps want")
    key = kit_key(name)
    old = next((item for item in job.kit if item.id == key), KitItem(key, key, 0.0))
    there = replace(old, have=max(1.0, old.have) if have else 0.0)
    if there.have == 0 and there.price is None:
        return replace(job, kit=tuple(item for item in job.kit if item.id != key))
    return replace(job, kit=replaced(job.kit, there))


def set_hours(job: Job, data: dict[str, Any]) -> Job:
    """The named fields of the hours of work changed. Raises BadInput."""
    return replace(job, work_hours=read(WorkHours, {**dump(job.work_hours), **data}, "work_hours"))


def choose_school(job: Job, school: str, way: str) -> Job:
    """The way of one school chosen for this job. Raises BadInput: no such school or way, needs in a circle."""
    known = load_table("recipes")["schools"]
    if school not in known or way == "words" or way not in known[school]:
        raise BadInput("way", way, ", ".join(key for key in known.get(school, ()) if key != "words"))
    others = tuple(word for word in job.work_hours.schools if not word.startswith(f"{school}="))
    after = replace(job, work_hours=replace(job.work_hours, schools=(*others, f"{school}={way}")))
    plan_of_work(build(after))
    return after


def offered_maintenance(job: Job) -> tuple[OwnStep, ...]:
    """What may be done in the same teardown: by the states the job enters anyway, and the leaks and worn things of the survey; ``id`` is its place.

    What is already a step of the job's is not offered again.
    """
    planned = planned_steps(build(job))
    entered = {need for one in planned for need in one.step.needs if need in states_at_work()}
    there = {one.name for one in job.own_steps}
    rows = [row for row in load_table("recipes")["maintenance"] if row["state"] in entered]
    found = [
        OwnStep(
            f"m{i}",
            row["name"],
            float(row["minutes"]),
            place=row["place"],
            states=(row["state"],),
            goods=tuple(row["goods"]),
        )
        for i, row in enumerate(rows)
    ]
    for i, (word, do) in enumerate(
        [(leak, "Leak found in the survey put right") for leak in job.survey.leaks]
        + [(old, "Brittle part found in the survey changed") for old in job.survey.brittle]
    ):
        found.append(OwnStep(f"s{i}", f"{do}: {word}"[:120], 20.0))
    return tuple(one for one in found if one.name not in there)


def add_maintenance(job: Job, name: str) -> Job:
    """One of the things offered made a step of the job. Raises BadInput for another."""
    offered = next((one for one in offered_maintenance(job) if one.name == name), None)
    if offered is None:
        raise BadInput("name", name, "one of those offered")
    return set_own_step(job, "", {key: value for key, value in dump(offered).items() if key != "id"})
