"""A linear DC network in field terms: elements between named nodes, solved by nodal analysis."""

from metrolex.circuit.changes import as_changes, solve_changes, solve_together
from metrolex.circuit.elements import (
    Element,
    Resistor,
    VoltageFollower,
    VoltageSource,
)
from metrolex.circuit.equations import GROUND
from metrolex.circuit.faults import OPEN_OHM, SHORT_OHM, Fault, Replaced, apply_faults
from metrolex.circuit.solve import Solution, solve
from metrolex.circuit.spice import spice_deck

__all__ = [
    "GROUND",
    "OPEN_OHM",
    "SHORT_OHM",
    "Element",
    "Fault",
    "Replaced",
    "Resistor",
    "Solution",
    "VoltageFollower",
    "VoltageSource",
    "apply_faults",
    "as_changes",
    "solve",
    "solve_changes",
    "solve_together",
    "spice_deck",
]
