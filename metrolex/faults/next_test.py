"""What to measure next: the probe that is expected to tell most about what has to be mended, for the minute it takes.

The information of a probe is that of its outcome about the cure (Shannon 1948): outcomes are words, and bins of the reading no wider than a good
half of what any suspect's own spread lets it be known to. How large a fault is changes no cure: to know it counts for nothing.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.likelihood import MISREAD, Explained, Seen
from metrolex.faults.lineup import Lineup, lineup_of
from metrolex.faults.minutes import MINUTES, Kind, minutes_of
from metrolex.faults.predicted import Predicted, Shows
from metrolex.faults.probes import Probe, actions_of, probes_at
from metrolex.faults.suspects import Verdict
from metrolex.job import State
from metrolex.twin.build import Network
from metrolex.twin.expectations import states_of

__all__ = ["NextTest", "Outcome", "bits_of", "ranked_tests"]

Array = NDArray[np.float64]
KEY_TURNED = 0.2  # minutes
LEAST_SHARE = 1e-3  # suspects below it are not asked about
MOST_SUSPECTS = 40
QUANTILES = (0.17, 0.5, 0.83)  # of the sizes of a suspect: each stands for a third of it
LEAST_BITS = 0.02
WEIGHED = 24  # tests weighed with all that moves them, of those that tell most by their values
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
    """A probe in a state, what it is expected to tell (bits) and takes (minutes), and what each suspect would show. ``again``: all hangs on it, so it is read once more."""

    state: State
    probe: Probe
    minutes: float
    bits: float
    outcomes: tuple[Outcome, ...]
    again: bool = False


@dataclass(frozen=True, slots=True)
class _Asked:
    """The hypotheses a test is to tell apart: how likely each is, which cure it wants, which suspect it is, how it explains what was seen."""

    lineup: Lineup
    share: Array
    cure: NDArray[np.intp]
    suspect: NDArray[np.intp]
    middle: NDArray[np.intp]
    explained: Explained

    @property
    def cures(self) -> int:
        """How many."""
        return int(self.cure.max()) + 1


def ranked_tests(
    network: Network,
    verdict: Verdict,
    *,
    here: State,
    allow: Iterable[Kind] = tuple(MINUTES),
    minutes: Mapping[Kind, float] = MINUTES,
    done: Sequence[Seen] = (),
) -> tuple[NextTest, ...]:
    """Every test that is allowed and tells something, most bits a minute first; ``here`` is the state the key stands at, ``done`` what was seen already.

    Where all hangs on one reading, that comes first, to be read again.
    """
    asked = _asked(network, verdict)
    if asked is None:
        return ()
    allowed, known = set(allow), {(one.state, one.probe) for one in done}
    usable = [one for one in done if verdict.lineup.can(one.state, one.probe.after)]
    again = usable[verdict.repeat] if verdict.repeat is not None else None

    def takes(state: State, probe: Probe) -> float:
        return minutes_of(network, probe, minutes) + (KEY_TURNED if state != here else 0.0)

    candidates = [
        *_on_the_way(network, here, allowed),
        *(_after_actions(asked, here) if "action" in allowed and len(asked.middle) <= FEW else ()),
    ]
    rough = [
        (_rough_bits(asked, state, probe) / takes(state, probe), state, probe)
        for state, probe in candidates
        if (state, probe) not in known
    ]
    rough.sort(key=lambda one: -one[0])
    found = [_weighed(asked, state, probe, takes(state, probe)) for _, state, probe in rough[:WEIGHED]]
    ranked = sorted((one for one in found if one.bits >= LEAST_BITS), key=lambda one: -one.bits / one.minutes)
    if again is None:
        return tuple(ranked)
    return (_weighed(asked, again.state, again.probe, takes(again.state, again.probe), again=True), *ranked)


def _asked(network: Network, verdict: Verdict) -> _Asked | None:
    """Of every likely suspect the sizes that stand for a fifth of it each; None where one cure is left."""
    places, shares, middles = list[int](), list[float](), list[int]()
    known = [rank for rank, one in enumerate(verdict.suspects) if one.key is not None]
    likely = [rank for rank in known if verdict.suspects[rank].probability >= LEAST_SHARE][:MOST_SUSPECTS]
    if verdict.repeat is not None:  # what it hangs on is read again, however little speaks for another
        likely = list(dict.fromkeys((*likely, *known[:FEW])))
    if len({verdict.suspects[rank].cure for rank in likely}) < 2:
        return None
    for rank in likely:
        own = np.flatnonzero(verdict.of == rank)
        passed = np.cumsum(verdict.share[own]) / max(float(verdict.share[own].sum()), 1e-300)
        at = [int(own[min(int(np.searchsorted(passed, part)), len(own) - 1)]) for part in QUANTILES]
        middles.append(at[len(QUANTILES) // 2])
        for place in dict.fromkeys(at):
            places.append(place)
            shares.append(verdict.suspects[rank].probability * at.count(place) / len(QUANTILES))
    which = np.array(places, dtype=np.intp)
    cures = {cure: i for i, cure in enumerate(dict.fromkeys(verdict.suspects[rank].cure for rank in likely))}
    suspect = verdict.of[which]
    share = np.array(shares)
    middle = np.array([places.index(place) for place in middles], dtype=np.intp)
    return _Asked(
        lineup_of(network, tuple(verdict.lineup.hypotheses[i] for i in places)),
        share / share.sum(),
        np.array([cures[verdict.suspects[rank].cure] for rank in suspect.tolist()], dtype=np.intp),
        suspect,
        middle,
        verdict.explained.some(which),
    )


def _rough_bits(asked: _Asked, state: State, probe: Probe) -> float:
    """What a probe tells, by the values alone, each as sharp as a meter reads it."""
    outcome = _outcomes_of(asked.lineup.shows(state, probe))
    _, which = np.unique(outcome, return_inverse=True)
    count = int(which.max()) + 1
    places = asked.cure * count + which.reshape(-1)
    joint = np.bincount(places, weights=asked.share, minlength=asked.cures * count)
    return _information(joint.reshape(asked.cures, count).astype(np.float64))


def _outcomes_of(shows: Shows) -> Array:
    """A number for each outcome, those too near for a meter to tell apart the same."""
    bins = np.round(np.arcsinh(shows.value * ROUGH_SHARE / ROUGH_DIGIT) / ROUGH_SHARE)
    return np.asarray(
        np.where(np.isnan(bins), -1e9 - shows.own_words(), bins)
    )  # words lie apart from all figures


def _information(table: Array) -> float:
    """Mutual information of rows and columns of a table of joint probabilities, in bits."""
    alone = table.sum(axis=1, keepdims=True) * table.sum(axis=0, keepdims=True)
    there = table > 0
    return float((table[there] * np.log2(table[there] / alone[there])).sum())


def _on_the_way(network: Network, here: State, allowed: set[Kind]) -> Iterator[tuple[State, Probe]]:
    """What can be measured or looked at without doing anything to the vehicle."""
    states = states_of(network.job)
    for state in dict.fromkeys((here, *states)):
        for probe in probes_at(network, state):
            if probe.kind in allowed and not (probe.kind == "ohms" and state != states[0]):
                yield state, probe


def _after_actions(asked: _Asked, here: State) -> Iterator[tuple[State, Probe]]:
    """The faces that some of the suspects alter, after what may be done to them, their senders, their feeds and grounds."""
    job, at = asked.lineup.network.job, here if here.key == "run" else State("run")
    altered = {
        chain.id
        for chain in job.chains
        if len(np.unique(_outcomes_of(asked.lineup.shows(at, Probe("shown", on=chain.id))))) > 1
    }
    chains = [chain for chain in job.chains if chain.id in altered]
    senders = {sender.id for sender in job.senders} - {chain.sender for chain in chains}
    left_alone = senders | {display.id for display in job.displays} - {chain.display for chain in chains}
    for action in actions_of(asked.lineup.network):
        if action.on in left_alone and (not action.other or action.other in left_alone):
            continue
        if asked.lineup.can(at, action):
            for chain in chains:
                yield at, Probe("shown", on=chain.id, after=action)


def _weighed(asked: _Asked, state: State, probe: Probe, minutes: float, *, again: bool = False) -> NextTest:
    predicted = asked.lineup.predict(state, probe)
    mean, variance = asked.explained.expected(predicted)
    bits = bits_of(asked.share, predicted, mean, variance, asked.cure)
    return NextTest(state, probe, minutes, bits, _outcomes(asked, predicted, mean, variance), again)


def bits_of(
    share: Array, predicted: Predicted, mean: Array, variance: Array, cure: NDArray[np.intp] | None = None
) -> float:
    """Expected information of a probe about suspects of given shares (adding to 1), or about their cures, in bits."""
    from scipy.special import ndtr  # heavy to load

    numbers = np.flatnonzero(~np.isnan(predicted.value))
    silent, own = np.flatnonzero(np.isnan(predicted.value)), predicted.shows.own_words()
    words, which = np.unique(own[silent], return_inverse=True)
    chance = np.zeros((len(predicted), len(words)))
    chance[silent, which.reshape(-1)] = 1.0
    if len(numbers):
        middle, sigma = mean[numbers], np.sqrt(variance[numbers])
        inside = predicted.low + predicted.step / 2, predicted.high - predicted.step / 2
        edges = np.unique(np.clip(middle[:, None] + sigma[:, None] * EDGES, *inside).round(9))
        below = ndtr((edges[None, :] - middle[:, None]) / sigma[:, None])
        bins = np.zeros((len(predicted), len(edges) + 1))
        bins[numbers] = np.diff(below, axis=1, prepend=0.0, append=1.0)
        chance = np.hstack([chance, bins])
    if chance.shape[1] < 2:
        return 0.0
    chance = (1 - MISREAD) * chance + MISREAD / chance.shape[1]
    joint = share[:, None] * chance
    if cure is None:
        return _information(joint)
    belongs = np.arange(int(cure.max()) + 1)[:, None] == cure
    return _information(belongs.astype(np.float64) @ joint)


def _outcomes(asked: _Asked, predicted: Predicted, mean: Array, variance: Array) -> tuple[Outcome, ...]:
    """Suspects that would show the same at their middle size, within what a reading can tell, together; the likeliest group first."""
    groups: list[tuple[int, list[int]]] = []
    own = np.zeros(int(asked.suspect.max()) + 1)
    np.add.at(own, asked.suspect, asked.share)

    def alike(one: int, other: int) -> bool:
        values = predicted.value[[one, other]]
        if np.isnan(values).any():
            return bool(np.isnan(values).all()) and predicted.shows.said(one) == predicted.shows.said(other)
        return bool(abs(mean[one] - mean[other]) <= 2 * math.sqrt(max(variance[one], variance[other])))

    for place in asked.middle.tolist():
        for leader, members in groups:
            if alike(leader, place):
                members.append(int(asked.suspect[place]))
                break
        else:
            groups.append((place, [int(asked.suspect[place])]))
    found = [
        Outcome(
            None if math.isnan(predicted.value[leader]) else float(mean[leader]),
            predicted.shows.said(leader),
            tuple(members),
        )
        for leader, members in groups
    ]
    return tuple(sorted(found, key=lambda one: -sum(own[rank] for rank in one.suspects)))
