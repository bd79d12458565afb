"""Who is to blame: every likely fault with its probability after what was seen, and whether it is settled."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.catalogue import catalogue
from metrolex.faults.complaints import HEARD_IN, WORDS, Complaint, holds
from metrolex.faults.dictionary import Key, fault_of, sheet_of
from metrolex.faults.history import weights_of
from metrolex.faults.likelihood import Explained, Seen, explain
from metrolex.twin.build import Network

__all__ = ["SETTLED", "Suspect", "Verdict", "suspects"]

SETTLED = 0.95
SOUND_WEIGHT = 2.0  # of 'nothing is wrong, it was misread', beside the weights of the catalogue (common practice, no source)
UNKNOWN_SHARE = 0.02  # of what the catalogue does not know (common practice, no source)
MOST_UNKNOWN = 0.2  # with more of it nothing is called settled
UNTOUCHED = 0.7  # how often an unknown fault leaves a reading as it is (common practice, no source)
ANY_WORD, ANY_FIGURE = (
    0.1,
    0.02,
)  # chance of one word, density of one figure under it (common practice, no source)
COMPOUND_SHARE = 0.01  # of two faults at once, for the likeliest of a first pass
LIKELIEST = 10
FAIR_SHARE = 0.1  # of the likeliest
MISHEARD = 0.2  # chance that a word means something else (common practice, no source)
SOUND_WORDS, SOUND_CURE = "nothing is wrong", "measure again"
UNKNOWN_WORDS, UNKNOWN_CURE = "none of the known ones", "look further"

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Suspect:
    """One explanation with its probability. ``key`` is its row in every sheet, None for what no sheet knows."""

    words: str
    cure: str
    probability: float
    key: Key | None
    explained: Explained | None


@dataclass(frozen=True, slots=True)
class Verdict:
    """All suspects, the most probable first; the cure that is settled, if any; which readings no good suspect explains."""

    suspects: tuple[Suspect, ...]
    settled: str
    does_not_fit: tuple[int, ...]


def suspects(
    network: Network,
    seen: Sequence[Seen],
    said: Sequence[Complaint] = (),
    history: Mapping[str, int] | None = None,
) -> Verdict:
    """Rank every likely fault, and pairs of the ten likeliest where one alone does not explain all, by what was seen and said.

    ``history`` is how often the workshop found each kind before. Raises CircuitError in words.
    """
    singles = [(), *((place,) for place in range(len(catalogue(network))))]
    weights = weights_of(network, history or {})
    first = _ranked(network, seen, said, singles, weights)
    best = next(one.explained for one in first.suspects if one.explained)
    if all(best.fits):
        return first
    likeliest = [one.key for one in first.suspects if one.key][:LIKELIEST]
    pairs = [(*a, *b) for a, b in combinations(sorted(likeliest), 2)]
    return _ranked(network, seen, said, [*singles, *pairs], weights)


def _ranked(
    network: Network, seen: Sequence[Seen], said: Sequence[Complaint], keys: Sequence[Key], weights: Array
) -> Verdict:
    usable = []
    for one in seen:
        sheet = sheet_of(network, one.state, one.probe.after)
        if sheet is not None:
            sheet.need(keys)
            usable.append((one, sheet))
    explained = [
        explain([sheet.predict(key, one.probe) for one, sheet in usable], [one for one, _ in usable])
        for key in keys
    ]
    logs = np.log(_priors(weights, keys)) + np.array([one.log_likelihood for one in explained])
    if said:
        for state in HEARD_IN:
            sheet = sheet_of(network, state)
            assert sheet is not None
            sheet.need(keys)
        logs += np.array([sum(_heard(network, key, one) for one in said) for key in keys])
    unknown = (
        math.log(UNKNOWN_SHARE)
        + len(said) * math.log(1 / len(WORDS))
        + sum(_by_anything(fits, one) for fits, (one, _) in zip(explained[0].fits, usable, strict=True))
    )
    logs = np.append(logs, unknown)
    share = np.exp(logs - logs.max())
    share = np.maximum(share / share.sum(), 1e-12)
    share /= share.sum()
    found = [_suspect(network, key, float(p), e) for key, p, e in zip(keys, share, explained, strict=False)]
    found.append(Suspect(UNKNOWN_WORDS, UNKNOWN_CURE, float(share[-1]), None, None))
    found.sort(key=lambda one: -one.probability)
    return Verdict(tuple(found), _settled(found), _unexplained(found, len(usable)))


def _suspect(network: Network, key: Key, share: float, explained: Explained) -> Suspect:
    fault = fault_of(network, key)
    words, cure = (fault.words, fault.cure) if fault else (SOUND_WORDS, SOUND_CURE)
    return Suspect(words, cure, share, key, explained)


def _priors(usual: Array, keys: Sequence[Key]) -> Array:
    weights = np.array(
        [math.prod(float(usual[place]) for place in key) if key else SOUND_WEIGHT for key in keys]
    )
    both = np.array([len(key) > 1 for key in keys])
    if both.any():
        weights[both] *= COMPOUND_SHARE * weights[~both].sum() / weights[both].sum()
    return np.asarray((1 - UNKNOWN_SHARE) * weights / weights.sum())


def _heard(network: Network, key: Key, said: Complaint) -> float:
    """Log chance that somebody says so of this suspect: who means another thing by it may say any word."""
    return math.log(1 - MISHEARD if holds(network, key, said) else MISHEARD / len(WORDS))


def _by_anything(fits_sound: bool, one: Seen) -> float:
    """Log chance of a reading under a fault nobody thought of: as on the sound job, or anything."""
    return math.log(
        UNTOUCHED
        if fits_sound
        else (1 - UNTOUCHED) * (ANY_WORD if isinstance(one.value, str) else ANY_FIGURE)
    )


def _settled(found: Sequence[Suspect]) -> str:
    by_cure: dict[str, float] = {}
    for one in found:
        by_cure[one.cure] = by_cure.get(one.cure, 0.0) + one.probability
    unknown = by_cure.pop(UNKNOWN_CURE)  # no test tells it from the others: it may hold back, not forbid
    cure, share = max(by_cure.items(), key=lambda pair: pair[1])
    return cure if share >= SETTLED * (1 - unknown) and unknown <= MOST_UNKNOWN else ""


def _unexplained(found: Sequence[Suspect], count: int) -> tuple[int, ...]:
    """The readings that none of the likeliest known suspects explains."""
    best = max(one.probability for one in found if one.explained)
    good = [one.explained for one in found if one.explained and one.probability > FAIR_SHARE * best]
    return tuple(i for i in range(count) if good and not any(one.fits[i] for one in good))
