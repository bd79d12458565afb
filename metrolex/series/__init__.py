"""Recordings: one shape for drives, GPS and logs, and the readers of the formats they come in."""

from metrolex.series.columns import read_columns
from metrolex.series.gps import read_gps
from metrolex.series.series import Array, Series

__all__ = ["Array", "Series", "read_columns", "read_gps"]
