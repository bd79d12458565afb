"""What a search calls settled, against vehicles drawn at random with faults of any size in them: right at least as often as is claimed, in few probes.

See ``fault_game``: nothing of a vehicle is as the search has it, neither the sizes nor the tolerances; the readings are taken as the search asks for
them. With one fault the owner says what he sees of it; one reading in a hundred is misread. Then with one reading surely misread, then with two faults.
"""

from __future__ import annotations

import random
import time

import numpy as np
import pytest
from scipy.stats import binom

from metrolex.faults.cases import cases_of
from metrolex.jobfile import EXAMPLES
from metrolex.twin import build
from tests.jobs import shipped
from tests.truth.fault_game import (
    FaultyVehicle,
    bits_to_tell,
    complaint,
    cure_of,
    likely,
    searched,
    settled_on,
)

CHANCE = 0.05  # of failing where just as much is wrong, or as little right, as is allowed
WRONG = 0.04  # of the searches may end on another part
FIRST_READINGS = 5  # one of which is misread
FEW = {"sidecar": 6, "van": 3, "single_seater": 2, "fire_tender": 2}
WAYS = {
    "one fault": "one reading in a hundred misread",
    "one misreading": "one of the first five readings misread",
    "two faults": "what is called settled is one of them, or both",
}


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("example", EXAMPLES)
def test_settled_is_right_as_often_as_claimed(example, way, truth, sample):
    few = FEW[example] if way == "one fault" else FEW[example] // 3
    count = sample(few, 40)
    if not count:
        pytest.skip("in the large samples only")
    rng, network = random.Random(23), build(shipped(example))
    right, wrong, probes, steps, seconds = 0, 0, [], 0, 0.0
    for _ in range(count):
        faults = likely(network, rng, 2 if way == "two faults" else 1)
        misread = rng.randrange(FIRST_READINGS) if way == "one misreading" else None
        vehicle = FaultyVehicle(network, faults, rng, misread, 0.01 if way == "one fault" else 0.0)
        said = [] if way == "two faults" else complaint(network, vehicle, rng)
        begun = time.process_time()
        found = searched(network, vehicle, said)
        seconds, steps = seconds + time.process_time() - begun, steps + found.readings + 1
        cures, there = settled_on(network, found.verdict), cure_of(faults)
        good = bool(cures) and (cures <= there if way == "two faults" else cures == there)
        right, wrong = right + good, wrong + (bool(cures) and not good)
        if cures:
            probes.append(found.readings)
    assert binom.sf(wrong - 1, count, WRONG) > CHANCE, (wrong, count)
    if way == "one fault":
        assert binom.cdf(right, count, 0.6) > CHANCE, (right, count)
    cases, cures = np.log2(len(cases_of(network).searched)), bits_to_tell(network)
    mean = float(np.mean(probes)) if probes else 0.0
    truth(
        f"fault search, {way}, {example}",
        f"vehicles drawn at random, sizes over two decades, {WAYS[way]}",
        f"{count} searches",
        f"{right} right, {wrong} wrong, {count - right - wrong} open; {mean:.1f} probes where settled: {mean / cases:.2f} of log2 of all that is gone "
        f"through, {mean / cures:.2f} of log2 of the cures; {seconds / steps:.2f} s of processor time an answer",
    )
