"""What is worked out of a network or of a solved state is kept with it, as what is worked out of a job is kept with the job."""

from __future__ import annotations

import functools
from collections.abc import Callable, Hashable
from typing import Any, Concatenate, ParamSpec, Protocol, TypeVar

__all__ = ["PER_CIRCUIT", "at_hand", "once", "once_per_circuit"]

P = ParamSpec("P")
T = TypeVar("T")


class Keeping(Protocol):
    """A network or a solved state."""

    @property
    def kept(self) -> dict[Hashable, Any]: ...


K = TypeVar("K", bound=Keeping)


def once_per_circuit(function: Callable[Concatenate[K, P], T]) -> Callable[Concatenate[K, P], T]:
    """As ``once``, for what follows from the circuit and its parts alone: it is handed on to the next version of a job that makes the same."""
    kept = once(function)
    PER_CIRCUIT.add(kept)
    return kept


#: The functions whose outcome is handed on; see ``carry``.
PER_CIRCUIT: set[Callable[..., Any]] = set()


def once(function: Callable[Concatenate[K, P], T]) -> Callable[Concatenate[K, P], T]:
    """A pure function of a network or a solved state, and of things that can be keys: worked out once for each."""

    @functools.wraps(function)
    def kept(whole: K, /, *args: P.args, **kwargs: P.kwargs) -> T:
        key = (kept, args, tuple(sorted(kwargs.items())))
        if key not in whole.kept:
            whole.kept[key] = function(whole, *args, **kwargs)
        return whole.kept[key]  # type: ignore[no-any-return]

    return kept


def at_hand(function: Callable[[K], object], whole: K) -> bool:
    """Whether what a kept function makes of the whole is worked out already."""
    return (function, (), ()) in whole.kept
