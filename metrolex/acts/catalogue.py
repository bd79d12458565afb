"""Every act by name ('harness.set_wire'), with the plain data it takes."""

from __future__ import annotations

import functools
import inspect
import pkgutil
import types
import typing
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from difflib import get_close_matches
from importlib import import_module
from typing import Any, get_args, get_origin

import metrolex.acts
from metrolex.errors import BadInput
from metrolex.intake import dump, read
from metrolex.job import Job
from metrolex.job.references import check_references

__all__ = ["ActFound", "act_called", "all_acts"]


@dataclass(frozen=True, slots=True)
class ActFound:
    """An act and the plain data it is given beside the job."""

    name: str
    function: Callable[..., Job]
    takes: dict[str, Any]
    needed: frozenset[str]

    def on(self, job: Job, given: Mapping[str, Any], path: str = "with") -> Job:
        """The job after the act, checked. Raises BadInput for what is missing, not known, or cannot be meant."""
        for name in given:
            if name not in self.takes:
                raise BadInput(f"{path}.{name}", name, ", ".join(self.takes) or "nothing")
        for name in sorted(self.needed - given.keys()):
            raise BadInput(f"{path}.{name}", None, "a value", f"{self.name} needs '{name}'.")
        read_in = {name: read(self.takes[name], value, f"{path}.{name}") for name, value in given.items()}
        after = read(Job, dump(self.function(job, **read_in)))
        check_references(after)
        return after


def act_called(name: str, path: str = "act") -> ActFound:
    """An act by its name. Raises BadInput with the nearest ones."""
    acts = all_acts()
    if name not in acts:
        near = get_close_matches(name, acts, 3, 0.4)
        raise BadInput(
            path,
            name,
            "the name of an act",
            f"There is no act '{name:.60}'. Near: {', '.join(near) or 'none'}.",
        )
    return acts[name]


@functools.cache
def all_acts() -> dict[str, ActFound]:
    """Every public function of ``metrolex.acts`` that makes a job of a job out of plain data, by 'place.name'."""
    found = {}
    for place in sorted(module.name for module in pkgutil.iter_modules(metrolex.acts.__path__)):
        module = import_module(f"metrolex.acts.{place}")
        for name in getattr(module, "__all__", ()):
            function = getattr(module, name)
            if inspect.isfunction(function) and function.__module__ == module.__name__:
                act = _as_act(f"{place}.{name}", function)
                if act:
                    found[act.name] = act
    return found


def _as_act(name: str, function: Callable[..., Any]) -> ActFound | None:
    hints = typing.get_type_hints(function, include_extras=True)
    parameters = inspect.signature(function).parameters
    if hints.pop("return", None) is not Job or hints.pop("job", None) is not Job:
        return None
    takes = {key: plain for key, hint in hints.items() if (plain := _plain(hint)) is not None}
    needed = frozenset(key for key in hints if parameters[key].default is inspect.Parameter.empty)
    return ActFound(name, function, takes, needed) if needed <= takes.keys() else None


def _plain(hint: Any) -> Any:
    """A type the intake reads for a parameter's; None where it is no plain data (a function, a thing made elsewhere)."""
    origin, args = get_origin(hint), get_args(hint)
    if origin in (Mapping, dict):
        return types.GenericAlias(dict, (str, args[1]))
    if origin in (Sequence, Collection, list):
        return types.GenericAlias(tuple, (args[0], ...))
    try:
        read(hint, object())
    except BadInput:
        return hint
    except TypeError:
        return None
    return hint
