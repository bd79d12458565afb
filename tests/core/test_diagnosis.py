"""Fault finding: Bayes' rule by hand, tolerances that move readings together, information by brute force, the dictionary against the plain twin."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from metrolex.circuit import GROUND, Resistor
from metrolex.faults import catalogue
from metrolex.faults.cases import NONE, cases_of
from metrolex.faults.classes import classes_of, columns_of, noticed_by
from metrolex.faults.complaints import WORDS, Complaint, holds
from metrolex.faults.dictionary import HOLD_OHM
from metrolex.faults.likelihood import LEAST_SIGMA, MISREAD, SPAN, Seen, explain
from metrolex.faults.lineup import lineup_of
from metrolex.faults.next_test import bits_of, ranked_tests
from metrolex.faults.predicted import Predicted, Shows
from metrolex.faults.probes import IN_FUEL, Action, Probe, actions_of, probes_at
from metrolex.faults.suspects import SOUND_WEIGHT, TWO_SHARE, UNKNOWN_SHARE, suspects
from metrolex.feeds.safety import standing_of_circuit
from metrolex.job import State
from metrolex.jobfile import EXAMPLES
from metrolex.twin import addresses, build, solve
from metrolex.twin.expectations import states_of
from metrolex.twin.many_faces import look_of
from tests.jobs import shipped, van

RUNNING = State("run", "off", "running")
NETWORKS = {name: build(shipped(name)) for name in EXAMPLES}
VAN = build(van())
VOLTS = Probe("volts")


def best_test(*args, **how):
    return next(iter(ranked_tests(*args, **how)), None)


def normal(x, mean, variance):
    return math.exp(-((x - mean) ** 2) / (2 * variance)) / math.sqrt(2 * math.pi * variance)


def predicted(values, words=(), moved=None, own=0.01, **steps):
    """What some suspects show at one probe: values, or words where there is none."""
    value = np.array([np.nan if one is None else one for one in values], dtype=float)
    said = [(), *((word,) for word in dict.fromkeys(words))]
    word = np.array([said.index((one,)) if one else 0 for one in words] or [0] * len(value), dtype=np.intp)
    none = np.zeros((len(value), 1))
    shows = Shows(value, word, tuple(said))
    return Predicted(
        shows, none if moved is None else np.array(moved), np.broadcast_to(own, value.shape), **steps
    )


def test_ten_faults_by_the_rule_written_out():
    """Ten suspects that predict 0, 1, … 9 V with an error of their own; 4.1 V and 'dark' are seen."""
    rng = np.random.default_rng(3)
    own = rng.uniform(0.01, 1.0, 10)
    seen = [Seen(RUNNING, VOLTS, 4.1), Seen(RUNNING, Probe("shown", on="x"), "dark")]
    words = ["dark" if volts % 2 else "dashes" for volts in range(10)]
    told = [predicted(range(10), own=own), predicted([None] * 10, words)]
    found = explain(told, seen, 10)
    for volts in range(10):
        sigma = math.sqrt(own[volts] + LEAST_SIGMA**2)
        # A meter of 0.01 V shows 4.10 for whatever lies within half a digit of it.
        by_hand = (1 - MISREAD) * (norm_cdf((4.105 - volts) / sigma) - norm_cdf((4.095 - volts) / sigma))
        by_hand += MISREAD * 0.01 / SPAN["volts"]
        by_hand *= 1 - MISREAD if words[volts] == "dark" else MISREAD
        assert found.log_likelihood[volts] == pytest.approx(math.log(by_hand), rel=1e-6)
        assert found.fits[1, volts] == (words[volts] == "dark")


def norm_cdf(x):
    return 0.5 * math.erfc(-x / math.sqrt(2))


def test_readings_that_go_wrong_together_are_one_surprise_not_two():
    """Two readings off by the same part: as the joint normal says (scipy), far likelier than two that are off apart."""
    from scipy.stats import multivariate_normal  # takes a second to load

    told = [predicted([10.0], moved=[[0.6]]), predicted([5.0], moved=[[0.3]])]
    seen = [Seen(RUNNING, VOLTS, 10.5), Seen(RUNNING, VOLTS, 5.25)]
    covariance = np.outer([0.6, 0.3], [0.6, 0.3]) / 3 + np.diag([0.01, 0.01])
    joint = multivariate_normal([10, 5], covariance).pdf([10.5, 5.25]) * 0.01**2  # both to a digit of 0.01 V
    found = explain(told, seen, 1)
    assert found.log_likelihood[0] == pytest.approx(math.log(joint), abs=0.05)
    apart = explain(told, [seen[0], Seen(RUNNING, VOLTS, 4.75)], 1)
    assert found.log_likelihood[0] > apart.log_likelihood[0] + 2
    (mean,), (variance,) = explain(told[:1], seen[:1], 1).expected(told[1])
    assert mean == pytest.approx(5 + covariance[0, 1] / covariance[0, 0] * 0.5, abs=1e-3)
    assert variance == pytest.approx(covariance[1, 1] - covariance[0, 1] ** 2 / covariance[0, 0], abs=1e-3)


def test_one_misreading_does_not_acquit():
    told = [predicted([12.0])] * 3
    seen = [Seen(RUNNING, VOLTS, volts) for volts in (12.0, 3.0, 12.05)]
    found = explain(told, seen, 1)
    assert found.fits[:, 0].tolist() == [True, False, True]
    assert [bool(one[0]) for one in found.kept] == [True, False, True]
    assert found.log_likelihood[0] > math.log(MISREAD * 0.01 / SPAN["volts"]) - 12
    assert not explain(told, seen, 1, struck=(0,)).fits[0, 0]


def test_a_face_at_its_stop_may_mean_anything_beyond():
    """A face that ends at 0: a suspect that wants it there exactly and one that wants it far below show the same."""
    shown = Probe("shown", on="x")
    told = predicted([0.0, -40.0], own=0.04, step=0.1, low=0.0, high=10.0)
    found = explain([told], [Seen(RUNNING, shown, 0.0)], 2)
    assert np.exp(found.log_likelihood) == pytest.approx([norm_cdf(0.05 / 0.2), 1.0], abs=0.02)
    assert not found.kept[0].any()  # and tells the next reading nothing


def test_bits_are_those_of_brute_force():
    """Words: the entropy of their shares. Values: mutual information summed over a million draws."""
    share = np.array([0.5, 0.25, 0.125, 0.125])
    words = predicted([None] * 4, ("dark", "dashes", "dark", "flash"))
    apart = np.array([0.625, 0.25, 0.125])
    none = np.full(4, np.nan)
    assert bits_of(share, words, none, none) == pytest.approx(
        -(apart * np.log2(apart)).sum(), rel=0.1
    )  # less what misreadings blur
    means, variances = np.array([0.0, 1.0, 1.5, 9.0]), np.array([0.2, 0.3, 0.1, 1.0])
    rng = np.random.default_rng(5)
    who = rng.choice(4, 400_000, p=share)
    drawn = rng.normal(means[who], np.sqrt(variances[who]))
    density = np.exp(-((drawn[:, None] - means) ** 2) / (2 * variances)) / np.sqrt(2 * np.pi * variances)
    brute = np.log2(density[np.arange(len(who)), who] / (density @ share)).mean()
    found = bits_of(share, predicted(means, own=variances), means, variances)
    assert found == pytest.approx(brute, rel=0.12)
    assert found <= brute + 0.01  # bins never tell more than the reading
    # Two sizes of one fault want one cure: to part them tells nothing.
    assert (
        bits_of(share[:2] / share[:2].sum(), predicted(means[:2]), means[:2], variances[:2], np.zeros(2, int))
        < 0.01
    )


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_the_dictionary_is_the_twin_with_each_fault_in_it(name):
    """One case in twenty, of any size, in one state each, solved by itself with the meter's hold on every point."""
    network = NETWORKS[name]
    states, known = states_of(network.job), cases_of(network)
    for state in states:
        some = tuple(range(states.index(state), len(known.listed), 20 * len(states) // 3))
        plain = solve(network, state)
        there = {element.name: element for element in plain.elements}
        nodes = dict.fromkeys(n for e in plain.elements if isinstance(e, Resistor) for n in (e.a, e.b))
        hung = [Resistor(f"m{k}", n, GROUND, HOLD_OHM) for k, n in enumerate(nodes) if n != GROUND]
        told = lineup_of(network, tuple((case, NONE) for case in some))
        for i, case in enumerate(some):
            fault = known.listed[case]
            alone = solve(network, state, fault.in_state(plain, there), extra=hung)
            for node, volts in alone.solution.potentials.items():
                if node in nodes:
                    assert told.volts(state, node)[i] == pytest.approx(volts, abs=1e-3), (fault.words, node)
            for key, face in fault.seen(alone).items():
                values, looks = told.faces(state, key)
                assert (None if np.isnan(values[i]) else values[i]) == face.value, (fault.words, key)
                assert looks[i] == look_of(face)


def test_two_faults_at_once_are_the_twin_with_both():
    known = cases_of(VAN)
    ground = next(i for i, one in enumerate(known.listed) if one.kind == "strap.corroded" and known.share[i])
    others = [
        i for i in known.searched if known.listed[i].kind in ("joint.poor", "table.unit", "sender.off")
    ][::9]
    told = lineup_of(VAN, tuple((case, ground) for case in others))
    plain = solve(VAN, RUNNING)
    there = {element.name: element for element in plain.elements}
    for i, case in enumerate(others):
        both = [*known.listed[ground].in_state(plain, there), *known.listed[case].in_state(plain, there)]
        alone = solve(VAN, RUNNING, both)
        for key, face in known.listed[case].seen(alone).items():
            values, looks = told.faces(RUNNING, key)
            assert (None if np.isnan(values[i]) else values[i]) == face.value, (known.listed[case].words, key)
            assert looks[i] == look_of(face)


def test_before_anything_is_seen_the_priors_stand():
    found = suspects(VAN, [])
    weights = [fault.weight for fault in catalogue(VAN)]
    whole = sum(weights) + SOUND_WEIGHT
    by_words = {one.words: one.probability for one in found.suspects}
    assert sum(by_words.values()) == pytest.approx(1.0, abs=0.02)  # words may be said of two
    single = (1 - UNKNOWN_SHARE) * (1 - TWO_SHARE)
    assert by_words["wire W19 broken"] == pytest.approx(single * 4 / whole, rel=0.03)
    assert min(one.probability for one in found.suspects) > 0
    assert not found.settled


@pytest.mark.thorough
def test_what_contradicts_everything_is_said_and_unknown_rises():
    pins = [p for p in probes_at(VAN, RUNNING) if p.kind == "volts"][:4]
    seen = [Seen(RUNNING, probe, 33.3 + i) for i, probe in enumerate(pins)]
    found = suspects(VAN, seen)
    assert found.does_not_fit
    unknown = next(one for one in found.suspects if one.key is None)
    assert unknown.probability > UNKNOWN_SHARE


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_every_test_offered_tells_something_and_takes_what_is_allowed(name):
    network = NETWORKS[name]
    found = best_test(network, suspects(network, []), here=RUNNING)
    assert found.bits > 0
    assert sum(len(one.suspects) for one in found.outcomes) >= 2
    assert all(
        test.state == states_of(network.job)[0]
        for test in ranked_tests(network, suspects(network, []), here=RUNNING)
        if test.probe.kind == "ohms"
    )  # never ohms on a live circuit
    only = best_test(network, suspects(network, []), here=RUNNING, allow=("shown",))
    assert only.probe.kind == "shown"
    assert best_test(network, suspects(network, []), here=RUNNING, allow=()) is None


def test_an_action_tells_what_no_reading_does():
    """Sender unplugged: a face that then goes where an open goes clears the wire and the display."""
    action = Action("unplug_sender", "coolant sender")
    broken = next(i for i, f in enumerate(catalogue(VAN)) if f.words == "wire W19 broken")
    off = next(i for i, f in enumerate(catalogue(VAN)) if f.kind == "sender.off" and "coolant" in f.words)
    told = lineup_of(VAN, ((NONE, NONE), (broken, NONE), (off, NONE)))
    shows = told.shows(RUNNING, Probe("shown", on="coolant", after=action))
    assert np.isnan(shows.value).all()
    assert [shows.said(i) for i in range(3)] == ["dashes"] * 3
    assert not told.can(RUNNING, Action("unplug_sender", "no such sender"))
    assert told.can(State("off"), Action("ground_signal", "coolant sender"))
    assert {action.do for action in actions_of(VAN)} >= {"unplug_sender", "pull_fuse", "bridge_ground"}


@pytest.mark.parametrize("name", EXAMPLES)
def test_nothing_that_hurts_is_ever_proposed(name):
    """No probe and no fuse on a circuit that is left alone, nothing done in fuel or to a sender the vehicle reads."""
    network = NETWORKS[name]
    job = network.job
    never = {
        circuit.id
        for circuit in job.circuits
        if standing_of_circuit(circuit, network.verdicts[circuit.id], job.brief.cluster_removed).grade
        == "never"
    }
    kept = {s.id for s in job.senders if s.readers} | {
        c.sender for c in job.measured if c.measurand in IN_FUEL
    }
    for action in actions_of(network):
        assert action.on not in never
        assert not {action.on, action.other} & kept
    for state in states_of(job):
        for probe in probes_at(network, state):
            if probe.kind == "volts" and probe.red.kind == "circuit":
                assert probe.red.id not in never


def test_a_tap_on_a_safety_circuit_is_not_probed_at_its_fuse():
    job = van()
    belts = next(c for c in job.circuits if "airbag" in c.purpose.lower())
    moved = replace(job, taps=(replace(job.taps[0], circuit=belts.id), *job.taps[1:]))
    network = build(moved)
    reds = {probe.red for probe in probes_at(network, RUNNING)}
    assert not {addresses.feed_side(belts.id), addresses.load_side(belts.id)} & reds
    assert Action("pull_fuse", belts.id) not in set(actions_of(network))


def test_swapped_senders_change_faces():
    action = Action("swap_senders", "coolant sender", "gearbox sender")
    senders = [chain.sender for chain in VAN.job.measured if chain.sender]
    action = Action("swap_senders", senders[0], senders[1])
    plain = lineup_of(VAN, ((NONE, NONE),))
    chain = next(chain for chain in VAN.job.measured if chain.sender == senders[0])
    swapped, sound = (plain.shows(RUNNING, Probe("shown", on=chain.id, after=one)) for one in (action, None))
    assert not np.array_equal(swapped.value, sound.value, equal_nan=False)


@pytest.mark.thorough
def test_words_are_said_of_what_does_so():
    usual = lineup_of(VAN, tuple((case, NONE) for case in range(len(catalogue(VAN)))))
    said = {
        word: {catalogue(VAN)[i].kind for i in np.flatnonzero(holds(usual, Complaint(word)))}
        for word in WORDS
    }
    assert not any(holds(lineup_of(VAN, ((NONE, NONE),)), Complaint(word))[0] for word in WORDS)
    assert "wire.broken" in said["dashes"]
    assert said["dark"] >= {"display.dead", "tap.loose"}
    assert "battery.low" in said["dead_in_crank"] or "feed.other_class" in said["dead_in_crank"]
    assert said["wrong_way"] >= {"table.reversed"}
    assert "strap.corroded" in said["comes_and_goes"]
    assert said["forgets"]
    assert "sender.off" in said["always_high"] | said["always_low"]
    assert suspects(VAN, [], [Complaint("forgets")]).suspects[0].words


@pytest.mark.thorough
def test_classes_part_what_some_test_parts():
    allow = ("volts", "shown", "ohms")
    groups = classes_of(VAN, allow)
    columns = columns_of(VAN, allow)
    apart = [
        (i, j)
        for i in range(0, len(groups), 9)
        for j in range(i + 1, len(groups), 11)
        if groups[i] == groups[j]
    ]
    for i, j in apart:
        for column in columns:
            a, b = column.values[i], column.values[j]
            assert (np.isnan(a) and np.isnan(b)) or abs(a - b) <= 2 * max(column.expected.band, 1e-9)
    noticed = np.any([noticed_by(column) for column in columns], axis=0)
    assert noticed.mean() > 0.85
    assert len(set(groups)) > len(groups) / 2
    assert len(set(classes_of(VAN, ("shown",)))) < len(set(groups))


def test_a_fault_between_two_kept_sizes_is_explained_as_well():
    """Halfway between two sizes next to each other, as well as at them, within a factor of two."""
    known = cases_of(VAN)
    joint = [i for i in known.searched if known.listed[i].words == "poor joint in W19"]
    shown = Probe("shown", on="coolant")
    alone = lineup_of(VAN, tuple((case, NONE) for case in joint))
    told = alone.predict(RUNNING, shown)
    likelihoods = []
    for part in (0.0, 0.25, 0.5):
        ohm = known.size[joint[7]] * (known.size[joint[8]] / known.size[joint[7]]) ** part
        real = solve(VAN, RUNNING, [replace(known.listed[joint[7]].does[0], ohm=float(ohm))])
        seen = Seen(RUNNING, shown, known.listed[joint[7]].seen(real)["coolant"].value)
        likelihoods.append(float(np.exp(explain([told], [seen], len(alone)).log_likelihood).sum()))
    assert max(likelihoods) < 2 * min(likelihoods)
