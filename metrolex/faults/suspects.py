"""Who is to blame: every likely fault with its probability after what was seen, and whether it is settled."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.cases import NONE, cases_of
from metrolex.faults.catalogue import catalogue
from metrolex.faults.complaints import WORDS, Complaint, holds
from metrolex.faults.history import weights_of
from metrolex.faults.kinds import LikelyFault, row_of
from metrolex.faults.likelihood import SPAN, Explained, Seen, explain
from metrolex.faults.lineup import Hypothesis, Lineup, lineup_of, searched
from metrolex.faults.predicted import Predicted
from metrolex.faults.sizes import WHOLE, size_words
from metrolex.twin.build import Network

__all__ = ["SETTLED", "Suspect", "Verdict", "suspects"]

SETTLED = 0.95
SOUND_WEIGHT = 2.0  # of 'nothing is wrong, it was misread', beside the weights of the catalogue (common practice, no source)
UNKNOWN_SHARE = 0.02  # of what the catalogue does not know (common practice, no source)
MOST_UNKNOWN = 0.2  # with more of it nothing is called settled
UNTOUCHED = 0.7  # how often an unknown fault leaves a reading as it is (common practice, no source)
ANY_WORD = 0.1  # chance of one word under it (common practice, no source); figures lie anywhere
TWO_SHARE = 0.02  # of two faults at once (common practice, no source)
FIRST_OF_TWO, SECOND_OF_TWO = 8, 8  # cases, and faults, that are tried as two at once
FAIR_SHARE = 0.1  # of the likeliest
MISHEARD = 0.2  # chance that a word means something else (common practice, no source)
FAR = 30.0  # log probability behind the likeliest from which on nothing brings a case back
LEADS = 0.5  # of what a cure must still hold with any one reading struck out
SOUND_WORDS, SOUND_CURE = "nothing is wrong", "measure again"
UNKNOWN_WORDS, UNKNOWN_CURE = "none of the known ones", "look further"

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Suspect:
    """One explanation with its probability. ``key`` are the places in the catalogue of what is wrong, None for what nobody knows.

    ``size`` is how large it seems to be, in words, '' where it comes in one size; ``likeliest`` are the faults at the sizes that explain best.
    """

    words: str
    cure: str
    probability: float
    key: tuple[int, ...] | None
    size: str = ""
    likeliest: tuple[LikelyFault, ...] = ()


@dataclass(frozen=True, slots=True)
class Verdict:
    """All suspects, the most probable first; the cure that is settled, if any; which readings no good suspect explains.

    ``repeat`` is the reading that all hangs on: without it another cure would lead. While there is one, nothing is settled. ``lineup`` is what was gone
    through, ``share`` the probability of each, ``explained`` how it explains what was seen; ``of`` which suspect each belongs to.
    """

    suspects: tuple[Suspect, ...]
    settled: str
    does_not_fit: tuple[int, ...]
    repeat: int | None
    lineup: Lineup
    share: Array
    explained: Explained
    of: NDArray[np.intp]

    @property
    def lead(self) -> Suspect | None:
        """The likeliest of those whose cure is settled."""
        return next((one for one in self.suspects if self.settled and one.cure == self.settled), None)


@dataclass(frozen=True, slots=True)
class _Pass:
    """One line-up held against what was seen: the log probability of each before it is made to add up, without what the unknown adds."""

    lineup: Lineup
    logs: Array
    before: Array
    predicted: tuple[Predicted, ...]
    explained: Explained


def suspects(
    network: Network,
    seen: Sequence[Seen],
    said: Sequence[Complaint] = (),
    history: Mapping[str, int] | None = None,
) -> Verdict:
    """Rank every likely fault of every size, and two at once where one alone does not explain all, by what was seen and said.

    ``history`` is how often the workshop found each kind before. Raises CircuitError in words.
    """
    weights = weights_of(network, history or {})
    chance = weights / (weights.sum() + SOUND_WEIGHT) if len(weights) else weights
    every = searched(network)
    usable = [one for one in seen if every.can(one.state, one.probe.after)]
    passed = _held_against(every, usable, said, chance)
    unknown = _unknown(passed, usable, said)
    best = int(np.argmax(passed.logs))
    if not passed.explained.fits[:, best].all():
        two = _two_at_once(passed, usable)
        if two:
            both = lineup_of(network, (*every.hypotheses, *two))
            passed = _held_against(both, usable, said, chance)
    return _verdict(passed, usable, unknown)


def _held_against(lineup: Lineup, seen: Sequence[Seen], said: Sequence[Complaint], chance: Array) -> _Pass:
    before = np.log(_priors(lineup, chance))
    for one in said:  # who means another thing by it may say any word
        before = before + np.log(np.where(holds(lineup, one), 1 - MISHEARD, MISHEARD / len(WORDS)))
    predicted = tuple(lineup.predict(one.state, one.probe) for one in seen)
    explained = explain(predicted, seen, len(lineup))
    return _Pass(lineup, before + explained.log_likelihood, before, predicted, explained)


def _priors(lineup: Lineup, chance: Array) -> Array:
    """Before anything is seen: of each case its share of its fault, of two at once the chance of both, either way round."""
    known = cases_of(lineup.network)
    each = chance[known.fault] * known.share if len(chance) else chance
    sound = 1 - float(chance.sum())
    found = [
        sound
        if case == NONE
        else (1 - TWO_SHARE) * each[case]
        if beside == NONE
        else 2 * TWO_SHARE * each[case] * each[beside]
        for case, beside in lineup.hypotheses
    ]
    return (1 - UNKNOWN_SHARE) * np.array(found, dtype=np.float64)


def _two_at_once(passed: _Pass, seen: Sequence[Seen]) -> list[Hypothesis]:
    """The likeliest cases as the first, and on top of each the faults, at every size, that explain best what it leaves unexplained."""
    lineup, known = passed.lineup, cases_of(passed.lineup.network)
    found: list[Hypothesis] = []
    for first in _likeliest(passed):
        left = [i for i in range(len(seen)) if not passed.explained.fits[i, first]]
        if not left:
            continue
        rest = explain([passed.predicted[i] for i in left], [seen[i] for i in left], len(lineup))
        score = np.where(rest.fits.any(axis=0), passed.before + rest.log_likelihood, -np.inf)
        case, own = lineup.hypotheses[first][0], lineup.faults[first]
        taken: list[int] = []
        for place in np.argsort(-score, kind="stable").tolist():
            fault = lineup.faults[place]
            if len(taken) >= SECOND_OF_TWO or not np.isfinite(score[place]):
                break
            if fault and fault != own and fault[0] not in taken:
                taken.append(fault[0])
        wanted = set(taken)
        found += [(other, case) for other in known.searched if int(known.fault[other]) in wanted]
    return found


def _likeliest(passed: _Pass) -> list[int]:
    """The likeliest cases, at most two sizes of one fault."""
    found, of_fault = list[int](), dict[tuple[int, ...], int]()
    for place in np.argsort(-passed.logs, kind="stable").tolist():
        fault = passed.lineup.faults[place]
        if fault and of_fault.get(fault, 0) < 2:
            of_fault[fault] = of_fault.get(fault, 0) + 1
            found.append(place)
        if len(found) == FIRST_OF_TWO:
            break
    return found


def _unknown(passed: _Pass, seen: Sequence[Seen], said: Sequence[Complaint]) -> float:
    """Log probability of a fault nobody thought of: each reading as on the sound job, or anything; any word said."""
    chance = math.log(UNKNOWN_SHARE) - len(said) * math.log(len(WORDS))
    for sound, predicted, one in zip(passed.explained.chances[:, 0], passed.predicted, seen, strict=True):
        anything = ANY_WORD if isinstance(one.value, str) else predicted.step / SPAN[one.probe.kind]
        chance += math.log(UNTOUCHED * math.exp(sound) + (1 - UNTOUCHED) * anything)
    return chance


def _shares(logs: Array, unknown: float) -> tuple[Array, float]:
    """The probability of each, and of the unknown."""
    together = np.append(logs, unknown)
    share = np.exp(together - together.max())
    share /= share.sum()
    return share[:-1], float(share[-1])


def _verdict(passed: _Pass, seen: Sequence[Seen], unknown: float) -> Verdict:
    lineup = passed.lineup
    share, of_unknown = _shares(_one_way_round(lineup, passed.logs), unknown)
    places: dict[tuple[int, ...], list[int]] = {}
    for i, fault in enumerate(lineup.faults):
        places.setdefault(fault, []).append(i)
    ranked = sorted(places.items(), key=lambda pair: -float(share[pair[1]].sum()))
    found = [_suspect(lineup, fault, share, here) for fault, here in ranked]
    of = np.zeros(len(lineup), dtype=np.intp)
    for rank, (_, here) in enumerate(ranked):
        of[here] = rank
    after_unknown = sum(one.probability >= of_unknown for one in found)
    found.insert(after_unknown, Suspect(UNKNOWN_WORDS, UNKNOWN_CURE, max(of_unknown, 1e-12), None))
    of[of >= after_unknown] += 1
    cure = _settled(found)
    repeat = _hangs_on(passed, seen, cure) if cure else None
    return Verdict(
        tuple(found),
        "" if repeat is not None else cure,
        _unexplained(found, of, share, passed.explained),
        repeat,
        lineup,
        share,
        passed.explained,
        of,
    )


def _one_way_round(lineup: Lineup, logs: Array) -> Array:
    """Of two faults at once that were tried with either of them first, only the way that explains more counts."""
    best: dict[tuple[tuple[int, ...], int], list[int]] = {}
    known = cases_of(lineup.network)
    for i, (_, beside) in enumerate(lineup.hypotheses):
        if beside != NONE:
            best.setdefault((lineup.faults[i], int(known.fault[beside])), []).append(i)
    ways: dict[tuple[int, ...], list[list[int]]] = {}
    for (faults, _), here in best.items():
        ways.setdefault(faults, []).append(here)
    found = logs.copy()
    for several in ways.values():
        for less in sorted(several, key=lambda here: -float(np.logaddexp.reduce(logs[here])))[1:]:
            found[less] = -np.inf
    return found


def _suspect(lineup: Lineup, fault: tuple[int, ...], share: Array, here: Sequence[int]) -> Suspect:
    words = [catalogue(lineup.network)[place].words for place in fault]
    return Suspect(
        ", and ".join(words) or SOUND_WORDS,
        _cure_of(lineup.network, fault),
        max(float(share[list(here)].sum()), 1e-12),
        fault,
        _size(lineup, share, here) if len(fault) == 1 else "",
        _likeliest_faults(lineup, share, here),
    )


def _likeliest_faults(lineup: Lineup, share: Array, here: Sequence[int]) -> tuple[LikelyFault, ...]:
    known = cases_of(lineup.network).listed
    best = max(here, key=lambda place: share[place])
    return tuple(known[case] for case in lineup.hypotheses[best][::-1] if case != NONE)


def _cure_of(network: Network, fault: tuple[int, ...]) -> str:
    cures = dict.fromkeys(catalogue(network)[place].cure for place in fault)
    return ", and ".join(cures) or SOUND_CURE


def _size(lineup: Lineup, share: Array, here: Sequence[int]) -> str:
    """The middle of the sizes by their probability, in words; '' where it is as likely the whole thing."""
    known = cases_of(lineup.network)
    cases = [(lineup.hypotheses[i][0], float(share[i])) for i in here]
    sizes = sorted((float(known.size[case]), part) for case, part in cases if known.size[case] != WHOLE)
    of_any = sum(part for _, part in sizes)
    if not sizes or of_any < sum(part for _, part in cases) / 2:
        return ""
    passed = np.cumsum([part for _, part in sizes])
    middle = sizes[min(int(np.searchsorted(passed, of_any / 2)), len(sizes) - 1)][0]
    return size_words(row_of(known.listed[cases[0][0]].kind), middle)


def _by_cure(found: Iterable[Suspect]) -> dict[str, float]:
    shares: dict[str, float] = {}
    for one in found:
        shares[one.cure] = shares.get(one.cure, 0.0) + one.probability
    return shares


def _settled(found: Sequence[Suspect]) -> str:
    shares = _by_cure(found)
    unknown = shares.pop(UNKNOWN_CURE)  # no test tells it from the others: it may hold back, not forbid
    cure, share = max(shares.items(), key=lambda pair: pair[1])
    return cure if share >= SETTLED * (1 - unknown) and unknown <= MOST_UNKNOWN else ""


def _hangs_on(passed: _Pass, seen: Sequence[Seen], cure: str) -> int | None:
    """The reading without which the settled cure leads no more, of several the one that leaves it least; None where there is none."""
    near = np.flatnonzero(passed.logs > passed.logs.max() - FAR)
    lineup = lineup_of(passed.lineup.network, tuple(passed.lineup.hypotheses[i] for i in near.tolist()))
    predicted = [one.some(near) for one in passed.predicted]
    own = np.array([_cure_of(lineup.network, fault) == cure for fault in lineup.faults])
    least, found = LEADS, None
    for i in range(len(seen)):
        without = explain(predicted, seen, len(lineup), struck=(i,))
        logs = _one_way_round(lineup, passed.before[near] + without.log_likelihood)
        left = float(_shares(logs, -np.inf)[0][own].sum())
        if left < least:
            least, found = left, i
    return found


def _unexplained(
    found: Sequence[Suspect], of: NDArray[np.intp], share: Array, explained: Explained
) -> tuple[int, ...]:
    """The readings that none of the likeliest known suspects explains."""
    best = max(one.probability for one in found if one.key is not None)
    good = [i for i, one in enumerate(found) if one.key is not None and one.probability > FAIR_SHARE * best]
    likeliest = [max(np.flatnonzero(of == i).tolist(), key=lambda place: share[place]) for i in good]
    return tuple(i for i, fits in enumerate(explained.fits) if likeliest and not fits[likeliest].any())
