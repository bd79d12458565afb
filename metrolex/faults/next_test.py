"""What to measure next: the probe that is expected to tell most about the suspects for the minute it takes.

The information of a probe is that of its outcome about the suspect (Shannon 1948): outcomes are words, and bins of the reading no wider than a good
half of what any suspect's own spread lets it be known to.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.dictionary import Prediction, Sheet, sheet_of
from metrolex.faults.likelihood import MISREAD, expected_after
from metrolex.faults.minutes import MINUTES, Kind, minutes_of
from metrolex.faults.probes import Action, Probe, actions_of, probes_at
from metrolex.faults.suspects import Suspect, Verdict
from metrolex.job import State
from metrolex.twin.build import Network
from metrolex.twin.expectations import states_of

__all__ = ["NextTest", "Outcome", "bits_of", "ranked_tests"]

Array = NDArray[np.float64]
KEY_TURNED = 0.2  # minutes
LEAST_SHARE = 1e-3  # suspects below it are not asked about
MOST_SUSPECTS = 40
LEAST_BITS = 0.02
WEIGHED = 40  # tests weighed with all that moves them, of those that tell most by their values
FEW = 12  # suspects left when something is done to the vehicle to tell them apart
ROUGH_DIGIT, ROUGH_SHARE = 0.05, 0.03  # readings nearer than that are taken for one
EDGES = np.array([-3.0, -1.5, -0.5, 0.5, 1.5, 3.0])


@dataclass(frozen=True, slots=True)
class Outcome:
    """What some suspects would show: a value or a word, and their places in the verdict."""

    value: float | None
    word: str
    suspects: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class NextTest:
    """A probe in a state, what it is expected to tell (bits) and takes (minutes), and what each suspect would show."""

    state: State
    probe: Probe
    minutes: float
    bits: float
    outcomes: tuple[Outcome, ...]


def ranked_tests(
    network: Network,
    verdict: Verdict,
    *,
    here: State,
    allow: Iterable[Kind] = tuple(MINUTES),
    minutes: Mapping[Kind, float] = MINUTES,
    done: Iterable[tuple[State, Probe]] = (),
) -> tuple[NextTest, ...]:
    """Every test that is allowed and tells something, most bits a minute first; ``here`` is the state the key stands at, ``done`` what was seen already."""
    asked = [
        (place, one)
        for place, one in enumerate(verdict.suspects)
        if one.key is not None and one.probability >= LEAST_SHARE
    ][:MOST_SUSPECTS]
    if len({one.cure for _, one in asked}) < 2:
        return ()
    allowed, known = set(allow), set(done)
    rough = []
    for state, probe, sheet in _candidates(network, here, allowed, len(asked)):
        if (state, probe) not in known:
            takes = minutes_of(network, probe, minutes) + (KEY_TURNED if state != here else 0.0)
            rough.append((_rough_bits(sheet, probe, asked) / takes, takes, state, probe, sheet))
    rough.sort(key=lambda one: -one[0])
    found = [_weighed(sheet, state, probe, takes, asked) for _, takes, state, probe, sheet in rough[:WEIGHED]]
    told = [one for one in found if one.bits >= LEAST_BITS]
    return tuple(sorted(told, key=lambda one: -one.bits / one.minutes))


def _rough_bits(sheet: Sheet, probe: Probe, asked: Sequence[tuple[int, Suspect]]) -> float:
    """What a probe tells, by the values alone, each as sharp as a meter reads it."""
    sheet.need(one.key for _, one in asked if one.key is not None)
    groups: dict[float | str, float] = {}
    for _, one in asked:
        value, word = sheet.value(one.key or (), probe)
        outcome = (
            word if value is None else round(math.asinh(value * ROUGH_SHARE / ROUGH_DIGIT) / ROUGH_SHARE)
        )
        groups[outcome] = groups.get(outcome, 0.0) + one.probability
    share = np.array(list(groups.values()))
    share = share / share.sum()
    return float(-(share * np.log2(share)).sum())


def _candidates(
    network: Network, here: State, allowed: set[Kind], asked: int
) -> Iterable[tuple[State, Probe, Sheet]]:
    states = states_of(network.job)
    for state in dict.fromkeys((here, *states)):
        sheet = sheet_of(network, state)
        if sheet is not None:
            for probe in probes_at(network, state):
                if probe.kind in allowed and not (probe.kind == "ohms" and state != states[0]):
                    yield state, probe, sheet
    if "action" not in allowed or asked > FEW:
        return
    at = here if here.key == "run" else State("run")
    for action in actions_of(network):
        sheet = sheet_of(network, at, action)
        if sheet is not None:
            for probe in _looked_at(network, at, action):
                yield at, probe, sheet


def _looked_at(network: Network, state: State, action: Action) -> Iterable[Probe]:
    """The faces one looks at after an action."""
    for probe in probes_at(network, state):
        if probe.kind == "shown":
            yield Probe("shown", on=probe.on, after=action)


def _weighed(
    sheet: Sheet, state: State, probe: Probe, minutes: float, asked: Sequence[tuple[int, Suspect]]
) -> NextTest:
    predictions = [sheet.predict(one.key or (), probe) for _, one in asked]
    spreads = [
        expected_after(prediction, one.explained.moved, one.explained.own, one.explained.off)
        if prediction.value is not None and one.explained is not None
        else (0.0, 0.0)
        for prediction, (_, one) in zip(predictions, asked, strict=True)
    ]
    share = np.array([one.probability for _, one in asked])
    bits = bits_of(share / share.sum(), predictions, spreads)
    return NextTest(
        state,
        probe,
        minutes,
        bits,
        _outcomes(predictions, spreads, {place: one.probability for place, one in asked}),
    )


def bits_of(share: Array, predictions: Sequence[Prediction], spreads: Sequence[tuple[float, float]]) -> float:
    """Expected information of a probe about suspects of given shares (adding to 1), in bits."""
    from scipy.special import ndtr  # heavy to load

    numbers = [i for i, prediction in enumerate(predictions) if prediction.value is not None]
    words = sorted({prediction.word for prediction in predictions if prediction.value is None})
    chance = np.zeros((len(predictions), len(words)))
    for i, prediction in enumerate(predictions):
        if prediction.value is None:
            chance[i, words.index(prediction.word)] = 1.0
    if numbers:
        mean = np.array([spreads[i][0] for i in numbers])
        sigma = np.sqrt([spreads[i][1] for i in numbers])
        edges = np.unique((mean[:, None] + sigma[:, None] * EDGES).round(9))
        below = ndtr((edges[None, :] - mean[:, None]) / sigma[:, None])
        bins = np.zeros((len(predictions), len(edges) + 1))
        bins[numbers] = np.diff(below, axis=1, prepend=0.0, append=1.0)
        chance = np.hstack([chance, bins])
    if chance.shape[1] < 2:
        return 0.0
    chance = (1 - MISREAD) * chance + MISREAD / chance.shape[1]
    overall = share @ chance
    return float(share @ (chance * np.log2(chance / overall)).sum(axis=1))


def _outcomes(
    predictions: Sequence[Prediction], spreads: Sequence[tuple[float, float]], shares: Mapping[int, float]
) -> tuple[Outcome, ...]:
    """Suspects that would show the same, within what a reading can tell, together; the likeliest group first."""
    groups: list[tuple[Prediction, tuple[float, float], list[int]]] = []
    for prediction, spread, place in zip(predictions, spreads, shares, strict=True):
        for known, its, members in groups:
            if _alike(known, its, prediction, spread):
                members.append(place)
                break
        else:
            groups.append((prediction, spread, [place]))
    found = [
        Outcome(None if known.value is None else its[0], known.word, tuple(members))
        for known, its, members in groups
    ]
    return tuple(sorted(found, key=lambda one: -sum(shares[place] for place in one.suspects)))


def _alike(one: Prediction, its: tuple[float, float], other: Prediction, others: tuple[float, float]) -> bool:
    if one.value is None or other.value is None:
        return one.value is other.value and one.word == other.word
    return abs(its[0] - others[0]) <= 2 * float(np.sqrt(max(its[1], others[1])))
