"""The twin: the whole job as one electrical network, solved for any position of the key.

``build`` makes the network from the job, ``solve`` works it out for one state, ``readings`` says what each
display shows, ``expectations`` what every test should find. Nothing else in Metrolex models the electrics.
"""

from metrolex.twin.build import Network, build
from metrolex.twin.each import solve_each
from metrolex.twin.expectations import Expectation, TestPoint, expect, points_to_test, verdict
from metrolex.twin.instruments import LampReading, read_meter, read_test_lamp
from metrolex.twin.run import Solved, readings, solve, true_values

__all__ = [
    "Expectation",
    "LampReading",
    "Network",
    "Solved",
    "TestPoint",
    "build",
    "expect",
    "points_to_test",
    "read_meter",
    "read_test_lamp",
    "readings",
    "solve",
    "solve_each",
    "true_values",
    "verdict",
]
