"""Showing that a job is right: which few tests are enough."""

from metrolex.proving.least_set import ChosenTest, LeastSet, least_set

__all__ = ["ChosenTest", "LeastSet", "least_set"]
