"""What the owner does when a warning comes on, in his words (warnings.toml)."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any, Literal

from metrolex.job import Job, MeasuringChain
from metrolex.quantities import unit_words
from metrolex.tables import load_table

__all__ = ["Warned", "must_warn", "what_to_do"]

Side = Literal["low", "high"]


@dataclass(frozen=True, slots=True)
class Warned:
    """One warning: of which reading, at which level, what to do; ``at_once`` where waiting costs the engine or hurts."""

    chain: MeasuringChain
    side: Side
    level: str
    do: str
    at_once: bool


def what_to_do(job: Job) -> tuple[Warned, ...]:
    """Every warning that is set on a display, those that brook no delay first."""
    found = [one for chain in job.chains if chain.display for one in _of(chain)]
    return tuple(sorted(found, key=lambda one: not one.at_once))


def must_warn(chain: MeasuringChain) -> Side | None:
    """The side on which a reading must warn; None where it need not."""
    rows = load_table("warnings").get(chain.measurand, {})
    return next((side for side in ("low", "high") if rows.get(side, {}).get("must")), None)


def _of(chain: MeasuringChain) -> Iterator[Warned]:
    unit = "" if chain.unit in ("lambda", "gear") else f" {unit_words(chain.unit)}"
    by_rpm = chain.behaviour.by_rpm
    if by_rpm:
        low, high = by_rpm[0], by_rpm[-1]
        level = f"under {low[1]:g}{unit} at {low[0]:g} rpm, rising to {high[1]:g}{unit} at {high[0]:g} rpm"
        yield _warned(chain, "low", level)
    elif chain.warn_low is not None:
        yield _warned(chain, "low", f"under {chain.warn_low:g}{unit}")
    if chain.warn_high is not None:
        yield _warned(chain, "high", f"over {chain.warn_high:g}{unit}")


def _warned(chain: MeasuringChain, side: Side, level: str) -> Warned:
    table = load_table("warnings")
    row: dict[str, Any] = table.get(chain.measurand, {}).get(side) or table["usual"][side]
    return Warned(chain, side, level, row["do"], bool(row.get("at_once")))
