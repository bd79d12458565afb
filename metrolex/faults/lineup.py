"""Everything that may be to blame, looked at together: each one case, or two at once."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from metrolex.circuit.elements import Name
from metrolex.faults.cases import NONE, Case, cases_of
from metrolex.faults.dictionary import Block, columns, sheet_of, steps_of
from metrolex.faults.predicted import Predicted, Shows, predicted_together, shown_together
from metrolex.faults.probes import Action, Probe
from metrolex.faults.remembered import remember
from metrolex.job import State
from metrolex.scaling.reading import Shown
from metrolex.twin.build import Network
from metrolex.twin.kept import once_per_circuit

__all__ = ["Hypothesis", "Lineup", "lineup_of", "searched"]

Hypothesis = tuple[Case, Case]  # a case, and the first one it comes on top of; ``NONE`` for neither
Array = NDArray[np.float64]
Rows = tuple[
    list[int], Block, NDArray[np.intp]
]  # places in a line-up, and the rows of the block where they stand


MOST_TOLD = 16  # what a search of usual length has seen


@dataclass(frozen=True)
class Lineup:
    """Some hypotheses in their order."""

    network: Network
    hypotheses: tuple[Hypothesis, ...]
    _found: dict[tuple[State, Action | None], list[Rows]] = field(
        default_factory=dict, compare=False, repr=False
    )

    _told: dict[tuple[State, Probe], Predicted] = field(default_factory=dict, compare=False, repr=False)

    def __len__(self) -> int:
        return len(self.hypotheses)

    @cached_property
    def faults(self) -> tuple[tuple[int, ...], ...]:
        """For each the places in the catalogue of what is wrong, in rising order."""
        known = cases_of(self.network)
        return tuple(
            tuple(sorted({int(known.fault[case]) for case in both if case != NONE}))
            for both in self.hypotheses
        )

    @cached_property
    def _parts(self) -> list[tuple[Case, list[int], tuple[Case, ...]]]:
        """By first case: the places here, and the cases there."""
        places: dict[Case, list[int]] = {}
        for place, (_, beside) in enumerate(self.hypotheses):
            places.setdefault(beside, []).append(place)
        return [
            (beside, here, tuple(self.hypotheses[place][0] for place in here))
            for beside, here in places.items()
        ]

    def _rows(self, state: State, after: Action | None) -> list[Rows]:
        if (state, after) not in self._found:
            self._found[state, after] = [
                ([here[place] for place in places], block, rows)
                for beside, here, cases in self._parts
                if (sheet := sheet_of(self.network, state, after, beside)) is not None
                for places, block, rows in sheet.rows(cases)
            ]
        return self._found[state, after]

    def can(self, state: State, after: Action | None) -> bool:
        """Whether an action can be done in a state. Raises CircuitError in words."""
        return sheet_of(self.network, state, after) is not None

    def predict(self, state: State, probe: Probe) -> Predicted:
        """What all of them show at a probe, with what moves it; the last few are kept. Raises CircuitError in words."""
        if (state, probe) not in self._told:
            if len(self._told) >= MOST_TOLD:
                self._told.pop(next(iter(self._told)))
            self._told[state, probe] = self._predict(state, probe)
        return self._told[state, probe]

    def _predict(self, state: State, probe: Probe) -> Predicted:
        parts = [(here, block.predict(probe, rows)) for here, block, rows in self._rows(state, probe.after)]
        return predicted_together(len(self), columns(self.network), parts, steps_of(self.network.job, probe))

    def shows(self, state: State, probe: Probe) -> Shows:
        """What all of them show at a probe. Raises CircuitError in words."""
        parts = [
            (here, block.shows(probe).some(rows)) for here, block, rows in self._rows(state, probe.after)
        ]
        return shown_together(len(self), parts)

    def faces(self, state: State, channel: str) -> tuple[Array, list[Shown]]:
        """The numbers on a face (NaN for none), and how it looks without them."""
        value, look = np.full(len(self), np.nan), [Shown("", None, "unfinished")] * len(self)
        for here, block, rows in self._rows(state, None):
            numbers, which, looks = block.faces[channel]
            value[here] = numbers[rows]
            for place, row in zip(here, rows.tolist(), strict=True):
                look[place] = looks[which[row]]
        return value, look

    def volts(self, state: State, node: Name) -> Array:
        """Volts of a point; NaN where it is not there."""
        found = np.full(len(self), np.nan)
        for here, block, rows in self._rows(state, None):
            found[here] = block.volts(node)[rows]
        return found


@once_per_circuit
def lineup_of(network: Network, hypotheses: tuple[Hypothesis, ...]) -> Lineup:
    """The line-up of some hypotheses."""
    return Lineup(network, hypotheses)


def searched(network: Network) -> Lineup:
    """Nothing wrong, and every case alone; of circuits searched long ago what was worked out is let go."""
    remember(network, (sheet_of, lineup_of, every_single))
    return every_single(network)


@once_per_circuit
def every_single(network: Network) -> Lineup:
    """Nothing wrong, and every case alone."""
    return Lineup(network, ((NONE, NONE), *((case, NONE) for case in cases_of(network).searched)))
