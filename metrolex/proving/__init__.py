"""Showing that a job is right: the phases, which few tests are enough, the checks with hand and eye, how far it is done."""

from metrolex.proving.checks import Check, Finds, checks_later, checks_of, usual_minutes
from metrolex.proving.enough import Enough, EnoughTest, enough_of
from metrolex.proving.least_set import ChosenTest, LeastSet, least_set
from metrolex.proving.phases import Phase, phase_of, phases
from metrolex.proving.plan import PhasePlan, PlannedCheck, PlannedTest, plan_of
from metrolex.proving.proof import Judged, Proof, judge_all, points_of, proof_of

__all__ = [
    "Check",
    "ChosenTest",
    "Enough",
    "EnoughTest",
    "Finds",
    "Judged",
    "LeastSet",
    "Phase",
    "PhasePlan",
    "PlannedCheck",
    "PlannedTest",
    "Proof",
    "checks_later",
    "checks_of",
    "enough_of",
    "judge_all",
    "least_set",
    "phase_of",
    "phases",
    "plan_of",
    "points_of",
    "proof_of",
    "usual_minutes",
]
