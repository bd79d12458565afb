"""How well each suspect explains what was seen: Bayes' rule, with tolerances that move readings together and a chance of a misreading.

For one suspect the readings are jointly normal: the value predicted, every toleranced part off by something (uniform within its tolerance, taken as
normal with the same variance), the meter's own error for each. They are taken one after the other, each as expected after those before it; one that
is far from expected may be a misreading and then tells nothing about the next. No suspect ever comes to exactly nothing.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.dictionary import Prediction
from metrolex.faults.probes import Probe
from metrolex.job import State

__all__ = ["Explained", "Seen", "expected_after", "explain"]

Array = NDArray[np.float64]

MISREAD = 0.01  # chance of a misreading (common practice, no source)
SPAN = {"volts": 15.0, "shown": 200.0, "ohms": 3000.0}  # over which a misreading may lie anywhere
LEAST_SIGMA = 1e-4


@dataclass(frozen=True, slots=True)
class Seen:
    """What was seen at a probe in a state: a number, or a word."""

    state: State
    probe: Probe
    value: float | str


@dataclass(frozen=True, slots=True)
class Explained:
    """How one suspect explains what was seen: log likelihood, chance of each reading, and the readings it goes by from then on."""

    log_likelihood: float
    fits: tuple[bool, ...]
    kept: tuple[int, ...]
    moved: Array  # of the readings kept: parts by reading
    own: Array
    off: Array  # how far each lay from the value predicted


def explain(predictions: Sequence[Prediction], seen: Sequence[Seen]) -> Explained:
    """Hold what was seen against what one suspect predicts for it."""
    total, fits = 0.0, list[bool]()
    kept: list[int] = []
    moved: list[Array] = []
    own: list[float] = []
    off: list[float] = []
    for i, (prediction, one) in enumerate(zip(predictions, seen, strict=True)):
        spread = 1 / SPAN[one.probe.kind]
        if isinstance(one.value, str):
            good = _says(prediction, one.value)
            total += math.log(1 - MISREAD if good else MISREAD)
            fits.append(good)
            continue
        if prediction.value is None:
            total += math.log(MISREAD * spread)
            fits.append(False)
            continue
        mean, variance = expected_after(prediction, np.array(moved), np.array(own), np.array(off))
        away = (one.value - mean) ** 2 / variance
        density = (1 - MISREAD) * math.exp(-min(away, 1400.0) / 2) / math.sqrt(2 * math.pi * variance)
        total += math.log(density + MISREAD * spread)
        fits.append(density > MISREAD * spread)
        if fits[-1]:
            kept.append(i)
            moved.append(prediction.moved)
            own.append(prediction.own)
            off.append(one.value - prediction.value)
    return Explained(total, tuple(fits), tuple(kept), np.array(moved), np.array(own), np.array(off))


def expected_after(prediction: Prediction, moved: Array, own: Array, off: Array) -> tuple[float, float]:
    """Mean and variance of a reading, given how far other readings of the same suspect were off."""
    assert prediction.value is not None
    mean, variance = prediction.value, float(prediction.moved @ prediction.moved) / 3 + prediction.own
    if len(off):
        together = moved @ moved.T / 3 + np.diag(own + LEAST_SIGMA**2)
        shared = moved @ prediction.moved / 3
        weights = np.linalg.solve(together, shared)
        mean += float(weights @ off)
        variance = max(variance - float(weights @ shared), prediction.own)
    return mean, variance + LEAST_SIGMA**2


def _says(prediction: Prediction, word: str) -> bool:
    """Whether a word is what is predicted; 'live' and 'dead' of a test lamp stand for volts."""
    if word in ("live", "dead"):
        return (prediction.value is not None and prediction.value >= 2.0) == (word == "live")
    return word in prediction.also or (prediction.value is None and prediction.word == word)
