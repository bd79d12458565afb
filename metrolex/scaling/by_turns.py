"""Two readings on one dial by a switch: they share one table, so their senders must follow one law."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from metrolex.findings import Finding
from metrolex.job import Job, Sender
from metrolex.quantities import in_unit
from metrolex.senders import is_monotonic, x_at, y_range

__all__ = ["by_turns_findings", "laws_apart"]

ALIKE = 0.02  # of what one gives, within the tolerance of any pair of senders (common practice, no source)
SAMPLES = 41


def by_turns_findings(job: Job) -> Iterator[Finding]:
    """Switches that show two senders of unlike law on one dial."""
    for switch in job.switches:
        chains = [chain for key in switch.channels if (chain := job.chain(key)) is not None]
        senders = [sender for chain in chains if (sender := job.heard(chain)) is not None]
        if len(senders) != len(switch.channels) or not senders:
            continue
        apart = laws_apart(*senders)
        if apart is None or apart > ALIKE:
            figure = "other kinds" if apart is None else f"{apart:.0%} apart"
            yield Finding(
                "stop",
                "unlike_on_one_dial",
                switch.name,
                f"{chains[0].name} and {chains[1].name} share one dial and one table, but their senders do not follow one law: one of the two reads wrong.",
                figure,
                "The same sender for both, or a dial for each.",
                "scaling",
                chains[1].id,
                about=f"switch {switch.id}",
            )


def laws_apart(first: Sender, second: Sender) -> float | None:
    """How far two senders give different at the same value, as a share of what the first gives; None for what cannot be compared.

    Over the range both curves have.
    """
    one, other = first.curve, second.curve
    if one.x_unit != other.x_unit or not (is_monotonic(one) and is_monotonic(other)):
        return None
    low, high = y_range(one)
    theirs = sorted(in_unit(y, other.y_unit, one.y_unit) for y in y_range(other))
    span = max(low, theirs[0]), min(high, theirs[1])
    if span[0] >= span[1]:
        return None
    y = np.linspace(*span, SAMPLES)
    a = np.asarray(x_at(one, y))
    b = np.asarray(x_at(other, np.array([in_unit(v, one.y_unit, other.y_unit) for v in y.tolist()])))
    return float(np.nanmax(np.abs(a - b) / np.maximum(np.abs(a), 1e-9)))
