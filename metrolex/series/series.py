"""One recording: seconds, columns of one length, their units, what was left out of it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from metrolex.errors import BadInput
from metrolex.findings import Finding

__all__ = ["Array", "Series"]

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Series:
    """Columns over time, shapes all (n,): seconds rising from their own start; ``units`` by column, as ``quantities`` spells them.

    Raises BadInput for columns of another length and for seconds that do not rise.
    """

    seconds: Array
    columns: dict[str, Array]
    units: dict[str, str] = field(default_factory=dict)
    findings: tuple[Finding, ...] = ()

    def __post_init__(self) -> None:
        for name, column in self.columns.items():
            if column.shape != self.seconds.shape:
                raise BadInput(name, column.shape, f"a column of {len(self.seconds)} values")
        falls = np.flatnonzero(np.diff(self.seconds) <= 0)
        if len(falls):
            raise BadInput("seconds", float(self.seconds[falls[0] + 1]), "seconds that rise from row to row")

    def __getitem__(self, name: str) -> Array:
        return self.columns[name]

    @property
    def length_s(self) -> float:
        """From its first to its last moment."""
        return float(self.seconds[-1] - self.seconds[0]) if len(self.seconds) else 0.0

    def at(self, name: str, seconds: Array) -> Array:
        """A column at other moments, straight between its own, held beyond its ends."""
        return np.interp(seconds, self.seconds, self.columns[name])

    def with_column(self, name: str, column: Array, unit: str = "") -> Series:
        """The same recording with one column in place of its namesake, or one more."""
        units = self.units | ({name: unit} if unit else {})
        return replace(self, columns=self.columns | {name: column}, units=units)
