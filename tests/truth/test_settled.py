"""What a search calls settled, against vehicles drawn at random with one fault in them: right at least as often as is claimed, in few probes.

Each vehicle is a whole job with every toleranced field anywhere in its tolerance and a fault of the catalogue, drawn as often as its weight says,
solved from the beginning and read with a meter that errs; one reading in a hundred is misread.
"""

from __future__ import annotations

import math
import random

import numpy as np
import pytest
from scipy.stats import binom

from metrolex.faults import catalogue
from metrolex.faults.dictionary import sheet_of
from metrolex.faults.likelihood import MISREAD, Seen
from metrolex.faults.next_test import ranked_tests
from metrolex.faults.suspects import SETTLED, suspects
from metrolex.job import State
from metrolex.twin import build
from tests.jobs import shipped
from tests.truth.test_bands import drawn

RUNNING = State("run", "off", "running")
MOST_PROBES = 14
CHANCE = 1e-3  # of failing where all is as claimed


class FaultyVehicle:
    """A drawn vehicle with one fault, read by a meter."""

    def __init__(self, job, place, rng):
        self.network, self.place, self.rng = build.__wrapped__(drawn(job, rng)), (place,), rng

    def read(self, state, probe):
        sheet = sheet_of(self.network, state, probe.after)
        sheet.need([self.place])
        value, word = sheet.value(self.place, probe)
        if value is None:
            return word
        if self.rng.random() < MISREAD:
            return round(self.rng.uniform(0, 12), 2)
        if probe.kind == "volts":
            return round(value * (1 + self.rng.uniform(-0.005, 0.005)), 2) + self.rng.choice(
                (-0.01, 0.0, 0.01)
            )
        return value * (1 + self.rng.uniform(-0.01, 0.01)) if probe.kind == "ohms" else value


def searched(network, vehicle):
    """Readings taken one after the other as the search asks for them, until it is settled or nothing tells more; the verdict and how many."""
    seen, here = [], RUNNING
    for _ in range(MOST_PROBES):
        verdict = suspects(network, seen)
        if verdict.settled:
            break
        tests = ranked_tests(network, verdict, here=here, done=[(one.state, one.probe) for one in seen])
        if not tests:
            break
        here, probe = tests[0].state, tests[0].probe
        seen.append(Seen(here, probe, vehicle.read(here, probe)))
    return suspects(network, seen), len(seen)


@pytest.mark.parametrize(("example", "few"), [("sidecar", 10), ("van", 3)])
def test_settled_is_right_as_often_as_claimed(example, few, truth, sample):
    rng = random.Random(23)
    job = shipped(example)
    network = build(job)
    listed, count = catalogue(network), sample(few, 40)
    weights = [fault.weight for fault in listed]
    settled, wrong, probes = 0, 0, []
    for place in rng.choices(range(len(listed)), weights, k=count):
        vehicle = FaultyVehicle(job, place, rng)
        assert [one.words for one in catalogue(vehicle.network)] == [one.words for one in listed]
        verdict, taken = searched(network, vehicle)
        if verdict.settled:
            settled += 1
            wrong += verdict.settled != listed[place].cure
            probes.append(taken)
    assert binom.sf(wrong - 1, settled, 1 - SETTLED) > CHANCE, (wrong, settled)
    assert settled > count / 3
    bits = math.log2(len(listed))
    assert np.mean(probes) < 1.2 * bits
    truth(
        f"settled cause, {example}",
        "vehicles drawn at random with one fault, one reading in a hundred misread",
        f"{count} searches",
        f"{settled} settled, {wrong} wrong; {np.mean(probes):.1f} probes, {np.mean(probes) / bits:.2f} of log2 of the faults",
    )
