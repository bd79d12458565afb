"""Tools and goods of the whole job: what to lay out and where, spanners by size, what must be there before which step."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from metrolex.brief.shopping import Item, shopping_list
from metrolex.job import PLACES_OF_WORK, Job
from metrolex.ports.fluids import fluids_of
from metrolex.workorder.planned import Planned, states_at_work

__all__ = ["Needed", "Tool", "kit_key", "needed_before", "spanners", "tools_of"]

_SPANNER = re.compile(r"^spanner (\d+(?:\.\d+)?) mm$")


@dataclass(frozen=True, slots=True)
class Tool:
    """A tool, the places it is needed at, the steps it is first and last needed at, and whether it is at hand."""

    name: str
    places: tuple[str, ...]
    first: int
    last: int
    at_hand: bool


@dataclass(frozen=True, slots=True)
class Needed:
    """Something to get or to have, and the number of the step that wants it first; ``item`` is its line of the shopping list, None for a small ``thing``."""

    name: str
    before: int
    step: str
    item: Item | None
    thing: str = ""


def tools_of(job: Job, steps: Sequence[tuple[int, Planned]]) -> tuple[Tool, ...]:
    """Every tool of some numbered steps, and of the states they want, by name."""
    known = states_at_work()
    there = {item.id for item in job.kit if item.have > 0}
    found: dict[str, list[tuple[int, str]]] = {}
    for number, one in steps:
        of_states = [tool for need in one.step.needs if need in known for tool in known[need].tools]
        for tool in (*one.tools, *of_states):
            found.setdefault(tool, []).append((number, PLACES_OF_WORK[one.place]))
    return tuple(
        Tool(
            name,
            tuple(dict.fromkeys(place for _, place in at)),
            min(number for number, _ in at),
            max(number for number, _ in at),
            kit_key(name) in there,
        )
        for name, at in sorted(found.items())
    )


def spanners(tools: Iterable[Tool]) -> tuple[float, ...]:
    """Sizes of the spanners among some tools, millimetres, smallest first."""
    sizes = (match for tool in tools if (match := _SPANNER.match(tool.name)))
    return tuple(sorted({float(match.group(1)) for match in sizes}))


def needed_before(job: Job, steps: Sequence[tuple[int, Planned]]) -> tuple[Needed, ...]:
    """What is still to be got, in the order the steps want it: the shopping list of the job, then small things the steps use up."""
    there = {item.id for item in job.kit if item.have > 0}
    found = []
    for item in shopping_list(job):
        first = _first_wanting(job, steps, item) if item.buy and item.group != "tools" else None
        if first is not None:
            found.append(Needed(item.name, first[0], first[1].step.name, item))
    small: dict[str, tuple[int, Planned]] = {}
    for number, one in steps:
        for thing in one.goods:
            small.setdefault(thing, (number, one))
    found += [
        Needed(kit_key(thing), number, one.step.name, None, thing)
        for thing, (number, one) in small.items()
        if kit_key(thing) not in there
    ]
    return tuple(sorted(found, key=lambda one: one.before))


#: Which kinds of step want what lies in a group of the shopping list.
_BY_GROUP = {
    "displays and senders": ("try_in", "mount", "fit"),
    "leads": ("lay",),
    "wire": ("lay",),
    "terminals and splices": ("join", "ground"),
    "sleeves and ties": ("hole", "lay"),
    "fittings": ("open", "fit"),
    "seals and sealant": ("fit",),
    "feeds": ("tap",),
    "switches": ("join",),
    "fluids": ("refill", "open"),
}


def _first_wanting(job: Job, steps: Sequence[tuple[int, Planned]], item: Item) -> tuple[int, Planned] | None:
    """The first step that takes an item: of the part it is for where one can be told, else of a kind that takes things of its group."""
    takers = [(number, one) for number, one in steps if one.kind in _BY_GROUP.get(item.group, ())]
    parts = set(_parts_of(job, item))
    return next((taker for taker in takers if taker[1].part in parts), takers[0] if takers else None)


def _parts_of(job: Job, item: Item) -> Iterable[str]:
    """The parts an item is for, by what the shopping list says it is used for."""
    called = {chain.name: chain.channel for chain in job.measured}
    called |= {run.name: run.id for run in job.runs}
    called |= {port.name: chain.channel for chain in job.measured if (port := job.port(chain.port))}
    for used in item.used_for:
        yield called.get(used, used)
        yield from (part for name, part in called.items() if name in used.split(", "))
    yield from (plan.key for plan in fluids_of(job) if plan.name == item.name)


def kit_key(name: str) -> str:
    """What a tool or a small thing is called in the kit of a job, as the shopping list calls it."""
    return (name[:1].upper() + name[1:])[:60]
