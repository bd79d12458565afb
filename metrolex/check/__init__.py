"""The whole job looked over: every finding, the chain board, what is still open."""

from metrolex.check.board import Cell, Row, chain_board, with_accuracy
from metrolex.check.rules import find_all, still_standing, waived
from metrolex.check.stages import Stage, stages_of

__all__ = [
    "Cell",
    "Row",
    "Stage",
    "chain_board",
    "find_all",
    "stages_of",
    "still_standing",
    "waived",
    "with_accuracy",
]
