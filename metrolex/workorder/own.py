"""What the fitter changes of the steps a job makes, and the steps he adds."""

from __future__ import annotations

import itertools
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from metrolex.job import AlteredStep, OwnStep
from metrolex.tables import load_table
from metrolex.workorder.planned import Planned, Recipes
from metrolex.workorder.step import Step

__all__ = ["SECOND_HALF", "altered", "with_own", "with_refills"]

#: What is let out, by its state, and filled up again.
FILLED_AGAIN = {
    "drained oil": "engine oil",
    "drained coolant": "coolant",
    "drained gearbox": "gearbox fluid",
}
#: What is added to the key of the second part of a step that is split.
SECOND_HALF = ", rest"


def altered(planned: Sequence[Planned], changes: Iterable[AlteredStep]) -> tuple[Planned, ...]:
    """The steps as the fitter has them: other minutes, wait, hands; one split into two, the second after the first.

    A change of a step that is not there any more is passed over.
    """
    by_step = {change.step: change for change in changes}
    found: list[Planned] = []
    last: dict[str, str] = {}
    names = {one.key: one.step.name for one in planned}
    for one in planned:
        change = by_step.get(one.key)
        if change is None:
            found.append(one)
            continue
        after = tuple(names[key] for key in change.after if key in names and key != one.key)
        step = replace(
            one.step,
            minutes=one.step.minutes if change.minutes is None else change.minutes,
            wait_minutes=one.step.wait_minutes if change.wait_minutes is None else change.wait_minutes,
            hands=one.step.hands if change.hands is None else change.hands,
            needs=(*one.step.needs, *after),
        )
        whole = replace(one, step=step)
        if change.first_minutes is None or change.first_minutes >= step.minutes:
            found.append(whole)
            continue
        first, second = _halves(whole, change, change.first_minutes)
        last[first.step.name] = last[one.step.name] = second.step.name
        found += [first, second]
    return tuple(replace(one, step=replace(one.step, needs=_after_both(one.step, last))) for one in found)


def with_refills(planned: Sequence[Planned], recipes: Recipes) -> tuple[Planned, ...]:
    """The steps with a refill for each fluid that one of them lets out and none fills up again."""
    added = []
    for state, fluid in FILLED_AGAIN.items():
        out = [one.step.name for one in planned if state in one.step.needs]
        if out and not any(f"not {state}" in one.step.needs for one in planned):
            made = recipes.made("refill", fluid, fluid)
            added.append(replace(made, step=replace(made.step, needs=(f"not {state}", *out))))
    return (
        *(
            replace(one, step=replace(one.step, needs=(*one.step.needs, *(each.step.name for each in added))))
            if one.kind in ("prove_crank", "prove_engine_running")
            else one
            for one in planned
        ),
        *added,
    )


def _halves(one: Planned, change: AlteredStep, first_minutes: float) -> tuple[Planned, Planned]:
    name, step = one.step.name, one.step
    first = replace(
        step, name=change.first or f"{name}: first part", minutes=first_minutes, wait_minutes=0.0, makes=()
    )
    second = replace(
        step,
        name=change.second or f"{name}: the rest",
        minutes=round(step.minutes - first_minutes, 1),
        needs=(*step.needs, first.name),
    )
    return replace(one, step=first), replace(one, step=second, part=f"{one.part}{SECOND_HALF}")


def _after_both(step: Step, last: Mapping[str, str]) -> tuple[str, ...]:
    """Whoever needs a step that was split needs its second part, which itself needs the first."""
    return tuple(need if last.get(need) == step.name else last.get(need, need) for need in step.needs)


def with_own(planned: Sequence[Planned], own: Iterable[OwnStep]) -> tuple[Planned, ...]:
    """The steps with the fitter's own added; each after and before the steps it names that are there. Names stay single."""
    own = tuple(own)
    low, high = load_table("recipes")["spread"]
    names = {one.key: one.step.name for one in planned}
    ends = names | {
        key.removesuffix(SECOND_HALF): name for key, name in names.items() if key.endswith(SECOND_HALF)
    }
    taken = {one.step.name for one in planned}
    for one in own:
        numbered = (f"{one.name[:110]} ({n})" for n in itertools.count(2))
        name = next(name for name in itertools.chain((one.name,), numbered) if name not in taken)
        taken.add(name)
        names[f"own {one.id}"] = ends[f"own {one.id}"] = name
    before: dict[str, list[str]] = {}
    for one in own:
        for key in one.before:
            if key in names:
                before.setdefault(names[key], []).append(names[f"own {one.id}"])
    made = [
        Planned(
            Step(
                names[f"own {one.id}"],
                one.minutes,
                (*one.states, *(ends[key] for key in one.after if key in ends and key != f"own {one.id}")),
                wait_minutes=one.wait_minutes,
                hands=one.hands,
            ),
            "own",
            one.id,
            one.tools,
            one.caution,
            place=one.place,
            goods=one.goods,
            low=float(low),
            high=float(high),
            own=True,
        )
        for one in own
    ]
    return tuple(
        replace(one, step=replace(one.step, needs=(*one.step.needs, *before.get(one.step.name, ()))))
        for one in (*planned, *made)
    )
