"""Fault finding: Bayes' rule by hand, tolerances that move readings together, information by brute force, the dictionary against the plain twin."""

from __future__ import annotations

import math
import random
from dataclasses import replace

import numpy as np
import pytest

from metrolex.circuit import GROUND, Resistor
from metrolex.faults import catalogue
from metrolex.faults.classes import classes_of, columns_of, noticed_by
from metrolex.faults.complaints import HEARD_IN, WORDS, Complaint, holds
from metrolex.faults.dictionary import HOLD_OHM, Prediction, fault_of, sheet_of, toleranced_parts
from metrolex.faults.likelihood import LEAST_SIGMA, MISREAD, SPAN, Seen, expected_after, explain
from metrolex.faults.next_test import bits_of, ranked_tests
from metrolex.faults.probes import IN_FUEL, Action, Probe, actions_of, probes_at
from metrolex.faults.suspects import SOUND_WEIGHT, UNKNOWN_SHARE, suspects
from metrolex.feeds.safety import standing_of_circuit
from metrolex.job import State
from metrolex.jobfile import EXAMPLES
from metrolex.twin import addresses, build, solve
from metrolex.twin.expectations import states_of
from tests.jobs import shipped, van

RUNNING = State("run", "off", "running")
NETWORKS = {name: build(shipped(name)) for name in EXAMPLES}
VAN = build(van())
VOLTS = Probe("volts")


def best_test(*args, **how):
    return next(iter(ranked_tests(*args, **how)), None)


def normal(x, mean, variance):
    return math.exp(-((x - mean) ** 2) / (2 * variance)) / math.sqrt(2 * math.pi * variance)


def test_ten_faults_by_the_rule_written_out():
    """Ten suspects that predict 0, 1, … 9 V with an error of their own; 4.1 V and 'dark' are seen."""
    rng = np.random.default_rng(3)
    own = rng.uniform(0.01, 1.0, 10)
    seen = [Seen(RUNNING, VOLTS, 4.1), Seen(RUNNING, Probe("shown", on="x"), "dark")]
    nothing = np.zeros(1)
    for volts in range(10):
        word = "dark" if volts % 2 else "dashes"
        found = explain([Prediction(float(volts), "", nothing, own[volts]), Prediction(None, word)], seen)
        by_hand = (1 - MISREAD) * normal(4.1, volts, own[volts] + LEAST_SIGMA**2) + MISREAD / SPAN["volts"]
        by_hand *= 1 - MISREAD if word == "dark" else MISREAD
        assert found.log_likelihood == pytest.approx(math.log(by_hand), rel=1e-9)
        assert found.fits[1] == (word == "dark")


def test_readings_that_go_wrong_together_are_one_surprise_not_two():
    """Two readings off by the same part: as the joint normal says (scipy), far likelier than two that are off apart."""
    from scipy.stats import multivariate_normal  # takes a second to load

    part = np.array([0.6])
    predictions = [Prediction(10.0, "", part, 0.01), Prediction(5.0, "", part / 2, 0.01)]
    seen = [Seen(RUNNING, VOLTS, 10.5), Seen(RUNNING, VOLTS, 5.25)]
    covariance = np.outer([0.6, 0.3], [0.6, 0.3]) / 3 + np.diag([0.01, 0.01])
    joint = multivariate_normal([10, 5], covariance).pdf([10.5, 5.25])
    found = explain(predictions, seen)
    assert found.log_likelihood == pytest.approx(math.log(joint), abs=0.05)
    apart = explain(predictions, [seen[0], Seen(RUNNING, VOLTS, 4.75)])
    assert found.log_likelihood > apart.log_likelihood + 2
    mean, variance = expected_after(predictions[1], found.moved[:1], found.own[:1], found.off[:1])
    assert mean == pytest.approx(5 + covariance[0, 1] / covariance[0, 0] * 0.5, abs=1e-3)
    assert variance == pytest.approx(covariance[1, 1] - covariance[0, 1] ** 2 / covariance[0, 0], abs=1e-3)


def test_one_misreading_does_not_acquit():
    predictions = [Prediction(12.0, "", np.zeros(1), 0.01)] * 3
    seen = [Seen(RUNNING, VOLTS, volts) for volts in (12.0, 3.0, 12.05)]
    found = explain(predictions, seen)
    assert found.fits == (True, False, True)
    assert found.kept == (0, 2)
    assert found.log_likelihood > math.log(MISREAD / SPAN["volts"]) - 3


def test_bits_are_those_of_brute_force():
    """Words: the entropy of their shares. Values: mutual information summed over a million draws."""
    share = np.array([0.5, 0.25, 0.125, 0.125])
    words = [Prediction(None, word) for word in ("dark", "dashes", "dark", "flash")]
    apart = np.array([0.625, 0.25, 0.125])
    assert bits_of(share, words, [(0.0, 0.0)] * 4) == pytest.approx(
        -(apart * np.log2(apart)).sum(), rel=0.1
    )  # less what misreadings blur
    means, variances = np.array([0.0, 1.0, 1.5, 9.0]), np.array([0.2, 0.3, 0.1, 1.0])
    values = [Prediction(m, "", np.zeros(1), v) for m, v in zip(means, variances, strict=True)]
    rng = np.random.default_rng(5)
    who = rng.choice(4, 400_000, p=share)
    drawn = rng.normal(means[who], np.sqrt(variances[who]))
    density = np.exp(-((drawn[:, None] - means) ** 2) / (2 * variances)) / np.sqrt(2 * np.pi * variances)
    brute = np.log2(density[np.arange(len(who)), who] / (density @ share)).mean()
    found = bits_of(share, values, list(zip(means, variances, strict=True)))
    assert found == pytest.approx(brute, rel=0.12)
    assert found <= brute + 0.01  # bins never tell more than the reading


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_the_dictionary_is_the_twin_with_each_fault_in_it(name):
    """One fault in seven, in one state each, solved by itself with the meter's hold on every point."""
    network = NETWORKS[name]
    states = states_of(network.job)
    for i in range(0, len(catalogue(network)), 7):
        state = states[i % len(states)]
        sheet = sheet_of(network, state)
        sheet.need([(i,)])
        plain = solve(network, state)
        there = {element.name: element for element in plain.elements}
        nodes = dict.fromkeys(n for e in plain.elements if isinstance(e, Resistor) for n in (e.a, e.b))
        hung = [Resistor(f"m{k}", n, GROUND, HOLD_OHM) for k, n in enumerate(nodes) if n != GROUND]
        fault = catalogue(network)[i]
        alone = solve(network, state, fault.in_state(plain, there), extra=hung)
        volts = sheet.rows[i,].changed.solved.solution.potentials
        off = max(abs(volts[node] - alone.solution.potentials[node]) for node in volts)
        assert off < 1e-3, fault.words
        assert {key: face.text for key, face in sheet.rows[i,].faces.items()} == {
            key: face.text for key, face in fault.seen(alone).items()
        }


def test_before_anything_is_seen_the_priors_stand():
    found = suspects(VAN, [])
    weights = [fault.weight for fault in catalogue(VAN)]
    whole = sum(weights) + SOUND_WEIGHT
    by_words = {one.words: one.probability for one in found.suspects}
    assert sum(by_words.values()) == pytest.approx(1.0, abs=0.02)  # words may be said of two
    assert by_words["wire W19 broken"] == pytest.approx((1 - UNKNOWN_SHARE) * 4 / whole)
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
    sheet = sheet_of(VAN, RUNNING, action)
    broken = next(i for i, f in enumerate(catalogue(VAN)) if f.words == "wire W19 broken")
    off = next(i for i, f in enumerate(catalogue(VAN)) if f.kind == "sender.off" and "coolant" in f.words)
    sheet.need([(broken,), (off,)])
    shown = Probe("shown", on="coolant", after=action)
    assert sheet.value((), shown) == sheet.value((broken,), shown) == sheet.value((off,), shown)
    assert sheet.value((), shown)[1] == "dashes"
    assert sheet_of(VAN, RUNNING, Action("unplug_sender", "no such sender")) is None
    assert sheet_of(VAN, State("off"), Action("ground_signal", "coolant sender")) is not None
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
    sheet = sheet_of(VAN, RUNNING, action)
    plain = sheet_of(VAN, RUNNING)
    faces = [{k: f.text for k, f in s.rows[()].faces.items()} for s in (sheet, plain)]
    assert faces[0] != faces[1]


@pytest.mark.thorough
def test_words_are_said_of_what_does_so():
    for state in HEARD_IN:
        sheet_of(VAN, state).need([(i,) for i in range(len(catalogue(VAN)))])
    said = {
        word: {
            catalogue(VAN)[i].kind for i in range(len(catalogue(VAN))) if holds(VAN, (i,), Complaint(word))
        }
        for word in WORDS
    }
    assert not any(holds(VAN, (), Complaint(word)) for word in WORDS)
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
            assert (np.isnan(a) and np.isnan(b)) or abs(a - b) <= 2 * max(column.band, 1e-9)
    noticed = np.any([noticed_by(column) for column in columns], axis=0)
    assert noticed.mean() > 0.85
    assert len(set(groups)) > len(groups) / 2
    assert len(set(classes_of(VAN, ("shown",)))) < len(set(groups))


def real_vehicle(network, key, rng):
    """A vehicle with one fault, its parts off by something, read with a meter of 0.5 % and one digit."""
    off = np.array([rng.uniform(-1, 1) for _ in toleranced_parts(network)])

    def read(state, probe):
        sheet = sheet_of(network, state, probe.after)
        sheet.need([key])
        found = sheet.predict(key, probe)
        if found.value is None:
            return found.word
        value = found.value + float(found.moved @ off)
        if probe.kind == "volts":
            return round(value * (1 + rng.uniform(-0.005, 0.005)) + rng.choice([-0.01, 0, 0.01]), 2)
        if probe.kind == "ohms":
            return round(value * (1 + rng.uniform(-0.01, 0.01)), 1)
        return round(value, network.job.chain(probe.on).scaling.decimals)

    return read


@pytest.mark.thorough
@pytest.mark.parametrize("name", EXAMPLES)
def test_random_faults_are_found_in_fewer_probes_than_the_catalogue_has_bits(name):
    """Faults drawn by how often they are, on vehicles of their own: what is called settled is right (many more of them in ``bin/test truth``)."""
    network, rng = NETWORKS[name], random.Random(8)
    listed = catalogue(network)
    settled = right = 0
    probes = []
    for _ in range(3):
        key = (rng.choices(range(len(listed)), [fault.weight for fault in listed])[0],)
        read = real_vehicle(network, key, rng)
        first = next(p for p in probes_at(network, RUNNING) if p.kind == "shown")
        seen, verdict = [Seen(RUNNING, first, read(RUNNING, first))], None
        for _ in range(12):
            verdict = suspects(network, seen)
            test = best_test(
                network, verdict, here=seen[-1].state, done=[(one.state, one.probe) for one in seen]
            )
            if verdict.settled or test is None:
                break
            seen.append(Seen(test.state, test.probe, read(test.state, test.probe)))
        settled += bool(verdict.settled)
        right += verdict.settled == fault_of(network, key).cure
        probes.append(len(seen) - 1)
    assert right == settled
    assert np.mean(probes) < math.log2(len(listed)) + 2
