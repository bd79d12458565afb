"""Which faults no test can tell apart, and by which test each is noticed at all."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from metrolex.faults.catalogue import catalogue
from metrolex.faults.dictionary import Key, Sheet, sheet_of
from metrolex.faults.minutes import Kind
from metrolex.faults.probes import Probe, actions_of, probes_at
from metrolex.job import State
from metrolex.twin.build import Network
from metrolex.twin.expectations import states_of
from metrolex.twin.kept import once_per_circuit

__all__ = ["Column", "classes_of", "columns_of", "noticed_by"]

SIGMAS = 3.0  # of a reading's spread: the half of its band


@dataclass(frozen=True, slots=True)
class Column:
    """One test in one state: what the sound job shows (a number, or None and a word) within ``band``, and what each fault of the catalogue shows."""

    state: State
    probe: Probe
    value: float | None
    word: str
    band: float
    values: NDArray[np.float64]
    words: tuple[str, ...]


@once_per_circuit
def columns_of(network: Network, allow: tuple[Kind, ...]) -> tuple[Column, ...]:
    """Every allowed test of the sheet in every state, ohms with the key off only; faces after actions with the key in run."""
    return tuple(_columns(network, allow))


def _columns(network: Network, allow: Iterable[Kind]) -> Iterator[Column]:
    keys: list[Key] = [(place,) for place in range(len(catalogue(network)))]
    states = states_of(network.job)
    for state in states:
        sheet = sheet_of(network, state)
        if sheet is None:
            continue
        sheet.need(keys)
        for probe in probes_at(network, state):
            if probe.kind in allow and not (probe.kind == "ohms" and state != states[0]):
                yield _column(sheet, probe, keys)
    if "action" in allow:
        yield from _after_actions(network, keys)


def _after_actions(network: Network, keys: list[Key]) -> Iterator[Column]:
    """The faces, key in run, after everything that may be done to the vehicle."""
    state = State("run")
    for action in actions_of(network):
        sheet = sheet_of(network, state, action)
        if sheet is not None:
            sheet.need(keys)
            for chain in network.job.chains:
                yield _column(sheet, Probe("shown", on=chain.id, after=action), keys)


def _column(sheet: Sheet, probe: Probe, keys: list[Key]) -> Column:
    sound = sheet.predict((), probe)
    band = (
        SIGMAS * float(np.sqrt(sound.moved @ sound.moved / 3 + sound.own)) if sound.value is not None else 0.0
    )
    shown = sheet.values(keys, probe)
    values = np.array([np.nan if value is None else value for value, _ in shown])
    return Column(sheet.state, probe, sound.value, sound.word, band, values, tuple(word for _, word in shown))


def noticed_by(column: Column) -> NDArray[np.bool_]:
    """Which faults of the catalogue a test notices: the value leaves the band, or another word stands there."""
    if column.value is None:
        return np.array([word != column.word for word in column.words])
    with np.errstate(invalid="ignore"):
        return np.asarray(np.isnan(column.values) | (np.abs(column.values - column.value) > column.band))


def classes_of(network: Network, allow: Iterable[Kind]) -> tuple[int, ...]:
    """A number for each fault of the catalogue: those of one number show the same, within the bands, at every allowed test."""
    columns = columns_of(network, tuple(allow))
    count = len(catalogue(network))
    if not columns:
        return (0,) * count
    values = np.array([column.values for column in columns])
    bands = np.array([max(column.band, 1e-9) for column in columns])
    words = np.array([column.words for column in columns])
    found: list[int] = []
    leaders: list[int] = []
    for i in range(count):
        for number, leader in enumerate(leaders):
            both = np.isnan(values[:, i]) & np.isnan(values[:, leader])
            with np.errstate(invalid="ignore"):
                near = np.abs(values[:, i] - values[:, leader]) <= bands
            if bool(np.where(both, words[:, i] == words[:, leader], near).all()):
                found.append(number)
                break
        else:
            found.append(len(leaders))
            leaders.append(i)
    return tuple(found)
