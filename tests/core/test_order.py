"""The order of the steps, against every order tried on small jobs; what no order may break on larger ones."""

from __future__ import annotations

import itertools
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from metrolex.errors import BadInput
from metrolex.workorder import Step, order_steps
from metrolex.workorder.step import ended_by


def by_hand(steps, order):
    """An order of the hands-on steps begun as early as it may be: entries and the end; None where it cannot be."""
    makers = {state: [s for s in steps if state in s.makes] for s in steps for state in s.makes}
    named = {s.name: s for s in steps}
    held, entries = set(), dict.fromkeys(states_of(steps, makers, named), 0)
    for step in order:
        for need in step.needs:
            gone = ended_by(need)
            if gone is not None and gone not in makers:
                held.discard(gone)
            elif gone is None and need not in makers and need not in named and need not in held:
                held.add(need)
                entries[need] += 1
    start, last, waiting = {}, 0.0, list(order)
    pending = [s for s in steps if not s.hands]
    while waiting or pending:
        ready = [s for s in pending if all_there(s, start, makers, named)]
        if ready:
            step = ready[0]
            pending.remove(step)
            start[step.name] = earliest(step, start, makers, named)
            continue
        if not waiting or not all_there(waiting[0], start, makers, named):
            return None
        step = waiting.pop(0)
        if any(
            g in makers and any(m.name in start for m in makers[g] if m is not step)
            for n in step.needs
            if (g := ended_by(n))
        ):
            return None
        start[step.name] = max(last, earliest(step, start, makers, named))
        last = start[step.name] + step.minutes
    return sum(entries.values()), max(start[s.name] + s.minutes for s in steps)


def states_of(steps, makers, named):
    return {n for s in steps for n in s.needs if ended_by(n) is None and n not in makers and n not in named}


def first_of(step, makers, named):
    for need in step.needs:
        if need in makers:
            yield from (m for m in makers[need] if m is not step)
        elif need in named:
            yield named[need]


def all_there(step, start, makers, named):
    return all(one.name in start for one in first_of(step, makers, named))


def earliest(step, start, makers, named):
    return max(
        (start[m.name] + m.minutes + m.wait_minutes for m in first_of(step, makers, named)), default=0.0
    )


def orders(left, done, makers, named):
    """Every order of the hands-on steps in which no step comes before one it needs."""
    if not left:
        yield done
    names = {one.name for one in done}
    for step in left:
        if all(one.name in names or not one.hands for one in first_of(step, makers, named)):
            yield from orders([s for s in left if s is not step], [*done, step], makers, named)


def best_of_all(steps):
    makers = {state: [s for s in steps if state in s.makes] for s in steps for state in s.makes}
    named = {s.name: s for s in steps}
    tried = (by_hand(steps, one) for one in orders([s for s in steps if s.hands], [], makers, named))
    return min(one for one in tried if one is not None)


def drawn(seed, count):
    """A small job: steps that need earlier ones or states, waits, some that go on by themselves."""
    rng = random.Random(seed)
    steps = []
    for i in range(count):
        needs = [steps[k].name for k in range(i) if rng.random() < 0.25]
        for state in ("battery off", "lifted"):
            draw = rng.random()
            needs += [state] if draw < 0.35 else [f"not {state}"] if draw < 0.55 else []
        alone = rng.random() < 0.2
        if alone:
            needs = [need for need in needs if "battery" not in need and "lifted" not in need]
        wait = rng.choice((0, 0, 20)) if not alone else 0
        steps.append(Step(f"step {i}", rng.choice((5, 10, 15)), tuple(needs), (), wait, 0 if alone else 1))
    return steps


@pytest.mark.parametrize("seed", range(14))
def test_no_order_is_better(seed):
    steps = drawn(seed, 6 + seed % 2)
    found = order_steps(steps)
    assert found.proved
    assert (sum(found.setups.values()), found.total_min) == pytest.approx(best_of_all(steps))
    assert found.at_least == pytest.approx(found.total_min)


def test_nine_steps_against_every_order_of_them():
    """A display wired and set up: one time with the battery off, the glue cured meanwhile."""
    steps = [
        Step("trim out", 15, makes=("trim out",)),
        Step("glue the pod", 5, ("trim out",), wait_minutes=60),
        Step("tap the feed", 20, ("battery off", "trim out")),
        Step("lay the lead", 25, ("trim out",)),
        Step("sender in", 20, ("lifted",)),
        Step("crimp", 15, ("battery off", "lay the lead")),
        Step("gauge in", 10, ("glue the pod", "crimp")),
        Step("find the feed", 10, ("not battery off",)),
        Step("prove", 10, ("not battery off", "gauge in", "sender in", "tap the feed")),
    ]
    found = order_steps(steps)
    assert found.proved
    assert (2, found.total_min) == pytest.approx(best_of_all(steps))
    assert found.setups == {"battery off": 1, "lifted": 1, "trim out": 1}


@pytest.mark.thorough
@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.integers(1, 30))
def test_no_order_breaks_a_need(seed, count):
    steps = drawn(seed, count)
    found = order_steps(steps, most_work=0.6)
    at = {one.step.name: one for one in found.sequence}
    assert sorted(at) == sorted(step.name for step in steps)
    for step in steps:
        mine = at[step.name]
        assert mine.end_min == pytest.approx(mine.start_min + step.minutes)
        for need in step.needs:
            if need in at:
                assert mine.start_min >= at[need].end_min + at[need].step.wait_minutes - 1e-6
    by_start = [one for one in found.sequence if one.step.hands]
    for one, other in itertools.pairwise(by_start):
        assert other.start_min >= one.end_min - 1e-6
    held, entries = set(), dict.fromkeys(found.setups, 0)
    for one in by_start:
        for need in one.step.needs:
            gone = ended_by(need)
            if gone:
                held.discard(gone)
            elif need in entries and need not in held:
                held.add(need)
                entries[need] += 1
    assert entries == found.setups
    assert found.at_least <= found.total_min + 1e-6


def test_a_known_order_is_kept_where_it_is_as_good():
    steps = [Step(f"step {i}", 10) for i in range(8)]
    first = order_steps(steps)
    again = order_steps([*steps, Step("one more", 5)], before=first.sequence)
    names = [one.step.name for one in again.sequence if one.step.name != "one more"]
    assert names == [one.step.name for one in first.sequence]


def test_made_states_hold_from_their_maker_on():
    steps = [
        Step("drain", 20, makes=("drained",), wait_minutes=15),
        Step("sender in", 10, ("drained",)),
        Step("warm up", 10, ("not drained",)),
    ]
    found = order_steps(steps)
    at = {one.step.name: one.start_min for one in found.sequence}
    assert at["warm up"] < at["drain"]
    assert at["sender in"] >= at["drain"] + 35
    assert found.setups == {"drained": 1}


@pytest.mark.parametrize(
    ("steps", "words"),
    [
        ([Step("a", 1, ("b",)), Step("b", 1, ("a",))], "wait for one another"),
        ([Step("a", 1), Step("a", 2)], "each name once"),
        ([Step("a", 1, ("lifted", "not lifted"))], "wanted and ended"),
        ([Step(f"s{i}", 1) for i in range(1000)], "at most 800"),
    ],
)
def test_what_has_no_order_is_named(steps, words):
    with pytest.raises(BadInput, match=words):
        order_steps(steps)


def test_nothing_to_do_takes_no_time():
    assert order_steps([]).total_min == 0


def test_a_busy_machine_finds_the_same_order():
    """A search that is broken off is broken off at the same work, whatever else the machine does meanwhile."""
    import threading

    steps = drawn(3, 40)
    quiet = order_steps(steps, most_work=0.02)
    assert not quiet.proved
    stop = threading.Event()

    def burn():
        while not stop.is_set():
            sum(range(20_000))

    others = [threading.Thread(target=burn) for _ in range(4)]
    for other in others:
        other.start()
    try:
        busy = order_steps(steps, most_work=0.02)
    finally:
        stop.set()
        for other in others:
            other.join()
    assert busy == quiet
