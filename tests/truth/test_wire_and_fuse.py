"""The wire chosen for a load and the fuse chosen for it never contradict each other."""

from __future__ import annotations

import random

import pytest

from metrolex.feeds.fuses import choose_fuse, largest_rating
from metrolex.harness.conductors import Surroundings, choose_wire, derating, guarded_by_a


@pytest.mark.parametrize("system", ["mm2", "awg"])
def test_wire_and_fuse_agree_for_every_load(system, truth, sample):
    rng = random.Random(14)
    count, against = sample(3000, 40_000), []
    for _ in range(count):
        load, length = 10 ** rng.uniform(-2, 1.477), 10 ** rng.uniform(-1, 1.3)
        around = Surroundings(
            rng.uniform(-20, 90), rng.choice([1, 1, 2, 4, 9, 25]), rng.choice([105.0, 125.0, 150.0])
        )
        wire = choose_wire(load, length, 0.5, 40.0, system, True, around)
        if wire.gauge is None:
            continue
        fuse = choose_fuse(load, guarded_by_a(wire.gauge.size, system, around))
        if fuse.fuse_a is None or fuse.fuse_a > wire.max_fuse_a or load > 0.8 * wire.max_fuse_a:
            against.append((load, wire.gauge.words, fuse))
    truth(f"wire against fuse, {system}", "each other", f"{count} loads", f"{len(against)} contradict")
    assert not against


def test_derating_follows_the_published_rule():
    # IEC 60364-5-52, table B.52.14 (from memory): PVC 70 degC at 40 degC ambient 0.87, at 50 degC 0.71; XLPE 90 degC at 50 degC 0.82.
    for insulation, ambient, factor in ((70, 40, 0.87), (70, 50, 0.71), (90, 50, 0.82), (90, 60, 0.71)):
        assert derating(Surroundings(ambient, 1, insulation)) == pytest.approx(factor, abs=0.005)
    # Table B.52.17, item 1 (from memory): grouped in air.
    assert [derating(Surroundings(bundled=n)) for n in (1, 2, 3, 4, 6, 9, 20)] == [
        1.0,
        0.8,
        0.7,
        0.65,
        0.57,
        0.5,
        0.38,
    ]


def test_largest_rating_is_never_above_what_is_asked():
    assert [largest_rating(a) for a in (0.5, 1, 6.9, 7.5, 14.99, 40, 50)] == [0, 1, 5, 7.5, 10, 40, 50]
