"""What can hurt at work, and what it asks of the order: hazards.toml says what must hold before a step and while it lasts, and what waits until it is over."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any

from metrolex.job import Job
from metrolex.ports.practices import practice_of
from metrolex.tables import load_table
from metrolex.workorder.planned import Doing, Planned, Recipes

__all__ = ["ENGINE_STILL", "hazards", "turns_the_engine", "with_hazards"]

#: What can hurt in a step of the fitter's own, by the state it wants.
BY_STATE = {
    "fuel depressurised": "fuel under pressure",
    "drained coolant": "hot coolant",
    "drained oil": "hot oil",
    "drained gearbox": "hot oil",
    "lifted": "lifted",
    "airbag trim out": "airbag",
}
AIRBAG_OUT = "airbag trim out"
POWERED = "not battery off"
#: Steps with the battery on that come before anything is opened.
BEFORE_ALL = frozenset({"find_feeds", "let_down"})
ENGINE_STILL = "rag"  # the way of opening a fuel line for which no engine has to run


def hazards() -> Mapping[str, Mapping[str, Any]]:
    """All of them by name."""
    return {name: row for name, row in load_table("hazards").items() if name != "engine"}


def turns_the_engine(one: Planned, job: Job) -> bool:
    """Whether the engine turns or runs in a step."""
    by_running = one.kind == "let_down" and practice_of(job, "fuel_opening").key != ENGINE_STILL
    return by_running or one.kind in load_table("hazards")["engine"]["kinds"]


def with_hazards(planned: Sequence[Planned], recipes: Recipes, job: Job) -> tuple[Planned, ...]:
    """The steps with those their hazards ask for, each with what it needs because of them."""
    known = tuple(replace(one, hazards=tuple(dict.fromkeys((*one.hazards, *_own(one))))) for one in planned)
    asked = {kind for one in known for name in one.hazards for kind in hazards()[name].get("asks", ())}
    added = (_asked(kind, recipes, job) for kind in ("let_down", "prime") if kind in asked)
    everything = (*known, *(_with_every(one, known) for one in added))
    return tuple(_needing(one, everything, job) for one in everything)


def _own(one: Planned) -> Iterator[str]:
    return (BY_STATE[need] for need in one.step.needs if one.own and need in BY_STATE)


def _asked(kind: str, recipes: Recipes, job: Job) -> Planned:
    practice = practice_of(job, "fuel_opening")
    how = practice.name
    if kind == "let_down":
        # Where no engine runs for it fuel comes out into the rag: nothing may spark.
        needs = ("battery off",) if practice.key == ENGINE_STILL else ()
        doing = (
            Doing(f"{how[0].upper()}{how[1:]}."),
            Doing("Tank cap opened once, so that nothing pushes from there."),
            Doing("The pump fuse stays out, with a note on it: it goes back in when every joint is closed."),
        )
        return recipes.made(kind, "fuel", how, needs=needs, doing=doing)
    looked = (
        Doing("Pump fuse in, key on, wait till the pump stops; key off.", "3 to 5 times"),
        Doing("Look and feel with a dry cloth at every joint that was open."),
    )
    return recipes.made(kind, "fuel", "everything closed", doing=looked)


def _with_every(one: Planned, known: Sequence[Planned]) -> Planned:
    """With 'all KIND' among its needs as the steps of that kind."""
    needs: list[str] = []
    for need in one.step.needs:
        kind = need.removeprefix("all ")
        needs += [need] if kind == need else [other.step.name for other in known if other.kind == kind]
    return replace(one, step=replace(one.step, needs=tuple(needs)))


def _needing(one: Planned, everything: Sequence[Planned], job: Job) -> Planned:
    engine = turns_the_engine(one, job)
    needs = [need for need in one.step.needs if need != "fuel depressurised"]
    for name in one.hazards:
        row = hazards()[name]
        needs = [*row.get("needs", ()), *needs]  # the battery comes off before what wants it off
        needs += [other.step.name for other in everything if _comes_first(other, row) and other is not one]
    if engine:
        entered = {need for other in everything for need in _wanted(other)}
        needs += [n for n in load_table("hazards")["engine"]["needs"] if n.removeprefix("not ") in entered]
    if POWERED in needs and any("airbag" in other.hazards for other in everything):
        needs.append(f"not {AIRBAG_OUT}")
    needs += [
        other.step.name for other in everything if other is not one and _holds_up(other, one, engine=engine)
    ]
    if engine and one.kind != "let_down":
        needs += [other.step.name for other in everything if other.kind == "prime"]
    return replace(one, step=replace(one.step, needs=tuple(dict.fromkeys(needs))))


def _wanted(one: Planned) -> Iterator[str]:
    """The states a step wants, by itself and for what can hurt in it."""
    yield from one.step.needs
    for name in one.hazards:
        yield from hazards()[name].get("needs", ())


def _comes_first(other: Planned, row: Mapping[str, Any]) -> bool:
    return any(word == other.kind or word in other.hazards for word in row.get("first", ()))


def _holds_up(other: Planned, one: Planned, *, engine: bool) -> bool:
    """Whether a step of a hazard must be over, its rest too, before this one."""
    if one.kind in BEFORE_ALL:
        return False
    waits = (
        {one.kind} | ({"engine"} if engine else set()) | ({"power"} if POWERED in one.step.needs else set())
    )
    return any(waits & set(hazards()[name].get("holds_up", ())) for name in other.hazards)
