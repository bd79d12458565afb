"""The best chain of fittings against every chain there is, on random small libraries."""

from __future__ import annotations

import itertools
import random

from metrolex.errors import BadInput
from metrolex.fittings.fitting import Fitting
from metrolex.fittings.joints import join
from metrolex.fittings.stack import end_called, joints_of, make_up, solve_stack

THREADS = ("1/8-27 NPT", "1/8-28 BSPT", "G1/8", "M10x1", "M12x1.5", "1/4-18 NPT")
LONGEST = 4


def random_library(rng):
    found = []
    for i in range(rng.randint(1, 6)):
        one, two = rng.choice(THREADS), rng.choice(THREADS)
        ends = rng.choice([("male", "female"), ("male", "other_male"), ("female", "other_female")])
        found.append(Fitting(f"f{i}", length_mm=rng.randint(1, 40), **{ends[0]: one, ends[1]: two}))
    return tuple(found)


def goes(port, chain, sender):
    """Whether a chain goes together with some way round for every fitting: tried one by one, nothing shared with the solver."""
    for turned in itertools.product((False, True), repeat=len(chain)):
        at, good = port, True
        for fitting, back in zip(chain, turned, strict=True):
            entering, leaving = fitting.ends[::-1] if back else fitting.ends
            good = good and fits(at, entering)
            at = leaving
        if good and fits(at, sender):
            return True
    return False


def fits(one, other):
    if one.gender == other.gender:
        return False
    male, female = (one, other) if one.gender == "male" else (other, one)
    return join(male.connection, female.connection) is not None


def best_by_trying(port, sender, library):
    for count in range(LONGEST + 1):
        lengths = [
            sum(f.length_mm for f in chain)
            for chain in itertools.product(library, repeat=count)
            if goes(port, chain, sender)
        ]
        if lengths:
            return count, min(lengths)
    return None


def test_no_chain_is_better_and_none_is_missed(truth, sample):
    rng = random.Random(17)
    count, against = sample(120, 2000), []
    for _ in range(count):
        library = random_library(rng)
        port, sender = (
            end_called(f"{rng.choice(THREADS)} {rng.choice(['male', 'female'])}", "end", "female")
            for _ in range(2)
        )
        wanted, found = best_by_trying(port, sender, library), solve_stack(port, sender, library)
        got = (len(found.chain), found.length_mm) if found.found else None
        if got != wanted and not (wanted is None and got is not None and got[0] > LONGEST):
            against.append((library, port.words(), sender.words(), wanted, got))
        if found.found:
            assert make_up(port, found.chain, sender).found
    truth(
        "chain of fittings",
        "every chain of up to four, either way round",
        f"{count} random libraries",
        f"{len(against)} mismatches",
    )
    assert not against


def test_a_nipple_goes_in_the_way_round_that_lets_the_sender_on():
    # A taper nipple goes into a parallel mouth with either end: one way round the sender does not go on.
    nipple = Fitting("nipple", male="1/8-28 BSPT", other_male="G1/8", length_mm=20)
    port = end_called("G1/8 female", "port", "female")
    for other in ("1/8-28 BSPT female", "G1/8 female"):
        sender = end_called(other, "sender", "male")
        try:
            joints = joints_of(port, [nipple], sender)
        except BadInput:
            joints = ()
        assert bool(joints) == goes(port, [nipple], sender)
