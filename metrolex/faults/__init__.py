"""Single faults of a job: which there are, what each would show, which one explains what was seen, what to measure next."""

from metrolex.faults.catalogue import catalogue
from metrolex.faults.kinds import LikelyFault
from metrolex.faults.what_if import WhatIf, likely_faults, solve_with, what_if

__all__ = ["LikelyFault", "WhatIf", "catalogue", "likely_faults", "solve_with", "what_if"]
